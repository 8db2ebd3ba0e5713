"""What differs between two policies, exactly: who gains and who loses what, and at how many nodes (§4, §5).

    changed = impact(before, after, at)
    changed.gain, changed.lose              # accounts, None a visitor
    changed.turned["ada"]["edit"]           # Turned(gained=3, lost=0)
    changed.nodes("ada", "edit")            # (["n1", "n4", "n7"], [])

Only what the difference can touch is asked, and of holders and places that cannot be told apart once:
accounts with an equal footing share one answer. Nothing is sampled.
"""

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding
from gonfalon.core.parts import Parts, Restricted
from gonfalon.core.planes import MOST_ACTIONS, Bools
from gonfalon.core.question import Question, Who
from gonfalon.core.survey import Surveyor
from gonfalon.core.touched import Touch, Touched
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import WHOLE_BRANCH

T = TypeVar("T", bound=np.generic)
Progress = Callable[[int, int], None]


class Turned(NamedTuple):
    """How many answers turned to yes and to no: nodes, or 1 for what is asked without a node."""

    gained: int
    lost: int

    def __add__(self, other: object) -> "Turned":
        if not isinstance(other, Turned):
            return NotImplemented
        return Turned(self.gained + other.gained, self.lost + other.lost)


NOTHING = Turned(0, 0)
Turns = Mapping[str, Turned]
"""By action, `create:T`, plain capability, or part: `see-field berth.dues`, `insert-component table`."""


@dataclass(frozen=True)
class Impact:
    """What turns for each account that anything turns for."""

    turned: Mapping[Who, Turns]
    before: Surveyor
    after: Surveyor
    at: datetime

    @property
    def gain(self) -> frozenset[Who]:
        return frozenset(who for who, turns in self.turned.items() if any(t.gained for t in turns.values()))

    @property
    def lose(self) -> frozenset[Who]:
        return frozenset(who for who, turns in self.turned.items() if any(t.lost for t in turns.values()))

    @property
    def gained(self) -> int:
        return self._total.gained

    @property
    def lost(self) -> int:
        return self._total.lost

    @cached_property
    def _total(self) -> Turned:
        every = (turned for turns in self.turned.values() for turned in turns.values())
        return sum(every, NOTHING)

    def nodes(self, who: Who, action: str) -> tuple[list[str], list[str]]:
        """The ids gained and lost for an account and an action on nodes, in the order of the tree."""
        restricted = Restricted.by((self.before.policy, self.after.policy))
        was, now = (_by_node(survey, restricted, who, action, self.at) for survey in (self.before, self.after))
        order = {**dict.fromkeys(n.id for n in self.after.tree.nodes), **dict.fromkeys(was)}
        gained = [id for id in order if now.get(id, False) and not was.get(id, False)]
        return gained, [id for id in order if was.get(id, False) and not now.get(id, False)]


def impact(before: Surveyor, after: Surveyor, at: datetime, progress: Progress | None = None) -> Impact:
    """Compare two policies for every account and visitors, every node, action, part and plain capability.

    `progress` is called with how many accounts are done, and of how many.
    """
    compare = _Comparison(before, after, at)
    turned: dict[Who, Turns] = {}
    by_touches: dict[tuple[Touch, ...], list[str | None]] = defaultdict(list)
    for who, touches in compare.touched.items():
        by_touches[touches].append(who)
    done = 0
    for touches, accounts in by_touches.items():
        for who, turns in compare.turns(touches, accounts):
            if turns:
                turned[who] = turns
        done += len(accounts)
        if progress is not None:
            progress(done, len(compare.touched))
    return Impact(turned, before, after, at)


class _Side(NamedTuple):
    """One of two policies: its surveyor, and where in its tree each place compared lies (None: as it is).

    -1 stands for a node that this tree has not.
    """

    survey: Surveyor
    rows: NDArray[np.intp] | None

    def holding(self, who: Who, at: datetime) -> Holding | None:
        """What somebody holds; None for an account that there is not."""
        known = not isinstance(who, str) or who in self.survey.policy.accounts
        return self.survey.engine.holdings.of(who, at) if known else None

    def aligned(self, answers: NDArray[T]) -> NDArray[T]:
        """Answers in the common order; no at nodes that are not here."""
        if self.rows is None:
            return answers
        return np.where(self.rows >= 0, answers[self.rows], np.zeros(1, answers.dtype)).astype(answers.dtype)


