"""Staging, applying, undoing; and that rows end up as the core says they would."""

import pytest

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.models import Answer, Assignment, PolicyVersion
from gonfalon.access.snapshot import current
from gonfalon.ledger.models import Entry
from tests.api.support import apply, ok, refused, stage, told

EDIT = {"kind": "set-answer", "role": "tenant-editor", "capability": "event.edit", "says": "team"}
GIVE = {
    "kind": "give-role",
    "role": "duty-editor",
    "to": {"kind": "account", "id": "ines"},
    "scope": {"branches": ["pier-3-branch"]},
    "ends": "2099-06-01T00:00:00Z",
}
STOP = {
    "kind": "set-limit",
    "node": "fees",
    "to": {"kind": "role", "id": "duty-editor"},
    "effect": "stop",
    "applies": "branch",
    "actions": ["edit"],
}
FIELD = {
    "kind": "set-field-rule",
    "type": "berth",
    "field": "dues",
    "mode": "table",
    "table": {"duty-editor": ["see-all"]},
}


def test_operations_gather_with_words_and_change_nothing_yet(odile):
    staged = stage(odile, EDIT, GIVE, STOP, FIELD)["operations"]
    assert [op["what"] for op in staged] == [
        "Tenant editor: edit events",
        "Ines Marrow: Duty editor",
        "Limit on Fees and dues",
        "Berth page: Annual dues",
    ]
    assert (staged[0]["was"], staged[0]["now"]) == ("own", "team")
    assert staged[1]["now"] == "given on Pier 3, until 1 June 2099"
    assert current().policy.roles["tenant-editor"].grants["event.edit"] == "own"


@pytest.mark.parametrize(
    "operations",
    [
        [EDIT],
        [EDIT | {"says": None}],
        [GIVE],
        [GIVE | {"to": {"kind": "group", "id": "pilots"}, "scope": {}, "ends": None}],
        [{"kind": "take-role", "assignment": "given-1"}],
        [STOP],
        [STOP | {"actions": None, "effect": "bar", "applies": "beneath"}],
        [{"kind": "drop-limit", "limit": "limit-1"}],
        [FIELD],
        [FIELD | {"mode": "open", "table": {}}],
        [
            {
                "kind": "change-role",
                "assignment": "given-1",
                "scope": {"sites": ["regatta"]},
                "ends": "2099-01-01T00:00Z",
            }
        ],
        [
            {
                "kind": "give-capability",
                "capability": "event.publish",
                "says": "own",
                "to": {"kind": "group", "id": "volunteers"},
            }
        ],
        [{"kind": "change-capability", "grant": "direct-2", "scope": {}, "ends": None}],
        [{"kind": "take-capability", "grant": "direct-2"}],
        [{"kind": "set-reach", "account": "ines", "tree": "content", "branches": ["pier-3-branch"]}],
        [{"kind": "set-member", "account": "ines", "group": "pilots", "member": True}],
        [{"kind": "set-member", "account": "ines", "group": "pier-3", "member": False}],
        [{"kind": "set-state", "account": "ines", "state": "disabled"}],
        [{"kind": "move-group", "group": "pier-3", "parent": "staff"}],
        [EDIT, GIVE, STOP, FIELD],
    ],
    ids=lambda ops: "+".join(op["kind"] for op in ops),
)
def test_rows_come_to_the_policy_the_core_foresaw(odile, operations):
    stage(odile, *operations)
    foreseen = staged_policy("odile", current().policy)
    assert foreseen != current().policy
    ok(odile.post("change-set/apply"))
    assert current().policy == foreseen


def test_applying_is_one_entry_that_names_all(odile):
    applied = apply(odile, EDIT, STOP)
    entry = Entry.objects.get(pk=applied["entry"])
    changes = told(entry)
    assert (entry.actor, len(changes)) == ("odile", 2)
    assert changes[0] == {"what": "Tenant editor: edit events", "was": "own", "now": "team"}
    assert (entry.changes, list(entry.data)) == ([], ["change_set"]), "it keeps data, and no sentence"
    assert ok(odile.get("change-set"))["operations"] == []


def test_a_second_word_on_one_part_replaces_the_first(odile):
    stage(odile, EDIT)
    [only] = stage(odile, EDIT | {"says": "all"})["operations"]
    assert (only["was"], only["now"]) == ("own", "all")


def test_saying_what_is_so_already_stages_nothing(odile):
    stage(odile, EDIT)
    assert stage(odile, EDIT | {"says": "own"})["operations"] == []


def test_a_whole_selection_costs_as_much_as_one_answer(odile, django_assert_num_queries):
    verbs = ("see", "edit", "publish", "retire", "remove", "move", "history")
    many = [EDIT | {"role": "pilot", "capability": f"{t}.{v}"} for t in ("event", "berth", "article") for v in verbs]
    stage(odile, *many[:2])
    with django_assert_num_queries(12):
        stage(odile, many[2])
    with django_assert_num_queries(12):
        assert len(stage(odile, *many[3:])["operations"]) == 21


def test_an_id_of_ones_own_choosing_is_refused(odile):
    asked = {"operations": [GIVE | {"id": "given-1"}, STOP | {"id": "limit-1"}]}
    problem = refused(odile.post("change-set/operations", asked), "invalid", 422)
    assert [error["pointer"] for error in problem["errors"]] == ["/operations/0/id", "/operations/1/id"]
    assert Assignment.objects.get(pk="given-1").role_id == "duty-editor"


