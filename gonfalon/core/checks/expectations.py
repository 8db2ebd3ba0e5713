"""Expectations: questions with the answer they should have, asked of many people and nodes at once (§8).

    result = prove(engine, policy.expectations.values(), at)[0]
    result.holds, result.asked, result.against

An expectation holds when each of its questions has the expected answer; one that ranges over nothing holds.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from datetime import datetime
from functools import lru_cache
from typing import Any

import numpy as np

from gonfalon.core.checks.audience import Audience, named_in, range_of
from gonfalon.core.checks.runner import ExpectationRunner, Progress, Result
from gonfalon.core.diff.affected import AffectedRegions
from gonfalon.core.diff.affected_accounts import AffectedAccounts
from gonfalon.core.diff.may_change import ANY_TYPE, MayChange
from gonfalon.core.document.requests import RANGES
from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import Ints
from gonfalon.core.model.policy import Expectation
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import OVER_ALL_NODES, WHOLE_BRANCH, Reason

_IMPACT_ASKS = {"account", *RANGES, "action", "node", "branch", "types", "type", "field", "component", "facet"}


def prove(
    engine: Engine, expectations: Iterable[Expectation], at: datetime, progress: Progress | None = None
) -> list[Result]:
    """Ask every expectation, at its own time if it names one, else at `at`.

    Nodes, accounts and roles that are no longer there are asked of no more. `progress` is called with how
    many are done.
    """
    return ExpectationRunner(engine, at).ask([(expectation, None) for expectation in expectations], progress)


def newly_broken(results: Iterable[Result], changed: AffectedAccounts) -> list[Expectation]:
    """Those that held before a change, as their results tell, and do not hold after it.

    Only what a change can have turned is asked, of those for whom it turned anything.
    """
    held = (result.expectation for result in results if result.holds)
    may_change = _may_change(held, (changed.before, changed.after), changed.at, changed.may_change)
    asked = ExpectationRunner(changed.after, changed.at).ask(list(may_change))
    return [result.expectation for result in asked if not result.holds]


def proved_again(results: Sequence[Result], before: Engine, after: Engine, at: datetime) -> list[Result]:
    """The results under another policy, over the same tree or one with the same places (`Tree.same_places`).

    Those are asked anew that the difference of the policies, or of the nodes, can region.
    """
    expectations = [result.expectation for result in results]
    turning: dict[str, Expectation] = {}
    if before.policy is not after.policy:
        may_change_for = MayChange(AffectedRegions(before, after).by_account(), after.tree)
        turning |= {e.id: e for e, _ in _may_change(expectations, (before, after), at, may_change_for)}
        turning |= {r.expectation.id: r.expectation for r in results if _may_be_refused_otherwise(r, may_change_for)}
    if before.tree is not after.tree:
        changed = after.tree.differing(before.tree)
        ids = {after.tree.nodes[i].id for i in changed.tolist()}
        turning |= {e.id: e for e in expectations if _asks_of(e.question, after.tree, changed, ids)}
    anew = dict(zip(turning, prove(after, turning.values(), at), strict=True))
    return [anew.get(result.expectation.id, result) for result in results]


def resting_on(results: Iterable[Result], before: Engine, after: Engine, at: datetime) -> list[Result]:
    """Those that may have another result under another policy over the same tree, of the same accounts and assignments.

    Nothing is asked: those are left out whose answers cannot rest on what differs. What is told apart by more than that
    minds (other times, where something is moved to, made-up holders of roles) is never left out.
    """
    affected, people = AffectedRegions(before, after).by_account(), after.derived(Audience)
    may_change_for = MayChange(affected, after.tree)

    @lru_cache(1024)
    def unlike(named: str, key: str) -> list[Who]:
        """Of those in a range one for each way to be affected."""
        each = people.asked({named: key}, at)
        return list({affected[who]: who for who in each if who in affected}.values())

    def rests(question: Mapping[str, Any]) -> bool:
        if not question.keys() <= _IMPACT_ASKS:
            return True
        if not may_change_for.about(_turning(question)):
            return False
        named = range_of(question)
        who = [named_in(question)] if named is None else unlike(named, question[named])
        if branch := question.get("branch"):
            types = frozenset(question.get("types") or ANY_TYPE)
            return any(may_change_for.beneath(one, _turning(question), branch, types) for one in who)
        return any(may_change_for(one, _turning(question), question.get("node")) for one in who)

    return [result for result in results if rests(result.expectation.question)]


def _may_be_refused_otherwise(result: Result, may_change: MayChange) -> bool:
    """Whether the refusal that a result names may come to have another reason.

    What is given somewhere turns refusals elsewhere from `not-granted` to `out-of-scope`.
    """
    refused = result.against
    if refused is None or refused.reason is Reason.ALLOWED:
        return False
    return may_change(refused.who, _turning(result.expectation.question), None)


def _turning(question: Mapping[str, Any]) -> str:
    """The action of a question as an impact names it."""
    return f"create:{question['type']}" if question["action"] == "create" else question["action"]


def _asks_of(question: Mapping[str, Any], tree: Tree, positions: Ints, ids: Set[str]) -> bool:
    """Whether the answer may rest on some nodes, told by their ascending positions and their ids."""
    if question["action"] in OVER_ALL_NODES:
        return True  # it rests on all of them
    branching = "branch" in question or question["action"] in WHOLE_BRANCH
    for place in (question.get("branch"), question.get("node"), question.get("to")):
        if not isinstance(place, str):
            continue
        if place in ids:
            return True
        if branching and place in tree:
            run = tree.branch(place)
            first, last = np.searchsorted(positions, (run.start, run.stop))
            if first < last:
                return True
    return False


def _may_change(
    expectations: Iterable[Expectation],
    sides: tuple[Engine, Engine],
    at: datetime,
    may_change: MayChange,
) -> Iterator[tuple[Expectation, Sequence[Who] | None]]:
    """Those that may be answered otherwise than before, with the people whose answers may be; None: everyone's.

    What is told apart by more than `may_change` minds (reasons, other times, topics, sites) always may.
    """
    people = [sides[0].derived(Audience)]
    if not people[0].can_answer_for(sides[1].policy):
        people.append(sides[1].derived(Audience))
    asked = lru_cache(1024)(lambda named, id: [each.asked({named: id}, at) for each in people])
    for e in expectations:
        q = e.question
        named = range_of(q)
        was, *now = [[named_in(q)]] if named is None else asked(named, q[named])
        if e.reason or not q.keys() <= _IMPACT_ASKS or now not in ([], [was]):
            yield e, None
        elif may_change.about(_turning(q)) and (
            who := [one for one in was if may_change(one, _turning(q), q.get("node"))]
        ):
            yield e, who if named else None
