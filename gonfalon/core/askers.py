"""Asking the same of many accounts under two policies: of those that cannot be told apart only once.

asker = ActionsAsker(sides, at, ["edit"], positions)
asker.turns("ada")                 # {"edit": Turned(gained=3, lost=0)}
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding
from gonfalon.core.parts import Parts, Restricted
from gonfalon.core.plan import Bools
from gonfalon.core.question import Who
from gonfalon.core.sheet import Sheet
from gonfalon.core.survey import AUTHOR, STRANGER, TEAMMATE, Near, Surveyor
from gonfalon.core.turned import Answers, Turns, added, differences, turns_of

T = TypeVar("T", bound=np.generic)
_NO_ROWS = np.zeros(0, dtype=np.intp)


@dataclass(frozen=True)
class Side:
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

    def positions(self, where: Bools | None) -> NDArray[np.intp]:
        """The places of this tree to ask about; `where` None is all of them."""
        return np.arange(len(self.survey.tree)) if where is None else where.nonzero()[0]


Sides = tuple[Side, Side]


class _Kept(NamedTuple):
    """What turns for all with one footing: as a stranger everywhere, and how a team's and one's own work differ.

    The differences are `[names, rows]` of what is gained, then of what is lost, more or less than by a
    stranger; None where there are none.
    """

    turns: Turns
    names: tuple[str, ...] = ()
    by_team: NDArray[np.int8] | None = None
    by_author: NDArray[np.int8] | None = None


class Asker:
    """Asks the same of many accounts under both policies, and of those with an equal footing only once."""

    def __init__(self, sides: Sides, at: datetime) -> None:
        self.sides, self.at = sides, at
        self._kept: dict[Hashable, _Kept] = {}

    def turns(self, who: str | None) -> Turns:
        holdings = [side.holding(who, self.at) for side in self.sides]
        footing = tuple(self.footing(i, holding) if holding else None for i, holding in enumerate(holdings))
        if footing not in self._kept:
            self._kept[footing] = self._ask(holdings)
        kept = self._kept[footing]
        if kept.by_team is None or kept.by_author is None:
            return kept.turns
        own, team = self._written(holdings[1])
        more = kept.by_author[:, :, own].sum(axis=2) + kept.by_team[:, :, np.setdiff1d(team, own)].sum(axis=2)
        return added(kept.turns, turns_of((n, int(g), int(x)) for n, g, x in zip(kept.names, *more, strict=True)))

    def alone(self, who: str | None) -> Turns:
        """The same for one account that is like no other."""
        holdings = [side.holding(who, self.at) for side in self.sides]
        return turns_of(differences(*(self._answers(i, holding) for i, holding in enumerate(holdings))))

    def _ask(self, holdings: Sequence[Holding | None]) -> _Kept:
        supposed: tuple[Near, ...] = (STRANGER,)
        if any(h is not None and self.minds_author(i, h) for i, h in enumerate(holdings)):
            supposed = (STRANGER, TEAMMATE, AUTHOR)
        asked = [[self._answers(i, h, near) for i, h in enumerate(holdings)] for near in supposed]
        turns = turns_of(differences(*asked[0]))
        if len(asked) == 1:
            return _Kept(turns)
        names = tuple(dict.fromkeys(name for sides in asked for answers in sides for name in answers))
        stranger, team, author = (_signed(names, *sides) for sides in asked)
        if np.array_equal(stranger, team) and np.array_equal(stranger, author):
            return _Kept(turns)
        return _Kept(turns, names, team - stranger, author - stranger)

    def _answers(self, side: int, who: Holding | None, near: Near | None = None) -> Answers:
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

    def answers(self, side: int, who: Holding, near: Near | None) -> Answers:
        raise NotImplementedError


class ActionsAsker(Asker):
    """Asks about actions on nodes."""

    def __init__(self, sides: Sides, at: datetime, actions: Sequence[str], where: Bools | None) -> None:
        super().__init__(sides, at)
        self.actions = tuple(actions)
        self.sheets = [side.survey.sheet(side.survey.plan(self.actions), side.positions(where)) for side in sides]

    def footing(self, side: int, who: Holding) -> Hashable:
        survey, sheet = self.sides[side].survey, self.sheets[side]
        footing = survey.footing(sheet, who)
        if not sheet.plan.whole_branch:
            return footing
        own = who.account.id if who.account and survey.minds_author(sheet.deep, who) else None
        return footing, survey.footing(sheet.deep, who), own

    def sheet(self, side: int) -> Sheet:
        return self.sheets[side]

    def minds_author(self, side: int, who: Holding) -> bool:
        sheet = self.sheets[side]
        return not sheet.plan.whole_branch and self.sides[side].survey.minds_author(sheet, who)

    def answers(self, side: int, who: Holding, near: Near | None) -> Answers:
        one, sheet = self.sides[side], self.sheets[side]
        bits = one.aligned(one.survey.bits(sheet, who, None if sheet.plan.whole_branch else near))
        return dict(zip(self.actions, sheet.plan.unpacked(bits).T, strict=True))


class PartsAsker(Asker):
    """Asks about restricted fields, components and facets."""

    def __init__(self, sides: Sides, at: datetime, restricted: Restricted, where: Bools | None) -> None:
        super().__init__(sides, at)
        self.parts = [Parts(side.survey, restricted, side.positions(where)) for side in sides]

    def footing(self, side: int, who: Holding) -> Hashable:
        return self.parts[side].footing(who)

    def sheet(self, side: int) -> Sheet:
        return self.parts[side].sheet

    def minds_author(self, side: int, who: Holding) -> bool:
        return self.parts[side].minds_author(who)

    def answers(self, side: int, who: Holding, near: Near | None) -> Answers:
        one = self.sides[side]
        return {name: one.aligned(answer) for name, answer in self.parts[side].answers(who, near).items()}


def _signed(names: Sequence[str], was: Answers, now: Answers) -> NDArray[np.int8]:
    """`[2, names, rows]`: 1 where an answer is gained, then where it is lost."""
    length = max((len(a) for a in (*was.values(), *now.values())), default=0)
    nothing = np.zeros(length, dtype=bool)
    before = np.array([was.get(name, nothing) for name in names]).reshape(len(names), length)
    after = np.array([now.get(name, nothing) for name in names]).reshape(len(names), length)
    return np.array([after & ~before, before & ~after]).astype(np.int8)
