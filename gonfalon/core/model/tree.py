"""Nodes as arrays in preorder, so that a branch is a slice and ancestry needs no walk.

tree = Tree.build(nodes)
tree.target("loft").path      # ("root", "pier-3", "loft")
tree.ids[tree.branch("root")] # the root and everything beneath it
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field, replace
from functools import cached_property
from operator import attrgetter
from typing import Any, Literal, NamedTuple, get_args

import numpy as np

from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.vocabulary import PROFILE

Column = Literal["site", "tree", "topics"]


class Node(NamedTuple):
    """A place in a tree, as the rules see it (§1)."""

    id: str
    parent: str | None
    tree: str
    site: str
    type: str
    author: str | None = None
    state: str = "published"
    topics: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Target:
    """What a question is about: a node, a node about to be made (`id` None), or a profile.

    `path` runs from the root to the node itself; for a node about to be made it ends with the
    future parent, which is all the rules ask (§3, §4).
    """

    id: str | None
    path: tuple[str, ...]
    type: str
    tree: str | None = None
    site: str | None = None
    author: str | None = None
    state: str | None = None
    topics: frozenset[str] = frozenset()
    leaf: bool = field(default=False, compare=False)
    """Whether it is known that nothing is beneath it, so that no tree is needed to ask about that."""

    @property
    def profile(self) -> bool:
        """Whether it is the profile of an account."""
        return self.type == PROFILE

    @property
    def ancestors(self) -> tuple[str, ...]:
        """The ids above it, from the root down; for a node about to be made, its future parent is the last."""
        return self.path if self.id is None else self.path[:-1]

    def child(self, type: str, topics: frozenset[str] = frozenset()) -> "Target":
        """A node of `type` that does not exist yet, under this one."""
        return Target(None, self.path, type, self.tree, self.site, None, None, topics)

    def working_copy(self) -> "Target":
        """What is asked about when a working copy is: of what is public, the same as a draft (§4)."""
        return replace(self, state="draft") if self.state == "published" else self

    def with_topics(self, topics: frozenset[str]) -> "Target":
        """The same node as it would be with other topics."""
        return replace(self, topics=topics)


def profile(account: str) -> Target:
    """The profile of an account: its own author, in no tree (§5)."""
    return Target(account, (), PROFILE, author=account)


class Tree:
    """All nodes of both trees, in preorder."""

    def __init__(self, nodes: Sequence[Node], ends: Ints) -> None:
        self.nodes = nodes
        self.ends = ends
        self.index = {node.id: i for i, node in enumerate(nodes)}
        self._matching_type: dict[frozenset[str], Bools] = {}
        self._matching_topic: dict[frozenset[str], Bools] = {}

    @classmethod
    def build(cls, nodes: Iterable[Node]) -> "Tree":
        """Order nodes given in any order; children keep the order in which they come.

        Nodes whose parent is not among them, or that are beneath themselves, are left out.
        """
        children: dict[str | None, list[Node]] = {}
        for node in nodes:
            children.setdefault(node.parent, []).append(node)
        ordered: list[Node] = []
        ends: list[int] = []
        stack: list[Node | int] = list(reversed(children.get(None, [])))
        while stack:
            item = stack.pop()
            if isinstance(item, int):
                ends[item] = len(ordered)
                continue
            stack.append(len(ordered))
            ordered.append(item)
            ends.append(0)
            stack.extend(reversed(children.get(item.id, [])))
        return cls(ordered, np.array(ends, dtype=np.intp))

    @classmethod
    def in_order(cls, nodes: Sequence[Node]) -> "Tree":
        """The tree of nodes that come in preorder already: in one pass. Raises ValueError where one does not."""
        ends = np.full(len(nodes), len(nodes), dtype=np.intp)
        above: list[tuple[str, int]] = []
        for i, node in enumerate(nodes):
            while above and above[-1][0] != node.parent:
                ends[above.pop()[1]] = i
            if not above and node.parent is not None:
                raise ValueError(node.id)
            above.append((node.id, i))
        return cls(nodes, ends)

    def with_states(self, states: Mapping[str, str]) -> "Tree":
        """The same nodes, some of them in other states, by id: all that does not rest on states is shared."""
        tree, nodes, published = copy(self), list(self.nodes), self.published.copy()
        for id, state in states.items():
            i = self.index[id]
            nodes[i] = nodes[i]._replace(state=state)
            published[i] = state == "published"
        tree.nodes, tree.published, tree.kinds = nodes, published, (self.kinds & ~1) + ~published
        return tree

    def with_authors(self, authors: Mapping[str, str | None]) -> "Tree":
        """The same places with other authors of some nodes, by id; what is not in the tree is left out."""
        tree, nodes = copy(self), list(self.nodes)
        for id, author in authors.items():
            if id in self.index:
                nodes[self.index[id]] = nodes[self.index[id]]._replace(author=author)
        tree.nodes = nodes
        for kept in ("_authors", "_works"):
            tree.__dict__.pop(kept, None)
        return tree

    def reauthored(self, other: "Tree") -> Ints | None:
        """The positions, ascending, of nodes with another author in another tree; None where more is different."""
        if len(self) != len(other):
            return None
        pairs = zip(self.nodes, other.nodes, strict=True)
        found = [i for i, (one, was) in enumerate(pairs) if one is not was and one != was]
        alike = all(self.nodes[i] == other.nodes[i]._replace(author=self.nodes[i].author) for i in found)
        return np.array(found, dtype=np.intp) if alike else None

    def same_places(self, other: "Tree") -> bool:
        """Whether one came from the other: they differ in nothing but states and authors."""
        return self.ends is other.ends

    def differing(self, other: "Tree") -> Ints:
        """The positions, ascending, where another tree with the same places has another node."""
        pairs = zip(self.nodes, other.nodes, strict=True)
        return np.array([i for i, (one, was) in enumerate(pairs) if one is not was], dtype=np.intp)

    def __len__(self) -> int:
        return len(self.nodes)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Tree) and set(self.nodes) == set(other.nodes)

    __hash__ = None  # type: ignore[assignment]

    def __contains__(self, id: object) -> bool:
        return id in self.index

    def branch(self, id: str) -> slice:
        """The node and everything beneath it, as a slice of preorder positions."""
        i = self.index[id]
        return slice(i, int(self.ends[i]))

    def beneath(self, id: str) -> Sequence[Node]:
        """Every node beneath `id`, itself left out."""
        i = self.index[id]
        return self.nodes[i + 1 : int(self.ends[i])]

    def children(self, position: int | None = None) -> Iterator[int]:
        """The positions of the nodes just beneath the one at a position, or at the top, in their order."""
        at, end = (0, len(self)) if position is None else (position + 1, int(self.ends[position]))
        while at < end:
            yield at
            at = int(self.ends[at])

    def path(self, id: str) -> tuple[str, ...]:
        """The ids from the root to a node, itself included. KeyError when there is no such node."""
        steps: list[str] = []
        step: str | None = id
        while step is not None:
            steps.append(step)
            step = self.nodes[self.index[step]].parent
        return tuple(reversed(steps))

    def target(self, id: str) -> Target:
        """The node as a question's target. KeyError when there is no such node."""
        node = self.nodes[self.index[id]]
        return Target(node.id, self.path(id), node.type, node.tree, node.site, node.author, node.state, node.topics)

    def _values(self, what: str) -> list[Any]:
        """What each node has of something, by its name."""
        return list(map(attrgetter(what), self.nodes))

    @cached_property
    def published(self) -> Bools:
        """`[nodes]` which nodes are published."""
        return np.array([state == "published" for state in self._values("state")], dtype=bool)

    @cached_property
    def type_names(self) -> tuple[str, ...]:
        """The types that occur, in order: `kinds` numbers them."""
        return tuple(sorted(set(self._values("type"))))

    @cached_property
    def kinds(self) -> Ints:
        """What makes nodes ask the same capabilities: twice the place in `type_names`, one more if not published."""
        code = {name: 2 * i for i, name in enumerate(self.type_names)}
        types = _numbers(map(code.__getitem__, self._values("type")), len(self))
        return types + ~self.published

    @cached_property
    def node_kinds(self) -> list[tuple[str, bool]]:
        """A type of node and whether it is published, by their numbers in `kinds`."""
        return [(name, published) for name in self.type_names for published in (True, False)]

    def codes(self, column: Column) -> Ints:
        """What each node has in a column, as its place among all the values there are."""
        return self._columns[column][1]

    def having(self, column: Literal["site", "tree"], values: frozenset[str]) -> Bools:
        """Which nodes have one of some sites or trees."""
        return self.matching(column, values)[self.codes(column)]

    def matching(self, column: Literal["site", "tree"], values: frozenset[str]) -> Bools:
        """Which values of a column, by their codes, are among some."""
        return np.array([value in values for value in self._columns[column][0]], dtype=bool)

    def matching_type(self, types: frozenset[str]) -> Bools:
        """Which of `type_names` are among some types."""
        if types not in self._matching_type:
            self._matching_type[types] = np.array([name in types for name in self.type_names], dtype=bool)
        return self._matching_type[types]

    def matching_topic(self, topics: frozenset[str]) -> Bools:
        """Which sets of topics, by their codes, hold at least one of some topics."""
        if topics not in self._matching_topic:
            sets = self._columns["topics"][0]
            self._matching_topic[topics] = np.array([not topics.isdisjoint(held) for held in sets], dtype=bool)
        return self._matching_topic[topics]

    @cached_property
    def _columns(self) -> dict[Column, tuple[list[Any], Ints]]:
        columns: dict[Column, tuple[list[Any], Ints]] = {}
        for column in get_args(Column):
            values = self._values(column)
            code = {value: i for i, value in enumerate(dict.fromkeys(values))}
            columns[column] = (list(code), _numbers(map(code.__getitem__, values), len(values)))
        return columns

    def by_author(self, id: str) -> Ints:
        """The positions of what somebody wrote, ascending."""
        order, edges = self._works
        number = self.authors.get(id)
        return order[:0] if number is None else order[edges[number] : edges[number + 1]]

    @property
    def authors(self) -> Mapping[str, int]:
        """A number for whoever wrote something."""
        return self._authors[0]

    @property
    def author_codes(self) -> Ints:
        """The number of each node's author; -1 where it has none."""
        return self._authors[1]

    @cached_property
    def _authors(self) -> tuple[dict[str, int], Ints]:
        """A number for each author, and that of each node."""
        authors = self._values("author")
        numbers = {author: i for i, author in enumerate(a for a in dict.fromkeys(authors) if a is not None)}
        return numbers, _numbers((-1 if author is None else numbers[author] for author in authors), len(self))

    @cached_property
    def _works(self) -> tuple[Ints, list[int]]:
        """All positions by the number of their author, and where the work of each begins there."""
        numbers, codes = self._authors
        order = np.argsort(codes, kind="stable")
        edges: list[int] = np.searchsorted(codes[order], np.arange(len(numbers) + 1)).tolist()
        return order, edges


def _numbers(numbers: Iterable[int], count: int) -> Ints:
    return np.fromiter(numbers, dtype=np.intp, count=count)


EMPTY_TREE = Tree([], np.array([], dtype=np.intp))
