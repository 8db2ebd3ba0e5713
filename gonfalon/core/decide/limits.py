"""The limit in force for a subject and an action, at one place or along a whole tree (§4).

    limits = LimitIndex(policy.limits.values(), tree)
    limits.in_force(Subject.role("writer"), "edit", tree.target("n2"))    # InForce(effect=Effect.STOP, limits=("l1",))
    limits.intervals_for(Subject.role("writer"))                          # the same at every node, for every action

Stops and bars add up from above; only a lift ends what comes from further up; a lift beside a stop or bar on one node
does nothing.
"""

from bisect import bisect_right
from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple, Protocol

from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.tree import EMPTY_TREE, Tree
from gonfalon.core.model.vocabulary import Effect

_HERE = ("node", "branch")
_BELOW = ("beneath", "branch")


class InForce(NamedTuple):
    """A stop, a bar or nothing (None), and the ids of the limits that make it so."""

    effect: Effect | None
    limits: tuple[str, ...] = ()


_NONE = InForce(None)


class OnPath(Protocol):
    """Something with a way up to its root: a node by its id, or, with no id, one about to be made."""

    @property
    def id(self) -> str | None: ...

    @property
    def path(self) -> tuple[str, ...]: ...


class LimitIndex:
    """All limits, found by subject and node; those on nodes of a tree also as intervals of its preorder.

    With a `previous` index over the same tree, the intervals of subjects with the same limits are taken over.
    """

    def __init__(self, limits: Iterable[Limit], tree: Tree = EMPTY_TREE, previous: "LimitIndex | None" = None) -> None:
        self.tree = tree
        self._intervals: dict[Subject, LimitIntervals] = {}
        self._of_action: dict[tuple[Subject, str], LimitIntervals | None] = {}
        self._bits = {"create": 0}
        self._by_subject: dict[Subject, dict[str, list[Limit]]] = {}
        self.subjects: dict[Effect, set[Subject]] = {effect: set() for effect in Effect}
        """Those that limits of each effect name."""
        for limit in limits:
            for action in limit.actions or ():
                self._bits.setdefault(action, len(self._bits))
            self.subjects[limit.effect].add(limit.to)
            self._by_subject.setdefault(limit.to, {}).setdefault(limit.node, []).append(limit)
        usable = previous is not None and previous.tree.same_places(tree) and previous._bits == self._bits
        self._previous = previous if usable else None

    def detach(self) -> None:
        """Take over what the previous index knows, and drop the reference to it, so that memory stays bounded.

        Other threads may be asking meanwhile.
        """
        previous, self._previous = self._previous, None
        if previous is not None:
            known = previous._intervals.copy()
            same = {subject: each for subject, each in known.items() if self._same_limits(previous, subject)}
            self._intervals = same | self._intervals

    def _same_limits(self, previous: "LimitIndex", subject: Subject) -> bool:
        return previous._by_subject.get(subject) == self._by_subject.get(subject)

    def in_force(self, subject: Subject, action: str, at: OnPath) -> InForce:
        """What is in force for a subject and an action at one place: walks up from it to its root (§4)."""
        limits = self._by_subject.get(subject)
        if not limits or limits.keys().isdisjoint(at.path):
            return _NONE
        stops: list[str] = []
        for node in reversed(at.path):
            if node not in limits:
                continue
            applying = _HERE if node == at.id else _BELOW
            matching = [k for k in limits[node] if k.applies in applying and k.matches(action)]
            bars = tuple(k.id for k in matching if k.effect is Effect.BAR)
            if bars:
                return InForce(Effect.BAR, bars)
            stopping = [k.id for k in matching if k.effect is Effect.STOP]
            stops += stopping
            if matching and not stopping:
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

    def nodes_with_bars(self, subjects: Iterable[Subject]) -> frozenset[str]:
        """The nodes with a bar on them for any of the subjects: beneath no other is one in force."""
        return frozenset(
            node
            for subject in subjects
            for node, here in self._by_subject.get(subject, {}).items()
            if any(limit.effect is Effect.BAR for limit in here)
        )

    def branches_of(self, nodes: Iterable[str]) -> "LimitIntervals":
        """The branches of some nodes as intervals: barred within, free outside."""
        intervals, done = LimitIntervals(), 0
        for i in sorted(self.tree.index[node] for node in nodes if node in self.tree):
            if i >= done:
                done = int(self.tree.ends[i])
                intervals.append(i, 0, 1)
                intervals.append(done, 0, 0)
        return intervals

    def intervals(self, subject: Subject, action: str) -> "LimitIntervals | None":
        """What is in force for one action at every node of the tree; None when nothing is anywhere.

        For `create`, what would be in force for a new child of each node.
        """
        key = (subject, action)
        if key not in self._of_action:
            every, bit = self.intervals_for(subject), self.bit(action)
            some = None if every is None else every.mapped(lambda bits: bits >> bit & 1)
            self._of_action[key] = some if some is not None and (any(some.stops) or any(some.bars)) else None
        return self._of_action[key]

    def bit(self, action: str) -> int:
        """Which bit stands for an action in `intervals_for`: one for all those that no limit names."""
        return self._bits.get(action, len(self._bits))

    def intervals_for(self, subject: Subject) -> "LimitIntervals | None":
        """What is in force for every action, each a bit, at every node of the tree; None when no limit names it.

        `create` makes a node that is not there yet, so that for it each node counts as an ancestor.
        """
        if subject not in self._by_subject:
            return None
        if subject not in self._intervals:
            previous, known = self._previous, None
            if previous is not None and self._same_limits(previous, subject):
                known = previous.intervals_for(subject)
            self._intervals[subject] = known or self._walked(self._by_subject[subject])
        return self._intervals[subject]

    def _walked(self, by_node: Mapping[str, list[Limit]]) -> "LimitIntervals":
        """The intervals of one subject, from its limits by node: once down the tree."""
        tree, intervals, create = self.tree, LimitIntervals(), 1 << self._bits["create"]
        above: list[tuple[int, int, int]] = []  # where each branch one is in ends, and what held before it
        stops = bars = 0
        for i in sorted(tree.index[node] for node in by_node if node in tree):
            while above and above[-1][0] <= i:
                end, stops, bars = above.pop()
                intervals.append(end, stops, bars)
            limits = [(limit, self._action_bits(limit)) for limit in by_node[tree.nodes[i].id]]
            below = _narrowed(((k, bits) for k, bits in limits if k.applies in _BELOW), stops, bars)
            here = _narrowed(((k, bits) for k, bits in limits if k.applies in _HERE), stops, bars)
            above.append((int(tree.ends[i]), stops, bars))
            # A new child of this node is beneath it: its bit comes from `below` already at the node itself.
            intervals.append(i, here[0] & ~create | below[0] & create, here[1] & ~create | below[1] & create)
            intervals.append(i + 1, *below)
            stops, bars = below
        for end, stops, bars in reversed(above):
            intervals.append(end, stops, bars)
        return intervals

    def _action_bits(self, limit: Limit) -> int:
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

    def append(self, start: int, stops: int, bars: int) -> None:
        """From `start`, no earlier than any before it, these hold."""
        if self.starts[-1] == start:
            self.stops[-1], self.bars[-1] = stops, bars
        elif (self.stops[-1], self.bars[-1]) != (stops, bars):
            self.starts.append(start)
            self.stops.append(stops)
            self.bars.append(bars)

    def mapped(self, part: Callable[[int], int]) -> "LimitIntervals":
        """The same intervals with their bits mapped, joined where two that follow each other come out equal."""
        intervals = LimitIntervals()
        for start, stops, bars in zip(self.starts, self.stops, self.bars, strict=True):
            intervals.append(start, part(stops), part(bars))
        return intervals

    def of(self, effect: Effect) -> list[int]:
        """What is stopped, or barred, from each of `starts` on."""
        return self.bars if effect is Effect.BAR else self.stops

    def at(self, position: int, effect: Effect) -> int:
        """What is stopped, or barred, at one position."""
        return self.of(effect)[bisect_right(self.starts, position) - 1]


def _narrowed(limits: Iterable[tuple[Limit, int]], stops: int, bars: int) -> tuple[int, int]:
    """The actions stopped and barred at a node, given the limits there and what comes from above."""
    stopping = barring = lifting = 0
    for limit, bits in limits:
        if limit.effect is Effect.STOP:
            stopping |= bits
        elif limit.effect is Effect.BAR:
            barring |= bits
        else:
            lifting |= bits
    lifted = lifting & ~stopping & ~barring
    return stopping | stops & ~lifted, barring | bars & ~lifted
