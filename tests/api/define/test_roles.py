"""Making roles, putting them in order, starting one from another."""

from io import StringIO

import pytest
from django.core.management import call_command

from gonfalon.access.models import Role
from gonfalon.access.snapshot import current
from gonfalon.access.starters import STARTERS, make_starters
from gonfalon.access.vocabulary import kind_of
from gonfalon.core.model.policy import Subject
from gonfalon.core.model.vocabulary import SAYS
from gonfalon.ledger.models import By, Entry
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import apply, ok, refused, stage


def test_a_copy_says_the_same_and_goes_its_own_way(odile):
    made = ok(odile.post("roles", {"name": "Guest editor", "copy_of": "tenant-editor"}), 201)
    policy = current().policy
    was, copy = policy.roles["tenant-editor"], policy.roles[made["key"]]
    assert (copy.grants, copy.components, copy.facets) == (was.grants, was.components, was.facets)
    assert made["cloth"] not in [r["cloth"] for r in ok(odile.get("roles")) if r["key"] != made["key"]]
    assert Entry.objects.first().summary == "Made the role Guest editor as a copy of Tenant editor"


def test_a_role_may_build_on_another_from_the_start(odile):
    made = ok(odile.post("roles", {"name": "Night pilot", "builds_on": "pilot"}), 201)
    assert made["builds_on"] == "pilot"
    assert current().policy.role_chain(made["key"])[:2] == (made["key"], "pilot")


