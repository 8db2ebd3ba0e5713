"""What would turn a no into a yes, and what else it would turn."""

from dataclasses import replace

import pytest

from gonfalon.core import Engine, Question
from gonfalon.core.checks.suggestions import NEW, advise
from gonfalon.core.model.policy import Account, Assignment, FieldRule, Limit, Lock, Scope, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import DropLimit, GiveRole, OpenLock, SetAnswer, SetFieldRule, SetLimit, SetReach, apply
from tests.core.harbour import NOW, engine
from tests.core.strategies import TREE

EDIT = {"berth.edit": "all", "berth.edit-live": "all"}
TO_CY = Assignment("a1", "writer", Subject.account("cy"))


def advised(asked, action="edit", node="loft", who="cy", **parts):
    return advise(asked, Question(who, action, TREE.target(node), **parts), NOW)


def kinds(advice):
    return [tuple(type(op) for op in change.operations) for change in advice.changes]


def test_a_role_the_account_lacks_is_given_where_it_is_needed_and_no_wider():
    asked = engine(roles={"writer": EDIT, "reader": {"berth.see": "all"}})
    [change] = advised(asked).changes
    scope = Scope(branches=frozenset({"loft"}))
    assert change.operations == (GiveRole(Assignment(NEW, "writer", Subject.account("cy"), scope)),)
    assert change.impact.gain == {"cy"}
    assert change.impact.deltas["cy"] == {"edit": (1, 0)}


def test_an_extent_is_widened_and_what_a_role_lacks_is_added():
    own = {"berth.edit": "own", "berth.edit-live": "own"}
    asked = engine(roles={"writer": own}, assignments=[TO_CY])
    [change] = advised(asked).changes
    assert change.operations == (
        SetAnswer("writer", "berth.edit", "all"),
        SetAnswer("writer", "berth.edit-live", "all"),
    )
    # Only what is missing is added: here the right to edit what is live.
    asked = engine(roles={"writer": {"berth.edit": "all"}}, assignments=[TO_CY])
    [change] = advised(asked).changes
    assert change.operations == (SetAnswer("writer", "berth.edit-live", "own"),) or kinds(advised(asked)) == [
        (SetAnswer,)
    ]


def test_a_scope_or_a_reach_is_widened_by_one_branch():
    elsewhere = replace(TO_CY, scope=Scope(branches=frozenset({"fees"}), sites=frozenset({"regatta"})))
    asked = engine(roles={"writer": EDIT}, assignments=[elsewhere])
    wider = Scope(branches=frozenset({"fees", "loft"}), sites=frozenset({"regatta", "quay"}))
    assert (GiveRole(replace(elsewhere, scope=wider)),) in [c.operations for c in advised(asked).changes]
    confined = Account("cy", groups=frozenset({"pier-5"}), reach={"content": frozenset({"fees"})})
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], accounts=[confined])
    assert [c.operations for c in advised(asked).changes] == [(SetReach("cy", "content", frozenset({"fees", "loft"})),)]


def test_a_limit_further_up_is_lifted_here_or_dropped_and_the_lift_comes_first():
    limit = Limit("l1", "moorings", Subject.role("writer"), Effect.STOP)
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[limit])
    assert kinds(advised(asked)) == [(SetLimit,), (DropLimit,)]
    first, second = advised(asked).changes
    assert (first.impact.gained, second.impact.gained) == (1, 6)


def test_a_lock_and_a_field_s_rule_are_opened():
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], locks=[Lock("k1", "loft")])
    assert [c.operations for c in advised(asked).changes] == [(OpenLock("k1"),)]
    rule = FieldRule("table", {"writer": frozenset({"see-all"})})
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], fields={("berth", "dues"): rule})
    [change] = advised(asked, "change-field", field="dues").changes
    widened = FieldRule("table", {"writer": frozenset({"see-all", "change-all"})})
    assert change.operations == (SetFieldRule("berth", "dues", widened),)
    assert change.impact.deltas["cy"]["change-field berth.dues"].gained == 6


def test_bars_are_named_and_not_worked_around():
    bar = Limit("l1", "loft", Subject.group("tenants"), Effect.BAR)
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[bar])
    advice = advised(asked)
    assert (advice.changes, [f.limits for f in advice.bars]) == ((), [("l1",)])


