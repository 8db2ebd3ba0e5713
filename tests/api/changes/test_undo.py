"""Undoing what was applied, keeping change sets aside, and words on top of others'."""

import pytest

from gonfalon.access.models import ChangeSet, Role
from gonfalon.access.snapshot import current, read_policy
from gonfalon.ledger.models import Entry
from tests.api.changes.test_change_sets import EDIT, FIELD, GIVE, STOP
from tests.api.support import apply, ok, refused, stage

COMPONENTS = {"kind": "set-components", "role": "tenant-editor", "components": ["text", "picture"]}
FACETS = {"kind": "set-facets", "role": "tenant-editor", "component": "table", "facets": ["wording"]}
BUILDS_ON = {"kind": "set-builds-on", "role": "pilot", "builds_on": "notice-writer"}


def undo(asking, id):
    return asking.post(f"change-sets/{id}/undo")


@pytest.mark.parametrize(
    "operations",
    [
        [EDIT],
        [EDIT | {"says": None}],
        [GIVE],
        [{"kind": "take-role", "assignment": "given-1"}],
        [STOP],
        [{"kind": "drop-limit", "limit": "limit-1"}],
        [FIELD],
        [COMPONENTS],
        [FACETS],
        [BUILDS_ON],
        [EDIT, GIVE, STOP, FIELD, COMPONENTS, FACETS, BUILDS_ON],
    ],
    ids=lambda ops: "+".join(op["kind"] for op in ops),
)
def test_what_is_undone_is_as_it_was_and_can_be_done_again(odile, operations):
    before = current().policy
    applied = apply(odile, *operations)
    after = current().policy
    assert after != before
    undone = ok(undo(odile, applied["id"]))
    assert current().policy == before
    assert undone["summary"].startswith("Undone: ")
    assert Entry.objects.get(pk=undone["entry"]).kind == "change-set.undone"
    ok(undo(odile, undone["id"]))
    assert current().policy == after
    refused(undo(odile, applied["id"]), "not-found", 404)


def as_read_anew():
    """The policy as its rows say, whatever is kept in memory."""
    return read_policy()


LET = {
    "kind": "put-delegation",
    "to": {"kind": "account", "id": "joost"},
    "roles": ["pilot"],
    "scope": {"branches": ["races"]},
    "receivers": "volunteers",
    "ends": "2099-06-01T00:00:00Z",
}


def test_a_delegation_changed_or_ended_is_put_back_with_its_receivers(odile):
    apply(odile, LET)
    [id] = [d.id for d in current().policy.delegations.values() if d.to.id == "joost" and "pilot" in d.roles]
    before = current().policy
    for operation in (
        LET | {"delegation": id, "receivers": "pilots", "roles": ["season-intern"], "ends": None},
        LET | {"delegation": id, "receivers": None, "scope": {}},
        {"kind": "drop-delegation", "delegation": id},
    ):
        applied = apply(odile, operation)
        assert current().policy != before
        assert as_read_anew() == current().policy, operation
        ok(undo(odile, applied["id"]))
        assert current().policy == before == as_read_anew(), operation


def test_rows_say_what_is_kept_in_memory_when_a_beginning_changes(odile):
    apply(odile, GIVE)
    [id] = [a.id for a in current().policy.assignments.values() if (a.to.id, a.role) == ("ines", "duty-editor")]
    held = {"assignment": id, "scope": GIVE["scope"]}
    for starts, ends in (
        ("2098-01-01T00:00:00Z", "2099-06-01T00:00:00Z"),
        (None, None),
        ("2097-01-01T00:00:00Z", None),
    ):
        apply(odile, {"kind": "change-role", **held, "starts": starts, "ends": ends})
        given = current().policy.assignments[id].period
        assert (given.starts is None, given.ends is None) == (starts is None, ends is None)
        assert as_read_anew() == current().policy


def test_a_word_on_top_of_what_stands_in_its_way_is_dropped(odile, ask):
    """Ludo lets the role that was to be built on build on the other: it would come to build on itself."""
    stage(odile, BUILDS_ON)
    apply(ask("ludo"), {"kind": "set-builds-on", "role": "notice-writer", "builds_on": "pilot"})
    [staged] = ok(odile.get("change-set"))["operations"]
    assert staged["stale"]
    assert ok(odile.post(f"change-set/operations/{staged['position']}/rebase"))["operations"] == []
    assert current().policy.roles["pilot"].builds_on is None


