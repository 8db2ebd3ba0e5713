"""The limit in force for a subject and an action, on one target or on a whole tree (§4).

Stops and bars add up from above; only a lift ends what comes from further up; a lift beside a stop
or bar on one node does nothing.
"""

from bisect import bisect_right
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from gonfalon.core.policy import Limit, Subject
from gonfalon.core.tree import EMPTY_TREE, Target, Tree
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
    """All limits, found by subject and node; those on nodes of a tree also as steps along it."""

    def __init__(self, limits: Iterable[Limit], tree: Tree = EMPTY_TREE) -> None:
        self.tree = tree
        self._steps: dict[tuple[Subject, str], Steps | None] = {}
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

    def limited(self, subject: Subject) -> bool:
        """Whether any limit names the subject."""
        return subject in self._by_subject

    def bars(self, subject: Subject) -> bool:
        """Whether a limit bars something for the subject somewhere."""
        limits = self._by_subject.get(subject, {}).values()
        return any(limit.effect is Effect.BAR for here in limits for limit in here)

    def on_nodes_for(self, subject: Subject) -> Mapping[str, list[Limit]]:
        """The limits on a subject, by the nodes of the tree they are on."""
        limits = self._by_subject.get(subject, {})
        return {node: here for node, here in limits.items() if node in self.tree}

    def near_bars(self, subjects: Iterable[Subject]) -> "Steps":
        """1 on every branch with a bar for any of the subjects on it, 0 elsewhere: where bars need a look."""
        barred = {
            node
            for subject in subjects
            for node, here in self._by_subject.get(subject, {}).items()
            if node in self.tree and any(limit.effect is Effect.BAR for limit in here)
        }
        steps, done = Steps(), 0
        for i in sorted(self.tree.index[node] for node in barred):
            if i >= done:
                done = int(self.tree.ends[i])
                steps.put(i, 1)
                steps.put(done, 0)
        return steps

    def steps(self, subject: Subject, action: str) -> "Steps | None":
        """What is in force at every node of the tree; None when nothing is anywhere.

        For `create`, what would be in force for a new child of each node.
        """
        limits = self._by_subject.get(subject)
        if not limits:
            return None
        key = (subject, action)
        if key not in self._steps:
            self._steps[key] = self._along(limits, action)
        return self._steps[key]

    def _along(self, limits: Mapping[str, list[Limit]], action: str) -> "Steps | None":
        tree = self.tree
        steps = Steps()
        above: list[tuple[int, int]] = []
        flow = NOTHING
        for i in sorted(tree.index[node] for node in limits if node in tree):
            while above and above[-1][0] <= i:
                end, flow = above.pop()
                steps.put(end, flow)
            met = [k for k in limits[tree.nodes[i].id] if k.matches(action)]
            below = _meet([k for k in met if k.applies in _BELOW], flow)
            here = below if action == "create" else _meet([k for k in met if k.applies in _HERE], flow)
            above.append((int(tree.ends[i]), flow))
            steps.put(i, here)
            steps.put(i + 1, below)
            flow = below
        for end, flow in reversed(above):
            steps.put(end, flow)
        return steps if any(steps.values) else None


class Steps:
    """NOTHING, STOP or BAR at each position of a tree in preorder: a value holds until the next begins."""

    __slots__ = ("starts", "values")

    def __init__(self) -> None:
        self.starts = [0]
        self.values = [NOTHING]

    def put(self, start: int, value: int) -> None:
        """From `start`, no earlier than any before it, `value` holds."""
        if self.starts[-1] == start:
            self.values[-1] = value
        elif self.values[-1] != value:
            self.starts.append(start)
            self.values.append(value)

    def at(self, position: int) -> int:
        return self.values[bisect_right(self.starts, position) - 1]


def _meet(met: list[Limit], above: int) -> int:
    """What is in force at a node given the limits met there and what comes from above."""
    effects = {k.effect for k in met}
    if Effect.BAR in effects:
        return BAR
    if Effect.STOP in effects:
        return max(STOP, above)
    return NOTHING if Effect.LIFT in effects else above