def test_what_is_allowed_or_nobody_s_needs_no_advice():
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], accounts=[Account("gone", "disabled")])
    assert not advised(asked).changes
    assert not advised(asked, who=None).changes
    assert not advised(asked, who="gone").changes


@pytest.mark.parametrize("action", ["desk.open", "roles.define"])
def test_what_has_no_place_is_given_whole(action):
    asked = engine(roles={"writer": {action: "yes"}})
    [change] = advise(asked, Question("cy", action), NOW).changes
    assert change.operations == (GiveRole(Assignment(NEW, "writer", Subject.account("cy"))),)
    assert change.impact.deltas["cy"] == {action: (1, 0)}


def test_every_change_advised_does_turn_the_answer_and_least_comes_first():
    roles = {"writer": EDIT, "lead": {**EDIT, "berth.remove": "all"}, "guest": {"berth.edit": "own"}}
    asked = engine(roles=roles, assignments=[replace(TO_CY, role="guest")])
    changes = advised(asked).changes
    question = Question("cy", "edit", TREE.target("loft"), NOW)
    assert changes
    assert all(Engine(apply(asked.policy, c.operations), TREE).decide(question).allow for c in changes)
    deltas = [len(c.impact.gain | c.impact.lose) for c in changes]
    assert deltas == sorted(deltas)


def test_roles_are_advised_by_how_little_else_they_give():
    roles = {"wide": {**EDIT, "berth.remove": "all", "notice.edit": "all"}, "narrow": EDIT}
    changes = advised(engine(roles=roles)).changes
    assert [change.operations[0].assignment.role for change in changes] == ["narrow", "wide"]
    assert [sum(delta.gained for delta in c.impact.deltas["cy"].values()) for c in changes] == [1, 2]


def test_a_scope_by_topics_is_widened_by_those_of_the_page():
    about = replace(TO_CY, scope=Scope(topics=frozenset({"tides"})))
    asked = engine(roles={"writer": EDIT}, assignments=[about])
    [*_, wider] = [c.operations[0].assignment.scope for c in advised(asked, node="chandlery").changes]
    scopes = [c.operations[0].assignment.scope for c in advised(asked, node="chandlery").changes]
    assert Scope(topics=frozenset({"tides", "trade"})) in scopes
    assert wider in scopes
    untold = [c.operations[0].assignment.scope for c in advised(asked, node="loft").changes]
    assert Scope() in untold
    assert all(scope.topics is None for scope in untold), "a page without topics lies in no scope by topics"


def test_a_lift_is_of_the_action_asked_at_the_place_asked_and_for_whom_it_was_limited():
    limit = Limit("l1", "home", Subject.role("writer"), Effect.STOP, actions=frozenset({"edit", "create"}))
    asked = engine(roles={"writer": {**EDIT, "berth.create": "all"}}, assignments=[TO_CY], limits=[limit])
    [first, *_] = advised(asked, "insert-component", component="text").changes
    assert first.operations == (
        SetLimit(Limit(NEW, "loft", Subject.role("writer"), Effect.LIFT, "node", frozenset({"edit"}))),
    )
    new = Question("cy", "create", TREE.target("loft").child("berth"))
    [first, *_] = advise(asked, new, NOW).changes
    assert first.operations == (
        SetLimit(Limit(NEW, "loft", Subject.role("writer"), Effect.LIFT, "beneath", frozenset({"create"}))),
    )


def test_a_limit_at_the_place_itself_is_dropped_not_lifted():
    limit = Limit("l1", "loft", Subject.role("writer"), Effect.STOP)
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[limit])
    assert kinds(advised(asked)) == [(DropLimit,)]


def test_standing_in_is_advised_only_where_the_duty_is_all_that_lacks():
    roles = {"writer": {"impersonate.start": "yes"}, "guest": {"berth.edit": "own"}}
    to_ben = Assignment("b1", "guest", Subject.account("ben"))
    asked = engine(roles=roles)
    [change] = advise(asked, Question("cy", "stand-in", subject="ben"), NOW).changes
    assert change.operations == (GiveRole(Assignment(NEW, "writer", Subject.account("cy"))),)
    beyond = engine(roles=roles, assignments=[TO_CY, to_ben])
    changes = advise(beyond, Question("cy", "stand-in", subject="ben"), NOW).changes
    assert all(isinstance(op, SetAnswer | GiveRole) for change in changes for op in change.operations)
