"""Which branches may pass as a whole, for whom: told by the kinds of node they hold, for all holders at once (§4).

    hope = SubtreeFilter(crowd, near)
    hope.candidates(words, column)       # of sets of holders by branch those who may pass

A branch passes as a whole only where something gives its holder each kind of node in it, or gives it on their own
or their team's work and they or their team wrote the first node of that kind. Sets of holders are bits, so that one
step of it is taken for 64 holders.
"""

import numpy as np

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.model.bits import Bits, Words, has, or_by_group, packed, words_of

_AT_ONCE = 1 << 17
"""Words that are best worked on at once: they fit into a processor's cache."""


class SubtreeFilter:
    """What a crowd may be given for branches of its sheet; `near` as in `BatchEvaluator.alone`."""

    def __init__(self, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> None:
        self.evaluator, self.held = evaluator, evaluator.batch.held
        self._to_strangers, self._on_own = self._given(AuthorRelation.ALL if relation is None else relation)
        self._authors = evaluator.batch.tree.author_codes[self.held.first]
        self._near = self._near_authors() if relation is None else None

    def candidates(self, asked: Words, column: int) -> Words:
        """`[branches, words]` of holders for whom a column of the branching plan is asked those with any hope."""
        edges, kind = self.held.edges, self.held.kind
        strangers, own = (packed(has(given, column)) for given in (self._to_strangers, self._on_own))
        left = np.empty_like(asked)
        step = max(1, _AT_ONCE * len(asked) // max(1, asked.shape[1] * len(kind)))
        for first in range(0, len(asked), step):
            some = slice(edges[first], edges[min(first + step, len(asked))])
            given = strangers[kind[some]]
            if self._near is not None:
                given |= own[kind[some]] & self._near[self._authors[some]]
            firsts = edges[first : first + step] - edges[first]
            left[first : first + step] = np.bitwise_and.reduceat(given, firsts[: len(left) - first], axis=0)
        return left & asked

    def _given(self, relation: AuthorRelation) -> tuple[Bits, Bits]:
        """`[holders, kinds]` what some entry gives each on whole branches: so near to them, and on their own."""
        enrolled, batch = self.evaluator.enrolled, self.evaluator.batch
        source_index, below = batch.policy_index.source_index, batch.columns.branching
        saids, said = np.unique(source_index.facts[enrolled.numbers, SourceColumn.SAID], return_inverse=True)
        tables = source_index.tables.of(below, saids)
        told = np.concatenate((tables[relation], tables[AuthorRelation.OWN]), axis=1)
        given, on_own = np.split(or_by_group(enrolled.holder, told[said], len(enrolled)), 2, axis=1)
        given[enrolled.own] = on_own[enrolled.own]
        return given, on_own

    def _near_authors(self) -> Words:
        """`[authors, words]` the holders who are each author, or a fellow member; the last is that of no author."""
        enrolled, batch = self.evaluator.enrolled, self.evaluator.batch
        author, holder = batch.policy_index.authors.near_to(enrolled.authoring)
        return words_of(author, holder, len(batch.tree.authors) + 1, len(enrolled))
