"""The limit in force for a subject and an action, on one target or on a whole tree (§4).

Stops and bars add up from above; only a lift ends what comes from further up; a lift beside a stop
or bar on one node does nothing.
"""

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.policy import Limit, Subject
from gonfalon.core.tree import Target, Tree
from gonfalon.core.vocabulary import Effect

_HERE = ("node", "branch")
_BELOW = ("beneath", "branch")

NOTHING, STOP, BAR = 0, 1, 2


class InForce(NamedTuple):
    """A stop, a bar or nothing, and the limits that make it so."""

    effect: Effect | None
    limits: tuple[str, ...] = ()


_NONE = InForce(None)


class LimitIndex:
    """All limits, found by subject and node."""

    def __init__(self, limits: Iterable[Limit]) -> None:
        self._by_subject: dict[Subject, dict[str, list[Limit]]] = {}
        for limit in limits:
            self._by_subject.setdefault(limit.to, {}).setdefault(limit.node, []).append(limit)

    def in_force(self, subject: Subject, action: str, target: Target) -> InForce:
        """Walk from the target up to its root, as §4 tells."""
        limits = self._by_subject.get(subject)
        if not limits:
            return _NONE
        stops: list[str] = []
        for node in reversed(target.path):
            if node not in limits:
                continue
            applying = _HERE if node == target.id else _BELOW
            met = [k for k in limits[node] if k.applies in applying and k.matches(action)]
            bars = tuple(k.id for k in met if k.effect is Effect.BAR)
            if bars:
                return InForce(Effect.BAR, bars)
            stopping = [k.id for k in met if k.effect is Effect.STOP]
            stops += stopping
            if met and not stopping:
                break
        return InForce(Effect.STOP, tuple(stops)) if stops else _NONE

    def over(self, subject: Subject, action: str, tree: Tree, *, children: bool) -> NDArray[np.int8] | None:
        """What is in force at every node, as NOTHING, STOP or BAR; None when nothing is anywhere.

        With `children`, what would be in force for a new child of each node.
        """
        limits = self._by_subject.get(subject)
        if not limits:
            return None
        flow = np.zeros(len(tree), dtype=np.int8)
        exact: dict[int, np.int8] = {}
        for i in sorted(tree.index[node] for node in limits if node in tree):
            node, above = tree.nodes[i].id, flow[i]
            below = _meet([k for k in limits[node] if k.applies in _BELOW and k.matches(action)], above)
            if children:
                exact[i] = below
            else:
                exact[i] = _meet([k for k in limits[node] if k.applies in _HERE and k.matches(action)], above)
            flow[i + 1 : int(tree.ends[i])] = below
        for i, force in exact.items():
            flow[i] = force
        return flow


def _meet(met: list[Limit], above: np.int8) -> np.int8:
    """What is in force at a node given the limits met there and what comes from above."""
    effects = {k.effect for k in met}
    if Effect.BAR in effects:
        return np.int8(BAR)
    if Effect.STOP in effects:
        return max(np.int8(STOP), above)
    return np.int8(NOTHING) if Effect.LIFT in effects else above
