"""Whether the answer to a question can differ under another policy, told without asking it.

    may_turn = MayChange(AffectedRegions(before, after).by_account(), tree)
    may_change("ada", "edit", "loft")                 # at a node by its id; None: at any, or at none at all
    may_change.beneath("ada", "edit", "moorings", frozenset({"berth"}))

What it denies cannot have changed; what it does not deny may have.
"""

from collections.abc import Mapping, Set
from functools import cached_property

import numpy as np

from gonfalon.core.diff.affected import AffectedRegion, NodeKind, Regions
from gonfalon.core.model.question import HypotheticalSubject, Who
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import PART_ACTIONS, WHOLE_BRANCH

ANY_TYPE = frozenset[str]()


class MayChange:
    """Looks questions up in the affected regions of accounts; for accounts without any nothing changes."""

    def __init__(self, affected: Mapping[str | None, Regions], tree: Tree) -> None:
        self.affected, self.tree = affected, tree
        self._known: dict[tuple[Regions, str, str | None, Set[str] | None], bool] = {}
        self._about: dict[str, bool] = {}

    def __call__(self, who: Who, action: str, node: object) -> bool:
        """Of one account, an action and a node by its id; anything but an id stands for a profile."""
        return self._may(who, action, node if isinstance(node, str) else None, None)

    def beneath(self, who: Who, action: str, branch: str, types: Set[str] = ANY_TYPE) -> bool:
        """The same at some node of a branch, of some types (none named: of any)."""
        return self._may(who, action, branch, types)

    def about(self, action: str) -> bool:
        """The same for anybody, anywhere; cheapest."""
        if action not in self._about:
            self._about[action] = any(_asks(region, action) for region in self._regions)
        return self._about[action]

    @cached_property
    def _regions(self) -> Set[AffectedRegion]:
        return {region for regions in set(self.affected.values()) for region in regions}

    def _may(self, who: Who, action: str, node: str | None, types: Set[str] | None) -> bool:
        """Without `types` at the node alone, unless the action is about what lies beneath in any case."""
        regions = () if isinstance(who, HypotheticalSubject) else self.affected.get(who, ())
        key = regions, action, node, types
        if key not in self._known:
            whole = types is not None or action in WHOLE_BRANCH
            if node is None or node not in self.tree:
                self._known[key] = any(_asks(region, action) for region in regions)
            else:
                here = self.tree.branch(node)
                run = here if whole else slice(here.start, here.start + 1)
                self._known[key] = any(self._at(region, action, run, types or ANY_TYPE) for region in regions)
        return self._known[key]

    def _at(self, region: AffectedRegion, action: str, run: slice, types: Set[str]) -> bool:
        if action not in region.actions and not (action in PART_ACTIONS and _asks(region, action)):
            return False
        kinds = _kinds(region, action)
        wanted = [(kinds is None or kind in kinds) and (not types or kind[0] in types) for kind in self.tree.node_kinds]
        there = np.array(wanted, dtype=bool)[self.tree.kinds[run]]
        return bool(np.any(there if region.where is None else there & region.where[run]))


_OF_FIELDS = {"see-field", "change-field"}


def _asks(region: AffectedRegion, action: str) -> bool:
    """Whether a region is about an action at all, of whatever: a node, a profile, or neither."""
    if action in _OF_FIELDS or action == "fill-field":
        return bool(region.profiles or _types(region, action))
    if action in PART_ACTIONS:
        return region.components or "edit" in region.actions
    return action in region.actions or action in region.plain or action in region.profiles


def _kinds(region: AffectedRegion, action: str) -> Set[NodeKind] | None:
    """The kinds of node for which a region is about an action; None: any."""
    if action in _OF_FIELDS or action == "fill-field":
        return {(type, published) for type in _types(region, action) for published in (True, False)}
    if action in PART_ACTIONS:
        return None if region.components else region.kinds.get("edit")
    return region.kinds.get(action)


def _types(region: AffectedRegion, action: str) -> Set[str]:
    return region.fields if action in _OF_FIELDS else region.filled
