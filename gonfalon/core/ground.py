"""What sheets of one policy share: who wrote the nodes of a tree, which are locked, who says what of a capability.

ground = Ground(engine.holdings, engine.limits, engine.tree)
ground.by(account), ground.near(account)       # ascending positions in the tree
"""

from collections.abc import Iterable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holdings, Said
from gonfalon.core.limits import LimitIndex
from gonfalon.core.policy import Account
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import Effect

Rows = NDArray[np.intp]
Bools = NDArray[np.bool_]


class Ground:
    """The work of each author and of the direct members of each group (§2), locks, limits and what is said."""

    def __init__(self, holdings: Holdings, limits: LimitIndex, tree: Tree) -> None:
        self.policy, self.limits, self.tree, self._holdings = holdings.policy, limits, tree, holdings
        self._near: dict[str, Rows] = {}

    def by(self, account: Account) -> Rows:
        """What the account wrote, ascending."""
        return self.tree.by_author(account.id)

    def near(self, account: Account) -> Rows:
        """What the account, or a direct fellow member of one of its groups, wrote, ascending."""
        if account.id not in self._near:
            self._near[account.id] = np.unique(np.concatenate(self.parts(account)))
        return self._near[account.id]

    def parts(self, account: Account) -> list[Rows]:
        """The same, first what it wrote itself, then what each group did, some perhaps more than once."""
        return [self.by(account), *(self._by_group[group] for group in account.groups if group in self._by_group)]

    def saying(self, capabilities: Iterable[str]) -> set[Said]:
        """Whatever says something about one of some capabilities, or bars by a limit on its role."""
        return self._barring.union(*(self._saying[c] for c in capabilities if c in self._saying))

    @cached_property
    def _saying(self) -> dict[str, list[Said]]:
        saying: dict[str, list[Said]] = {}
        for said in self._holdings.every():
            for capability in said.answers:
                saying.setdefault(capability, []).append(said)
        return saying

    @cached_property
    def _barring(self) -> set[Said]:
        barred = {subject.id for subject in self.limits.subjects[Effect.BAR] if subject.kind == "role"}
        roles = (role for role in self.policy.roles if not barred.isdisjoint(self.policy.role_chain(role)))
        return {self._holdings.said(role) for role in roles}

    @cached_property
    def locked(self) -> Bools:
        """Which nodes have a lock on the whole of them."""
        nodes = {k.node for k in self.policy.locks.values() if k.field is None and k.component is None}
        locked = np.zeros(len(self.tree), dtype=bool)
        locked[[self.tree.index[node] for node in nodes if node in self.tree]] = True
        return locked

    @cached_property
    def _by_group(self) -> dict[str, Rows]:
        by_group: dict[str, list[Rows]] = {}
        accounts = self.policy.accounts
        for author in self.tree.authors:
            for group in accounts[author].groups if author in accounts else ():
                by_group.setdefault(group, []).append(self.tree.by_author(author))
        return {group: np.concatenate(rows) for group, rows in by_group.items()}
