"""Cheap pre-filter for whole branches: drops pairs of holder and branch that cannot pass (§4).

    possible = SubtreeFilter(evaluator, relation)
    possible.candidates(words, column)       # of sets of holders by branch, those who may pass

A pair is dropped where no grant gives the holder some kind of node in the branch, neither on anybody's work nor, if the
holder or their team wrote the first node of that kind, on such work. Sets of holders are bits, 64 in a word.
"""

import numpy as np

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.model.bits import Bits, Words, has, or_by_group, packed, words_of

_AT_ONCE = 1 << 17
"""How many words are worked on at once, so that they fit into a processor's cache."""


class SubtreeFilter:
    """For the holders of an evaluator and the branches of its batch; `relation` as in `BatchEvaluator.alone`."""

    def __init__(self, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> None:
        self.evaluator, self.held = evaluator, evaluator.batch.held
        self._to_strangers, self._on_own = self._given(AuthorRelation.ALL if relation is None else relation)
        self._authors = evaluator.batch.tree.author_codes[self.held.first]
        self._related = self._related_authors() if relation is None else None

    def candidates(self, asked: Words, column: int) -> Words:
        """`[branches, words]` of the holders asked about, those who may pass for one branching column."""
        edges, kind = self.held.edges, self.held.kind
        strangers, own = (packed(has(given, column)) for given in (self._to_strangers, self._on_own))
        possible = np.empty_like(asked)
        step = max(1, _AT_ONCE * len(asked) // max(1, asked.shape[1] * len(kind)))
        for first in range(0, len(asked), step):
            some = slice(edges[first], edges[min(first + step, len(asked))])
            given = strangers[kind[some]]
            if self._related is not None:
                given |= own[kind[some]] & self._related[self._authors[some]]
            firsts = edges[first : first + step] - edges[first]
            possible[first : first + step] = np.bitwise_and.reduceat(given, firsts[: len(possible) - first], axis=0)
        return possible & asked

    def _given(self, relation: AuthorRelation) -> tuple[Bits, Bits]:
        """`[holders, kinds]` the bits that some grant gives each, on work so related to them, and on their own."""
        subjects, batch = self.evaluator.subjects, self.evaluator.batch
        source_index, below = batch.policy_index.source_index, batch.columns.branching
        rows, said = np.unique(source_index.grant_rows[subjects.numbers, SourceColumn.STATEMENTS], return_inverse=True)
        tables = source_index.tables.of(below, rows)
        told = np.concatenate((tables[relation], tables[AuthorRelation.OWN]), axis=1)
        given, on_own = np.split(or_by_group(subjects.holder, told[said], len(subjects)), 2, axis=1)
        given[subjects.own] = on_own[subjects.own]
        return given, on_own

    def _related_authors(self) -> Words:
        """`[authors + 1, words]` the holders who are each author, or in a group with it; last, those of no author."""
        subjects, batch = self.evaluator.subjects, self.evaluator.batch
        author, holder = batch.policy_index.authors.near_to(subjects.authoring)
        return words_of(author, holder, len(batch.tree.authors) + 1, len(subjects))
