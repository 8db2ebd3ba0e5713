"""Whatever a policy document says the database can hold."""

import json
from dataclasses import replace

import pytest
from django.core.management import CommandError, call_command
from jsonschema import Draft202012Validator

from gonfalon.__main__ import main
from gonfalon.access.models import Assignment, Role
from gonfalon.access.snapshot import current
from gonfalon.core import PolicyError, load_policy, write_policy
from gonfalon.core.model.policy import Limit as CoreLimit
from gonfalon.core.model.policy import Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect
from gonfalon.ledger.models import By, Entry
from gonfalon.verify.documents import install, whole_policy
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import apply, ok
from tests.core.documents import EVERYTHING

BY = By("odile")


def test_what_is_exported_is_imported_again_and_nothing_changes(harbour):
    document = write_policy(whole_policy())
    install(load_policy(json.loads(json.dumps(document))), BY)
    assert write_policy(whole_policy()) == document


def test_kinds_made_here_are_in_it_with_their_fields_and_one_from_before_is_read(odile):
    before = write_policy(whole_policy())
    ok(odile.post("kinds", {"name": "Knot", "plural": "knots", "under": ["section"]}), 201)
    ok(odile.post("kinds/knot/fields", {"name": "Rope", "kind": "text"}, **{"If-Match": '"1"'}), 201)
    document = write_policy(whole_policy())
    assert document["types"]["knot"] == {"tree": "content", "fields": ["rope"]}
    install(load_policy(document), BY)
    [kept] = [kind for kind in ok(odile.get("kinds")) if kind["key"] == "knot"]
    assert [(field["name"], field["kind"]) for field in kept["fields"]] == [("Rope", "text")]
    install(load_policy(before), BY)
    assert write_policy(whole_policy()) == before


def test_a_document_of_another_installation_is_held_whole(nothing_here):
    policy = load_policy(EVERYTHING)
    install(policy, BY)
    assert whole_policy() == policy
    assert write_policy(whole_policy()) == write_policy(policy)


def test_a_document_written_by_the_installation_fits_its_schema(harbour, client):
    schema = client.get("/api/policy.schema.json").json()
    Draft202012Validator.check_schema(schema)
    Draft202012Validator(schema).validate(write_policy(whole_policy()))


def test_a_change_made_in_the_document_is_made_here_and_the_rest_stays(harbour):
    was = whole_policy()
    roles = {
        **was.roles,
        "night-watch": replace(was.roles["tenant-editor"], key="night-watch", builds_on="tenant-editor"),
    }
    limit = CoreLimit("new-limit", "fees", Subject.role("night-watch"), Effect.BAR)
    gone = next(iter(was.limits))
    limits = {id: k for id, k in was.limits.items() if id != gone} | {"new-limit": limit}
    given_before = dict(Assignment.objects.values_list("id", "given_at"))
    install(replace(was, roles=roles, limits=limits), BY)
    now = whole_policy()
    assert now.roles["night-watch"].builds_on == "tenant-editor"
    assert (now.limits["new-limit"], gone in now.limits) == (limit, False)
    assert dict(Assignment.objects.values_list("id", "given_at")) == given_before
    assert Role.objects.get(pk="tenant-editor").name != "tenant-editor"


def test_accounts_and_nodes_left_out_refuse_the_whole_document(harbour):
    was = whole_policy()
    document = write_policy(was)
    document["accounts"] |= {"somebody-new": {"state": "invited"}}
    fewer = replace(
        load_policy(document),
        accounts={id: a for id, a in was.accounts.items() if id != "aiko"},
        tree=Tree.build(n for n in was.tree.nodes if n.id != "min-2026-10"),
    )
    with pytest.raises(PolicyError) as refused:
        install(fewer, BY)
    assert [f.pointer for f in refused.value.faults] == ["/accounts/aiko", "/nodes/min-2026-10"]
    assert whole_policy() == was


def test_an_id_too_long_to_keep_is_named(harbour):
    was = whole_policy()
    long = "x" * 121
    with pytest.raises(PolicyError) as refused:
        install(replace(was, topics=was.topics | {long}), BY)
    assert [fault.pointer for fault in refused.value.faults] == [f"/topics/{long}"]


def test_where_nothing_differs_nothing_is_written(harbour):
    before = Entry.objects.count(), current().version
    assert install(whole_policy(), BY) is None
    assert (Entry.objects.count(), current().version) == before


