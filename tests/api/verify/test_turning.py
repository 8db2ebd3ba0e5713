"""From a no to a yes: the smallest changes, as they are staged and in a sentence."""

import pytest

from gonfalon.access.models import ChangeSet
from tests.api.support import apply, ok, refused

FEES = {"account": "ines", "action": "edit", "node": "fees"}
LOFT = "p3-sail-loft"
OF_INES = {"kind": "set-limit", "to": {"kind": "account", "id": "ines"}}


def changes(asking, **asked):
    return ok(asking.post("why/changes", FEES | asked))["changes"]


def test_what_is_missing_given_to_this_person_here_comes_first_and_turns_the_answer(odile):
    told = ok(odile.post("why/changes", FEES))
    assert (told["allow"], told["reason"]) == (False, ok(odile.get("why", **FEES))["reason"])
    best = told["changes"][0]
    assert best["sentence"] == "Let Ines Marrow alone edit sections and edit published sections on Fees and dues."
    assert {data["kind"] for data in best["operations"]} == {"give-capability"}
    assert best["allowed"]
    apply(odile, *best["operations"])
    assert ok(odile.get("why", **FEES))["allow"]


@pytest.mark.parametrize("action", ["edit", "publish", "remove"])
def test_each_can_be_applied_and_turns_it(odile, action):
    for change in changes(odile, action=action):
        apply(odile, *change["operations"])
        assert ok(odile.get("why", **FEES | {"action": action}))["allow"], change["sentence"]
        last = ChangeSet.objects.filter(state="applied").latest("ended_at")
        ok(odile.post(f"change-sets/{last.id}/undo"))


def test_a_lock_is_opened_alone_and_a_limit_lifted_here(odile):
    ok(odile.post("locks", {"node": LOFT, "why": "Being counted."}), 201)
    assert "Open the lock on Pier 3, Sail loft." in [change["sentence"] for change in changes(odile, node=LOFT)]
    apply(odile, OF_INES | {"node": "moorings", "effect": "stop", "applies": "branch", "actions": ["edit"]})
    lift = "Lift what stops edit on Pier 3, Sail loft for Ines Marrow"
    both = [change["sentence"] for change in changes(odile, node=LOFT)]
    assert f"{lift}, and open the lock on Pier 3, Sail loft." in both


def test_a_limit_of_the_place_itself_is_changed_in_place(odile):
    apply(odile, OF_INES | {"node": LOFT, "effect": "stop", "applies": "node", "actions": ["edit", "publish"]})
    [change] = changes(odile, node=LOFT)
    assert change["sentence"] == "Take edit out of the limit on Pier 3, Sail loft for Ines Marrow."
    apply(odile, *change["operations"])
    [limit] = [k for k in ok(odile.get(f"limits/places/{LOFT}"))["here"] if k["subject"] == "ines"]
    assert limit["actions"] == ["publish"]


def test_a_part_of_a_page_and_a_duty_without_a_place(odile):
    field = {"account": "ines", "action": "change-field", "node": LOFT, "field": "dues"}
    assert ok(odile.post("why/changes", field))["changes"]
    duty = ok(odile.post("why/changes", {"account": "ines", "action": "roles.define"}))["changes"]
    assert duty[0]["sentence"] == "Let Ines Marrow alone define roles everywhere."


def test_what_is_barred_is_not_worked_around(odile):
    apply(odile, OF_INES | {"node": "fees", "effect": "bar", "applies": "node", "actions": None})
    told = ok(odile.post("why/changes", FEES))
    assert (told["reason"], told["changes"]) == ("barred", [])


def test_only_what_one_knows_of_and_may_do_is_told(lone):
    limiting = lone("limits.set", "roster.see", "section.see")
    given = [change for change in changes(limiting) if change["operations"][0]["kind"] == "give-capability"]
    assert given
    assert not any(change["allowed"] for change in given)
    hidden, made_up = (limiting.post("why/changes", FEES | {"node": id}) for id in ("min-2026-10", "nowhere"))
    assert hidden.content == made_up.content
    refused(lone("desk.open").post("why/changes", FEES), "not-granted")


@pytest.mark.parametrize(
    ("sent", "pointer"), [({"action": "fly"}, "/action"), ({"whence": "x"}, "/whence"), ({"type": "x"}, "/type")]
)
def test_a_question_that_cannot_be_read_names_the_field(odile, sent, pointer):
    problem = refused(odile.post("why/changes", FEES | {"action": "create"} | sent), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer


def test_a_yes_is_ended_by_what_takes_least(odile):
    asked = {"account": "ines", "action": "edit", "node": LOFT}
    told = ok(odile.post("why/changes", asked))
    assert told["allow"]
    sentences = [change["sentence"] for change in told["changes"]]
    assert sentences[0] == "Stop edit on Pier 3, Sail loft for Ines Marrow."
    assert "Let no Tenant editor edit berth pages." in sentences
    for change in told["changes"]:
        apply(odile, *change["operations"])
        assert not ok(odile.get("why", **asked))["allow"], change["sentence"]
        last = ChangeSet.objects.filter(state="applied").latest("ended_at")
        ok(odile.post(f"change-sets/{last.id}/undo"))


def test_a_keyholder_s_yes_is_not_ended(odile):
    told = ok(odile.post("why/changes", {"account": "odile", "action": "edit", "node": LOFT}))
    assert (told["allow"], told["changes"]) == (True, [])
