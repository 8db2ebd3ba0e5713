"""Operations on a policy, and what they would do to people."""

from dataclasses import fields, replace

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core.diff.impact import impact
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import OPEN_FIELD, Account, Assignment, FieldRule, Limit, Role, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import (
    DropLimit,
    DropRole,
    GiveRole,
    HandOver,
    PutRole,
    SetAnswer,
    SetBuildsOn,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetState,
    TakeRole,
    apply,
)
from tests.core.harbour import NODES, NOW, harbour
from tests.core.strategies import operations, policies
from tests.examples import examples

GIVEN = Assignment("a1", "writer", Subject.group("pier-3"))
STOP = Limit("l1", "fees", Subject.role("writer"), Effect.STOP)
POLICY = harbour(
    roles={"writer": {"berth.retire": "all"}, "guest": {}},
    assignments=[GIVEN],
    limits=[STOP],
    accounts=[Account("gone", "disabled", groups=frozenset({"pier-3"}))],
)


def engine_of(policy):
    return Engine(policy, Tree.build(NODES))


def test_each_operation_and_what_takes_it_back_come_to_the_same_policy():
    more = Assignment("a2", "writer", Subject.account("cy"), Scope(branches=frozenset({"fees"})))
    rule = FieldRule("table", {"writer": frozenset({"see-all"})})
    for there, back in [
        (SetAnswer("writer", "berth.move", "own"), SetAnswer("writer", "berth.move", None)),
        (SetAnswer("writer", "berth.retire", None), SetAnswer("writer", "berth.retire", "all")),
        (GiveRole(more), TakeRole("a2")),
        (TakeRole("a1"), GiveRole(GIVEN)),
        (SetLimit(Limit("l2", "loft", Subject.role("writer"), Effect.BAR)), DropLimit("l2")),
        (DropLimit("l1"), SetLimit(STOP)),
        (SetFieldRule("berth", "dues", rule), SetFieldRule("berth", "dues", OPEN_FIELD)),
        (SetBuildsOn("writer", "guest"), SetBuildsOn("writer", None)),
        (SetComponents("writer", frozenset({"text"})), SetComponents("writer", None)),
        (SetFacets("writer", "text", frozenset()), SetFacets("writer", "text", None)),
        (DropRole("guest"), PutRole(Role("guest"))),
        (PutRole(Role("new", {"berth.see": "own"})), DropRole("new")),
    ]:
        changed = apply(POLICY, [there])
        assert changed != POLICY
        assert there.part == back.part
        assert there.value_in(changed) != there.value_in(POLICY)
        assert apply(changed, [back]) == POLICY


def test_what_somebody_wrote_is_handed_over_and_back():
    policy = replace(POLICY, tree=Tree.build(NODES))
    there = HandOver("ada", "cy", frozenset({"loft", "fees", "races", "sunk"}))
    assert there.value_in(policy) == {"loft", "fees"}
    changed = apply(policy, [there])
    assert {n.id for n in changed.tree.nodes if n.author == "cy"} == {"loft", "fees", "races"}
    assert apply(changed, [HandOver("cy", "ada", frozenset({"loft", "fees"}))]).tree == policy.tree
    assert apply(POLICY, [there]) is POLICY


def test_operations_apply_in_their_order():
    changed = apply(POLICY, [SetAnswer("writer", "berth.move", "own"), SetAnswer("writer", "berth.move", "all")])
    assert changed.roles["writer"].grants["berth.move"] == "all"
    assert POLICY.roles["writer"] == Role("writer", {"berth.retire": "all"})


class TestImpact:
    def of(self, *operations):
        return impact(engine_of(POLICY), engine_of(apply(POLICY, operations)), NOW)

    def test_nothing_changed_changes_nothing(self):
        assert (self.of().deltas, self.of().gain, self.of().lose) == ({}, frozenset(), frozenset())

    def test_who_gains_and_who_loses_and_how_often(self):
        stopped = self.of(SetLimit(Limit("l2", "home", Subject.role("writer"), Effect.STOP)))
        assert (stopped.gain, stopped.lose) == (frozenset(), frozenset({"ada", "ben"}))
        assert stopped.lost == 2 * 3  # moorings, loft and chandlery, for two people
        lifted = self.of(DropLimit("l1"))
        assert (lifted.gain, lifted.gained) == (frozenset({"ada", "ben"}), 2 * 3)

    def test_visitors_count_and_the_keyholder_never_does(self):
        seen = self.of(SetAnswer("everyone", "berth.see", "all"))
        assert None in seen.gain
        assert not {"key", "gone"} & seen.gain

    def test_sitewide_capabilities_count(self):
        assert self.of(SetAnswer("writer", "roles.define", "yes")).gained == 2


@settings(max_examples=examples(80), suppress_health_check=list(HealthCheck))
@given(policies(), operations)
def test_an_operation_changes_one_field_of_the_policy_and_shares_the_others(policy, operation):
    changed = operation.apply(policy)
    others = [f.name for f in fields(policy) if getattr(changed, f.name) is not getattr(policy, f.name)]
    assert len(others) <= 1
    assert apply(changed, [operation]) == changed, "said twice it comes to the same"


@settings(max_examples=examples(60), suppress_health_check=list(HealthCheck))
@given(policies(), st.lists(operations, max_size=8))
def test_a_run_of_operations_comes_to_the_same_as_one_after_another(policy, changes):
    one_by_one = policy
    for operation in changes:
        one_by_one = operation.apply(one_by_one)
    was = {f.name: dict(v) if isinstance(v := getattr(policy, f.name), dict) else v for f in fields(policy)}
    assert apply(policy, changes) == one_by_one
    assert {f.name: getattr(policy, f.name) for f in fields(policy)} == was, "and leaves what it began with alone"


def test_what_came_of_a_run_stays_as_it_is():
    came = apply(harbour(), [SetState("ada", "disabled"), SetState("ben", "disabled")])
    later = SetState("ada", "active").apply(came)
    assert (came.accounts["ada"].state, later.accounts["ada"].state) == ("disabled", "active")
