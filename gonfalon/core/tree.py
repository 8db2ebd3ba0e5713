"""Nodes as arrays in preorder, so that a branch is a slice and ancestry needs no walk.

tree = Tree.build(nodes)
tree.target("loft").path      # ("root", "pier-3", "loft")
tree.ids[tree.branch("root")] # the root and everything beneath it
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.vocabulary import PROFILE


@dataclass(frozen=True, slots=True)
class Node:
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

    @property
    def profile(self) -> bool:
        return self.type == PROFILE

    @property
    def ancestors(self) -> tuple[str, ...]:
        return self.path if self.id is None else self.path[:-1]

    def child(self, type: str, topics: frozenset[str] = frozenset()) -> "Target":
        """A node of `type` that does not exist yet, under this one."""
        return Target(None, self.path, type, self.tree, self.site, None, None, topics)

    def with_topics(self, topics: frozenset[str]) -> "Target":
        return replace(self, topics=topics)


def profile(account: str) -> Target:
    """The profile of an account: its own author, in no tree (§5)."""
    return Target(account, (), PROFILE, author=account)


class Tree:
    """All nodes of both trees, in preorder."""

    def __init__(self, nodes: Sequence[Node], ends: NDArray[np.intp]) -> None:
        self.nodes = nodes
        self.ends = ends
        self.index = {node.id: i for i, node in enumerate(nodes)}

    @classmethod
    def build(cls, nodes: Iterable[Node]) -> "Tree":
        """Order nodes given in any order; children keep the order in which they come.

        Every parent named must be among the nodes, and parents must not form a cycle.
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

    def __len__(self) -> int:
        return len(self.nodes)

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

    def path(self, id: str) -> tuple[str, ...]:
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

    @cached_property
    def parents(self) -> NDArray[np.intp]:
        """The position of each node's parent, -1 at a root."""
        return np.array([-1 if n.parent is None else self.index[n.parent] for n in self.nodes], dtype=np.intp)

    @cached_property
    def sites(self) -> NDArray[np.object_]:
        return np.array([n.site for n in self.nodes], dtype=object)

    @cached_property
    def trees(self) -> NDArray[np.object_]:
        return np.array([n.tree for n in self.nodes], dtype=object)

    @cached_property
    def published(self) -> NDArray[np.bool_]:
        return np.array([n.state == "published" for n in self.nodes], dtype=bool)

    @cached_property
    def type_names(self) -> tuple[str, ...]:
        return tuple(sorted({n.type for n in self.nodes}))

    @cached_property
    def types(self) -> NDArray[np.intp]:
        """Each node's type as a position in `type_names`."""
        code = {name: i for i, name in enumerate(self.type_names)}
        return np.array([code[n.type] for n in self.nodes], dtype=np.intp)

    @cached_property
    def authors(self) -> NDArray[np.object_]:
        return np.array([n.author for n in self.nodes], dtype=object)

    def having_topic(self, topics: frozenset[str]) -> NDArray[np.bool_]:
        return np.array([not topics.isdisjoint(n.topics) for n in self.nodes], dtype=bool)


EMPTY_TREE = Tree([], np.array([], dtype=np.intp))
