"""The tree of marks, the survey, who can, why, what would turn a no, and what a limit narrows all say the same."""

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core import Question
from gonfalon.core.checks.narrowing import narrowing
from gonfalon.core.checks.turning import ways
from gonfalon.core.checks.who import through, who_can, who_can_beneath
from gonfalon.core.model.vocabulary import Extent, Reason
from tests.core.harbour import NOW
from tests.core.naive import Naive
from tests.core.strategies import NODE_IDS, TREE, engines
from tests.examples import examples

ACTIONS = ["see", "edit", "publish", "history", "discussion.moderate"]


def covers(extent, who, node, policy):
    """Whether an extent, as the tree draws it, covers a node for somebody (§2)."""
    author = policy.accounts.get(node.author) if node.author else None
    if extent == Extent.ALL:
        return True
    if author is None:
        return False
    if extent >= Extent.OWN and author.id == who:
        return True
    return extent == Extent.TEAM and not author.groups.isdisjoint(policy.accounts[who].groups)


@settings(max_examples=examples(120))
@given(engines(), st.sampled_from(NODE_IDS), st.sampled_from(ACTIONS))
def test_of_every_account_at_one_node(engine, node, action):
    policy, naive = engine.policy, Naive(engine.policy, TREE)
    row, question = TREE.index[node], Question(None, action, TREE.target(node), NOW)
    found = who_can(engine, question)
    on_it = who_can_beneath(engine, node, Question(None, action), NOW)
    locked = {lock.node for lock in policy.locks.values() if lock.field is None and lock.component is None}
    for who, account in policy.accounts.items():
        asked = replace(question, who=who)
        answer = naive.answer(asked) == Reason.ALLOWED
        decision = engine.decide(asked, trail=True)
        assert decision.allow == answer
        assert engine.survey([who], [node], [action], NOW)[0, 0, 0] == answer
        mark = engine.surveyor.marks(who, [action], NOW, np.array([row]))
        if node not in locked and not mark.outside[0, 0]:
            assert covers(mark.extent[0, 0], who, TREE.nodes[row], policy) == answer, (who, mark)
        if account.keyholder or account.state != "active":
            continue
        assert (who in found.can) == answer
        assert not answer or on_it[who].can >= 1
        assert bool(through(engine, asked)) >= answer
        assert not (answer and ways(engine, asked))


@settings(max_examples=examples(60))
@given(engines())
def test_what_narrows_nothing_turns_no_answer(engine):
    for limit in engine.policy.limits.values():
        counted = narrowing(engine, limit, NOW)
        assert counted is not None
        assert (counted.nodes == 0) == (counted.accounts == 0)