def test_one_that_cannot_be_read_leaves_none_behind(odile):
    refused(odile.post("change-set/operations", {"operations": [EDIT, STOP | {"node": "atlantis"}]}), "invalid", 422)
    assert ok(odile.get("change-set"))["operations"] == []


def test_undo_takes_back_the_last(odile):
    stage(odile, EDIT, STOP)
    [left] = ok(odile.post("change-set/undo"))["operations"]
    assert left["kind"] == "set-answer"


def test_one_operation_may_be_dropped_and_all_discarded(odile):
    first, _ = stage(odile, EDIT, STOP)["operations"]
    [left] = ok(odile.delete(f"change-set/operations/{first['position']}"))["operations"]
    assert left["kind"] == "set-limit"
    assert ok(odile.delete("change-set"))["operations"] == []
    refused(odile.post("change-set/apply"), "invalid", 422)


def test_each_has_a_tray_of_their_own(odile, ask):
    stage(odile, EDIT)
    assert ok(ask("ludo").get("change-set"))["operations"] == []


def test_what_changed_since_is_noticed_and_nothing_is_written(odile, ask):
    stage(odile, EDIT, STOP)
    apply(ask("ludo"), EDIT | {"says": "all"})
    told = ok(odile.get("change-set"))["operations"]
    assert [op["stale"] for op in told] == [True, False]
    before = current().policy
    problem = refused(odile.post("change-set/apply"), "conflict", 409)
    assert problem["positions"] == [told[0]["position"]]
    assert current().policy == before


def test_taking_what_is_gone_is_noticed(odile, ask):
    take = {"kind": "take-role", "assignment": "given-1"}
    stage(odile, take)
    apply(ask("ludo"), take)
    refused(odile.post("change-set/apply"), "conflict", 409)
    assert not Assignment.objects.filter(pk="given-1").exists()


@pytest.mark.parametrize(
    ("operation", "pointer"),
    [
        (EDIT | {"role": "nobody"}, "/role"),
        (EDIT | {"capability": "ship.sink"}, "/capability"),
        (EDIT | {"says": "yes"}, "/says"),
        (EDIT | {"capability": "desk.open", "says": "own"}, "/says"),
        (GIVE | {"role": "everyone"}, "/role"),
        (GIVE | {"to": {"kind": "account", "id": "nobody"}}, "/to/id"),
        (GIVE | {"to": {"kind": "role", "id": "pilot"}}, "/to"),
        (GIVE | {"scope": {"branches": ["atlantis"]}}, "/scope/branches"),
        (GIVE | {"starts": "2099-07-01T00:00:00Z"}, "/ends"),
        (STOP | {"node": "atlantis"}, "/node"),
        (STOP | {"actions": []}, "/actions"),
        (STOP | {"actions": ["edit-live"]}, "/actions"),
        (STOP | {"effect": "allow"}, "/effect"),
        (FIELD | {"field": "depth"}, "/field"),
        (FIELD | {"table": {"nobody": ["see-all"]}}, "/table"),
        ({"kind": "drop-limit", "limit": "none"}, "/limit"),
        ({"kind": "sink"}, "/kind"),
    ],
)
def test_bad_input_names_the_field_and_stages_nothing(odile, operation, pointer):
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer
    assert ok(odile.get("change-set"))["operations"] == []


def test_each_kind_needs_its_duty(odile, ask):
    definer = {"kind": "set-answer", "role": "pilot", "capability": "roles.define", "says": "yes"}
    apply(odile, definer)
    gwenda = ask("gwenda")
    stage(gwenda, EDIT)
    refused(gwenda.post("change-set/operations", {"operations": [GIVE]}), "not-granted")
    apply(odile, definer | {"says": None})
    refused(gwenda.post("change-set/apply"), "not-granted")
    assert Answer.objects.get(role="tenant-editor", capability="event.edit").says == "own"


def test_the_version_is_raised_with_every_apply(odile):
    before = PolicyVersion.objects.get().number
    apply(odile, EDIT)
    assert PolicyVersion.objects.get().number == before + 1


def test_impact_counts_who_gains_who_loses_and_what_breaks(odile):
    nothing = ok(odile.get("change-set/touched"))
    assert (nothing["gain"], nothing["lose"], nothing["breaks"]) == (0, 0, [])
    stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"})
    impact = ok(odile.get("change-set/impact"))
    assert impact["gain"] == 20
    [publish] = impact["turns"]
    assert (publish["key"], publish["gain"], publish["most_gained"], publish["lose"]) == ("publish", 20, 1, 0)
    assert set(ok(odile.get("change-set/touched"))["breaks"]) == {
        "Ines Marrow may not publish Pier 3, Sail loft",
        "Holders of Tenant editor may not publish berth pages in Moorings",
    }


def test_a_tray_holds_so_many_and_the_refusal_loses_nothing(odile, monkeypatch):
    monkeypatch.setattr("gonfalon.access.change_sets.MOST_STAGED", 2)
    said = [
        {"kind": "set-answer", "role": "pilot", "capability": f"{type}.remove", "says": "all"}
        for type in ("berth", "event", "notice")
    ]
    stage(odile, *said[:2])
    problem = refused(odile.post("change-set/operations", {"operations": said[2:]}), "invalid", 422)
    assert "2 are the most" in str(problem)
    assert len(ok(odile.get("change-set"))["operations"]) == 2
    stage(odile, said[0] | {"says": "own"})
