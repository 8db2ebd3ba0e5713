"""Asking the same of many accounts under two policies: of those that cannot be told apart only once.

asker = ActionsAsker(sides, at, ["edit"], where)
asker.turns(["ada", "ben"])        # {"ada": {"edit": Turned(gained=3, lost=0)}}
"""

from collections.abc import Hashable, Iterator, Mapping, Sequence
from datetime import datetime
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.bulk.evaluate_batch import Crowd
from gonfalon.core.bulk.grant_tables import Level
from gonfalon.core.bulk.node_batch import MOST_CELLS
from gonfalon.core.bulk.parts import Parts, Restricted
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.decide.grants import Holding
from gonfalon.core.diff.counts import Turned, Turns
from gonfalon.core.diff.node_classes import Places, Sides, sheets_of
from gonfalon.core.model.bits import Bits, Bools, Ints, has, joined

Counts = NDArray[np.int64]
Answers = Mapping[str, Bools]
"""`[holders, places]` yes or no, by the name of what was asked."""


class _Alike(NamedTuple):
    """Accounts with one footing; `minds_author` says whether it counts for their answers who wrote what."""

    who: list[str | None]
    minds_author: bool


class Asker:
    """Asks the same of many accounts under both policies, and of those with an equal footing only once.

    With `apart`, each account is asked by itself, with who wrote what as each policy has it. `steady` says that what
    turns comes from the baseline alone: whoever has an equal footing before has one after.
    """

    def __init__(self, sides: Sides, at: datetime, places: Sequence[Places], *, apart: bool, steady: bool) -> None:
        self.sides, self.at, self.places = sides, at, places
        self.apart, self.steady = apart, steady and not apart

    def turns(self, who: Sequence[str | None]) -> dict[str | None, Turns]:
        """What turns for each of some accounts that anything turns for."""
        turns: dict[str | None, dict[str, Turned]] = {}
        groups, crowds = self._each(who) if self.apart else self._alike(who)
        step = max(1, MOST_CELLS // max(1, *(len(places.positions) for places in self.places)))
        for first in range(0, len(groups), step):
            some = groups[first : first + step]
            asked = [id for group in some for id in group.who]
            for name, counts in self._counted(some, [crowd.some(range(first, first + len(some))) for crowd in crowds]):
                for i in np.any(counts, axis=0).nonzero()[0].tolist():
                    turns.setdefault(asked[i], {})[name] = Turned(int(counts[0, i]), int(counts[1, i]))
        return dict(turns)

    def _each(self, who: Sequence[str | None]) -> tuple[list[_Alike], "list[_Some]"]:
        """Each account by itself."""
        return [_Alike([id], minds_author=False) for id in who], self._both(who)

    def _alike(self, who: Sequence[str | None]) -> tuple[list[_Alike], "list[_Some]"]:
        """The accounts by footing, those that mind who wrote what first, and of each group one on each side."""
        sides = [self._some(0, who)] if self.steady else self._both(who)
        found: dict[Hashable, list[int]] = {}
        for i, rests_on in enumerate(zip(*(some.footings(self, i) for i, some in enumerate(sides)), strict=True)):
            found.setdefault(rests_on, []).append(i)
        firsts = [alike[0] for alike in found.values()]
        crowds = [some.some(firsts) for some in sides]
        if self.steady:
            crowds.append(self._some(1, [who[i] for i in firsts]))
        minding = np.logical_or(*(some.mind_author(self, i) for i, some in enumerate(crowds)))
        order = np.argsort(~minding, kind="stable").tolist()
        groups = [
            _Alike([who[i] for i in alike], bool(minds)) for alike, minds in zip(found.values(), minding, strict=True)
        ]
        return [groups[i] for i in order], [some.some(order) for some in crowds]

    def _both(self, who: Sequence[str | None]) -> "list[_Some]":
        """Some accounts on each side: one crowd for both where all have the same on the same sheet."""
        was, now = (self._some(side, who) for side in range(2))
        return [was, was if was.crowd.same_as(now.crowd) else now]

    def _some(self, side: int, who: Sequence[str | None]) -> "_Some":
        held = self.sides[side].holdings(who, self.at)
        there = np.array([holding is not None for holding in held], dtype=bool)
        return _Some(self.crowd(side, [holding for holding in held if holding is not None]), there)

    def _counted(self, groups: Sequence[_Alike], crowds: "Sequence[_Some]") -> Iterator[tuple[str, Counts]]:
        """By name `[2, accounts]`, how many answers each account of some groups gains, and loses."""
        group_of = np.repeat(np.arange(len(groups)), [len(group.who) for group in groups])
        minding = sum(group.minds_author for group in groups)
        cells = self._written(groups[:minding])
        stranger = _Turning(self, crowds, None if self.apart else Level.ALL)
        fewer = [crowd.some(range(minding)) for crowd in crowds] if cells else []
        closer = [_Turning(self, fewer, near) for near in cells]
        names = dict.fromkeys(name for turning in (stranger, *closer) for name in turning.names)
        for name in names:
            turned = [turning.of(name) for turning in (stranger, *closer)]
            counts = np.array([self.places[1].count(way) for way in turned[0]])[:, group_of]
            for near, far, some in zip(turned[1:], turned, cells.values(), strict=False):
                for way, is_near, is_far in zip(counts, near, far, strict=True):
                    more = is_near[some.group, some.row].astype(np.int8) - is_far[some.group, some.row]
                    way += np.bincount(some.who, more, len(group_of)).astype(np.int64)
            yield name, counts

    def _written(self, groups: Sequence[_Alike]) -> "dict[Level, _Cells]":
        """What each account or its team wrote, and what it wrote itself: the same on both sides."""
        if not groups:
            return {}
        survey, row_of = self.sides[1].survey, self.places[1].row_of
        group_of = np.repeat(np.arange(len(groups)), [len(group.who) for group in groups])
        accounts = [None if id is None else survey.policy.accounts.get(id) for group in groups for id in group.who]
        asked = (row_of >= 0).nonzero()[0]
        work = survey.ground.authors.work(survey.tree.author_codes[asked])
        whose = survey.ground.authors.numbered(accounts)
        who, own = joined(whose.author, work.author)
        member, fellow = joined(whose.group, work.group)
        by_own, by_team = work.by_author[own], np.concatenate((work.by_author[own], work.by_group[fellow]))
        both = np.concatenate((who, whose.member[member]))
        _, once = np.unique(both * len(asked) + by_team, return_index=True)
        both, by_team = both[once], by_team[once]
        cells = {
            Level.TEAM: _Cells(both, group_of[both], row_of[asked[by_team]]),
            Level.OWN: _Cells(who, group_of[who], row_of[asked[by_own]]),
        }
        return {near: some for near, some in cells.items() if len(some.who)}

    def crowd(self, side: int, who: Sequence[Holding]) -> Crowd:
        raise NotImplementedError

    def footings(self, side: int, crowd: Crowd) -> list[Hashable]:
        raise NotImplementedError

    def mind_author(self, side: int, crowd: Crowd) -> Bools:
        raise NotImplementedError

    def answers(self, side: int, crowd: Crowd, near: Level | None) -> Answers:
        raise NotImplementedError


class _Cells(NamedTuple):
    """Nodes written by accounts: the place of each account among all, of its group, and the row of the node."""

    who: Ints
    group: Ints
    row: Ints


class _Some(NamedTuple):
    """Those of some accounts that are there on one side, and which those are."""

    crowd: Crowd
    there: Bools

    def some(self, which: Sequence[int]) -> "_Some":
        """Some of the accounts, in that order."""
        there = self.there[which]
        return _Some(self.crowd.some((np.cumsum(self.there) - 1)[which][there]), there)

    def footings(self, asker: Asker, side: int) -> list[Hashable]:
        """By account its footing; None where it is not there."""
        footings = iter(asker.footings(side, self.crowd))
        return [next(footings) if there else None for there in self.there.tolist()]

    def mind_author(self, asker: Asker, side: int) -> Bools:
        """By account whether it counts who wrote what."""
        minding = np.zeros(len(self.there), dtype=bool)
        minding[self.there] = asker.mind_author(side, self.crowd)
        return minding


class _Turning:
    """The answers that turn for some groups."""

    def __init__(self, asker: Asker, sides: Sequence[_Some], near: Level | None) -> None:
        self._sides = [self._answers(asker, i, some, near) for i, some in enumerate(sides)]
        self.names = tuple(dict.fromkeys(name for answers in self._sides for name in answers))
        was, now = self._sides
        if isinstance(was, _Columns) and isinstance(now, _Columns):
            turned = np.bitwise_or.reduce(was.bits ^ now.bits, axis=None)
            self.names = tuple(name for name, i in was.column.items() if int(turned) >> i & 1)

    def of(self, name: str) -> tuple[Bools, Bools]:
        """`[groups, places]` where an answer turns to yes, and where to no."""
        was, now = (answers.get(name, _NO) for answers in self._sides)
        return now & ~was, was & ~now

    @staticmethod
    def _answers(asker: Asker, side: int, some: _Some, near: Level | None) -> Answers:
        answers = asker.answers(side, some.crowd, near)
        if some.there.all() and asker.sides[side].rows is None:
            return answers
        return {name: _spread(asker.sides[side].aligned(answer), some.there) for name, answer in answers.items()}


_NO = np.zeros((1, 1), dtype=bool)


def _spread(answers: Bools, there: Bools) -> Bools:
    """Answers of those that are there among all: no for the others."""
    spread = np.zeros((len(there), answers.shape[1]), dtype=bool)
    spread[there] = answers
    return spread


class _Columns(Mapping[str, Bools]):
    """Bits of a plan as answers by action, each made when it is read."""

    def __init__(self, bits: Bits, actions: Sequence[str]) -> None:
        self.bits, self.column = bits, {action: i for i, action in enumerate(actions)}

    def __getitem__(self, action: str) -> Bools:
        return has(self.bits, self.column[action])

    def __iter__(self) -> Iterator[str]:
        return iter(self.column)

    def __len__(self) -> int:
        return len(self.column)


class ActionsAsker(Asker):
    """Asks about actions on nodes; about those on whole branches only `apart`."""

    def __init__(
        self, sides: Sides, at: datetime, actions: Sequence[str], places: Sequence[Places], **how: bool
    ) -> None:
        super().__init__(sides, at, places, **how)
        self.sheets = sheets_of(sides, tuple(actions), places)

    def crowd(self, side: int, who: Sequence[Holding]) -> Crowd:
        return Crowd.of(self.sheets[side], who)

    def footings(self, side: int, crowd: Crowd) -> list[Hashable]:
        return crowd.footings()

    def mind_author(self, side: int, crowd: Crowd) -> Bools:
        return crowd.mind_author()

    def answers(self, side: int, crowd: Crowd, near: Level | None) -> Answers:
        return _Columns(allowed(crowd, near), self.sheets[side].plan.actions)


class PartsAsker(Asker):
    """Asks about restricted fields, components and facets."""

    def __init__(
        self, sides: Sides, at: datetime, restricted: Restricted, places: Sequence[Places], **how: bool
    ) -> None:
        super().__init__(sides, at, places, **how)
        sheets = sheets_of(sides, restricted.actions, places, alone=True)
        self.parts = [Parts(side.engine.policy, restricted, sheet) for side, sheet in zip(sides, sheets, strict=True)]

    def crowd(self, side: int, who: Sequence[Holding]) -> Crowd:
        return self.parts[side].crowd(who)

    def footings(self, side: int, crowd: Crowd) -> list[Hashable]:
        return self.parts[side].footings(crowd)

    def mind_author(self, side: int, crowd: Crowd) -> Bools:
        return self.parts[side].mind_author(crowd)

    def answers(self, side: int, crowd: Crowd, near: Level | None) -> Answers:
        return self.parts[side].answers(crowd, near)
