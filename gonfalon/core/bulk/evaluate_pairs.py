"""What some holders may do, each at rows of their own, without asking about any other row (§4).

evaluate_pairs(evaluator, holder, row)     # by pair of them the bits of evaluator.alone()[holder, row]
"""

import numpy as np

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.model.bits import Bits, Ints, expand_ranges, or_by_pair


def evaluate_pairs(evaluator: BatchEvaluator, holder: Ints, row: Ints, relation: AuthorRelation | None = None) -> Bits:
    """`[pairs]` what each holder may do at its row, a bit for each action asked; `relation` as in `alone`.

    Raises ValueError for a batch that asks about whole branches: there an answer rests on other rows too.
    """
    batch, columns, found = evaluator.batch, evaluator.batch.columns, evaluator.found
    if columns.whole_branch:
        raise ValueError("whole branches are asked about with all their rows")
    of, grant = _counting(evaluator, holder, row)
    level = _levels(evaluator, holder, row, relation)
    given = or_by_pair(of, found.at(level[of], grant, row[of]), len(row))
    some = found.barring[grant].nonzero()[0]
    barred = or_by_pair(of[some], found.bars[found.barring[grant[some]], row[of[some]]], len(row))
    given[evaluator.subjects.unbound[holder]] = columns.every
    passed: Bits = given & ~barred
    narrowed = evaluator.narrowed[holder].nonzero()[0]
    for i, taken in evaluator.taken(np.unique(holder[narrowed])):
        here = narrowed[holder[narrowed] == i]
        passed[here] &= ~taken[row[here]]
    batch.close(passed, row)
    passed &= columns.asked
    return passed


def _counting(evaluator: BatchEvaluator, holder: Ints, row: Ints) -> tuple[Ints, Ints]:
    """Pairs, and grants of their holders that count at their rows, as places in `evaluator.found`."""
    of, pair = expand_ranges(evaluator.edges[holder], evaluator.edges[holder + 1])
    grant, at = evaluator.grant[pair], row[of]
    here = (evaluator.found.first[grant] <= at) & (at < evaluator.found.last[grant])
    return of[here], grant[here]


def _levels(evaluator: BatchEvaluator, holder: Ints, row: Ints, relation: AuthorRelation | None) -> Ints:
    """By pair how near to the holder the row was written, as a level of what is given."""
    levels = np.full(len(row), AuthorRelation.ALL if relation is None else relation)
    if relation is None and evaluator.found.author_matters.any():
        asked = holder * evaluator.batch.length + row
        for level in (AuthorRelation.TEAM, AuthorRelation.OWN):
            cells = evaluator.written[level]
            near_them = np.sort(cells.holder * evaluator.batch.length + cells.row)
            place = np.searchsorted(near_them, asked)
            place[place == len(near_them)] = 0
            levels[near_them[place] == asked if len(near_them) else slice(0)] = level
    levels[evaluator.subjects.own[holder]] = AuthorRelation.OWN
    return levels
