"""Whether the answer to a question may be another one under another policy, without asking it.

    may_turn = MayTurn(Touched(before, after).by_account(), tree)
    may_turn("ada", "edit", "loft")                 # at a node by its id; None: at any, or at none at all
    may_turn.beneath("ada", "edit", "moorings", frozenset({"berth"}))

What it denies cannot have changed; what it does not deny may have.
"""

from collections.abc import Mapping, Set
from functools import cached_property

import numpy as np

from gonfalon.core.question import MadeUp, Who
from gonfalon.core.touched import NodeKind, Touch, Touches
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import PART_ACTIONS, WHOLE_BRANCH

ANY_TYPE = frozenset[str]()


class MayTurn:
    """As far as the touches of some accounts tell. Nothing turns for anybody else."""

    def __init__(self, touched: Mapping[str | None, Touches], tree: Tree) -> None:
        self.touched, self.tree = touched, tree
        self._known: dict[tuple[Touches, str, range, Set[str]], bool] = {}
        self._about: dict[str, bool] = {}

    def __call__(self, who: Who, action: str, node: object) -> bool:
        """A node that is no id is a profile."""
        if isinstance(node, str) and node in self.tree and action not in WHOLE_BRANCH:
            i = self.tree.index[node]
            return self._at(self._of(who), action, range(i, i + 1), ANY_TYPE)
        if isinstance(node, str):
            return self.beneath(who, action, node)
        return any(_asks(touch, action) for touch in self._of(who))

    def beneath(self, who: Who, action: str, branch: str, types: Set[str] = ANY_TYPE) -> bool:
        """At some node of a branch, of some types (none named: of any)."""
        if branch not in self.tree:
            return any(_asks(touch, action) for touch in self._of(who))
        run = self.tree.branch(branch)
        return self._at(self._of(who), action, range(run.start, run.stop), types)

    def about(self, action: str) -> bool:
        """For anybody, wherever: told soonest."""
        if action not in self._about:
            self._about[action] = any(_asks(touch, action) for touch in self._touches)
        return self._about[action]

    @cached_property
    def _touches(self) -> Set[Touch]:
        return {touch for touches in set(self.touched.values()) for touch in touches}

    def _of(self, who: Who) -> Touches:
        return () if isinstance(who, MadeUp) else self.touched.get(who, ())

    def _at(self, touches: Touches, action: str, run: range, types: Set[str]) -> bool:
        key = touches, action, run, types
        if key not in self._known:
            self._known[key] = any(self._may(touch, action, run, types) for touch in touches)
        return self._known[key]

    def _may(self, touch: Touch, action: str, run: range, types: Set[str]) -> bool:
        if action not in touch.actions and not (action in PART_ACTIONS and _asks(touch, action)):
            return False
        here, kinds = slice(run.start, run.stop), _kinds(touch, action)
        wanted = [(kinds is None or kind in kinds) and (not types or kind[0] in types) for kind in self.tree.node_kinds]
        there = np.array(wanted, dtype=bool)[self.tree.kinds[here]]
        return bool(np.any(there if touch.where is None else there & touch.where[here]))


_OF_FIELDS = {"see-field", "change-field"}


def _asks(touch: Touch, action: str) -> bool:
    """Whether a touch is about an action at all, of whatever: a node, a profile, or neither."""
    if action in _OF_FIELDS or action == "fill-field":
        return bool(touch.profiles or _types(touch, action))
    if action in PART_ACTIONS:
        return touch.components or "edit" in touch.actions
    return action in touch.actions or action in touch.plain or action in touch.profiles


def _kinds(touch: Touch, action: str) -> Set[NodeKind] | None:
    """The kinds of node for which a touch is about an action; None: any."""
    if action in _OF_FIELDS or action == "fill-field":
        return {(type, published) for type in _types(touch, action) for published in (True, False)}
    if action in PART_ACTIONS:
        return None if touch.components else touch.kinds.get("edit")
    return touch.kinds.get(action)


def _types(touch: Touch, action: str) -> Set[str]:
    return touch.fields if action in _OF_FIELDS else touch.filled
