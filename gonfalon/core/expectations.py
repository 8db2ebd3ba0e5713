"""Expectations: questions with the answer they should have, asked of many people and nodes at once (§8).

    result = prove(engine, policy.expectations.values(), at)[0]
    result.holds, result.asked, result.against

An expectation holds when each of its questions has the expected answer; one that ranges over nothing holds.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, lru_cache
from itertools import repeat
from typing import Any

import numpy as np

from gonfalon.core.crowd import Crowd
from gonfalon.core.engine import Engine
from gonfalon.core.faults import Unreadable, read_time
from gonfalon.core.impact import Impact
from gonfalon.core.policy import Assignment, Expectation, Policy
from gonfalon.core.question import MadeUp, Who
from gonfalon.core.requests import RANGES
from gonfalon.core.sheet import Sheet, at_once
from gonfalon.core.vocabulary import ACTIONS, PART_ACTIONS, Reason
from gonfalon.core.writing import write_time

Request = Mapping[str, Any]
_FEW_NODES = 40
"""Up to so many nodes are asked one by one; more at once."""


@dataclass(frozen=True, slots=True)
class Against:
    """One answer that is not the expected one."""

    who: Who
    node: str | None
    reason: Reason


@dataclass(frozen=True, slots=True)
class Result:
    """How an expectation stands: how many questions it asked and the first answer against it, if any."""

    expectation: Expectation
    asked: int
    failed: int
    against: Against | None

    @property
    def holds(self) -> bool:
        return self.failed == 0


def prove(
    engine: Engine, expectations: Iterable[Expectation], at: datetime, progress: Callable[[int], None] | None = None
) -> list[Result]:
    """Ask every expectation, at its own time if it names one, else at `at`.

    Nodes, accounts and roles that are no longer there are asked of no more. `progress` is called with how
    many are done.
    """
    asker = _Asker(engine, at)
    results = []
    for done, expectation in enumerate(expectations):
        if progress is not None:
            progress(done)
        results.append(asker.ask(expectation))
    return results


def newly_broken(results: Iterable[Result], changed: Impact) -> list[Expectation]:
    """Those that held before a change, as their results tell, and do not hold after it.

    Only what an impact can have turned is asked, of those for whom it turned.
    """
    asker = _Asker(changed.after.engine, changed.at)
    held = (result.expectation for result in results if result.holds)
    return [e for e, who in _may_turn(held, changed) if not asker.ask(e, who).holds]


def _may_turn(
    expectations: Iterable[Expectation], changed: Impact
) -> Iterator[tuple[Expectation, Sequence[Who] | None]]:
    """Those that may be answered otherwise than before, with the people whose answers may be; None: everyone's.

    What an impact does not ask (reasons, other times, topics, sites) may always turn.
    """
    sides = [side.policy for side in (changed.before, changed.after)]
    same = all(getattr(sides[0], part) is getattr(sides[1], part) for part in ("accounts", "groups", "assignments"))
    people = [People(side) for side in (sides[:1] if same else sides)]
    asked = lru_cache(1024)(lambda named, id: [each.asked({named: id}, changed.at) for each in people])
    actions = {who: {key.partition(" ")[0] for key in turns} for who, turns in changed.turned.items()}
    for e in expectations:
        q = e.question
        named = next((key for key in RANGES if q.get(key) is not None), None)
        was, *now = [[_asked(q)]] if named is None else asked(named, q[named])
        if e.reason or not q.keys() <= _IMPACT_ASKS or now not in ([], [was]):
            yield e, None
            continue
        action = f"create:{q['type']}" if q["action"] == "create" else q["action"]
        parts = action in PART_ACTIONS
        if who := [who for who in was if who in actions and (parts or action in actions[who])]:
            yield e, who if named else None


class People:
    """Whom the questions of expectations mean (§8), looked up in one policy."""

    def __init__(self, policy: Policy) -> None:
        self._active = {a.id: a for a in policy.accounts.values() if a.state == "active"}
        self._members: dict[str, set[str]] = {}
        for account in self._active.values():
            for group in policy.all_groups(account):
                self._members.setdefault(group, set()).add(account.id)
        self._given: dict[str, list[Assignment]] = {}
        for a in policy.assignments.values():
            self._given.setdefault(a.role, []).append(a)

    def asked(self, question: Request, at: datetime) -> list[Who]:
        """Everyone a question asks: accounts in the order of their ids, a visitor last."""
        named = next((key for key in RANGES if question.get(key) is not None), None)
        if named is None:
            return [_asked(question)]
        meant = self.holders(question[named], at) if named.endswith("holders_of") else self.members(question[named])
        if not named.startswith("except"):
            return [*sorted(meant)]
        return [*sorted(a.id for a in self._active.values() if not a.keyholder and a.id not in meant), None]

    def members(self, group: str) -> set[str]:
        """Every active member of a group, through the groups beneath it too."""
        return self._members.get(group, set())

    def holders(self, role: str, at: datetime) -> set[str]:
        """Every active account with an active assignment of a role, through a group too."""
        held: set[str] = set()
        for a in self._given.get(role, ()):
            if a.period.active(at):
                held |= self.members(a.to.id) if a.to.kind == "group" else {a.to.id} & self._active.keys()
        return held


class _Asker:
    """Asks the expectations of one engine at one time, keeping what several of them share."""

    def __init__(self, engine: Engine, at: datetime) -> None:
        self.engine, self.at, self.at_text = engine, at, write_time(at)
        self.tree, self.survey = engine.tree, engine.surveyor
        self._placed = frozenset(engine.policy.placed)
        self._people = lru_cache(256)(self._found)
        self._sheets = lru_cache(16)(self._sheet)

    @cached_property
    def _rosters(self) -> People:
        return People(self.engine.policy)

    def ask(self, e: Expectation, who: Sequence[Who] | None = None) -> Result:
        """Ask an expectation: of everyone it ranges over, or only of some of them."""
        who = self._who(e.question) if who is None else who
        nodes = self._nodes(e.question)
        at_once = self._at_once(e, nodes)
        if at_once is not None and nodes is not None:
            return self._survey(e, who, nodes, at_once)
        return self._each(e, who, nodes)

    def _who(self, q: Request) -> Sequence[Who]:
        """The accounts a question ranges over; none where it names whom it asks itself."""
        named = next((key for key in RANGES if q.get(key) is not None), None)
        return [] if named is None else self._people(named, q[named], q.get("at"))

    def _found(self, named: str, id: str, at: str | None) -> Sequence[Who]:
        when = self.at if at is None else read_time(at)
        return self._rosters.asked({named: id}, when)

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

    # -- one by one ----------------------------------------------------------------------------

    def _each(self, e: Expectation, who: Sequence[Who], nodes: Sequence[str] | None) -> Result:
        asked = failed = 0
        against = None
        for person, node, reason in self._reasons(e.question, who, nodes):
            asked += 1
            if (reason is Reason.ALLOWED) != (e.expect == "allow") or (e.reason and reason is not e.reason):
                failed += 1
                against = against or Against(person, node, reason)
        return Result(e, asked, failed, against)

    def _reasons(
        self, q: Request, who: Sequence[Who], nodes: Sequence[str] | None
    ) -> Iterator[tuple[Who, str | None, Reason]]:
        """The answer to each question, with whom and which node it asks about; none where it cannot be asked."""
        plain = {k: v for k, v in q.items() if k not in _RANGING} | {"at": q.get("at") or self.at_text}
        if _ranges(q) and nodes is None and plain.keys() == _ON_ONE_NODE and isinstance(q["node"], str):
            reasons = self.engine.reasons(who, q["action"], q["node"], read_time(plain["at"]))
            if reasons is not None:
                yield from zip(who, repeat(q["node"]), reasons)
                return
        asking = [(person, {**plain, "account": person}) for person in who]
        if not _ranges(q):
            asking = [(_asked(q), {**plain, "account": q["account"]} if "account" in q else plain)]
        for person, request in asking:
            for node in (None,) if nodes is None else nodes:
                try:
                    reason = self.engine.decide(request if node is None else {**request, "node": node}).reason
                except Unreadable:
                    continue
                named = q.get("node") if node is None else node
                yield person, named if isinstance(named, str) else None, reason

    # -- many nodes at once --------------------------------------------------------------------

    def _at_once(self, e: Expectation, nodes: Sequence[str] | None) -> str | None:
        """The action to survey, for an expectation that ranges over many nodes and names no reason."""
        action = e.question["action"]
        if nodes is None or len(nodes) <= _FEW_NODES or e.reason or e.question.get("roles") is not None:
            return None
        if action == "create":
            return None if e.question.get("topics") else f"create:{e.question['type']}"
        plain = action in ACTIONS or action in self._placed
        return action if plain and not e.question.get("topics") and not e.question.get("to") else None

    def _survey(self, e: Expectation, who: Sequence[Who], nodes: Sequence[str], action: str) -> Result:
        q = e.question
        at = self.at if q.get("at") is None else read_time(q["at"])
        who = who if _ranges(q) else [_asked(q)]
        sheet = self._sheets(action, tuple(nodes))
        failed, against = 0, None
        holders = [self.engine.holdings.of(person, at) for person in who]
        for part in at_once(sheet, len(holders)):
            wrong_at = (Crowd(sheet, holders[part]).may() != 0) != (e.expect == "allow")
            failed += int(np.count_nonzero(wrong_at))
            if against is None and wrong_at.any():
                first, row = (int(at[0]) for at in wrong_at.nonzero())
                against = self._against(q, who[part][first], nodes[row])
        return Result(e, len(who) * len(nodes), failed, against)

    def _against(self, q: Request, person: Who, node: str) -> Against:
        request = {k: v for k, v in q.items() if k not in _RANGING} | {"account": person, "node": node}
        return Against(person, node, self.engine.decide({**request, "at": q.get("at") or self.at_text}).reason)

    def _sheet(self, action: str, nodes: tuple[str, ...]) -> Sheet:
        positions = np.array([self.tree.index[n] for n in nodes], dtype=np.intp)
        return self.survey.sheet(self.survey.plan((action,)), positions)


_IMPACT_ASKS = {"account", *RANGES, "action", "node", "branch", "types", "type", "field", "component", "facet"}
_ON_ONE_NODE = {"action", "node", "at"}
_RANGING = frozenset({*RANGES, "account", "branch", "types"})


def _ranges(q: Request) -> bool:
    """Whether a question ranges over accounts."""
    return any(q.get(key) is not None for key in RANGES)


def _asked(q: Request) -> Who:
    """The account that a question names, or the made-up holder of roles."""
    if q.get("roles") is not None:
        return MadeUp(tuple(q["roles"]), bool(q.get("own")))
    account: str | None = q.get("account")
    return account
