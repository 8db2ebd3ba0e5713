"""What all batches of nodes under one policy share: authors, limits as runs, locks, and the source index.

index = PolicyIndex(engine.policy, engine.limits, engine.tree)
index.authors.near(account)       # ascending positions in the tree
"""

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import TypeVar

import numpy as np

from gonfalon.core.bulk.authorship import Authors
from gonfalon.core.bulk.limit_runs import LimitRuns
from gonfalon.core.bulk.source_index import SourceIndex
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Bools
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.tree import Tree

T = TypeVar("T")


class PolicyIndex:
    """Subject-independent data about one policy over one tree.

    With a `previous` index over the same places, what both policies have the same is shared.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, previous: "PolicyIndex | None" = None) -> None:
        self.policy, self.tree = policy, tree
        self.authors, self.limit_runs = Authors(policy.accounts, tree), LimitRuns(limits)
        self.limits, self._previous = (
            limits,
            previous if previous is not None and previous.tree.same_places(tree) else None,
        )
        if previous is not None and previous.tree.same_places(tree):
            if previous.policy.accounts is policy.accounts and previous.tree.author_codes is tree.author_codes:
                self.authors = previous.authors
            if previous.policy.limits is policy.limits:
                self.limit_runs = previous.limit_runs

    @cached_property
    def source_index(self) -> SourceIndex:
        """Made when first asked for: by then it can take over what the previous one has learned."""
        previous = self._previous
        return SourceIndex(self.policy, self.limits, self.tree, None if previous is None else previous.source_index)

    def detach(self) -> None:
        """Drop the reference to the previous index, so that memory stays bounded."""
        self._previous = None

    def can_answer_for(self, other: "PolicyIndex") -> bool:
        """Whether nodes, authors, limits and locks are those of another index: a batch of this one then serves both."""
        same = self.authors is other.authors and self.limit_runs is other.limit_runs
        return same and self.policy.locks is other.policy.locks and self.tree is other.tree

    @cached_property
    def edges(self) -> frozenset[int]:
        """Positions of the tree where something that this policy, or a previous one, names begins or ends."""
        previous = self._previous
        was = Policy() if previous is None else previous.policy
        branches = {limit.node for limit in _others(self.policy.limits, was.limits)}
        for account in _others(self.policy.accounts, was.accounts):
            branches.update(*account.reach.values())
        for given in _others(self.policy.assignments, was.assignments):
            branches.update(given.scope.branches or ())
        for direct in _others(self.policy.direct_grants, was.direct_grants):
            branches.update(direct.scope.branches or ())
        spans = [self.tree.branch(id) for id in branches if id in self.tree]
        edges = frozenset(edge for span in spans for edge in (span.start, span.start + 1, span.stop))
        return edges if previous is None else edges | previous.edges

    @cached_property
    def locked(self) -> Bools:
        """`[nodes]` which have a lock on the whole node."""
        nodes = {k.node for k in self.policy.locks.values() if k.field is None and k.component is None}
        locked = np.zeros(len(self.tree), dtype=bool)
        locked[[self.tree.index[node] for node in nodes if node in self.tree]] = True
        return locked


def _others(every: Mapping[str, T], was: Mapping[str, T]) -> Iterable[T]:
    """The values that another mapping does not have as the very same object under the same key."""
    return () if every is was else [one for key, one in every.items() if was.get(key) is not one]
