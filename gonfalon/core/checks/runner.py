"""How expectations are asked: one by one, over many nodes at once, or of many people at one node each (§8).

asker = ExpectationRunner(engine, at)
[result] = asker.ask([(expectation, None)])     # of everyone it ranges over
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property, lru_cache
from itertools import chain
from typing import Any

import numpy as np

from gonfalon.core.bulk.columns import MOST_ACTIONS
from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.evaluate_pairs import evaluate_pairs
from gonfalon.core.bulk.node_batch import chunks
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.checks.audience import Audience, Request, named_in, range_of
from gonfalon.core.checks.moments import lasts, moments
from gonfalon.core.document.errors import Unreadable, read_time
from gonfalon.core.document.requests import RANGES
from gonfalon.core.document.writer import write_time
from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import has
from gonfalon.core.model.policy import Expectation
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import ACTIONS, EXTENT_OF, PART_ACTIONS, WHOLE_BRANCH, Extent, Reason

Progress = Callable[[int], None]
_FEW_NODES = 40
"""Up to so many nodes are asked one by one; more at once."""
_TOGETHER = 500
"""Expectations about one node each that are asked together."""
_ON_ONE_NODE = {*RANGES, "action", "node", "at"}
_RANGING = frozenset({*RANGES, "branch", "types", "whose"})


@dataclass(frozen=True, slots=True)
class Against:
    """One answer that is not the expected one."""

    who: Who
    node: str | None
    reason: Reason
    at: datetime | None = None
    """The moment, where it is asked at several."""


@dataclass(frozen=True, slots=True)
class Result:
    """How an expectation stands: how many questions it asked and the first answer against it, if any."""

    expectation: Expectation
    asked: int
    failed: int
    against: Against | None

    @property
    def holds(self) -> bool:
        """Whether every answer is the expected one."""
        return self.failed == 0


class ExpectationRunner:
    """Asks the expectations of one engine at one time, keeping what several of them share."""

    def __init__(self, engine: Engine, at: datetime) -> None:
        self.engine, self.at, self.at_text = engine, at, write_time(at)
        self.tree, self.survey = engine.tree, engine.surveyor
        self._placed = frozenset(engine.policy.placed)
        self._people = lru_cache(256)(self._found)

    def ask(
        self, asked: Sequence[tuple[Expectation, Sequence[Who] | None]], progress: Progress | None = None
    ) -> list[Result]:
        """Ask expectations, in their order: of everyone each ranges over (None), or only of some of them.

        Those about one action of many at one node each are asked together.
        """
        results: dict[int, Result] = {}
        together: dict[tuple[datetime, tuple[str, ...]], list[int]] = {}
        for i, (e, who) in enumerate(asked):
            if progress is not None:
                progress(len(results))
            if lasts(e.question):
                results[i] = self._lasting(e)
            elif e.question.keys().isdisjoint(_RANGING):
                results[i] = self._one(e)
            elif self._of_many_at_one_node(e):
                actions = self._at_one_node[e.question["action"]]
                together.setdefault((self._at(e.question), actions), []).append(i)
            else:
                results[i] = self._ranging(e, who)
        for (at, actions), every in together.items():
            for first in range(0, len(every), _TOGETHER):
                some = every[first : first + _TOGETHER]
                results |= zip(some, self._each_at_one_node([asked[i] for i in some], at, actions), strict=True)
        return [results[i] for i in range(len(asked))]

    def answers(self, q: Request) -> int:
        """How many questions an expectation asks, at most: no node is looked at for it."""
        at, branch = self._at(q), q.get("branch")
        whole = 1
        if isinstance(branch, str):
            run = self.tree.branch(branch) if branch in self.tree else slice(0, 0)
            whole = run.stop - run.start
        if not lasts(q):
            return whole * len(self._who(q))
        ever, times = self.engine.derived(Audience).ever(q), len(moments(q, self.engine, self.at))
        several = len(self._who({**q, "at": write_time(at)})) if ever is None else max(len(ever), 1)
        return whole * several * times

    def _ranging(self, e: Expectation, who: Sequence[Who] | None) -> Result:
        who = self._who(e.question) if who is None else who
        nodes = self._nodes(e.question)
        if nodes is not None and (whose := e.question.get("whose")):
            at, extent = self._at(e.question), EXTENT_OF[whose]
            every = [self._ranging_over(e, [person], self._covered(person, extent, nodes, at)) for person in who]
            return _together(e, every)
        return self._ranging_over(e, who, nodes)

    def _ranging_over(self, e: Expectation, who: Sequence[Who], nodes: Sequence[str] | None) -> Result:
        at_once = self._at_once(e, nodes)
        if at_once is not None and nodes is not None:
            return self._survey(e, who, nodes, at_once)
        return self._each(e, who, nodes)

    def _lasting(self, e: Expectation) -> Result:
        """Ask at each moment of a time, of whoever it ranges over then."""
        plain = {key: value for key, value in e.question.items() if key not in ("from", "until")}
        every = moments(e.question, self.engine, self.at)
        each = [replace(e, question={**plain, "at": write_time(at)}) for at in every]
        results = self.ask([(one, None) for one in each])
        return _together(e, [_at(result, at) for result, at in zip(results, every, strict=True)])

    def _covered(self, person: Who, extent: Extent, nodes: Sequence[str], at: datetime) -> Sequence[str]:
        """Those of some nodes that an extent covers for somebody (§2)."""
        try:
            held = self.engine.grants.of(person, at)
        except KeyError:  # the account, or a role, is no longer there
            return []
        own = self.survey.policy_index.authors
        if held.as_author:
            return nodes
        if held.account is None:
            return []
        positions = own.by(held.account) if extent is Extent.OWN else own.near(held.account)
        covered = {self.tree.nodes[position].id for position in positions.tolist()}
        return [node for node in nodes if node in covered]

    def _who(self, q: Request) -> Sequence[Who]:
        """The accounts a question ranges over, or whom it names itself."""
        named = range_of(q)
        return [named_in(q)] if named is None else self._people(named, q[named], self._at(q))

    def _found(self, named: str, id: str, at: datetime) -> Sequence[Who]:
        return self.engine.derived(Audience).asked({named: id}, at)

    def _at(self, q: Request) -> datetime:
        return self.at if q.get("at") is None else read_time(q["at"])

    def _nodes(self, q: Request) -> Sequence[str] | None:
        """The nodes a branch ranges over; None where the question names its node itself, or none."""
        if q.get("branch") is None:
            return None
        if q["branch"] not in self.tree:
            return []
        types, fielded = q.get("types"), q["action"] in PART_ACTIONS and q.get("field") is not None
        return [
            n.id
            for n in self.tree.nodes[self.tree.branch(q["branch"])]
            if (types is None or n.type in types) and (not fielded or self._has_field(n.type, q))
        ]

    def _has_field(self, type: str, q: Request) -> bool:
        known = self.engine.policy.types.get(type)
        return known is not None and q["field"] in known.fields

    def _request(self, q: Request) -> dict[str, Any]:
        """The question as the engine is asked it, but for what it ranges over."""
        return {**{k: v for k, v in q.items() if k not in _RANGING}, "at": q.get("at") or self.at_text}

    # -- one by one ----------------------------------------------------------------------------

    def _one(self, e: Expectation) -> Result:
        """Ask what ranges over nothing."""
        try:
            q = e.question
            reason = self.engine.decide(q if q.get("at") is not None else {**q, "at": self.at_text}).reason
        except Unreadable:
            return Result(e, 0, 0, None)
        if _expected(e, reason):
            return Result(e, 1, 0, None)
        node = e.question.get("node")
        return Result(e, 1, 1, Against(named_in(e.question), node if isinstance(node, str) else None, reason))

    def _each(self, e: Expectation, who: Sequence[Who], nodes: Sequence[str] | None) -> Result:
        asked = failed = 0
        against = None
        for person, node, reason in self._reasons(e.question, who, nodes):
            asked += 1
            if not _expected(e, reason):
                failed += 1
                against = against or Against(person, node, reason)
        return Result(e, asked, failed, against)

    def _reasons(
        self, q: Request, who: Sequence[Who], nodes: Sequence[str] | None
    ) -> Iterator[tuple[Who, str | None, Reason]]:
        """The answer to each question, with whom and which node it asks about; none where it cannot be asked."""
        plain, named = self._request(q), range_of(q) is None
        for person in who:
            request = plain if named else {**plain, "account": person}
            for node in (None,) if nodes is None else nodes:
                try:
                    reason = self.engine.decide(request if node is None else {**request, "node": node}).reason
                except Unreadable:
                    continue
                at = q.get("node") if node is None else node
                yield person, at if isinstance(at, str) else None, reason

    # -- many people at one node each ----------------------------------------------------------

    @cached_property
    def _at_one_node(self) -> Mapping[str, tuple[str, ...]]:
        """Actions whose answers rest on one node alone, each with those that are asked together with it."""
        every = [a for a in ACTIONS if a != "create" and a not in WHOLE_BRANCH] + sorted(self._placed)
        some = [tuple(every[first : first + MOST_ACTIONS]) for first in range(0, len(every), MOST_ACTIONS)]
        return {action: actions for actions in some for action in actions}

    def _of_many_at_one_node(self, e: Expectation) -> bool:
        """Whether an expectation asks such an action of all it ranges over, whatever the reason."""
        q = e.question
        if range_of(q) is None or e.reason or not q.keys() <= _ON_ONE_NODE or q["action"] not in self._at_one_node:
            return False
        return isinstance(q.get("node"), str) and q["node"] in self.tree

    def _each_at_one_node(
        self, asked: Sequence[tuple[Expectation, Sequence[Who] | None]], at: datetime, actions: tuple[str, ...]
    ) -> Iterator[Result]:
        every = [self._who(e.question) if who is None else who for e, who in asked]
        number = {person: i for i, person in enumerate(dict.fromkeys(chain.from_iterable(every)))}
        positions = [self.tree.index[e.question["node"]] for e, _ in asked]
        rows, row = np.unique(np.array(positions, dtype=np.intp), return_inverse=True)
        batch = self.survey.batch(self.survey.columns(actions), rows)
        evaluator = BatchEvaluator.of(batch, [self.engine.grants.of(person, at) for person in number])
        holder = np.array([number[person] for who in every for person in who], dtype=np.intp)
        edges = np.cumsum([0, *map(len, every)])
        may = evaluate_pairs(evaluator, holder, np.repeat(row, np.diff(edges)))
        for (e, _), who, first in zip(asked, every, edges.tolist(), strict=False):
            passed = has(may[first : first + len(who)], actions.index(e.question["action"]))
            wrong = passed != (e.expect == "allow")
            against = self._against(e.question, who[int(wrong.argmax())], e.question["node"]) if wrong.any() else None
            yield Result(e, len(who), int(np.count_nonzero(wrong)), against)

    # -- many nodes at once --------------------------------------------------------------------

    def _at_once(self, e: Expectation, nodes: Sequence[str] | None) -> str | None:
        """The action to survey, for an expectation that ranges over many nodes and names no reason."""
        action = e.question["action"]
        if nodes is None or len(nodes) <= _FEW_NODES or e.reason:
            return None
        if e.question.get("roles") is not None or e.question.get("working"):
            return None
        if action == "create":
            return None if e.question.get("topics") else f"create:{e.question['type']}"
        plain = action in ACTIONS or action in self._placed
        return action if plain and not e.question.get("topics") and not e.question.get("to") else None

    def _survey(self, e: Expectation, who: Sequence[Who], nodes: Sequence[str], action: str) -> Result:
        q = e.question
        at = self._at(q)
        batch = self.survey.among((action,), np.array([self.tree.index[n] for n in nodes], dtype=np.intp))
        failed, against = 0, None
        holders = [self.engine.grants.of(person, at) for person in who]
        for part in chunks(batch, len(holders)):
            wrong_at = (allowed(BatchEvaluator.of(batch, holders[part])) != 0) != (e.expect == "allow")
            failed += int(np.count_nonzero(wrong_at))
            if against is None and wrong_at.any():
                first, row = (int(at[0]) for at in wrong_at.nonzero())
                against = self._against(q, who[part][first], nodes[row])
        return Result(e, len(who) * len(nodes), failed, against)

    def _against(self, q: Request, person: Who, node: str) -> Against:
        request = {**self._request(q), "account": person, "node": node}
        return Against(person, node, self.engine.decide(request).reason)


def _together(e: Expectation, results: Sequence[Result]) -> Result:
    """What several results of one expectation come to."""
    against = next((result.against for result in results if result.against is not None), None)
    return Result(e, sum(result.asked for result in results), sum(result.failed for result in results), against)


def _at(result: Result, at: datetime) -> Result:
    return result if result.against is None else replace(result, against=replace(result.against, at=at))


def _expected(e: Expectation, reason: Reason) -> bool:
    return (reason is Reason.ALLOWED) == (e.expect == "allow") and e.reason in (None, reason)
