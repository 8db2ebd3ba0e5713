"""The limit in force for a subject and an action, on one target or on a whole tree (§4).

Stops and bars add up from above; only a lift ends what comes from further up; a lift beside a stop
or bar on one node does nothing.
"""

from bisect import bisect_right
from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.tree import EMPTY_TREE, Target, Tree
from gonfalon.core.model.vocabulary import Effect

_HERE = ("node", "branch")
_BELOW = ("beneath", "branch")


class InForce(NamedTuple):
    """A stop, a bar or nothing, and the limits that make it so."""

    effect: Effect | None
    limits: tuple[str, ...] = ()


_NONE = InForce(None)


class LimitIndex:
    """All limits, found by subject and node; those on nodes of a tree also as steps along it.

    Made `like` another over the same tree, it asks that one about subjects with the same limits.
    """

    def __init__(self, limits: Iterable[Limit], tree: Tree = EMPTY_TREE, previous: "LimitIndex | None" = None) -> None:
        self.tree = tree
        self._steps: dict[tuple[Subject, str], LimitIntervals | None] = {}
        self._along: dict[Subject, LimitIntervals] = {}
        self._bits = {"create": 0}
        self._by_subject: dict[Subject, dict[str, list[Limit]]] = {}
        self.subjects: dict[Effect, set[Subject]] = {effect: set() for effect in Effect}
        """Those that limits of each effect name."""
        for limit in limits:
            for action in limit.actions or ():
                self._bits.setdefault(action, len(self._bits))
            self.subjects[limit.effect].add(limit.to)
            self._by_subject.setdefault(limit.to, {}).setdefault(limit.node, []).append(limit)
        self._previous = (
            previous if previous and previous.tree.same_places(tree) and previous._bits == self._bits else None
        )

    def detach(self) -> None:
        """Ask the index this one was made like no more, but take over what it knows; others may be asking meanwhile."""
        previous, self._previous = self._previous, None
        if previous is not None:
            self._along = {
                s: along for s, along in previous._along.copy().items() if self._as_in(previous, s)
            } | self._along

    def _as_in(self, previous: "LimitIndex", subject: Subject) -> bool:
        return previous._by_subject.get(subject) == self._by_subject.get(subject)

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

    @property
    def named(self) -> Iterable[Subject]:
        """Whoever a limit names."""
        return self._by_subject.keys()

    def limited(self, subject: Subject) -> bool:
        """Whether any limit names the subject."""
        return subject in self._by_subject

    def bars(self, subject: Subject) -> bool:
        """Whether a limit bars something for the subject somewhere."""
        return subject in self.subjects[Effect.BAR]

    def near_bars(self, subjects: Iterable[Subject]) -> "LimitIntervals":
        """Barred on every branch with a bar for any of the subjects on it: where bars need a look."""
        barred = {
            node
            for subject in subjects
            for node, here in self._by_subject.get(subject, {}).items()
            if node in self.tree and any(limit.effect is Effect.BAR for limit in here)
        }
        steps, done = LimitIntervals(), 0
        for i in sorted(self.tree.index[node] for node in barred):
            if i >= done:
                done = int(self.tree.ends[i])
                steps.put(i, 0, 1)
                steps.put(done, 0, 0)
        return steps

    def steps(self, subject: Subject, action: str) -> "LimitIntervals | None":
        """What is in force for an action at every node of the tree; None when nothing is anywhere.

        For `create`, what would be in force for a new child of each node.
        """
        key = (subject, action)
        if key not in self._steps:
            along, bit = self.along(subject), self.bit(action)
            steps = along.only(lambda bits: bits >> bit & 1) if along is not None else None
            self._steps[key] = steps if steps is not None and (any(steps.stops) or any(steps.bars)) else None
        return self._steps[key]

    def bit(self, action: str) -> int:
        """The bit of an action in what `along` tells: one for all those that no limit names."""
        return self._bits.get(action, len(self._bits))

    def along(self, subject: Subject) -> "LimitIntervals | None":
        """What is in force for every action, each a bit, at every node of the tree; None when no limit names it.

        `create` makes a node that is not there yet, so that each node counts as an ancestor.
        """
        if subject not in self._by_subject:
            return None
        if subject not in self._along:
            previous = self._previous
            known = previous.along(subject) if previous is not None and self._as_in(previous, subject) else None
            self._along[subject] = known or self._walked(self._by_subject[subject])
        return self._along[subject]

    def _walked(self, by_node: Mapping[str, list[Limit]]) -> "LimitIntervals":
        tree, steps, new = self.tree, LimitIntervals(), 1 << self._bits["create"]
        above: list[tuple[int, int, int]] = []
        stops = bars = 0
        for i in sorted(tree.index[node] for node in by_node if node in tree):
            while above and above[-1][0] <= i:
                end, stops, bars = above.pop()
                steps.put(end, stops, bars)
            met = [(limit, self._matched(limit)) for limit in by_node[tree.nodes[i].id]]
            below = _meet(((k, bits) for k, bits in met if k.applies in _BELOW), stops, bars)
            here = _meet(((k, bits) for k, bits in met if k.applies in _HERE), stops, bars)
            above.append((int(tree.ends[i]), stops, bars))
            steps.put(i, here[0] & ~new | below[0] & new, here[1] & ~new | below[1] & new)
            steps.put(i + 1, *below)
            stops, bars = below
        for end, stops, bars in reversed(above):
            steps.put(end, stops, bars)
        return steps

    def _matched(self, limit: Limit) -> int:
        if limit.actions is None:
            return (2 << len(self._bits)) - 1
        return sum(1 << self._bits[action] for action in limit.actions)


class LimitIntervals:
    """The actions stopped, and those barred, along a tree in preorder: each a number with a bit an action.

    What begins at one of `starts` holds until the next begins. Where an action is both, it is barred.
    """

    __slots__ = ("bars", "starts", "stops")

    def __init__(self) -> None:
        self.starts, self.stops, self.bars = [0], [0], [0]

    def put(self, start: int, stops: int, bars: int) -> None:
        """From `start`, no earlier than any before it, these hold."""
        if self.starts[-1] == start:
            self.stops[-1], self.bars[-1] = stops, bars
        elif (self.stops[-1], self.bars[-1]) != (stops, bars):
            self.starts.append(start)
            self.stops.append(stops)
            self.bars.append(bars)

    def only(self, part: Callable[[int], int]) -> "LimitIntervals":
        """The same of a part of the actions."""
        steps = LimitIntervals()
        for start, stops, bars in zip(self.starts, self.stops, self.bars, strict=True):
            steps.put(start, part(stops), part(bars))
        return steps

    def of(self, effect: Effect) -> list[int]:
        """What is stopped, or barred, from each of `starts` on."""
        return self.bars if effect is Effect.BAR else self.stops

    def at(self, position: int, effect: Effect) -> int:
        """What is stopped, or barred, at one position."""
        return self.of(effect)[bisect_right(self.starts, position) - 1]


def _meet(met: Iterable[tuple[Limit, int]], stops: int, bars: int) -> tuple[int, int]:
    """The actions stopped and barred at a node, given the limits there and what comes from above."""
    stopping = barring = lifting = 0
    for limit, bits in met:
        if limit.effect is Effect.STOP:
            stopping |= bits
        elif limit.effect is Effect.BAR:
            barring |= bits
        else:
            lifting |= bits
    lifted = lifting & ~stopping & ~barring
    return stopping | stops & ~lifted, barring | bars & ~lifted