def test_an_import_is_told_with_its_author_and_all_that_differs(harbour, ask):
    was = whole_policy()
    limits = {id: limit for id, limit in was.limits.items() if id != "limit-5"}  # on the minutes
    roles = was.roles | {"pilot": replace(was.roles["pilot"], builds_on="notice-writer")}
    entry = install(replace(was, roles=roles, limits=limits), By("odile"))
    assert (entry.actor, entry.kind, entry.summary) == (
        "odile",
        "policy.imported",
        "Imported a policy document: 2 differences",
    )
    assert [(change["what"], change["now"] is None) for change in entry.changes] == [
        ("Limit limit-5", True),
        ("Role pilot", False),
    ]
    assert json.loads(entry.changes[1]["now"])["builds_on"] == "notice-writer"
    assert entry.changes[0]["nodes"] == ["minutes"]


def test_the_last_active_keyholder_cannot_be_taken(harbour):
    was = whole_policy()
    for change in ({"keyholder": False}, {"state": "disabled"}):
        fewer = replace(was, accounts=was.accounts | {"odile": replace(was.accounts["odile"], **change)})
        with pytest.raises(PolicyError) as refused:
            install(fewer, BY)
        assert [fault.pointer for fault in refused.value.faults] == ["/accounts"]
    other = was.accounts | {
        "odile": replace(was.accounts["odile"], keyholder=False),
        "tomasz": replace(was.accounts["tomasz"], keyholder=True),
    }
    assert install(replace(was, accounts=other), BY)


def test_the_commands_write_and_read_a_file(harbour, tmp_path, capsys):
    file, by = tmp_path / "policy.json", {"by": "odile@skerrow.example"}
    call_command("export_policy", str(file))
    call_command("import_policy", str(file), **by)
    assert capsys.readouterr().out == "Nothing differs.\n"
    assert load_policy(json.loads(file.read_text())) == whole_policy()
    broken = tmp_path / "broken.json"
    broken.write_text('{"gonfalon": 2}')
    with pytest.raises(CommandError, match="/gonfalon: this should be the number 1"):
        call_command("import_policy", str(broken), **by)
    for nobody in ("nobody@skerrow.example", "agnes@skerrow.example"):
        with pytest.raises(CommandError, match="no active account"):
            call_command("import_policy", str(file), by=nobody)


def test_the_gonfalon_command_exports_and_imports(harbour, tmp_path, capsys):
    file = tmp_path / "policy.json"
    assert main(["export", str(file)]) == 0
    changed = json.loads(file.read_text())
    changed["roles"]["pilot"]["grants"]["berth.edit"] = "all"
    file.write_text(json.dumps(changed))
    asked = ["import", str(file), "--by", "odile@skerrow.example"]
    assert main(asked) == 0
    assert "it is entry" in capsys.readouterr().out
    file.write_text("{}")
    assert main(asked) == 2
    assert "/gonfalon: this is missing" in capsys.readouterr().err


def test_a_document_that_names_no_duty_of_the_desk_locks_no_keyholder_out(odile):
    policy = whole_policy()
    duties = {"discussion.moderate", "discussion.open", "locks.open", "fields.private"}
    plain = {
        key: replace(role, grants={c: s for c, s in role.grants.items() if c.partition(".")[0] in policy.types})
        for key, role in policy.roles.items()
    }
    questions = {key: e for key, e in policy.expectations.items() if not policy.knows(e.question["action"])}
    bare = replace(
        policy,
        capabilities={key: kind for key, kind in policy.capabilities.items() if key in duties},
        roles=plain,
        expectations=questions,
    )
    install(bare, By("odile"))
    assert whole_policy() == bare
    assert len(ok(odile.get("roles"))) == len(bare.roles)
    apply(odile, EDIT | {"capability": "desk.open", "says": "yes"})
    assert whole_policy().capabilities.keys() - bare.capabilities.keys() == {"desk.open"}


def test_roles_and_groups_that_build_on_each_other_are_left_out_together(odile):
    first = ok(odile.post("roles", {"name": "Ice watch"}), 201)["key"]
    ok(odile.post("roles", {"name": "Ice lead", "builds_on": first}), 201)
    above = ok(odile.post("groups", {"name": "Ice"}), 201)["key"]
    ok(odile.post("groups", {"name": "Ice crew", "parent": above}), 201)
    policy = whole_policy()
    roles = {key: role for key, role in policy.roles.items() if not key.startswith("ice-")}
    groups = {key: group for key, group in policy.groups.items() if not key.startswith("ice")}
    assert install(replace(policy, roles=roles, groups=groups), By("odile")) is not None
    assert whole_policy().roles.keys() == roles.keys()
    assert whole_policy().groups.keys() == groups.keys()
    assert ok(odile.post("roles", {"name": "Ice watch"}), 201)["key"] != first  # a key is never given again


def test_whoever_a_document_disables_is_signed_out(odile, ask):
    ines = ask("ines")
    ok(ines.get("me"))
    policy = whole_policy()
    gone = {**policy.accounts, "ines": replace(policy.accounts["ines"], state="disabled")}
    install(replace(policy, accounts=gone), By("odile"))
    assert ines.get("me").status_code == 401
