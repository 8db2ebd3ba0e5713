"""Who wrote which nodes, and what direct fellow members of a group wrote (§2: own and team).

written = Written(policy, tree)
written.by(account), written.near(account)     # ascending positions in the tree
"""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.policy import Account, Policy
from gonfalon.core.tree import Tree

Rows = NDArray[np.intp]
NO_ROWS: Rows = np.zeros(0, dtype=np.intp)


class Written:
    """The work of each author in a tree, and of the direct members of each group."""

    def __init__(self, policy: Policy, tree: Tree) -> None:
        self.policy, self.tree = policy, tree
        self._near: dict[str, Rows] = {}

    def by(self, account: Account) -> Rows:
        """What the account wrote, ascending."""
        return self._by_author.get(account.id, NO_ROWS)

    def near(self, account: Account) -> Rows:
        """What the account, or a direct fellow member of one of its groups, wrote, ascending."""
        if account.id not in self._near:
            found = [self.by(account), *(self._by_group.get(group, NO_ROWS) for group in account.groups)]
            self._near[account.id] = np.unique(np.concatenate(found))
        return self._near[account.id]

    @cached_property
    def _by_author(self) -> dict[str, Rows]:
        by_author: dict[str, list[int]] = {}
        for i, node in enumerate(self.tree.nodes):
            if node.author is not None:
                by_author.setdefault(node.author, []).append(i)
        return {author: np.array(rows, dtype=np.intp) for author, rows in by_author.items()}

    @cached_property
    def _by_group(self) -> dict[str, Rows]:
        by_group: dict[str, list[Rows]] = {}
        accounts = self.policy.accounts
        for author, rows in self._by_author.items():
            for group in accounts[author].groups if author in accounts else ():
                by_group.setdefault(group, []).append(rows)
        return {group: np.concatenate(rows) for group, rows in by_group.items()}
