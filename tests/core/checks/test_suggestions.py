"""What else the ways to a yes would turn, and what bars an answer."""

from dataclasses import replace

from gonfalon.core import Question
from gonfalon.core.checks.suggestions import advise
from gonfalon.core.model.policy import Account, Assignment, FieldRule, Limit, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import GiveRole, SetAnswer, SetFieldRule, SetLimit
from tests.core.harbour import NOW, engine
from tests.core.strategies import TREE

EDIT = {"berth.edit": "all", "berth.edit-live": "all"}
TO_CY = Assignment("a1", "writer", Subject.account("cy"))


def advised(asked, action="edit", node="loft", who="cy", **parts):
    return advise(asked, Question(who, action, TREE.target(node), **parts), NOW)


def test_what_each_turns_is_told_and_least_for_others_comes_first():
    guest = {"berth.edit": "own", "berth.edit-live": "own"}
    given = [replace(TO_CY, role="guest"), Assignment("b1", "guest", Subject.account("ben"))]
    asked = engine(roles={"guest": guest, "writer": EDIT}, assignments=given)
    changes = advised(asked).changes
    deltas = [len(c.impact.gain | c.impact.lose) for c in changes]
    assert deltas == sorted(deltas) == [1, 1, 2]
    assert isinstance(changes[-1].operations[0], SetAnswer)
    assert changes[0].impact.deltas == {"cy": {"edit": (1, 0)}}


def test_of_roles_the_one_that_gives_least_else_comes_first():
    roles = {"wide": {**EDIT, "berth.remove": "all", "notice.edit": "all"}, "narrow": EDIT}
    given = [c for c in advised(engine(roles=roles)).changes if isinstance(c.operations[0], GiveRole)]
    assert [c.operations[0].assignment.role for c in given] == ["narrow", "wide"]
    assert [sum(delta.gained for delta in c.impact.deltas["cy"].values()) for c in given] == [1, 2]


def test_a_lift_turns_one_page_and_a_field_s_row_all_of_its_kind():
    limit = Limit("l1", "moorings", Subject.role("writer"), Effect.STOP)
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[limit])
    [lift] = [c for c in advised(asked).changes if isinstance(c.operations[0], SetLimit)]
    assert lift.impact.gained == 1
    rule = FieldRule("table", {"writer": frozenset({"see-all"})})
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], fields={("berth", "dues"): rule})
    [change] = advised(asked, "change-field", field="dues").changes
    assert isinstance(change.operations[0], SetFieldRule)
    assert change.impact.deltas["cy"]["change-field berth.dues"].gained == 6


def test_bars_are_named_and_nothing_is_advised():
    bar = Limit("l1", "loft", Subject.group("tenants"), Effect.BAR)
    advice = advised(engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[bar]))
    assert (advice.changes, [f.limits for f in advice.bars]) == ((), [("l1",)])


def test_what_is_allowed_or_nobody_s_needs_no_advice():
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], accounts=[Account("gone", "disabled")])
    assert not advised(asked).changes
    assert not advised(asked, who="gone").changes
    assert advised(asked).bars == ()