def test_taking_a_role_away_hands_its_holders_over_and_can_be_undone(odile):
    before = current().policy
    staged = ok(odile.post("roles/tenant-editor/removal", {"hand_to": "duty-editor"}))["operations"]
    assert staged[-1]["kind"] == "drop-role"
    held = [a for a in before.assignments.values() if a.role == "tenant-editor"]
    assert sum(op["kind"] == "give-role" for op in staged) == len(held)
    applied = ok(odile.post("change-set/apply"))
    assert "tenant-editor" not in current().policy.roles
    handed = [a for a in current().policy.assignments.values() if a.role == "duty-editor"]
    assert {(a.to, a.scope, a.period) for a in held} <= {(a.to, a.scope, a.period) for a in handed}
    ok(undo(odile, applied["id"]))
    assert current().policy == before
    assert Role.objects.get(pk="tenant-editor").name == "Tenant editor"


def test_a_role_that_is_given_meanwhile_is_not_taken_away(odile, ask):
    made = ok(odile.post("roles", {"name": "Short-lived"}), 201)["key"]
    stage(odile, {"kind": "drop-role", "role": made})
    apply(ask("ludo"), GIVE | {"role": made, "scope": {}})
    assert [op["stale"] for op in ok(odile.get("change-set"))["operations"]] == [True]
    refused(odile.post("change-set/apply"), "conflict", 409)
    assert Role.objects.filter(pk=made).exists()


def test_what_something_was_built_on_is_not_undone_and_says_so(odile, ask):
    applied = apply(odile, EDIT, STOP)
    apply(ask("ludo"), EDIT | {"says": "all"})
    before = current().policy
    problem = refused(undo(odile, applied["id"]), "conflict", 409)
    assert problem["built_on"] == ["Tenant editor: edit events: changed since"]
    assert current().policy == before


def test_undoing_a_gift_of_a_role_that_is_gone_says_so(odile):
    made = ok(odile.post("roles", {"name": "Short-lived"}), 201)["key"]
    given = apply(odile, GIVE | {"role": made, "scope": {}})
    id = next(a.id for a in current().policy.assignments.values() if a.role == made)
    taken = apply(odile, {"kind": "take-role", "assignment": id})
    apply(odile, {"kind": "drop-role", "role": made})
    problem = refused(undo(odile, taken["id"]), "conflict", 409)
    assert "no longer there" in problem["built_on"][0]
    refused(undo(odile, given["id"]), "conflict", 409)


def test_undoing_needs_the_duties_of_what_was_applied(odile, ask):
    applied = apply(odile, GIVE)
    refused(undo(ask("gwenda"), applied["id"]), "not-granted")
    refused(undo(odile, "nothing"), "not-found", 404)


def test_a_change_set_is_kept_under_a_name_and_taken_up_again(odile):
    stage(odile, EDIT)
    refused(odile.post("change-set/put-aside", {"name": " "}), "invalid", 422)
    told = ok(odile.post("change-set/put-aside", {"name": "For the season"}))
    assert (told["operations"], told["kept"][0]["name"], told["kept"][0]["operations"]) == ([], "For the season", 1)
    stage(odile, STOP)
    told = ok(odile.post(f"change-sets/{told['kept'][0]['id']}/take-up"))
    assert (told["name"], [op["kind"] for op in told["operations"]]) == ("For the season", ["set-answer"])
    assert [kept["name"] for kept in told["kept"]] == ["Put aside for For the season"]
    applied = ok(odile.post("change-set/apply"))
    assert applied["summary"] == "For the season: Tenant editor: edit events"


def test_nobody_takes_up_what_another_kept(odile, ask):
    stage(odile, EDIT)
    kept = ok(odile.post("change-set/put-aside", {"name": "Mine"}))["kept"][0]
    refused(ask("ludo").post(f"change-sets/{kept['id']}/take-up"), "not-found", 404)
    refused(odile.post("change-set/put-aside", {"name": "Again"}), "invalid", 422)


def test_ones_word_may_be_meant_on_top_of_what_another_applied(odile, ask):
    stage(odile, EDIT, STOP)
    apply(ask("ludo"), EDIT | {"says": "all"})
    first, second = ok(odile.get("change-set"))["operations"]
    assert (first["stale"], second["stale"]) == (True, False)
    told = ok(odile.post(f"change-set/operations/{first['position']}/rebase"))["operations"]
    assert (told[0]["was"], told[0]["now"], told[0]["stale"]) == ("all", "team", False)
    ok(odile.post("change-set/apply"))
    assert current().policy.roles["tenant-editor"].grants["event.edit"] == "team"


def test_a_word_that_another_said_already_is_dropped(odile, ask):
    stage(odile, EDIT)
    apply(ask("ludo"), EDIT)
    [stale] = ok(odile.get("change-set"))["operations"]
    assert ok(odile.post(f"change-set/operations/{stale['position']}/rebase"))["operations"] == []


@pytest.mark.parametrize(
    ("operation", "pointer"),
    [
        (BUILDS_ON | {"builds_on": "atlantis"}, "/builds_on"),
        (COMPONENTS | {"components": ["atlantis"]}, "/components"),
        (FACETS | {"facets": ["depth"]}, "/facets"),
        ({"kind": "drop-role", "role": "everyone"}, "/role"),
        ({"kind": "drop-role", "role": "tenant-editor"}, "/role"),
        ({"kind": "put-role", "role": "tenant-editor"}, "/kind"),
    ],
)
def test_bad_input_names_the_field(odile, operation, pointer):
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer


