"""Which nodes of a tree a scope covers, all at once (§3)."""

import numpy as np

from gonfalon.core.model.bits import Bools
from gonfalon.core.model.policy import Scope
from gonfalon.core.model.tree import Tree


def covered(tree: Tree, scope: Scope) -> Bools:
    """`[nodes]` booleans: those that lie within a scope. Branches that the tree does not hold cover nothing."""
    here = np.ones(len(tree), dtype=bool)
    if scope.branches is not None:
        on_branches = np.zeros(len(tree), dtype=bool)
        for branch in scope.branches & tree.index.keys():
            on_branches[tree.branch(branch)] = True
        here &= on_branches
    if scope.sites is not None:
        here &= tree.having("site", scope.sites)
    if scope.types is not None:
        here &= tree.matching_type(scope.types)[tree.kinds // 2]
    if scope.topics is not None:
        here &= tree.matching_topic(scope.topics)[tree.codes("topics")]
    return here
