"""What many holders may do at the rows of one sheet, at once (§4).

    crowd = BatchEvaluator.of(sheet, holders)
    crowd.alone()                   # [holders, rows], a bit for each action asked of each node alone
    crowd.alone(AuthorRelation.TEAM)         # as if every node were by a fellow member of a team of theirs

Where an action asks about all that is beneath a node too, `subtrees.allowed` has the answers.

What an entry comes to on a sheet is made once for all who hold it, many entries at once, so that a holder
costs one OR for each entry that counts here, and few steps more for what they or their team wrote.
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
    """Ints of a sheet, each with the holder it concerns."""

    holder: Ints
    row: Ints


class BatchEvaluator:
    """Some holders on a sheet, with the entries of theirs that count there."""

    def __init__(self, batch: NodeBatch, enrolled: SubjectBatch) -> None:
        self.batch, self.enrolled = batch, enrolled
        seen = np.zeros(len(batch.policy_index.source_index), dtype=bool)
        seen[enrolled.numbers] = True
        self.entries = seen.nonzero()[0]
        every = batch.kept(GrantsOnNodes).of(self.entries)
        self.counting: Bools = every.said > 0
        self.found = every.some(self.counting)
        place = np.full(len(seen), -1)
        place[self.entries[self.counting]] = np.arange(len(self.found.first))
        place = place[enrolled.numbers]
        self.holder: Ints = enrolled.holder[place >= 0]
        """By pair, a holder and an entry of theirs that counts: the holder."""
        self.entry: Ints = place[place >= 0]
        """By pair: the entry, as a place in `found`."""

    @classmethod
    def of(cls, batch: NodeBatch, holders: Sequence[SubjectGrants]) -> "BatchEvaluator":
        """Holders, in their order, whose entries are looked up."""
        return cls(batch, SubjectBatch.of(batch.policy_index, holders))

    @property
    def holders(self) -> list[SubjectGrants]:
        return self.enrolled.who

    def some(self, which: Ints) -> "BatchEvaluator":
        """Some of the holders, in that order, on the same sheet."""
        some = copy(self)
        for name in ("written", "edges", "_footings"):
            some.__dict__.pop(name, None)
        some.enrolled = self.enrolled.some(which)
        some.narrowed = self.narrowed[which]
        edges = self.edges
        some.holder, pairs = expand_ranges(edges[which], edges[which + 1])
        some.entry = self.entry[pairs]
        return some

    def same_as(self, other: "BatchEvaluator") -> bool:
        """Whether another has the same answers, holder by holder, since it has the same entries on the same sheet."""
        own, others = self.enrolled, other.enrolled
        same = self.batch is other.batch and np.array_equal(own.counts, others.counts)
        return same and np.array_equal(own.numbers, others.numbers)

    def on(self, batch: NodeBatch, some: Ints) -> "BatchEvaluator":
        """Some of the holders on another sheet of the same ground."""
        return BatchEvaluator(batch, self.enrolled.some(some))

    @cached_property
    def edges(self) -> Ints:
        """Where the pairs of each holder begin, and where the last ones end."""
        return np.searchsorted(self.holder, np.arange(len(self.enrolled) + 1))

    # -- answers -------------------------------------------------------------------------------

    def alone(self, relation: AuthorRelation | None = None) -> Bits:
        """`[holders, rows]` what each may do with each node alone, as the asked columns of the sheet's plan.

        `near` supposes how near to the holder everything was written (ALL: by strangers) in the place of who did.
        """
        passed = self.granted(relation)
        self.batch.close(passed)
        passed &= self.batch.columns.asked
        return passed

    def granted(self, relation: AuthorRelation | None = None) -> Bits:
        """`[holders, rows]` where steps 1 to 5 pass, column by column, whatever else an action asks."""
        top = self.given(relation)
        top[self.enrolled.unbound] = self.batch.columns.every
        self._narrow(top)
        return top

    def given(self, relation: AuthorRelation | None = None, among: Bools | None = None) -> Bits:
        """`[holders, rows]` what reaches the top of step 4, of all pairs or of some `among` them."""
        level = np.full(len(self.enrolled), AuthorRelation.ALL if relation is None else relation)
        level[self.enrolled.own] = AuthorRelation.OWN
        pairs = np.arange(len(self.entry)) if among is None else among.nonzero()[0]
        plain, everywhere = self.found.mask[self.entry[pairs]] == 0, self.found.everywhere[self.entry[pairs]]
        top = self._by_kind(level, pairs[plain & everywhere])
        self._add_masked(top, level, pairs[~plain & everywhere])
        self._add_runs(top, level, pairs[~everywhere])
        if relation is None:
            self._add_written(top, among)
        return top

    def _by_kind(self, level: Ints, pairs: Ints) -> Bits:
        """`[holders, rows]` what some pairs give that count in all rows, whatever is there but its kind."""
        holder, found = self.holder[pairs], self.found
        told = found.tables[level[holder], found.said[self.entry[pairs]]]
        given: Bits = or_by_group(holder, told, len(self.enrolled)).take(found.kinds, axis=1)
        return given

    def _add_masked(self, top: Bits, level: Ints, pairs: Ints) -> None:
        """Add what some pairs give that count in all rows, each under a mask."""
        holder, entry = self.holder[pairs], self.entry[pairs]
        found, levels, saids = self.found, len(self.found.tables), self.found.tables.shape[1]
        keys = (found.mask[entry] * saids + found.said[entry]) * levels + level[holder]
        each, of = np.unique(keys, return_inverse=True)
        bits = found.tables[each % levels, each // levels % saids].take(found.kinds, axis=1)
        bits &= found.masks[each // levels // saids]
        rows, masked = list(top), list(bits)
        for i, which in zip(holder.tolist(), of.tolist(), strict=True):
            np.bitwise_or(rows[i], masked[which], rows[i])

    def _add_runs(self, top: Bits, level: Ints, pairs: Ints) -> None:
        """Add what some pairs give that count in a run of rows: short runs all at once, long ones one by one."""
        found, entry = self.found, self.entry[pairs]
        long = found.last[entry] - found.first[entry] > _SHORT
        for pair in pairs[long].tolist():
            i, one = self.holder[pair], self.entry[pair]
            top[i, found.first[one] : found.last[one]] |= found.along(level[i], one)
        entry, holder = entry[~long], self.holder[pairs[~long]]
        of, row = expand_ranges(found.first[entry], found.last[entry])
        bits = found.at(level[holder[of]], entry[of], row)
        np.bitwise_or.at(top.reshape(-1), holder[of] * self.batch.length + row, bits)

    def _add_written(self, top: Bits, among: Bools | None) -> None:
        """Add what is given on what the holder or their team wrote, beyond what is given on anybody's work."""
        closer = self.found.closer[self.entry]
        pairs = (closer if among is None else closer & among).nonzero()[0]
        if not len(pairs):
            return
        entry, holder = self.entry[pairs], self.holder[pairs]
        for level, cells in self.written.items():
            of, pair = join_sorted(cells.holder, holder)
            row, entries = cells.row[of], entry[pair]
            here = (self.found.first[entries] <= row) & (row < self.found.last[entries])
            of, row, entries = of[here], row[here], entries[here]
            np.bitwise_or.at(top, (cells.holder[of], row), self.found.at(level, entries, row))

    @cached_property
    def written(self) -> dict[AuthorRelation, Cells]:
        """What the holders wrote themselves, and what fellow members did, some perhaps more than once."""
        work, whose = self.batch.work, self.enrolled.authoring
        own, by_own = join_sorted(whose.author, work.author)
        fellow, by_fellow = join_sorted(whose.group, work.group)
        return {
            AuthorRelation.OWN: Cells(own, work.by_author[by_own]),
            AuthorRelation.TEAM: Cells(whose.member[fellow], work.by_group[by_fellow]),
        }

    def _narrow(self, top: Bits) -> None:
        """Take what is barred, what a stop on the account itself takes, and what is out of its reach."""
        found, barring = self.found, self.found.barring[self.entry].nonzero()[0]
        for i, entry in zip(self.holder[barring].tolist(), self.entry[barring].tolist(), strict=True):
            here = slice(found.first[entry], found.last[entry])
            top[i, here] &= ~found.bars[found.barring[entry], here]
        for i, taken in self.taken(self.narrowed.nonzero()[0]):
            top[i] &= ~taken

    def taken(self, some: Ints) -> Iterator[tuple[int, Bits]]:
        """By holder, some of those `narrowed`, the bits of all rows that a limit on themselves or a group of theirs
        takes, or that lie outside. A holder may be named several times, each time with some of it.
        """
        batch = self.batch
        for i in some.tolist():
            who = self.enrolled.at(i)
            barred, stopped = batch.in_force(who.subjects, Effect.BAR), batch.in_force(who.subjects[:1], Effect.STOP)
            yield from ((i, force) for force in (barred, stopped) if force is not None)
            if who.account is not None and (outside := batch.outside(who.account)) is not None:
                yield i, outside * batch.columns.every

    @cached_property
    def narrowed(self) -> Bools:
        """By holder whether a limit on themselves or a group of theirs narrows them here, or they are confined."""
        enrolled = self.enrolled
        narrowed: Bools = (enrolled.any_of(self.batch.limited) | enrolled.confined) & enrolled.bound
        return narrowed

    # -- telling holders apart -----------------------------------------------------------------

    def equivalence_keys(self, apart: Ints | None = None) -> list[Hashable]:
        """What the answers of each rest on, for a stranger: holders with an equal footing may do the same here.

        `apart` tells entries apart, by pair, beyond what they give and bar.
        """
        return self._equivalence_keys if apart is None else self._telling(self._alike[self.entry], apart)

    @cached_property
    def _equivalence_keys(self) -> list[Hashable]:
        return self._telling(self._alike[self.entry])

    def _telling(self, alike: Ints, apart: Ints | None = None) -> list[Hashable]:
        told = alike if apart is None else alike * (int(apart.max(initial=0)) + 1) + apart
        every, edges = told.tolist(), self.edges.tolist()
        enrolled = self.enrolled
        whole = (enrolled.active + 2 * enrolled.unbound + 4 * enrolled.own).tolist()
        equivalence_keys: list[Hashable] = [
            (frozenset(every[first:last]), of) for of, first, last in zip(whole, edges, edges[1:], strict=False)
        ]
        for i in self.narrowed.nonzero()[0].tolist():
            who = self.enrolled.at(i)
            stopped = self.batch.narrowing(who.subjects[:1], Effect.STOP)
            barred = self.batch.narrowing(who.subjects, Effect.BAR)
            reach = frozenset(who.account.reach.items()) if who.account is not None else None
            equivalence_keys[i] = equivalence_keys[i], stopped, barred, reach
        return equivalence_keys

    @cached_property
    def _alike(self) -> Ints:
        """By entry of `found` a number: the same where the same is given and barred, but for roles of the baseline."""
        found, numbers = self.found, dict[Hashable, int]()
        alike, baseline, closer = np.empty(len(found.first), dtype=np.intp), self._from_baseline, found.closer
        tables = found.tables[:, :, self.batch.present]
        by_kind = [tables[:, said].tobytes() for said in range(tables.shape[1])]
        for i, (said, mask, bars) in enumerate(zip(*(each.tolist() for each in found[2:5]), strict=True)):
            here = slice(found.first[i], found.last[i])
            levels = GIVES if closer[i] else (AuthorRelation.ALL,)
            given = tuple(found.along(level, i).tobytes() for level in levels) if mask else by_kind[said]
            barred = found.bars[bars, here].tobytes() if bars else None
            alike[i] = numbers.setdefault((baseline[i], here.start, here.stop, given, barred), len(numbers))
        return alike

    @property
    def _from_baseline(self) -> list[str | None]:
        """By entry of `found` the role of the baseline that it is of, if it is: nobody has that besides."""
        source_index, baseline = self.batch.policy_index.source_index, self.batch.policy_index.policy.baseline
        saids = source_index.facts[self.entries[self.counting], SourceColumn.SAID].tolist()
        roles = [next(iter(source_index.tables.every[said].roles), None) for said in saids]
        return [role if role in baseline else None for role in roles]

    def mind_author(self) -> Bools:
        """`[holders]` whether it can count for their answers here who wrote a node."""
        minding = np.zeros(len(self.enrolled), dtype=bool)
        minding[self.holder[self._closer[self.entry]]] = True
        return minding

    @cached_property
    def _closer(self) -> Bools:
        """By entry whether it gives more on the holder's own work than on a stranger's, somewhere here."""
        closer = self.found.closer
        for i in (closer & ~self.found.everywhere | closer & (self.found.mask > 0)).nonzero()[0].tolist():
            own, strange = (self.found.along(level, i) for level in (AuthorRelation.OWN, AuthorRelation.ALL))
            closer[i] = not np.array_equal(own, strange)
        return closer


_SHORT = 64
"""Rows of a run up to which it takes longer to begin with it than to go through it."""
