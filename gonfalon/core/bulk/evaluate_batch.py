"""What many holders may do at many nodes, at once: one action bit a holder and node (§4).

    evaluator = BatchEvaluator.of(batch, holders)
    evaluator.alone()                         # [holders, rows] a bit for each action asked, of each node alone
    evaluator.alone(AuthorRelation.TEAM)      # as if every node were by a fellow member of a team of theirs

Where an action asks about all that is beneath a node too, `subtrees.allowed` has the answers.

What a grant comes to on a batch is worked out once for all who hold it, so that a holder costs one OR for each grant
that counts here, and a few steps more for what they or their team wrote.
"""

from collections.abc import Hashable, Iterator, Sequence
from copy import copy
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gonfalon.core.bulk.grant_tables import GIVES, AuthorRelation
from gonfalon.core.bulk.grants_on_nodes import GrantsOnNodes
from gonfalon.core.bulk.node_batch import NodeBatch
from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.bulk.subject_batch import SubjectBatch
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.model.bits import Bits, Bools, Ints, expand_ranges, join_sorted, or_by_group
from gonfalon.core.model.vocabulary import Effect


class Cells(NamedTuple):
    """Pairs of a holder and a row of a batch."""

    holder: Ints
    row: Ints


class BatchEvaluator:
    """Holders and nodes: a `SubjectBatch` on a `NodeBatch`, with the grants that count there.

    `holder` and `grant` are parallel: each pair is a holder and one of its grants, holders ascending.
    """

    def __init__(self, batch: NodeBatch, subjects: SubjectBatch) -> None:
        self.batch, self.subjects = batch, subjects
        seen = np.zeros(len(batch.policy_index.source_index), dtype=bool)
        seen[subjects.numbers] = True
        self.grants = seen.nonzero()[0]
        every = batch.kept(GrantsOnNodes).of(self.grants)
        self.counting: Bools = every.said > 0
        self.found = every.some(self.counting)
        place = np.full(len(seen), -1)
        place[self.grants[self.counting]] = np.arange(len(self.found.first))
        place = place[subjects.numbers]
        self.holder: Ints = subjects.holder[place >= 0]
        """`[pairs]` the holder, as a place among the holders."""
        self.grant: Ints = place[place >= 0]
        """`[pairs]` the grant, as a place in `found`."""

    @classmethod
    def of(cls, batch: NodeBatch, holders: Sequence[SubjectGrants]) -> "BatchEvaluator":
        """Holders in their order, looked up in the source index."""
        return cls(batch, SubjectBatch.of(batch.policy_index, holders))

    @property
    def holders(self) -> list[SubjectGrants]:
        """The holders, in their order."""
        return self.subjects.who

    def some(self, which: Ints) -> "BatchEvaluator":
        """Some of the holders, in that order, on the same batch."""
        some = copy(self)
        for name in ("written", "edges", "_equivalence_keys"):
            some.__dict__.pop(name, None)
        some.subjects = self.subjects.some(which)
        some.narrowed = self.narrowed[which]
        edges = self.edges
        some.holder, pairs = expand_ranges(edges[which], edges[which + 1])
        some.grant = self.grant[pairs]
        return some

    def same_as(self, other: "BatchEvaluator") -> bool:
        """Whether another has the same answers, holder by holder, since it has the same grants on the same batch."""
        own, others = self.subjects, other.subjects
        same = self.batch is other.batch and np.array_equal(own.counts, others.counts)
        return same and np.array_equal(own.numbers, others.numbers)

    def on(self, batch: NodeBatch, some: Ints) -> "BatchEvaluator":
        """Some of the holders on another batch under the same policy."""
        return BatchEvaluator(batch, self.subjects.some(some))

    @cached_property
    def edges(self) -> Ints:
        """Where the pairs of each holder begin, and where the last ones end."""
        return np.searchsorted(self.holder, np.arange(len(self.subjects) + 1))

    # -- answers -------------------------------------------------------------------------------

    def alone(self, relation: AuthorRelation | None = None) -> Bits:
        """`[holders, rows]` what each may do with each node alone, as bits of the columns asked for.

        With a `relation`, every node counts as written by somebody so related to the holder (ALL: a stranger).
        """
        passed = self.granted(relation)
        self.batch.close(passed)
        passed &= self.batch.columns.asked
        return passed

    def granted(self, relation: AuthorRelation | None = None) -> Bits:
        """`[holders, rows]` where steps 1 to 5 pass, column by column, whatever else an action asks."""
        top = self.given(relation)
        top[self.subjects.unbound] = self.batch.columns.every
        self._narrow(top)
        return top

    def given(self, relation: AuthorRelation | None = None, among: Bools | None = None) -> Bits:
        """`[holders, rows]` what reaches the top of step 4, of all pairs or of some `among` them."""
        level = np.full(len(self.subjects), AuthorRelation.ALL if relation is None else relation)
        level[self.subjects.own] = AuthorRelation.OWN
        pairs = np.arange(len(self.grant)) if among is None else among.nonzero()[0]
        plain, everywhere = self.found.mask[self.grant[pairs]] == 0, self.found.everywhere[self.grant[pairs]]
        top = self._by_kind(level, pairs[plain & everywhere])
        self._add_masked(top, level, pairs[~plain & everywhere])
        self._add_runs(top, level, pairs[~everywhere])
        if relation is None:
            self._add_written(top, among)
        return top

    def _by_kind(self, level: Ints, pairs: Ints) -> Bits:
        """`[holders, rows]` the bits of pairs that count in all rows and depend on nothing but the kind of node."""
        holder, found = self.holder[pairs], self.found
        told = found.tables[level[holder], found.said[self.grant[pairs]]]
        given: Bits = or_by_group(holder, told, len(self.subjects)).take(found.kinds, axis=1)
        return given

    def _add_masked(self, top: Bits, level: Ints, pairs: Ints) -> None:
        """Add what some pairs give that count in all rows, each under a mask."""
        holder, grant = self.holder[pairs], self.grant[pairs]
        found, levels, saids = self.found, len(self.found.tables), self.found.tables.shape[1]
        keys = (found.mask[grant] * saids + found.said[grant]) * levels + level[holder]
        each, of = np.unique(keys, return_inverse=True)
        bits = found.tables[each % levels, each // levels % saids].take(found.kinds, axis=1)
        bits &= found.masks[each // levels // saids]
        rows, masked = list(top), list(bits)
        for i, which in zip(holder.tolist(), of.tolist(), strict=True):
            np.bitwise_or(rows[i], masked[which], rows[i])

    def _add_runs(self, top: Bits, level: Ints, pairs: Ints) -> None:
        """Add what some pairs give that count in a run of rows: short runs all at once, long ones one by one."""
        found, grant = self.found, self.grant[pairs]
        long = found.last[grant] - found.first[grant] > _SHORT
        for pair in pairs[long].tolist():
            i, one = self.holder[pair], self.grant[pair]
            top[i, found.first[one] : found.last[one]] |= found.along(level[i], one)
        grant, holder = grant[~long], self.holder[pairs[~long]]
        of, row = expand_ranges(found.first[grant], found.last[grant])
        bits = found.at(level[holder[of]], grant[of], row)
        np.bitwise_or.at(top.reshape(-1), holder[of] * self.batch.length + row, bits)

    def _add_written(self, top: Bits, among: Bools | None) -> None:
        """Add what is given on what the holder or their team wrote, beyond what is given on anybody's work."""
        author_matters = self.found.author_matters[self.grant]
        pairs = (author_matters if among is None else author_matters & among).nonzero()[0]
        if not len(pairs):
            return
        grant, holder = self.grant[pairs], self.holder[pairs]
        for level, cells in self.written.items():
            of, pair = join_sorted(cells.holder, holder)
            row, entries = cells.row[of], grant[pair]
            here = (self.found.first[entries] <= row) & (row < self.found.last[entries])
            of, row, entries = of[here], row[here], entries[here]
            np.bitwise_or.at(top, (cells.holder[of], row), self.found.at(level, entries, row))

    @cached_property
    def written(self) -> dict[AuthorRelation, Cells]:
        """What the holders wrote themselves, and what fellow members did, some perhaps more than once."""
        work, whose = self.batch.work, self.subjects.authoring
        own, by_own = join_sorted(whose.author, work.author)
        fellow, by_fellow = join_sorted(whose.group, work.group)
        return {
            AuthorRelation.OWN: Cells(own, work.by_author[by_own]),
            AuthorRelation.TEAM: Cells(whose.member[fellow], work.by_group[by_fellow]),
        }

    def _narrow(self, top: Bits) -> None:
        """Take what is barred, what a stop on the account itself takes, and what is out of its reach."""
        found, barring = self.found, self.found.barring[self.grant].nonzero()[0]
        for i, grant in zip(self.holder[barring].tolist(), self.grant[barring].tolist(), strict=True):
            here = slice(found.first[grant], found.last[grant])
            top[i, here] &= ~found.bars[found.barring[grant], here]
        for i, taken in self.taken(self.narrowed.nonzero()[0]):
            top[i] &= ~taken

    def taken(self, some: Ints) -> Iterator[tuple[int, Bits]]:
        """By holder, some of those `narrowed`, the bits of all rows that a limit on themselves or a group of theirs
        takes, or that lie outside. A holder may be named several times, each time with some of it.
        """
        batch = self.batch
        for i in some.tolist():
            who = self.subjects.at(i)
            barred, stopped = batch.in_force(who.subjects, Effect.BAR), batch.in_force(who.subjects[:1], Effect.STOP)
            yield from ((i, force) for force in (barred, stopped) if force is not None)
            if who.account is not None and (outside := batch.outside(who.account)) is not None:
                yield i, outside * batch.columns.every

    @cached_property
    def narrowed(self) -> Bools:
        """`[holders]` whether a limit on the account or a group of it narrows all it has here, or it has a reach."""
        subjects = self.subjects
        narrowed: Bools = (subjects.any_of(self.batch.limited) | subjects.confined) & subjects.bound
        return narrowed

    # -- equal answers -------------------------------------------------------------------------

    def equivalence_keys(self, apart: Ints | None = None) -> list[Hashable]:
        """A key for each holder: those with equal keys get identical answers here on strangers' work.

        So only one of each need be evaluated.

        `apart` tells grants apart, by pair, beyond what they give and bar.
        """
        return self._equivalence_keys if apart is None else self._keys_of(self._grant_keys[self.grant], apart)

    @cached_property
    def _equivalence_keys(self) -> list[Hashable]:
        return self._keys_of(self._grant_keys[self.grant])

    def _keys_of(self, alike: Ints, apart: Ints | None = None) -> list[Hashable]:
        told = alike if apart is None else alike * (int(apart.max(initial=0)) + 1) + apart
        every, edges = told.tolist(), self.edges.tolist()
        subjects = self.subjects
        whole = (subjects.active + 2 * subjects.unbound + 4 * subjects.own).tolist()
        equivalence_keys: list[Hashable] = [
            (frozenset(every[first:last]), of) for of, first, last in zip(whole, edges, edges[1:], strict=False)
        ]
        for i in self.narrowed.nonzero()[0].tolist():
            who = self.subjects.at(i)
            stopped = self.batch.narrowing(who.subjects[:1], Effect.STOP)
            barred = self.batch.narrowing(who.subjects, Effect.BAR)
            reach = frozenset(who.account.reach.items()) if who.account is not None else None
            equivalence_keys[i] = equivalence_keys[i], stopped, barred, reach
        return equivalence_keys

    @cached_property
    def _grant_keys(self) -> Ints:
        """`[grants]` a number for each grant of `found`: equal where the same is given and barred."""
        found, numbers = self.found, dict[Hashable, int]()
        alike, baseline, author_matters = (
            np.empty(len(found.first), dtype=np.intp),
            self._from_baseline,
            found.author_matters,
        )
        tables = found.tables[:, :, self.batch.present]
        by_kind = [tables[:, said].tobytes() for said in range(tables.shape[1])]
        for i, (said, mask, bars) in enumerate(zip(*(each.tolist() for each in found[2:5]), strict=True)):
            here = slice(found.first[i], found.last[i])
            levels = GIVES if author_matters[i] else (AuthorRelation.ALL,)
            given = tuple(found.along(level, i).tobytes() for level in levels) if mask else by_kind[said]
            barred = found.bars[bars, here].tobytes() if bars else None
            alike[i] = numbers.setdefault((baseline[i], here.start, here.stop, given, barred), len(numbers))
        return alike

    @property
    def _from_baseline(self) -> list[str | None]:
        """For each grant of `found` the baseline role that it comes from, or None."""
        source_index, baseline = self.batch.policy_index.source_index, self.batch.policy_index.policy.baseline
        saids = source_index.grant_rows[self.grants[self.counting], SourceColumn.STATEMENTS].tolist()
        roles = [next(iter(source_index.tables.every[said].roles), None) for said in saids]
        return [role if role in baseline else None for role in roles]

    def depends_on_author(self) -> Bools:
        """`[holders]` whether answers to them here can depend on who wrote a node."""
        depending = np.zeros(len(self.subjects), dtype=bool)
        depending[self.holder[self._author_matters[self.grant]]] = True
        return depending

    @cached_property
    def _author_matters(self) -> Bools:
        """`[grants]` whether each gives more on the holder's own work than on a stranger's, in some row here."""
        author_matters = self.found.author_matters
        for i in (
            (author_matters & ~self.found.everywhere | author_matters & (self.found.mask > 0)).nonzero()[0].tolist()
        ):
            own, strange = (self.found.along(level, i) for level in (AuthorRelation.OWN, AuthorRelation.ALL))
            author_matters[i] = not np.array_equal(own, strange)
        return author_matters


_SHORT = 64
"""Runs of up to so many rows are cheaper added all at once than one by one."""