def test_from_a_role_that_is_not_there_or_two_nothing_is_made(odile):
    for data, pointer in (
        ({"copy_of": "atlantis"}, "/copy_of"),
        ({"builds_on": "atlantis"}, "/builds_on"),
        ({"copy_of": "pilot", "builds_on": "pilot"}, "/builds_on"),
    ):
        problem = refused(odile.post("roles", {"name": "New", **data}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == pointer
    assert not Role.objects.filter(name="New").exists()


def test_roles_keep_an_order_of_ones_own(odile):
    keys = [role["key"] for role in ok(odile.get("roles"))]
    version = current().version
    ok(odile.post("roles/order", {"roles": [keys[5], *keys[:5]]}), 204)
    assert [role["key"] for role in ok(odile.get("roles"))] == [keys[5], *keys[:5], *keys[6:]]
    assert current().version == version
    entries = Entry.objects.count()
    ok(odile.post("roles/order", {"roles": [keys[5]]}), 204)
    assert Entry.objects.count() == entries


def test_ordering_and_removing_need_the_duty(ask):
    refused(ask("ines").post("roles/order", {"roles": ["pilot"]}), "not-granted")
    refused(ask("ines").post("roles/pilot/removal"), "not-granted")


def test_a_removal_without_anyone_to_hand_to_takes_the_role_from_all(odile):
    refused(odile.post("roles/pilot/removal", {"hand_to": "everyone"}), "invalid", 422)
    staged = ok(odile.post("roles/pilot/removal"))["operations"]
    assert {op["kind"] for op in staged} >= {"take-role", "drop-role"}
    assert "give-role" not in {op["kind"] for op in staged}
    refused(odile.post("roles/atlantis/removal"), "not-found", 404)


def test_the_command_says_which_starter_roles_it_made(harbour):
    said = []
    for _ in range(2):
        out = StringIO()
        call_command("starter_roles", stdout=out)
        said.append(out.getvalue().strip())
    assert said == [f"Made {', '.join(starter.name for starter in STARTERS)}.", "All starter roles are there already."]


def test_starter_roles_are_made_once_and_say_only_what_can_be_said(odile):
    assert make_starters(By(None)) == [starter.name for starter in STARTERS]
    assert make_starters(By(None)) == []
    policy = current().policy
    for role in Role.objects.filter(name__in=[starter.name for starter in STARTERS]):
        grants = policy.roles[role.key].grants
        assert grants
        assert all(says in SAYS[kind_of(capability, policy)] for capability, says in grants.items())
        assert role.shipped == grants
        assert not any(a.role == role.key for a in policy.assignments.values())


def test_a_board_tells_what_the_role_came_with(odile):
    ok(odile.post("roles", {"name": "Made here"}), 201)
    assert ok(odile.get("roles/made-here"))["shipped"] is None
    assert ok(odile.get("roles/tenant-editor"))["shipped"]["event.edit"] == "own"


def test_a_board_tells_components_and_facets_with_whence_they_come(odile):
    stage(odile, {"kind": "set-components", "role": "notice-writer", "components": ["text"]})
    board = ok(odile.get("roles/duty-editor"))
    assert board["components"] == {
        "component": None,
        "said": None,
        "inherited": ["text"],
        "inherited_from": "notice-writer",
        "staged": False,
    }
    assert ok(odile.get("roles/notice-writer"))["components"]["staged"] is True


class TestCopies:
    def test_a_copy_has_the_rows_of_the_original_in_tables_of_fields(self, odile):
        made = ok(odile.post("roles", {"name": "Second tenant", "copy_of": "tenant-editor"}), 201)
        rows = {(r["type"], r["field"]): r["table"] for r in ok(odile.get("fields")) if r["mode"] == "table"}
        assert rows["berth", "dues"][made["key"]] == rows["berth", "dues"]["tenant-editor"] == ["see-own"]
        assert made["key"] not in rows["event", "budget"]

    def test_its_limits_are_brought_if_one_says_so(self, odile):
        def limits_of(role):
            said = [k for k in current().policy.limits.values() if k.to == Subject.role(role)]
            return {(k.node, k.effect, k.applies, k.actions) for k in said}

        without = ok(odile.post("roles", {"name": "Without", "copy_of": "duty-editor"}), 201)
        with_them = ok(odile.post("roles", {"name": "With", "copy_of": "duty-editor", "with_limits": True}), 201)
        assert limits_of(without["key"]) == set()
        assert limits_of(with_them["key"]) == limits_of("duty-editor") != set()
        assert Entry.objects.first().summary == "Made the role With as a copy of Duty editor, with its limits"

    def test_bringing_limits_asks_for_the_duty_to_set_them(self, odile, ask):
        apply(odile, EDIT | {"role": "signed-in", "capability": "roles.define", "says": "yes"})
        asked = {"name": "Mine", "copy_of": "duty-editor"}
        refused(ask("ines").post("roles", asked | {"with_limits": True}), "not-granted")
        ok(ask("ines").post("roles", asked), 201)


@pytest.mark.parametrize(
    "name", ["DUTY EDITOR", " duty  editor ", "Duty​ editor", "Duty\u00a0edi\u00adtor", "Dúty editor"]
)
def test_two_roles_cannot_look_alike_by_name(odile, name):
    problem = refused(odile.post("roles", {"name": name}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/name"
    renamed = odile.patch("roles/pilot", {"name": name}, **{"If-Match": '"1"'})
    assert refused(renamed, "invalid", 422)["errors"][0]["pointer"] == "/name"


def test_a_name_is_folded_when_it_is_made_and_when_it_is_changed(odile):
    assert ok(odile.post("roles", {"name": "  Slip   way "}), 201)["name"] == "Slip way"
    assert (
        ok(odile.patch("roles/pilot", {"name": "Har\u00adbour  pilot"}, **{"If-Match": '"1"'}))["name"]
        == "Harbour pilot"
    )
    refused(odile.post("roles", {"name": "\u200b \u00ad"}), "invalid", 422)


def test_a_starter_role_is_put_back_whole_after_it_was_removed(odile):
    starter = STARTERS[1]
    make_starters(By(None))
    [was] = [role for role in ok(odile.get("roles")) if role["name"] == starter.name]
    said = current().policy.roles[was["key"]].grants
    ok(odile.post(f"roles/{was['key']}/removal", {}))
    ok(odile.post("change-set/apply"))
    assert starter.name in [one["name"] for one in ok(odile.get("roles/starters"))]
    made = ok(odile.post("roles", {"name": starter.name, "starter": starter.name}), 201)
    assert current().policy.roles[made["key"]].grants == said
    assert ok(odile.get(f"roles/{made['key']}"))["shipped"] == said
    again = ok(odile.post("roles", {"name": "Another keeper", "starter": starter.name}), 201)
    assert current().policy.roles[again["key"]].grants == said


def test_a_starter_role_is_one_there_is_and_begins_by_itself(odile):
    for more in ({"starter": "Lighthouse"}, {"starter": STARTERS[0].name, "copy_of": "pilot"}):
        problem = refused(odile.post("roles", {"name": "New", **more}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/starter"


def test_a_role_is_put_back_whole_with_what_it_builds_on_and_its_lists(odile):
    was = current().policy.roles["tenant-editor"]
    role = {"role": "tenant-editor"}
    apply(
        odile,
        role | {"kind": "set-builds-on", "builds_on": "pilot"},
        role | {"kind": "set-components", "components": None},
        role | {"kind": "set-facets", "component": "button", "facets": ["style"]},
        role | {"kind": "set-facets", "component": "picture", "facets": []},
    )
    back = ok(odile.get("roles/tenant-editor"))["put_back"]
    assert [operation["kind"] for operation in back] == ["set-builds-on", "set-components", "set-facets", "set-facets"]
    apply(odile, *back)
    assert current().policy.roles["tenant-editor"] == was
    assert ok(odile.get("roles/tenant-editor"))["put_back"] == []
    ok(odile.post("roles", {"name": "Made here", "copy_of": "tenant-editor"}), 201)
    assert ok(odile.get("roles/made-here"))["put_back"] == []
