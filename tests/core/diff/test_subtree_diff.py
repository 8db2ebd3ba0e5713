"""Whole branches that turn are those that two surveys of the whole tree tell apart."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gonfalon.core import Engine
from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.diff.counts import Delta
from gonfalon.core.diff.node_classes import Places, Side
from gonfalon.core.diff.subtree_diff import SubtreeDiff
from gonfalon.core.model.policy import Account, Assignment, Limit, Scope, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import DropLimit, GiveRole, SetLimit, apply
from tests.core.diff.test_impact import FEW, WHO
from tests.core.harbour import NOW, harbour
from tests.core.strategies import TREE, operations, policies

ACTIONS = ("remove", "move")


def sides_of(before, changes):
    was = Engine(before, TREE)
    now = was.changed(apply(before, changes))
    return Side(was), Side(now)


def asked(sides, where=None, who=WHO):
    return SubtreeDiff(sides, NOW, ACTIONS, Places(TREE, where)).turns(who)


def surveyed(sides, who=WHO):
    """The same by asking everything of everybody."""
    was, now = (side.survey.allowed(who, None, ACTIONS, NOW) for side in sides)
    gained, lost = ((each).sum(axis=1) for each in (now & ~was, was & ~now))
    return {
        id: {
            action: Delta(int(gained[i, k]), int(lost[i, k]))
            for k, action in enumerate(ACTIONS)
            if gained[i, k] or lost[i, k]
        }
        for i, id in enumerate(who)
        if gained[i].any() or lost[i].any()
    }


def where_alone(sides):
    """The nodes whose own answer turns for anybody."""
    evaluators = [
        BatchEvaluator.of(side.survey.batch(side.survey.columns(ACTIONS, alone=True), None), side.grants(WHO, NOW))
        for side in sides
    ]
    return np.any(evaluators[0].alone() != evaluators[1].alone(), axis=0)


@FEW
@given(policies(), st.lists(operations, min_size=1, max_size=2))
def test_what_turns_is_what_two_surveys_tell_apart(before, changes):
    sides = sides_of(before, changes)
    assert asked(sides) == surveyed(sides)


@FEW
@given(policies(), st.lists(operations, min_size=1, max_size=2))
def test_it_is_enough_to_look_where_the_answer_about_a_node_alone_turns(before, changes):
    sides = sides_of(before, changes)
    assert asked(sides, where_alone(sides)) == surveyed(sides)


class TestByExample:
    """Moorings lies under the home page and holds berths: the sail loft, the chandlery, and fees with more beneath."""

    KEEPER = {"notice.remove": "all", "berth.remove": "all"}
    STOP = Limit("l", "loft", Subject.role("keeper"), Effect.STOP, "node", frozenset({"remove"}))

    def keeper(self, *limits):
        given = [Assignment("a1", "keeper", Subject.account("ada"))]
        return harbour(roles={"keeper": self.KEEPER}, assignments=given, limits=limits)

    def deltas(self, before, *changes):
        return asked(sides_of(before, changes)).get("ada", {})

    def test_one_node_that_cannot_go_keeps_all_above_it(self):
        assert self.deltas(self.keeper(), SetLimit(self.STOP)) == {"remove": (0, len(TREE.path("loft")))}

    def test_where_something_else_beneath_stays_anyway_nothing_above_turns(self):
        beside = replace(self.STOP, id="beside", node="chandlery")
        assert self.deltas(self.keeper(beside), SetLimit(self.STOP)) == {"remove": (0, 1)}
        assert self.deltas(self.keeper(beside, self.STOP), DropLimit("l")) == {"remove": (1, 0)}

    @pytest.mark.parametrize("node", ["loft", "fees", "moorings"])
    def test_a_role_given_for_a_branch_gives_all_of_it(self, node):
        give = GiveRole(Assignment("a", "keeper", Subject.account("ada"), Scope(branches=frozenset({node}))))
        span = TREE.branch(node)
        assert self.deltas(harbour(roles={"keeper": self.KEEPER}), give) == {"remove": (span.stop - span.start, 0)}

    def test_an_account_that_only_one_policy_has_gains_what_it_may_do(self):
        before, new = self.keeper(), Account("dee")
        after = replace(before, accounts={**before.accounts, "dee": new})
        given = Assignment("a2", "keeper", Subject.account("dee"), Scope(branches=frozenset({"fees"})))
        after = apply(after, [GiveRole(given)])
        was = Engine(before, TREE)
        sides = Side(was), Side(was.changed(after))
        assert asked(sides, who=["dee", "ada"]) == {"dee": {"remove": (3, 0)}}
