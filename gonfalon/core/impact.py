"""What differs between two policies, exactly: who gains and who loses what, and at how many nodes (§4, §5).

    changed = impact(before, after, at)
    changed.gain, changed.lose              # accounts, None a visitor
    changed.turned["ada"]["edit"]           # Turned(gained=3, lost=0)
    changed.nodes("ada", "edit")            # (["n1", "n4", "n7"], [])

Only what the difference can touch is asked, and of holders and places that cannot be told apart once:
accounts with an equal footing share one answer. Nothing is sampled.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, partial
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding
from gonfalon.core.parts import Parts, Restricted
from gonfalon.core.plan import MOST_ACTIONS, Bools
from gonfalon.core.question import Question, Who
from gonfalon.core.sheet import Sheet
from gonfalon.core.survey import AUTHOR, STRANGER, TEAMMATE, Near, Surveyor
from gonfalon.core.touched import Touch, Touched
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import WHOLE_BRANCH

T = TypeVar("T", bound=np.generic)
_MOST_SHARED = 8
_NO_ROWS = np.zeros(0, dtype=np.intp)
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
    # Those with the same touches come one after another, so that askers of their own are kept no longer.
    alike = sorted(compare.touched.items(), key=lambda item: [id(touch) for touch in item[1]])
    for done, (who, touches) in enumerate(alike):
        if progress is not None:
            progress(done, len(compare.touched))
        if turns := compare.turns(who, touches):
            turned[who] = turns
    return Impact(turned, before, after, at)


@dataclass(frozen=True)
class _Side:
    """One of two policies, and where in its tree each node compared lies.

    `rows` is None where both trees are the same; else -1 stands for a node that this tree has not.
    """

    survey: Surveyor
    rows: NDArray[np.intp] | None = None

    def holding(self, who: Who, at: datetime) -> Holding | None:
        """What somebody holds; None for an account that there is not."""
        known = not isinstance(who, str) or who in self.survey.policy.accounts
        return self.survey.engine.holdings.of(who, at) if known else None

    def aligned(self, answers: NDArray[T]) -> NDArray[T]:
        """Answers at the common rows: no at nodes that are not here."""
        if self.rows is None:
            return answers
        padded = np.append(answers, np.zeros(1, dtype=answers.dtype))
        here: NDArray[T] = padded[self.rows]
        return here


class _Comparison:
    """Two policies beside each other: what can be touched, and who asks about it.

    Most accounts share askers about what the touches name, each over the places where any of them may
    count. Those few that are touched in much and anywhere have askers of their own.
    """

    def __init__(self, before: Surveyor, after: Surveyor, at: datetime) -> None:
        self.at = at
        self.restricted = Restricted.by((before.policy, after.policy))
        self._all = Touched(before.engine, after.engine)
        self.same_tree = before.tree is after.tree or before.tree.nodes == after.tree.nodes
        self.tree = before.tree
        self._apart: tuple[tuple[Touch, ...], list[_Concerned]] = ((), [])
        if self.same_tree:
            self.sides = (_Side(before), _Side(after))
            self.touched: Mapping[str | None, tuple[Touch, ...]] = self._all.by_account()
        else:
            ids = {**dict.fromkeys(before.tree.index), **dict.fromkeys(after.tree.index)}
            rows = [np.array([s.tree.index.get(id, -1) for id in ids], dtype=np.intp) for s in (before, after)]
            self.sides = (_Side(before, rows[0]), _Side(after, rows[1]))
            everyone = (None, *before.policy.accounts, *after.policy.accounts)
            self.touched = dict.fromkeys(everyone, (self._all.anything,))

    def turns(self, who: str | None, touches: tuple[Touch, ...]) -> Turns:
        """What turns for an account with these touches."""
        turns: dict[str, Turned] = {}
        for asker, concerns in self._asking(touches):
            if any(concerns(touch) for touch in touches):
                turns |= asker.turns(who) if self.same_authors(touches) else asker.alone(who)
        plain = frozenset[str]().union(*(t.plain for t in touches))
        return {**turns, **self._plain(who, plain)}

    def same_authors(self, touches: tuple[Touch, ...]) -> bool:
        """Whether nothing changed about who wrote what, and who is in a team with whom, for an account."""
        return self._all.anything not in touches

    def _asking(self, touches: tuple[Touch, ...]) -> "list[_Concerned]":
        if not any(map(_broad, touches)):
            return self._shared
        if touches != self._apart[0]:
            self._apart = touches, list(self._askers(touches))
        return self._apart[1]

    @cached_property
    def _shared(self) -> "list[_Concerned]":
        every = {touch: None for touches in self.touched.values() for touch in touches}
        return list(self._askers([touch for touch in every if not _broad(touch)]))

    def _askers(self, touches: Sequence[Touch]) -> Iterator["_Concerned"]:
        """Askers about all that some touches name, each with whether a touch concerns it."""
        by_place: dict[bytes | None, tuple[Bools | None, list[str]]] = {}
        for action in self._all.actions:
            if naming := [t for t in touches if action in t.actions]:
                where = self._where(naming)
                if action in WHOLE_BRANCH and where is not None:
                    where = _with_ancestors(self.tree, where)
                key = None if where is None else np.packbits(where).tobytes()
                by_place.setdefault(key, (where, []))[1].append(action)
        for where, actions in by_place.values():
            for some in _apart(actions):
                yield _Actions(self, some, where), partial(_names_action, frozenset(some))
        yield from self._part_askers(touches)

    def _part_askers(self, touches: Sequence[Touch]) -> Iterator["_Concerned"]:
        """Askers about restricted fields, type by type, and about components."""
        every = self.restricted
        for type in sorted({type for type, _ in every.fields}):
            keys = frozenset(key for key in every.fields if key[0] == type)
            if naming := [t for t in touches if type in t.fields]:
                where = self._of_type(self._where(naming), type)
                yield _Parts(self, Restricted(fields=keys), where), partial(_names_fields, type)
            if naming := [t for t in touches if type in t.filled]:
                yield _Parts(self, Restricted(filled=keys), self._where(naming)), partial(_names_filled, type)
        naming = [t for t in touches if t.components]
        if naming and (every.components or every.facets):
            pieces = Restricted(components=every.components, facets=every.facets)
            yield _Parts(self, pieces, self._where(naming)), _names_components

    def _where(self, touches: Sequence[Touch]) -> Bools | None:
        """Where any of some touches may count; None: anywhere."""
        regions = [t.where for t in touches if t.where is not None]
        return np.logical_or.reduce(regions) if self.same_tree and len(regions) == len(touches) else None

    def _of_type(self, where: Bools | None, type: str) -> Bools | None:
        if not self.same_tree:
            return where
        of_type: Bools = np.repeat([name == type for name in self.tree.type_names], 2)[self.tree.kinds]
        return of_type if where is None else of_type & where

    def positions(self, side: _Side, where: Bools | None) -> NDArray[np.intp]:
        return np.arange(len(side.survey.tree)) if where is None else where.nonzero()[0]

    def _plain(self, who: str | None, capabilities: Iterable[str]) -> Turns:
        def may(side: _Side, capability: str) -> bool:
            known = who is None or who in side.survey.policy.accounts
            return known and side.survey.engine.decide(Question(who, capability, at=self.at)).allow

        answers = ((c, [may(side, c) for side in self.sides]) for c in sorted(capabilities))
        return _turns((c, int(now and not was), int(was and not now)) for c, (was, now) in answers)


def _broad(touch: Touch) -> bool:
    """Whether a touch names so much that it is asked about apart, for those few that it touches."""
    return touch.where is None and len(touch.actions) > _MOST_SHARED


def _names_action(actions: frozenset[str], touch: Touch) -> bool:
    return not actions.isdisjoint(touch.actions)


def _names_fields(type: str, touch: Touch) -> bool:
    return type in touch.fields


def _names_filled(type: str, touch: Touch) -> bool:
    return type in touch.filled


def _names_components(touch: Touch) -> bool:
    return touch.components


def _apart(actions: Sequence[str]) -> Iterator[list[str]]:
    """Actions in pieces that fit a plan, those about whole branches apart."""
    alone = [a for a in actions if a not in WHOLE_BRANCH]
    for first in range(0, len(alone), MOST_ACTIONS):
        yield alone[first : first + MOST_ACTIONS]
    if branching := [a for a in actions if a in WHOLE_BRANCH]:
        yield branching


class _Kept(NamedTuple):
    """What turns for all with one footing: as a stranger everywhere, and how a team's and one's own work differ.

    The differences are `[names, rows]` of what is gained, then of what is lost, more or less than by a
    stranger; None where there are none.
    """

    turns: Turns
    names: tuple[str, ...] = ()
    by_team: NDArray[np.int8] | None = None
    by_author: NDArray[np.int8] | None = None


class _Asker:
    """Asks the same of many accounts under both policies, and of those with an equal footing only once."""

    def __init__(self, compare: _Comparison) -> None:
        self.compare = compare
        self._kept: dict[Hashable, _Kept] = {}

    def turns(self, who: str | None) -> Turns:
        holdings = [side.holding(who, self.compare.at) for side in self.compare.sides]
        footing = tuple(self.footing(i, holding) if holding else None for i, holding in enumerate(holdings))
        if footing not in self._kept:
            self._kept[footing] = self._ask(holdings)
        kept = self._kept[footing]
        if kept.by_team is None or kept.by_author is None:
            return kept.turns
        own, team = self._written(holdings[1])
        more = kept.by_author[:, :, own].sum(axis=2) + kept.by_team[:, :, np.setdiff1d(team, own)].sum(axis=2)
        return _plus(kept.turns, _turns((n, int(g), int(x)) for n, g, x in zip(kept.names, *more, strict=True)))

    def alone(self, who: str | None) -> Turns:
        """The same for one account that is like no other."""
        holdings = [side.holding(who, self.compare.at) for side in self.compare.sides]
        return _turns(_differences(*(self._answers(i, holding) for i, holding in enumerate(holdings))))

    def _ask(self, holdings: Sequence[Holding | None]) -> _Kept:
        supposed: tuple[Near, ...] = (STRANGER,)
        if any(h is not None and self.minds_author(i, h) for i, h in enumerate(holdings)):
            supposed = (STRANGER, TEAMMATE, AUTHOR)
        asked = [[self._answers(i, h, near) for i, h in enumerate(holdings)] for near in supposed]
        turns = _turns(_differences(*asked[0]))
        if len(asked) == 1:
            return _Kept(turns)
        names = tuple(dict.fromkeys(name for sides in asked for answers in sides for name in answers))
        stranger, team, author = (_signed(names, *sides) for sides in asked)
        if np.array_equal(stranger, team) and np.array_equal(stranger, author):
            return _Kept(turns)
        return _Kept(turns, names, team - stranger, author - stranger)

    def _answers(self, side: int, who: Holding | None, near: Near | None = None) -> "_Answers":
        return self.answers(side, who, near) if who is not None else {}

    def _written(self, who: Holding | None) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The rows of what somebody wrote, and of what they or their team wrote: the same on both sides."""
        if who is None or who.account is None:
            return _NO_ROWS, _NO_ROWS
        return self.sheet(1).rows_by(who.account), self.sheet(1).rows_near(who.account)

    def sheet(self, side: int) -> Sheet:
        raise NotImplementedError

    def footing(self, side: int, who: Holding) -> Hashable:
        raise NotImplementedError

    def minds_author(self, side: int, who: Holding) -> bool:
        raise NotImplementedError

    def answers(self, side: int, who: Holding, near: Near | None) -> "_Answers":
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
        if not sheet.plan.whole_branch:
            return footing
        own = who.account.id if who.account and survey.minds_author(sheet.deep, who) else None
        return footing, survey.footing(sheet.deep, who), own

    def sheet(self, side: int) -> Sheet:
        return self.sheets[side]

    def minds_author(self, side: int, who: Holding) -> bool:
        sheet = self.sheets[side]
        return not sheet.plan.whole_branch and self.compare.sides[side].survey.minds_author(sheet, who)

    def answers(self, side: int, who: Holding, near: Near | None) -> "_Answers":
        one, sheet = self.compare.sides[side], self.sheets[side]
        bits = one.aligned(one.survey.bits(sheet, who, None if sheet.plan.whole_branch else near))
        return dict(zip(self.actions, sheet.plan.unpacked(bits).T, strict=True))


