"""The two sides of a comparison, and the nodes at which to ask, one of each class.

places = Places(tree, where, classes)     # a number for each node, as `classes` tells
places.positions            # one of each class, ascending
places.count(turned)        # how many places some answers, `[holders, classes]`, stand for
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.bulk.node_batch import NodeBatch
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Tree


@dataclass(frozen=True)
class Side:
    """One of two policies, and where in its tree each node compared lies.

    `rows` is None where both trees are the same; else -1 stands for a node that this tree has not. `held` keeps
    what accounts hold at the one moment they are asked about.
    """

    engine: Engine
    rows: Ints | None = None
    held: dict[Who, SubjectGrants | None] = field(default_factory=dict)

    @property
    def survey(self) -> Surveyor:
        """Answers for the whole tree of this side."""
        return self.engine.surveyor

    def grants(self, who: Sequence[Who], at: datetime) -> list[SubjectGrants | None]:
        """What each of some people holds; None for an account that there is not."""
        for one in who:
            if one not in self.held:
                known = not isinstance(one, str) or one in self.engine.policy.accounts
                self.held[one] = self.engine.grants.of(one, at) if known else None
        return [self.held[one] for one in who]

    def aligned(self, answers: Bools) -> Bools:
        """`[holders, places]` answers at the common places: no at nodes that are not here."""
        if self.rows is None:
            return answers
        padded = np.concatenate((answers, np.zeros((len(answers), 1), dtype=bool)), axis=1)
        here: Bools = padded[:, self.rows]
        return here


Sides = tuple[Side, Side]


def batches_of(
    sides: Sides, actions: tuple[str, ...], places: Sequence["Places"], *, alone: bool = False
) -> list[NodeBatch]:
    """A batch of some places for each side; the same one where only what is given to whom differs."""
    was, now = (side.survey for side in sides)
    made = now.batch(now.columns(actions, alone=alone), places[1].positions)
    if places[0] is places[1] and now.policy_index.can_answer_for(was.policy_index):
        return [made, made]
    return [was.batch(was.columns(actions, alone=alone), places[0].positions), made]


_EXACT = 1 << 24
"""Below this a single float holds every count."""


class Places:
    """Where to ask in a tree (`where` None: everywhere), of places of one class only once.

    `positions` has one of each class, `sizes` how many there are of it, `row_of` the class of each position.
    `sizes` is None where each place is a class of its own, `row_of` -1 at positions that are not asked.
    """

    def __init__(self, tree: Tree, where: Bools | None = None, classes: Ints | None = None) -> None:
        positions: Ints = np.arange(len(tree)) if where is None else where.nonzero()[0]
        self.positions, self.sizes = positions, None
        self.row_of = np.full(len(tree), -1, dtype=np.intp)
        self.row_of[positions] = np.arange(len(positions))
        if classes is not None:
            found = np.unique(classes[positions], return_index=True, return_inverse=True, return_counts=True)
            _, firsts, of, sizes = found
            ascending = np.argsort(firsts)
            self.row_of[positions] = np.argsort(ascending)[of]
            self.positions, self.sizes = (
                positions[firsts[ascending]],
                sizes[ascending].astype(np.float32 if len(tree) < _EXACT else float),
            )

    @classmethod
    def among(cls, tree: Tree, positions: Ints) -> "Places":
        """Some positions of a tree, each a class of its own."""
        where = np.zeros(len(tree), dtype=bool)
        where[positions] = True
        return cls(tree, where)

    def count(self, deltas: Bools) -> NDArray[np.int64]:
        """`[holders]` how many places are meant by some answers, `[holders, classes]`."""
        if self.sizes is None:
            counts: NDArray[np.int64] = np.count_nonzero(deltas, axis=1)
        else:
            counts = np.rint(deltas.astype(self.sizes.dtype) @ self.sizes).astype(np.int64)
        return counts