class _Comparison:
    """Two policies beside each other: what can be touched, and how to ask about it."""

    def __init__(self, before: Surveyor, after: Surveyor, at: datetime) -> None:
        self.at = at
        self.restricted = Restricted.by((before.policy, after.policy))
        touched = Touched(before.engine, after.engine)
        self.actions = touched.actions
        self.same_tree = before.tree is after.tree or before.tree.nodes == after.tree.nodes
        if self.same_tree:
            self.sides = (_Side(before, None), _Side(after, None))
            self.touched = touched.by_account()
        else:
            ids = {**dict.fromkeys(before.tree.index), **dict.fromkeys(after.tree.index)}
            rows = [np.array([s.tree.index.get(id, -1) for id in ids], dtype=np.intp) for s in (before, after)]
            self.sides = (_Side(before, rows[0]), _Side(after, rows[1]))
            self.touched = dict.fromkeys((None, *before.policy.accounts, *after.policy.accounts), (touched.anything,))

    def turns(self, touches: tuple[Touch, ...], accounts: Iterable[str | None]) -> Iterable[tuple[str | None, Turns]]:
        """What turns for accounts that are all touched in the same way."""
        actions = frozenset[str]().union(*(t.actions for t in touches))
        plain = frozenset[str]().union(*(t.plain for t in touches))
        askers = self._askers([a for a in self.actions if a in actions], touches)
        for who in accounts:
            turns: dict[str, Turned] = {}
            for asker in askers:
                turns |= asker.turns(who)
            yield who, {**turns, **self._plain(who, plain)}

    def _askers(self, actions: list[str], touches: tuple[Touch, ...]) -> list["_Asker"]:
        where = self._where(touches)
        askers: list[_Asker] = []
        alone = [a for a in actions if a not in WHOLE_BRANCH]
        for first in range(0, len(alone), MOST_ACTIONS):
            askers.append(_Actions(self, alone[first : first + MOST_ACTIONS], where))
        if branching := [a for a in actions if a in WHOLE_BRANCH]:
            above = None if where is None else _with_ancestors(self.sides[0].survey.tree, where)
            askers.append(_Actions(self, branching, above))
        if any(t.parts for t in touches) and self.restricted.any:
            askers += [_Parts(self, restricted, where) for restricted in self.restricted.split()]
        return askers

    def _where(self, touches: tuple[Touch, ...]) -> Bools | None:
        regions = [t.where for t in touches if t.where is not None]
        return np.logical_or.reduce(regions) if self.same_tree and len(regions) == len(touches) else None

    def positions(self, side: _Side, where: Bools | None) -> NDArray[np.intp]:
        return np.arange(len(side.survey.tree)) if where is None else where.nonzero()[0]

    def _plain(self, who: str | None, capabilities: Iterable[str]) -> Turns:
        def may(side: _Side, capability: str) -> bool:
            known = who is None or who in side.survey.policy.accounts
            return known and side.survey.engine.decide(Question(who, capability, at=self.at)).allow

        answers = ((c, [may(side, c) for side in self.sides]) for c in sorted(capabilities))
        return _turns((c, int(now and not was), int(was and not now)) for c, (was, now) in answers)


class _Asker:
    """Asks the same of many accounts under both policies, and of those with an equal footing only once."""

    def __init__(self, compare: _Comparison) -> None:
        self.compare = compare
        self._kept: dict[Hashable, Turns] = {}

    def turns(self, who: str | None) -> Turns:
        holdings = [side.holding(who, self.compare.at) for side in self.compare.sides]
        footing = tuple(self.footing(i, holding) if holding else None for i, holding in enumerate(holdings))
        if footing not in self._kept:
            was, now = (self.answers(i, holding) if holding else {} for i, holding in enumerate(holdings))
            self._kept[footing] = _turns(_differences(was, now))
        return self._kept[footing]

    def footing(self, side: int, who: Holding) -> Hashable:
        raise NotImplementedError

    def answers(self, side: int, who: Holding) -> Mapping[str, Bools]:
        raise NotImplementedError


class _Actions(_Asker):
    """Asks about actions on nodes."""

    def __init__(self, compare: _Comparison, actions: Sequence[str], where: Bools | None) -> None:
        super().__init__(compare)
        self.actions = tuple(actions)
        self.sheets = [
            side.survey.sheet(side.survey.plan(self.actions), compare.positions(side, where)) for side in compare.sides
        ]

    def footing(self, side: int, who: Holding) -> Hashable:
        survey, sheet = self.compare.sides[side].survey, self.sheets[side]
        footing = survey.footing(sheet, who)
        return (footing, survey.footing(sheet.deep, who)) if sheet.plan.whole_branch else footing

    def answers(self, side: int, who: Holding) -> Mapping[str, Bools]:
        bits = self.compare.sides[side].aligned(self.compare.sides[side].survey.bits(self.sheets[side], who))
        return dict(zip(self.actions, self.sheets[side].plan.unpacked(bits).T, strict=True))


class _Parts(_Asker):
    """Asks about restricted fields, components and facets."""

    def __init__(self, compare: _Comparison, restricted: Restricted, where: Bools | None) -> None:
        super().__init__(compare)
        self.parts = [Parts(side.survey, restricted, compare.positions(side, where)) for side in compare.sides]

    def footing(self, side: int, who: Holding) -> Hashable:
        return self.parts[side].footing(who)

    def answers(self, side: int, who: Holding) -> Mapping[str, Bools]:
        aligned = self.compare.sides[side].aligned
        return {name: aligned(answer) for name, answer in self.parts[side].answers(who).items()}


def _differences(was: Mapping[str, Bools], now: Mapping[str, Bools]) -> Iterator[tuple[str, int, int]]:
    none = np.zeros(1, dtype=bool)
    for name in {**was, **now}:
        before, after = was.get(name, none), now.get(name, none)
        yield name, int(np.count_nonzero(after & ~before)), int(np.count_nonzero(before & ~after))


def _turns(counted: Iterable[tuple[str, int, int]]) -> Turns:
    return {name: Turned(gained, lost) for name, gained, lost in counted if gained or lost}


def _with_ancestors(tree: Tree, where: Bools) -> Bools:
    """The nodes and every one above them: those whose branch holds one of the nodes."""
    until = np.concatenate(([0], np.cumsum(where)))
    above: Bools = until[tree.ends] > until[:-1]
    return above


def _by_node(side: Surveyor, restricted: Restricted, who: Who, action: str, at: datetime) -> dict[str, bool]:
    """The answer about each node of a tree."""
    if isinstance(who, str) and who not in side.policy.accounts:
        return {}
    ids = [n.id for n in side.tree.nodes]
    if " " not in action:
        return dict(zip(ids, side.allowed([who], None, [action], at)[0, :, 0].tolist(), strict=True))
    holding = side.engine.holdings.of(who, at)
    for some in restricted.split():
        answers = Parts(side, some, np.arange(len(ids))).answers(holding)
        if action in answers:
            return dict(zip(ids, answers[action].tolist(), strict=True))
    raise KeyError(action)