class _Parts(_Asker):
    """Asks about restricted fields, components and facets."""

    def __init__(self, compare: _Comparison, restricted: Restricted, where: Bools | None) -> None:
        super().__init__(compare)
        self.parts = [Parts(side.survey, restricted, compare.positions(side, where)) for side in compare.sides]

    def footing(self, side: int, who: Holding) -> Hashable:
        return self.parts[side].footing(who)

    def sheet(self, side: int) -> Sheet:
        return self.parts[side].sheet

    def minds_author(self, side: int, who: Holding) -> bool:
        return self.parts[side].minds_author(who)

    def answers(self, side: int, who: Holding, near: Near | None) -> "_Answers":
        one = self.compare.sides[side]
        return {name: one.aligned(answer) for name, answer in self.parts[side].answers(who, near).items()}


_Answers = Mapping[str, Bools]
_Concerned = tuple[_Asker, Callable[[Touch], bool]]


def _plus(turns: Turns, more: Turns) -> Turns:
    names = {**turns, **more}
    sums = ((n, turns.get(n, NOTHING), more.get(n, NOTHING)) for n in names)
    return _turns((n, a.gained + b.gained, a.lost + b.lost) for n, a, b in sums)


def _signed(names: Sequence[str], was: "_Answers", now: "_Answers") -> NDArray[np.int8]:
    """`[2, names, rows]`: 1 where an answer is gained, then where it is lost."""
    length = max((len(a) for a in (*was.values(), *now.values())), default=0)
    nothing = np.zeros(length, dtype=bool)
    before = np.array([was.get(name, nothing) for name in names]).reshape(len(names), length)
    after = np.array([now.get(name, nothing) for name in names]).reshape(len(names), length)
    return np.array([after & ~before, before & ~after]).astype(np.int8)


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
    for some in restricted.apart():
        answers = Parts(side, some, np.arange(len(ids))).answers(holding)
        if action in answers:
            return dict(zip(ids, answers[action].tolist(), strict=True))
    raise KeyError(action)
