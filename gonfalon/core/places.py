"""Two policies over the same places: where to ask, and which places neither can tell apart.

    places = places_of(sides, plans, where)[1]
    places.positions            # one of each class, ascending
    places.count(turned)        # how many places some answers, `[holders, classes]`, stand for
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding, Source
from gonfalon.core.plan import Bools, Plan
from gonfalon.core.question import Who
from gonfalon.core.survey import Surveyor
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import Extent
from gonfalon.core.written import Rows


@dataclass(frozen=True)
class Side:
    """One of two policies, and where in its tree each node compared lies.

    `rows` is None where both trees are the same; else -1 stands for a node that this tree has not.
    """

    survey: Surveyor
    rows: Rows | None = None

    def holding(self, who: Who, at: datetime) -> Holding | None:
        """What somebody holds; None for an account that there is not."""
        known = not isinstance(who, str) or who in self.survey.policy.accounts
        return self.survey.engine.holdings.of(who, at) if known else None

    def aligned(self, answers: Bools) -> Bools:
        """`[holders, places]` answers at the common places: no at nodes that are not here."""
        if self.rows is None:
            return answers
        padded = np.concatenate((answers, np.zeros((len(answers), 1), dtype=bool)), axis=1)
        here: Bools = padded[:, self.rows]
        return here


Sides = tuple[Side, Side]


class Places:
    """Classes of places: a position of each, how many there are of it, and of which class a position is.

    `sizes` is None where each place is a class of its own; `row_of` has -1 for positions that are not asked.
    """

    def __init__(self, tree: Tree, positions: Rows, classes: NDArray[np.intp] | None = None) -> None:
        self.positions, self.sizes = positions, None
        self.row_of = np.full(len(tree), -1, dtype=np.intp)
        self.row_of[positions] = np.arange(len(positions))
        if classes is not None:
            _, firsts, of, sizes = np.unique(classes, return_index=True, return_inverse=True, return_counts=True)
            ascending = np.argsort(firsts)
            self.row_of[positions] = np.argsort(ascending)[of]
            self.positions, self.sizes = positions[firsts[ascending]], sizes[ascending].astype(float)

    def count(self, turned: Bools) -> NDArray[np.int64]:
        """`[holders]` how many places are meant by some answers, `[holders, classes]`."""
        if self.sizes is None:
            return np.count_nonzero(turned, axis=1)
        return np.rint(turned @ self.sizes).astype(np.int64)


def places_of(sides: Sides, plans: Sequence[Plan], where: Bools | None, *, many: bool) -> tuple[Places, Places]:
    """The places to ask about on each side, `where` None being all of them; alike ones once if they are `many`.

    A new node under one place is like one under another unless something begins or ends between them, so that
    it pays for questions about new nodes only.
    """
    trees = [side.survey.tree for side in sides]
    asked = [np.arange(len(tree)) if where is None else where.nonzero()[0] for tree in trees]
    if not many or sides[0].rows is not None or any(column.new is None for column in plans[0].columns):
        return Places(trees[0], asked[0]), Places(trees[1], asked[1])
    both = Places(trees[0], asked[0], _classes(sides, plans)[asked[0]])
    return both, both


def _classes(sides: Sides, plans: Sequence[Plan]) -> Rows:
    """A number for each place of the tree: under those with the same number a new node is answered alike."""
    tree = sides[0].survey.tree
    starting = np.zeros(len(tree) + 1, dtype=bool)
    for side, plan in zip(sides, plans, strict=True):
        starting[list(_edges(side, plan))] = True
    sites = tree.sites
    classes: Rows = np.cumsum(starting[:-1]) * (int(sites.max(initial=0)) + 1) + sites
    return classes


def _edges(side: Side, plan: Plan) -> Iterator[int]:
    """Where along the tree something begins or ends that a policy may mind."""
    policy, tree = side.survey.policy, side.survey.tree
    branches = {limit.node for limit in policy.limits.values()}
    for account in policy.accounts.values():
        branches.update(*account.reach.values())
    for source in side.survey.engine.holdings.given():
        if source.scope.branches is not None and _counts(side, plan, source):
            branches |= source.scope.branches
    for id in branches:
        if id in tree:
            span = tree.branch(id)
            yield from (span.start, span.start + 1, span.stop)


def _counts(side: Side, plan: Plan, source: Source) -> bool:
    """Whether a source gives or bars anything that a plan asks."""
    if plan.table(source.said, Extent.OWN) is not None or plan.barred(source.said) is not None:
        return True
    return any(side.survey.engine.limits.bars(subject) for subject in source.role_subjects)
