"""Actions on whole branches: `remove` and `move` need the same of every node beneath (§4).

    allowed(evaluator)      # [holders, rows] a bit for each action asked, everything beneath each node minded

A batch may hold fewer nodes than lie beneath its rows. Then a second batch is made of those, and evaluated for the
pairs of holder and branch that `SubtreeFilter` leaves.
"""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.evaluate_pairs import evaluate_pairs
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.node_batch import MOST_CELLS, chunks
from gonfalon.core.bulk.subtree_filter import SubtreeFilter
from gonfalon.core.model.bits import (
    Bits,
    Ints,
    Words,
    expand_ranges,
    has,
    members,
    or_by_pair,
    packed,
    stable_argsort,
    words_of,
)
from gonfalon.core.model.vocabulary import WHOLE_BRANCH

_DEARER = 8
"""Measured cost ratio of one pairwise evaluation to one cell of a dense batch."""


def allowed(evaluator: BatchEvaluator, relation: AuthorRelation | None = None) -> Bits:
    """`[holders, rows]` what each may do, everything beneath minded; `relation` as in `BatchEvaluator.alone`."""
    passed = evaluator.alone(relation)
    if evaluator.batch.columns.whole_branch:
        _keep_unfailing(evaluator, relation, passed)
    return passed


def _keep_unfailing(evaluator: BatchEvaluator, relation: AuthorRelation | None, passed: Bits) -> None:
    """Clear the bits of `remove` and `move` in `passed` where a node beneath fails."""
    batch, (rows, starts, ends) = evaluator.batch, evaluator.batch.branches
    if not len(rows):
        return
    asked = passed.take(rows, axis=1) & batch.columns.whole_branch
    if batch.positions is None:
        holder, branch = asked.nonzero()
        asked[holder, branch] &= _all_of(passed, holder, starts[branch], ends[branch])
    else:
        columns = [i for i, action in enumerate(batch.columns.actions) if action in WHOLE_BRANCH]
        each = unfailing(evaluator, relation, [packed(has(asked, column)) for column in columns], tops_pass=True)
        asked[:] = 0
        for column, words in zip(columns, each, strict=True):
            branch, holder = members(words)
            asked[holder, branch] |= batch.columns.bit(column)
    passed[:, rows] &= asked | ~batch.columns.whole_branch


def unfailing(
    evaluator: BatchEvaluator,
    relation: AuthorRelation | None,
    asked: Sequence[Words],
    *,
    tops_pass: bool = False,
) -> list[Words]:
    """Of the holders asked about each branch, those who pass at every node of it.

    One `[branches, words]` for each action of the branching columns of the batch's columns. Where `tops_pass` they are
    known to pass at the tops, and only what is beneath is asked about.
    """
    always = packed(evaluator.subjects.unbound[:, None])
    possible = SubtreeFilter(evaluator, relation)
    left = [possible.candidates(words & ~always, column) for column, words in enumerate(asked)]
    branch, holder = members(np.bitwise_or.reduce(left))
    by_holder = stable_argsort(holder)
    branch, holder = branch[by_holder], holder[by_holder]
    _, starts, ends = evaluator.batch.branches
    whole = _whole(evaluator, relation, holder, branch, (starts + tops_pass, ends))
    passing = (has(whole, column).nonzero()[0] for column in range(len(asked)))
    told = (words_of(branch[some], holder[some], len(asked[0]), len(evaluator.subjects)) for some in passing)
    return [words & (always | some) for words, some in zip(asked, told, strict=True)]


def _whole(
    evaluator: BatchEvaluator,
    relation: AuthorRelation | None,
    holder: Ints,
    branch: Ints,
    runs: tuple[Ints, Ints],
) -> Bits:
    """By pair of them what the holder may do with all nodes in the run of the branch; `holder` ascends."""
    step = max(1, MOST_CELLS // len(evaluator.batch.branches[0]))
    edges = np.searchsorted(holder, np.arange(0, len(evaluator.subjects) + step, step)).tolist()
    some = [slice(first, last) for first, last in pairwise(edges) if first < last]
    nothing = np.zeros(0, dtype=evaluator.batch.columns.branching.dtype)
    return np.concatenate(
        (nothing, *(_whole_of_some(evaluator, relation, holder[one], branch[one], runs) for one in some))
    )


def _whole_of_some(
    evaluator: BatchEvaluator,
    relation: AuthorRelation | None,
    holder: Ints,
    branch: Ints,
    runs: tuple[Ints, Ints],
) -> Bits:
    each, (starts, ends) = np.unique(branch), runs
    deep = evaluator.batch.of_runs(starts[each], ends[each])
    first, last = deep.rows_from(starts[branch]), deep.rows_from(ends[branch])
    asking, whose = np.unique(holder, return_inverse=True)
    if (last - first).sum() * _DEARER < len(asking) * deep.length:
        return _each_of(evaluator.on(deep, asking), relation, whose, first, last)
    whole = []
    for part in chunks(deep, len(asking)):
        pairs = slice(*np.searchsorted(whose, (part.start, part.stop)))
        may = evaluator.on(deep, asking[part]).alone(relation)
        whole.append(_all_of(may, whose[pairs] - part.start, first[pairs], last[pairs]))
    return np.concatenate(whole)


def _each_of(evaluator: BatchEvaluator, relation: AuthorRelation | None, holder: Ints, first: Ints, last: Ints) -> Bits:
    """By pair of a holder and a run of rows, what passes in all of the run, row by row: the first before the others."""
    whole = evaluate_pairs(evaluator, holder, first, relation)
    hoping = whole.nonzero()[0]
    until = np.cumsum(last[hoping] - first[hoping])
    for start in range(0, int(until[-1]) + 1 if len(until) else 0, MOST_CELLS):
        some = hoping[slice(*np.searchsorted(until, (start, start + MOST_CELLS)))]
        of, row = expand_ranges(first[some] + 1, last[some])
        may = evaluate_pairs(evaluator, holder[some[of]], row, relation)
        whole[some] &= ~or_by_pair(of, ~may, len(some))
    return whole


def _all_of(each: Bits, holder: Ints, first: Ints, last: Ints) -> Bits:
    """By pair of a holder and a run of rows, what passes in all of the run; `each` is `[holders, rows]`."""
    if not len(holder):
        return each[:0, 0]
    edges = np.stack((first, last), axis=1) + holder[:, None] * each.shape[1]
    along = np.append(each, each.dtype.type(0))
    whole: Bits = np.bitwise_and.reduceat(along, edges.ravel())[::2]
    return whole
