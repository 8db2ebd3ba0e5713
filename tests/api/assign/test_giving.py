"""Giving, whole: changed in place, ended, one capability, to a group, confined; and what a scope covers."""

import pytest

from gonfalon.access.models import Assignment, DirectGrant
from gonfalon.access.snapshot import current
from gonfalon.content.nodes import content
from tests.api.support import apply, ok, refused, stage

TO_INES = {"kind": "account", "id": "ines"}
GIVE = {"kind": "give-role", "role": "picture-desk", "to": TO_INES, "scope": {"branches": ["pier-3-branch"]}}


def given(asking, account="ines"):
    return ok(asking.get(f"accounts/{account}"))["given"]


def direct(asking, role="picture-desk"):
    [one] = [g for g in given(asking) if g["role"] == role and g["group"] is None]
    return one


def test_what_is_given_is_changed_in_place(odile):
    apply(odile, GIVE)
    before = direct(odile)
    stage(odile, {"kind": "change-role", "assignment": before["id"], "scope": {"types": ["picture"]}})
    changed = direct(odile)
    assert (changed["id"], changed["staged"], changed["scope"]) == (before["id"], "changed", {"types": ["picture"]})
    [operation] = ok(odile.get("change-set"))["operations"]
    assert (operation["was"], operation["now"]) == ("given on Pier 3", "given for pictures")
    ok(odile.post("change-set/apply"))
    assert Assignment.objects.get(pk=before["id"]).scope == {"types": ["picture"]}


def test_an_end_alone_leaves_the_scope(odile):
    apply(odile, GIVE)
    apply(odile, {"kind": "change-role", "assignment": direct(odile)["id"], "ends": "2099-01-01T12:00:00+02:00"})
    assert direct(odile)["scope"] == {"branches": ["pier-3-branch"]}
    assert direct(odile)["ends"] == "2099-01-01T10:00:00Z"


def test_a_change_is_undone_as_it_was(odile):
    apply(odile, GIVE)
    before = direct(odile)
    done = apply(odile, {"kind": "change-role", "assignment": before["id"], "scope": {}, "ends": "2099-01-01T00:00Z"})
    ok(odile.post(f"change-sets/{done['id']}/undo"))
    assert direct(odile) == before


def test_what_was_staged_to_be_given_can_be_changed_before_it_is(odile):
    stage(odile, GIVE)
    stage(odile, {"kind": "change-role", "assignment": direct(odile)["id"], "scope": {"sites": ["harbour"]}})
    assert len(ok(odile.get("change-set"))["operations"]) == 1
    assert direct(odile)["staged"] == "new"
    ok(odile.post("change-set/apply"))
    assert direct(odile)["scope"] == {"sites": ["harbour"]}


def test_one_capability_is_given_barred_changed_and_taken(odile):
    apply(odile, {"kind": "give-capability", "capability": "event.remove", "says": "barred", "to": TO_INES})
    [bar] = [g for g in given(odile) if g["capability"] == "event.remove"]
    assert (bar["says"], bar["words"]) == ("barred", "remove events")
    apply(odile, {"kind": "change-capability", "grant": bar["id"], "scope": {"sites": ["regatta"]}})
    assert DirectGrant.objects.get(pk=bar["id"]).scope == {"sites": ["regatta"]}
    apply(odile, {"kind": "take-capability", "grant": bar["id"]})
    assert not [g for g in given(odile) if g["capability"] == "event.remove"]


@pytest.mark.parametrize(
    ("capability", "says", "at"),
    [
        ("event.edit", "yes", "says"),
        ("desk.open", "all", "says"),
        ("event.edit", "withheld", "says"),
        ("x.y", "all", "capability"),
    ],
)
def test_a_capability_takes_only_its_own_words(odile, capability, says, at):
    operation = {"kind": "give-capability", "capability": capability, "says": says, "to": TO_INES}
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert problem["errors"][0]["pointer"].endswith(at)


def test_a_group_is_given_things_from_its_page(odile):
    apply(odile, GIVE | {"to": {"kind": "group", "id": "pier-3"}})
    page = ok(odile.get("groups/pier-3"))
    assert {(g["role"], g["group"]) for g in page["given"]} == {("picture-desk", None), ("tenant-editor", "tenants")}
    [theirs] = [g for g in given(odile) if g["role"] == "picture-desk"]
    assert theirs["group"] == "pier-3"


def test_an_account_is_confined_and_let_go_again(odile):
    apply(odile, {"kind": "set-reach", "account": "ines", "tree": "content", "branches": ["pier-3-branch"]})
    assert ok(odile.get("accounts/ines"))["reach"]["content"] == [{"id": "pier-3-branch", "title": "Pier 3"}]
    done = apply(odile, {"kind": "set-reach", "account": "ines", "tree": "content", "branches": None})
    assert "content" not in ok(odile.get("accounts/ines"))["reach"]
    ok(odile.post(f"change-sets/{done['id']}/undo"))
    assert current().policy.accounts["ines"].reach["content"] == {"pier-3-branch"}


def test_groups_are_joined_and_left(odile):
    stage(odile, {"kind": "set-member", "account": "ines", "group": "pilots", "member": True},
          {"kind": "set-member", "account": "ines", "group": "pier-3", "member": False})  # fmt: skip
    staged = {m["key"]: m["staged"] for m in ok(odile.get("accounts/ines"))["memberships"]}
    assert staged == {"pilots": "new", "pier-3": "ending", "race-office": ""}
    ok(odile.post("change-set/apply"))
    assert current().policy.accounts["ines"].groups == {"pilots", "race-office"}


def test_only_whoever_gives_roles_stages_any_of_it(ask):
    steward = ask("bashir")
    for operation in (
        GIVE,
        {"kind": "set-member", "account": "bashir", "group": "pilots", "member": True},
        {"kind": "set-reach", "account": "bashir", "tree": "content", "branches": None},
        {"kind": "move-group", "group": "pilots", "parent": None},
        {"kind": "set-state", "account": "ines", "state": "disabled"},
    ):
        assert steward.post("change-set/operations", {"operations": [operation]}).status_code == 403


def test_a_scope_tells_what_it_covers(odile):
    covers = ok(odile.post("scope", {"scope": {"branches": ["pier-3-branch"], "types": ["berth"]}}))
    assert covers["pages"] == covers["branches"]["pier-3-branch"] > 0 == covers["media"]
    assert len(covers["named"]) <= 5
    everything = ok(odile.post("scope", {"scope": {}}))
    assert everything["pages"] == sum(node.tree == "content" for node in content().tree.nodes)


def test_a_scope_names_so_many_things_and_costs_a_query_for_each_list(odile, django_assert_max_num_queries):
    named = {"sites": ["harbour"] * 900, "topics": ["safety"] * 900, "branches": ["events"] * 900}
    ok(odile.post("scope", {"scope": {"sites": ["harbour"]}}))
    with django_assert_max_num_queries(15):
        ok(odile.post("scope", {"scope": named}))
    problem = refused(odile.post("scope", {"scope": {"sites": ["harbour"] * 1001}}), "invalid", 422)
    assert problem["errors"][0]["pointer"].startswith("/scope/sites")
