"""What sheets of one policy share: who wrote the nodes of a tree, which are locked, where limits narrow whom.

ground = Ground(engine.policy, engine.limits, engine.tree)
ground.writing.near(account)       # ascending positions in the tree
"""

from collections.abc import Mapping
from functools import cached_property

import numpy as np

from gonfalon.core.arrays import Bools, Ints
from gonfalon.core.forces import Forces
from gonfalon.core.limits import LimitIndex
from gonfalon.core.policy import Account, Policy
from gonfalon.core.roll import Roll
from gonfalon.core.tree import Tree


class Writing:
    """The work of each author and of the direct members of each group (§2), as ascending positions of a tree."""

    def __init__(self, accounts: Mapping[str, Account], tree: Tree) -> None:
        self.accounts, self.tree = accounts, tree
        self._near: dict[str, Ints] = {}

    def by(self, account: Account) -> Ints:
        """What the account wrote."""
        return self.tree.by_author(account.id)

    def near(self, account: Account) -> Ints:
        """What the account, or a direct fellow member of one of its groups, wrote."""
        if account.id not in self._near:
            self._near[account.id] = np.unique(np.concatenate(self.parts(account)))
        return self._near[account.id]

    def parts(self, account: Account) -> list[Ints]:
        """The same, first what it wrote itself, then what each group did, some perhaps more than once."""
        return [self.by(account), *(self._by_group[group] for group in account.groups if group in self._by_group)]

    @cached_property
    def _by_group(self) -> dict[str, Ints]:
        by_group: dict[str, list[Ints]] = {}
        for author in self.tree.authors:
            for group in self.accounts[author].groups if author in self.accounts else ():
                by_group.setdefault(group, []).append(self.tree.by_author(author))
        return {group: np.concatenate(rows) for group, rows in by_group.items()}


class Ground:
    """Who wrote what, where limits narrow whom, locks, and the roll of sources.

    Made `like` another, it shares with it what both policies have the same.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, like: "Ground | None" = None) -> None:
        self.policy, self.tree = policy, tree
        self.writing, self.forces = Writing(policy.accounts, tree), Forces(limits)
        self._limits, self._like = limits, like if like is not None and like.tree is tree else None
        if like is not None and like.tree is tree:
            if like.policy.accounts is policy.accounts:
                self.writing = like.writing
            if like.policy.limits is policy.limits:
                self.forces = like.forces

    @cached_property
    def roll(self) -> Roll:
        """Made when first asked for: by then it can take over what the other has learned."""
        return Roll(self.policy, self._limits, self.tree, None if self._like is None else self._like.roll)

    def serves(self, other: "Ground") -> bool:
        """Whether authors, limits and locks are those of another, so that a sheet on this one answers for both."""
        same = self.writing is other.writing and self.forces is other.forces
        return same and self.policy.locks is other.policy.locks

    @cached_property
    def locked(self) -> Bools:
        """Which nodes have a lock on the whole of them."""
        nodes = {k.node for k in self.policy.locks.values() if k.field is None and k.component is None}
        locked = np.zeros(len(self.tree), dtype=bool)
        locked[[self.tree.index[node] for node in nodes if node in self.tree]] = True
        return locked
