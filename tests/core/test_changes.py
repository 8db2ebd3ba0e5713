"""Operations on a policy, and what they would do to people and expectations."""

from gonfalon.core.changes import DropLimit, GiveRole, SetAnswer, SetFieldRule, SetLimit, TakeRole, apply
from gonfalon.core.engine import Engine
from gonfalon.core.expectations import Expectation, Range, people, prove
from gonfalon.core.impact import impact
from gonfalon.core.policy import OPEN_FIELD, Account, Assignment, FieldRule, Limit, Role, Scope, Subject
from gonfalon.core.survey import Surveyor
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import Effect, Reason
from tests.core.harbour import NODES, NOW, harbour

GIVEN = Assignment("a1", "writer", Subject.group("pier-3"))
STOP = Limit("l1", "fees", Subject.role("writer"), Effect.STOP)
POLICY = harbour(
    roles={"writer": {"berth.retire": "all"}},
    assignments=[GIVEN],
    limits=[STOP],
    accounts=[Account("gone", "disabled", groups=frozenset({"pier-3"}))],
)


def survey(policy):
    return Surveyor(Engine(policy, Tree.build(NODES)))


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
    ]:
        changed = apply(POLICY, [there])
        assert changed != POLICY
        assert there.part == back.part
        assert there.standing(changed) != there.standing(POLICY)
        assert apply(changed, [back]) == POLICY


def test_operations_apply_in_their_order():
    changed = apply(POLICY, [SetAnswer("writer", "berth.move", "own"), SetAnswer("writer", "berth.move", "all")])
    assert changed.roles["writer"].grants["berth.move"] == "all"
    assert POLICY.roles["writer"] == Role("writer", {"berth.retire": "all"})


class TestImpact:
    def of(self, *operations):
        return impact(survey(POLICY), survey(apply(POLICY, operations)), NOW)

    def test_nothing_changed_changes_nothing(self):
        assert self.of() == impact(survey(POLICY), survey(POLICY), NOW)
        assert (self.of().gain, self.of().lose) == (frozenset(), frozenset())

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


class TestExpectations:
    def ask(self, who, action="retire", *, expect=True, **where):
        return prove(survey(POLICY), [Expectation("e", who, action, expect=expect, **where)], NOW)[0]

    def test_a_range_means_these_people(self):
        assert people(POLICY, Range(account="ada"), NOW) == ["ada"]
        assert people(POLICY, Range(), NOW) == [None]
        assert people(POLICY, Range(holders_of="writer"), NOW) == ["ada", "ben"]
        assert people(POLICY, Range(members_of="tenants"), NOW) == ["ada", "ben", "cy"]
        assert people(POLICY, Range(except_holders_of="writer"), NOW) == ["cy", None]
        assert people(POLICY, Range(except_members_of="tenants"), NOW) == [None]

    def test_it_holds_when_every_answer_is_the_expected_one(self):
        holds = self.ask(Range(holders_of="writer"), branch="moorings", types=frozenset({"berth"}))
        assert (holds.holds, holds.asked, holds.failed) == (False, 12, 6)
        assert (holds.against.who, holds.against.node, holds.against.reason) == ("ada", "fees", Reason.STOPPED)
        assert self.ask(Range(holders_of="writer"), node="loft").holds

    def test_one_that_ranges_over_nothing_holds(self):
        nothing = self.ask(Range(holders_of="writer"), branch="pictures", types=frozenset({"berth"}))
        assert (nothing.holds, nothing.asked) == (True, 0)
        assert self.ask(Range(account="ada"), node="sunk").holds

    def test_fields_and_sitewide_capabilities_are_asked_too(self):
        assert self.ask(Range(account="ada"), "see-field", expect=False, node="loft", field="dues").holds
        assert self.ask(Range(holders_of="writer"), "roles.define", expect=False).asked == 2
