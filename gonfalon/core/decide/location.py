"""Where a question's node is: by its position in a tree, or by the path that it brings along (§3, §4).

Both tell the same: which branches hold the node, and which limits are in force there. A position needs the tree and
answers from intervals of it; a path needs nothing, and walks up.
"""

from collections.abc import Iterable
from functools import cached_property

from gonfalon.core.decide.limits import InForce, LimitIndex, LimitIntervals
from gonfalon.core.model.policy import Scope, Subject
from gonfalon.core.model.tree import Node, Target, Tree
from gonfalon.core.model.vocabulary import PROFILE, Effect


class Branches:
    """Some branches, as the ids of their tops and as spans of positions in a tree."""

    def __init__(self, ids: frozenset[str], tree: Tree) -> None:
        self.ids, self._tree = ids, tree

    @cached_property
    def spans(self) -> tuple[tuple[int, int], ...]:
        """From the first position of each branch to the one after its last, ascending."""
        slices = [self._tree.branch(id) for id in self.ids if id in self._tree]
        return tuple(sorted((s.start, s.stop) for s in slices))


class BarredBranches:
    """The branches with a bar on their top for any of some subjects, whatever the action."""

    def __init__(self, subjects: Iterable[Subject], limits: LimitIndex) -> None:
        self.nodes, self._limits = limits.nodes_with_bars(subjects), limits

    @cached_property
    def intervals(self) -> LimitIntervals:
        """The same along the tree."""
        return self._limits.branches_of(self.nodes)


class LimitedSubjects:
    """Those of some subjects that limits name, with the intervals of each action once it is asked about."""

    __slots__ = ("_by_action", "_limits", "subjects")

    def __init__(self, subjects: tuple[Subject, ...], limits: LimitIndex) -> None:
        self.subjects, self._limits = subjects, limits
        self._by_action: dict[str, tuple[LimitIntervals, ...]] = {}

    def intervals(self, action: str) -> tuple[LimitIntervals, ...]:
        """Where in the tree an action is stopped or barred for each of them that it is for anywhere."""
        found = self._by_action.get(action)
        if found is None:
            every = (self._limits.intervals(subject, action) for subject in self.subjects)
            found = self._by_action[action] = tuple(each for each in every if each is not None)
        return found

    def forces(self, effect: Effect, action: str, at: "Location") -> list[tuple[Subject, InForce]]:
        """Each of them for whom a limit of an effect is in force, with the limits that make it so."""
        each = ((subject, self._limits.in_force(subject, action, at)) for subject in self.subjects)
        return [(subject, force) for subject, force in each if force.effect is effect]

    def narrows(self, effect: Effect, action: str, at: "PathLocation") -> bool:
        """The same as yes or no, walking up a path."""
        return any(self._limits.in_force(subject, action, at).effect is effect for subject in self.subjects)


class TreeLocation:
    """A node of a tree, or, with no `id`, one about to be made beneath the node at `position`."""

    __slots__ = ("_above", "_tree", "author", "id", "position", "published", "site", "topics", "tree", "type")
    profile = False

    def __init__(self, position: int, tree: Tree) -> None:
        node: Node = tree.nodes[position]
        self.position, self._tree, self._above = position, tree, node.id
        self.id: str | None = node.id
        self.type, self.tree, self.site = node.type, node.tree, node.site
        self.author, self.topics, self.published = node.author, node.topics, node.state == "published"

    def child(self, type: str, topics: frozenset[str]) -> "TreeLocation":
        """A node of a type about to be made beneath this one."""
        new = TreeLocation(self.position, self._tree)
        new.id, new.type, new.author, new.topics, new.published = None, type, None, topics, False
        return new

    @property
    def path(self) -> tuple[str, ...]:
        """From the root to the node, or to the one it is to be made beneath."""
        return self._tree.path(self._above)

    def within(self, branches: Branches) -> bool:
        """Whether it lies in any of some branches."""
        position = self.position
        for start, end in branches.spans:  # noqa: SIM110 (asked all the time; any() takes twice as long)
            if start <= position < end:
                return True
        return False

    def narrowed(self, limited: LimitedSubjects, effect: Effect, action: str) -> bool:
        """Whether a limit of this effect is in force for any of the subjects."""
        for intervals in limited.intervals(action):  # noqa: SIM110 (as above)
            if intervals.at(self.position, effect):
                return True
        return False

    def on_barred_branch(self, bars: "BarredBranches") -> bool:
        """Whether it lies on a branch with some bar on it, for any action: else no limit needs a look."""
        return bool(bars.intervals.at(self.position, Effect.BAR))


class PathLocation:
    """A node, one about to be made, or a profile, with the path it brings along."""

    __slots__ = ("author", "id", "path", "profile", "published", "site", "topics", "tree", "type")

    def __init__(self, target: Target) -> None:
        self.id, self.path, self.type, self.tree, self.site = (
            target.id,
            target.path,
            target.type,
            target.tree,
            target.site,
        )
        self.author, self.topics, self.published = target.author, target.topics, target.state == "published"
        self.profile = target.type == PROFILE

    def within(self, branches: Branches) -> bool:
        """Whether it lies in any of some branches."""
        return not branches.ids.isdisjoint(self.path)

    def narrowed(self, limited: LimitedSubjects, effect: Effect, action: str) -> bool:
        """Whether a limit of this effect is in force for any of the subjects."""
        return limited.narrows(effect, action, self)

    def on_barred_branch(self, bars: "BarredBranches") -> bool:
        """Whether it lies on a branch with some bar on it, for any action."""
        return not bars.nodes.isdisjoint(self.path)


Location = TreeLocation | PathLocation


class CompiledScope:
    """A scope that restricts something, ready to be held beside locations (§3)."""

    __slots__ = ("branches", "sites", "topics", "types")

    def __init__(self, scope: Scope, tree: Tree) -> None:
        self.branches = None if scope.branches is None else Branches(scope.branches, tree)
        self.sites, self.types, self.topics = scope.sites, scope.types, scope.topics

    def covers(self, at: Location) -> bool:
        """Whether a location lies within it."""
        return (
            (self.branches is None or at.within(self.branches))
            and (self.sites is None or at.site in self.sites)
            and (self.types is None or at.type in self.types)
            and (self.topics is None or not self.topics.isdisjoint(at.topics))
        )
