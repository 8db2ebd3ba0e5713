"""A page to try each item of a walk list on: one where the answer is what the list says, in the sight of who asks.

    Pages("tenant-editor", here).of(items)      # {item.key: "p3-sail-loft"}

Cost: one answer for each node, action and way of having written it, and one query.
"""

from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np

from gonfalon.content.models import Node
from gonfalon.core.checks.tries import of_holder
from gonfalon.core.checks.walk import Item
from gonfalon.core.model.bits import Bools
from gonfalon.core.model.vocabulary import ACTIONS, PART_ACTIONS
from gonfalon.viewpoint.viewpoint import Viewpoint

_MOST_LOOKED_INTO = 300
"""Pages whose components are looked at for one list."""
_ASKS = {"see-field": "see", "change-field": "edit", "insert-component": "edit", "change-facet": "edit"}


class Pages:
    """Looks for pages for somebody who tries what a role can do."""

    def __init__(self, role: str, here: Viewpoint, account: str | None = None) -> None:
        """`account` is as whom it is tried, where that is one: their own pages are those that they wrote."""
        self.role, self.here, self.account = role, here, account
        self.tree = here.engine.tree
        self._columns: dict[tuple[str, bool], Bools] = {}

    def of(self, items: Sequence[Item], first: str | None = None) -> dict[str, str]:
        """The node to try each item on, by the item's key: the `first` wherever it will do. Items without one are left
        out."""
        found = {item.key: list(self._fitting(item, first)) for item in items if self._asks_of_a_page(item)}
        looked_into = [id for item in items if item.components for id in found.get(item.key, ())][:_MOST_LOOKED_INTO]
        rows = dict(Node.objects.filter(pk__in=looked_into).values_list("pk", "components")) if looked_into else {}
        chosen = {}
        for item in items:
            candidates = found.get(item.key, [])
            if item.facet is not None:
                candidates = [id for id in candidates if self._has(item, rows.get(id, ()))]
            if candidates:
                chosen[item.key] = candidates[0]
        return chosen

    def _asks_of_a_page(self, item: Item) -> bool:
        """Whether it does, and nothing that it names is gone since the list was made."""
        policy = self.here.snapshot.policy
        known = item.action in ACTIONS or item.action in PART_ACTIONS or item.action in policy.placed
        return known and policy.types.keys() >= set(item.types)

    def _fitting(self, item: Item, first: str | None) -> Iterator[str]:
        """Nodes in their order: many where components are looked for, else the first."""
        right = self._seen & self._answers(item)
        if item.action != "see":
            right &= self._column("see", item.own is not False)  # of what they do not see nothing else is asked
        if item.limit is not None:
            right &= self._limited(item.limit)
        elif item.types and item.action not in ("create", "fill-field"):
            right &= np.isin(self._types, item.types)
        if item.action in ("create", "fill-field"):
            above = {kind for type in item.types for kind in self.here.catalogue.type(type).under}
            right &= np.isin(self._types, sorted(above))
        if item.components:
            taking = [t for t in self.here.catalogue.types if any(self._takes(t, key) for key in item.components)]
            right &= np.isin(self._types, taking)
        if item.public is not None:
            right &= self.tree.published == item.public
        if self.account is not None and item.own is not None:
            right &= (self._authors == self.account) == item.own
        if first in self.tree and right[self.tree.index[str(first)]]:
            yield str(first)
        for i in np.flatnonzero(right)[: 100 if item.components else 1].tolist():
            yield self.tree.nodes[i].id

    def _answers(self, item: Item) -> Bools:
        own = item.own is not False
        if item.action in ("create", "fill-field"):
            every = [self._column(f"create:{type}", own) for type in item.types]
            made = np.logical_or.reduce(every)
            return made if item.expect or item.field is not None else ~made
        may = self._column(_ASKS.get(item.action, item.action), own)
        return may if item.expect or item.action in _ASKS else ~may

    def _column(self, action: str, own: bool) -> Bools:
        if (action, own) not in self._columns:
            holder = of_holder(self.role, own=own)
            answers = self.here.survey.allowed([holder], None, [action], self.here.at)
            self._columns[action, own] = answers[0, :, 0]
        return self._columns[action, own]

    def _limited(self, limit: str) -> Bools:
        reaches = np.zeros(len(self.tree), dtype=bool)
        said = self.here.snapshot.policy.limits.get(limit)
        if said is not None and said.node in self.tree:
            branch = self.tree.branch(said.node)
            if said.applies == "node":
                branch = slice(branch.start, branch.start + 1)
            elif said.applies == "beneath":
                branch = slice(branch.start + 1, branch.stop)
            reaches[branch] = True
        return reaches

    def _takes(self, type: str, component: str) -> bool:
        return self.here.catalogue.type(type).tree == "content" and self.here.catalogue.takes(type, component)

    def _has(self, item: Item, components: Sequence[dict[str, str]]) -> bool:
        return any(component["kind"] in item.components for component in components)

    @cached_property
    def _seen(self) -> Bools:
        named = self.here.sight.nodes
        return np.array([node.id in named for node in self.tree.nodes], dtype=bool)

    @cached_property
    def _types(self) -> "np.ndarray[tuple[int], np.dtype[np.str_]]":
        return np.array([node.type for node in self.tree.nodes], dtype=np.str_)

    @cached_property
    def _authors(self) -> "np.ndarray[tuple[int], np.dtype[np.str_]]":
        return np.array([node.author or "" for node in self.tree.nodes], dtype=np.str_)
