"""Counts, for many accounts, the answers that differ between two policies; equal accounts are evaluated once.

asker = ActionDiff(sides, at, ["edit"], where)
asker.turns(["ada", "ben"])        # {"ada": {"edit": Delta(gained=3, lost=0)}}
"""

from collections.abc import Hashable, Iterator, Mapping, Sequence
from datetime import datetime
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.node_batch import MOST_CELLS
from gonfalon.core.bulk.parts import Parts, Restricted
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.diff.counts import Delta, Deltas
from gonfalon.core.diff.node_classes import Places, Sides, batches_of
from gonfalon.core.model.bits import Bits, Bools, Ints, has, join_sorted

Counts = NDArray[np.int64]
Answers = Mapping[str, Bools]
"""`[holders, places]` yes or no, by the name of what was asked."""


class _Alike(NamedTuple):
    """Accounts with one equivalence key; `depends_on_author`: answers can depend on who wrote what."""

    who: list[str | None]
    depends_on_author: bool


class AccountDiff:
    """Counts, for many accounts, the answers that differ between two policies.

    Accounts with equal keys get identical answers, so only one of each is evaluated. `individually`, each account is
    evaluated by itself, with who wrote what as each policy has it. `baseline_only`: only baseline roles changed, so
    keys computed before the change stay valid after it.
    """

    def __init__(
        self, sides: Sides, at: datetime, places: Sequence[Places], *, individually: bool, baseline_only: bool
    ) -> None:
        self.sides, self.at, self.places = sides, at, places
        self.individually, self.baseline_only = individually, baseline_only and not individually

    def turns(self, who: Sequence[str | None]) -> dict[str | None, Deltas]:
        """The deltas of each of some accounts, by name of what was asked; accounts without any are left out."""
        turns: dict[str | None, dict[str, Delta]] = {}
        groups, evaluators = self._each(who) if self.individually else self._alike(who)
        step = max(1, MOST_CELLS // max(1, *(len(places.positions) for places in self.places)))
        for first in range(0, len(groups), step):
            some = groups[first : first + step]
            asked = [id for group in some for id in group.who]
            for name, counts in self._counted(
                some, [evaluator.some(range(first, first + len(some))) for evaluator in evaluators]
            ):
                for i in np.any(counts, axis=0).nonzero()[0].tolist():
                    turns.setdefault(asked[i], {})[name] = Delta(int(counts[0, i]), int(counts[1, i]))
        return dict(turns)

    def _each(self, who: Sequence[str | None]) -> tuple[list[_Alike], "list[_Some]"]:
        """Each account by itself."""
        return [_Alike([id], depends_on_author=False) for id in who], self._both(who)

    def _alike(self, who: Sequence[str | None]) -> tuple[list[_Alike], "list[_Some]"]:
        """Accounts by equal keys, those that depend on authors first, and one of each group on each side."""
        sides = [self._some(0, who)] if self.baseline_only else self._both(who)
        found: dict[Hashable, list[int]] = {}
        for i, rests_on in enumerate(
            zip(*(some.equivalence_keys(self, i) for i, some in enumerate(sides)), strict=True)
        ):
            found.setdefault(rests_on, []).append(i)
        firsts = [alike[0] for alike in found.values()]
        evaluators = [some.some(firsts) for some in sides]
        if self.baseline_only:
            evaluators.append(self._some(1, [who[i] for i in firsts]))
        depending = np.logical_or(*(some.depends_on_author(self, i) for i, some in enumerate(evaluators)))
        order = np.argsort(~depending, kind="stable").tolist()
        groups = [
            _Alike([who[i] for i in alike], bool(minds)) for alike, minds in zip(found.values(), depending, strict=True)
        ]
        return [groups[i] for i in order], [some.some(order) for some in evaluators]

    def _both(self, who: Sequence[str | None]) -> "list[_Some]":
        """Some accounts on each side: one evaluator for both where all have the same on the same batch."""
        was, now = (self._some(side, who) for side in range(2))
        return [was, was if was.evaluator.same_as(now.evaluator) else now]

    def _some(self, side: int, who: Sequence[str | None]) -> "_Some":
        held = self.sides[side].grants(who, self.at)
        there = np.array([holding is not None for holding in held], dtype=bool)
        return _Some(self.evaluator(side, [holding for holding in held if holding is not None]), there)

    def _counted(self, groups: Sequence[_Alike], evaluators: "Sequence[_Some]") -> Iterator[tuple[str, Counts]]:
        """By name, `[2, accounts]`: how many answers each account of some groups gains, and how many it loses."""
        group_of = np.repeat(np.arange(len(groups)), [len(group.who) for group in groups])
        depending = sum(group.depends_on_author for group in groups)
        cells = self._written(groups[:depending])
        stranger = _Turning(self, evaluators, None if self.individually else AuthorRelation.ALL)
        fewer = [evaluator.some(range(depending)) for evaluator in evaluators] if cells else []
        author_matters = [_Turning(self, fewer, relation) for relation in cells]
        names = dict.fromkeys(name for turning in (stranger, *author_matters) for name in turning.names)
        for name in names:
            deltas = [turning.of(name) for turning in (stranger, *author_matters)]
            counts = np.array([self.places[1].count(way) for way in deltas[0]])[:, group_of]
            for relation, far, some in zip(deltas[1:], deltas, cells.values(), strict=False):
                for way, is_near, is_far in zip(counts, relation, far, strict=True):
                    more = is_near[some.group, some.row].astype(np.int8) - is_far[some.group, some.row]
                    way += np.bincount(some.who, more, len(group_of)).astype(np.int64)
            yield name, counts

    def _written(self, groups: Sequence[_Alike]) -> "dict[AuthorRelation, _Cells]":
        """By relation the pairs of an account and a node that it, or its team, wrote; they are equal on both sides."""
        if not groups:
            return {}
        survey, row_of = self.sides[1].survey, self.places[1].row_of
        group_of = np.repeat(np.arange(len(groups)), [len(group.who) for group in groups])
        accounts = [None if id is None else survey.policy.accounts.get(id) for group in groups for id in group.who]
        asked = (row_of >= 0).nonzero()[0]
        work = survey.policy_index.authors.work(survey.tree.author_codes[asked])
        whose = survey.policy_index.authors.numbered(accounts)
        who, own = join_sorted(whose.author, work.author)
        member, fellow = join_sorted(whose.group, work.group)
        by_own, by_team = work.by_author[own], np.concatenate((work.by_author[own], work.by_group[fellow]))
        both = np.concatenate((who, whose.member[member]))
        _, once = np.unique(both * len(asked) + by_team, return_index=True)
        both, by_team = both[once], by_team[once]
        cells = {
            AuthorRelation.TEAM: _Cells(both, group_of[both], row_of[asked[by_team]]),
            AuthorRelation.OWN: _Cells(who, group_of[who], row_of[asked[by_own]]),
        }
        return {relation: some for relation, some in cells.items() if len(some.who)}

    def evaluator(self, side: int, who: Sequence[SubjectGrants]) -> BatchEvaluator:
        """Some holders on one side, for the other methods."""
        raise NotImplementedError

    def equivalence_keys(self, side: int, evaluator: BatchEvaluator) -> list[Hashable]:
        """A key for each holder: equal ones get identical answers on strangers' work."""
        raise NotImplementedError

    def depends_on_author(self, side: int, evaluator: BatchEvaluator) -> Bools:
        """`[holders]` whether answers to them can depend on who wrote a node."""
        raise NotImplementedError

    def answers(self, side: int, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> Answers:
        """The answers on one side; with a `relation` as `BatchEvaluator.alone` has it."""
        raise NotImplementedError


class _Cells(NamedTuple):
    """Nodes written by accounts: the place of each account among all, of its group, and the row of the node."""

    who: Ints
    group: Ints
    row: Ints


class _Some(NamedTuple):
    """The accounts that exist on one side, in an evaluator, and `[accounts]` which of all those are."""

    evaluator: BatchEvaluator
    there: Bools

    def some(self, which: Sequence[int]) -> "_Some":
        """Some of the accounts, in that order."""
        there = self.there[which]
        return _Some(self.evaluator.some((np.cumsum(self.there) - 1)[which][there]), there)

    def equivalence_keys(self, asker: AccountDiff, side: int) -> list[Hashable]:
        """The equivalence key of each account; None for one that does not exist on this side."""
        equivalence_keys = iter(asker.equivalence_keys(side, self.evaluator))
        return [next(equivalence_keys) if there else None for there in self.there.tolist()]

    def depends_on_author(self, asker: AccountDiff, side: int) -> Bools:
        """`[accounts]` whether answers to each can depend on who wrote what."""
        depending = np.zeros(len(self.there), dtype=bool)
        depending[self.there] = asker.depends_on_author(side, self.evaluator)
        return depending


class _Turning:
    """The answers that differ between both sides, for one of each group."""

    def __init__(self, asker: AccountDiff, sides: Sequence[_Some], relation: AuthorRelation | None) -> None:
        self._sides = [self._answers(asker, i, some, relation) for i, some in enumerate(sides)]
        self.names = tuple(dict.fromkeys(name for answers in self._sides for name in answers))
        was, now = self._sides
        if isinstance(was, _Columns) and isinstance(now, _Columns):
            deltas = np.bitwise_or.reduce(was.bits ^ now.bits, axis=None)
            self.names = tuple(name for name, i in was.column.items() if int(deltas) >> i & 1)

    def of(self, name: str) -> tuple[Bools, Bools]:
        """`[groups, places]` where an answer turns to yes, and where it turns to no."""
        was, now = (answers.get(name, _NO) for answers in self._sides)
        return now & ~was, was & ~now

    @staticmethod
    def _answers(asker: AccountDiff, side: int, some: _Some, relation: AuthorRelation | None) -> Answers:
        answers = asker.answers(side, some.evaluator, relation)
        if some.there.all() and asker.sides[side].rows is None:
            return answers
        return {name: _spread(asker.sides[side].aligned(answer), some.there) for name, answer in answers.items()}


_NO = np.zeros((1, 1), dtype=bool)


def _spread(answers: Bools, there: Bools) -> Bools:
    """`[accounts, places]` answers spread over all accounts; no for those that do not exist."""
    expand_ranges = np.zeros((len(there), answers.shape[1]), dtype=bool)
    expand_ranges[there] = answers
    return expand_ranges


class _Columns(Mapping[str, Bools]):
    """Bits of the columns as answers by action, each made when it is read."""

    def __init__(self, bits: Bits, actions: Sequence[str]) -> None:
        self.bits, self.column = bits, {action: i for i, action in enumerate(actions)}

    def __getitem__(self, action: str) -> Bools:
        return has(self.bits, self.column[action])

    def __iter__(self) -> Iterator[str]:
        return iter(self.column)

    def __len__(self) -> int:
        return len(self.column)


class ActionDiff(AccountDiff):
    """Actions on nodes; those on whole branches only `individually`."""

    def __init__(
        self, sides: Sides, at: datetime, actions: Sequence[str], places: Sequence[Places], **how: bool
    ) -> None:
        super().__init__(sides, at, places, **how)
        self.batches = batches_of(sides, tuple(actions), places)

    def evaluator(self, side: int, who: Sequence[SubjectGrants]) -> BatchEvaluator:
        return BatchEvaluator.of(self.batches[side], who)

    def equivalence_keys(self, side: int, evaluator: BatchEvaluator) -> list[Hashable]:
        return evaluator.equivalence_keys()

    def depends_on_author(self, side: int, evaluator: BatchEvaluator) -> Bools:
        return evaluator.depends_on_author()

    def answers(self, side: int, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> Answers:
        return _Columns(allowed(evaluator, relation), self.batches[side].columns.actions)


class PartDiff(AccountDiff):
    """Restricted fields, components and facets."""

    def __init__(
        self, sides: Sides, at: datetime, restricted: Restricted, places: Sequence[Places], **how: bool
    ) -> None:
        super().__init__(sides, at, places, **how)
        batches = batches_of(sides, restricted.actions, places, alone=True)
        self.parts = [Parts(side.engine.policy, restricted, batch) for side, batch in zip(sides, batches, strict=True)]

    def evaluator(self, side: int, who: Sequence[SubjectGrants]) -> BatchEvaluator:
        return self.parts[side].evaluator(who)

    def equivalence_keys(self, side: int, evaluator: BatchEvaluator) -> list[Hashable]:
        return self.parts[side].equivalence_keys(evaluator)

    def depends_on_author(self, side: int, evaluator: BatchEvaluator) -> Bools:
        return self.parts[side].depends_on_author(evaluator)

    def answers(self, side: int, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> Answers:
        return self.parts[side].answers(evaluator, relation)