def test_a_role_never_builds_on_itself_and_the_way_is_told(odile):
    operation = {"kind": "set-builds-on", "role": "notice-writer", "builds_on": "duty-editor"}
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert "notice-writer → duty-editor → notice-writer" in problem["errors"][0]["message"]


def test_what_is_applied_is_kept_as_it_was_left(odile):
    applied = apply(odile, EDIT)
    [row] = ChangeSet.objects.get(pk=applied["id"]).operations.all()
    assert (row.was, row.left, row.reverse) == ("own", "team", {**EDIT, "says": "own"})


def test_what_was_applied_before_it_could_be_undone_is_not_offered(odile):
    applied = apply(odile, EDIT)
    assert [one["id"] for one in ok(odile.get("change-sets"))] == [applied["id"]]
    ChangeSet.objects.get(pk=applied["id"]).operations.update(reverse={})
    assert ok(odile.get("change-sets")) == []
    refused(undo(odile, applied["id"]), "not-found", 404)


def test_undoing_asks_the_duty_of_each_part_and_no_other(odile, ask):
    """Whoever gives roles does not undo what was said of them."""
    answers = apply(odile, EDIT)
    duties = ("roles.assign", "limits.set", "roster.see")
    apply(odile, *(EDIT | {"role": "signed-in", "capability": duty, "says": "yes"} for duty in duties))
    refused(undo(ask("ines"), answers["id"]), "not-granted")
    both = apply(odile, STOP, EDIT | {"says": "all"})
    refused(undo(ask("ines"), both["id"]), "not-granted")
    given = apply(odile, GIVE | {"scope": {}})
    ok(undo(ask("ines"), given["id"]))


def test_a_word_on_top_of_what_is_gone_is_dropped(odile, ask):
    made = ok(odile.post("roles", {"name": "Short-lived"}), 201)["key"]
    stage(odile, EDIT | {"role": made}, STOP)
    apply(ask("ludo"), {"kind": "drop-role", "role": made})
    first, second = ok(odile.get("change-set"))["operations"]
    assert (first["stale"], second["stale"]) == (True, False)
    left = ok(odile.post(f"change-set/operations/{first['position']}/rebase"))["operations"]
    assert [op["kind"] for op in left] == ["set-limit"]
    ok(odile.post(f"change-set/operations/{first['position']}/rebase"))  # there is none any more


def test_a_role_that_a_field_s_rule_names_is_not_removed_and_the_removal_takes_its_row(odile):
    made = ok(odile.post("roles", {"name": "Reader"}), 201)["key"]
    apply(odile, FIELD | {"table": {made: ["see-all"], "duty-editor": ["see-all"]}})
    drop = {"kind": "drop-role", "role": made}
    problem = refused(odile.post("change-set/operations", {"operations": [drop]}), "invalid", 422)
    assert "a field rule still names it" in problem["errors"][0]["message"]
    staged = ok(odile.post(f"roles/{made}/removal", {}))["operations"]
    assert [op["kind"] for op in staged] == ["set-field-rule", "drop-role"]
    ok(odile.post("change-set/apply"))
    assert current().policy.fields["berth", "dues"].table == {"duty-editor": frozenset({"see-all"})}


def test_when_the_middle_of_a_chain_goes_the_ends_are_joined(odile):
    keys = ["duty-editor"]
    for name in ("Middle", "End"):
        keys.append(ok(odile.post("roles", {"name": name, "builds_on": keys[-1]}), 201)["key"])
    ok(odile.post(f"roles/{keys[1]}/removal", {}))
    ok(odile.post("change-set/apply"))
    assert current().policy.roles[keys[2]].builds_on == keys[0]


@pytest.mark.parametrize(
    "action", ["roles.define", "desk.open", "edit-live", "see-draft", "berth.edit", "change-field"]
)
def test_a_limit_names_actions_on_nodes_alone(odile, action):
    problem = refused(
        odile.post("change-set/operations", {"operations": [STOP | {"actions": [action]}]}), "invalid", 422
    )
    assert problem["errors"][0]["pointer"] == "/actions"


def test_everything_in_a_limit_is_everything(odile, ask):
    apply(odile, STOP | {"actions": None, "to": {"kind": "account", "id": "signe"}})
    refused(ask("signe").get("desk/pages/winter-rates"), "not-found", 404)
    [limit] = [k for k in current().policy.limits.values() if k.to.id == "signe"]
    assert limit.actions is None
    told = next(k for k in ok(odile.get("limits")) if k["id"] == limit.id)
    assert told["actions"] is None
