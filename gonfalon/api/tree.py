"""Parts of a tree, asked for as somebody opens it: what stands under a node, the way to one, what is found by words.

    class DeskChildrenView(DeskRows, Children): ...     # DeskRows says who may ask, and how a row looks

Only what is in sight is told, with what is above it by name. No query beyond the version of the nodes: what is asked
lies in memory, and the rules answer for all rows of one request together.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import chain, islice
from typing import Any

from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, tree_asked
from gonfalon.api.paging import paged
from gonfalon.api.problems import NotFound
from gonfalon.content.nodes import InSight
from gonfalon.core.model.tree import Tree

MOST_FOUND = 200


class RowShape(serializers.Serializer):
    """A node one may see, or (`context`) one above it, told by name alone."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    type = serializers.CharField(allow_null=True)
    state = serializers.CharField(allow_null=True)
    context = serializers.BooleanField()
    branch = serializers.BooleanField(help_text="Whether anything in sight stands under it.")
    found = serializers.BooleanField(help_text="Whether it is what was asked for, not what is above that.")


class Part(GuardedView):
    """Says how a row looks, and who may ask; the classes below say which rows there are."""

    @property
    def sight(self) -> InSight:
        """What may be told of the tree."""
        return self.viewpoint.in_sight

    def wanted(self, request: Request) -> str:
        """The tree that is asked for."""
        return tree_asked(self.viewpoint, request)

    def rows(self, request: Request, positions: Sequence[int]) -> list[dict[str, Any]]:
        """A row for each of some nodes, by their positions in the tree."""
        raise NotImplementedError

    def part(self, request: Request, positions: Sequence[int], found: frozenset[int] = frozenset()) -> Response:
        def rows(some: Sequence[int]) -> list[dict[str, Any]]:
            return [self._row(i, i in found) | more for i, more in zip(some, self.rows(request, some), strict=True)]

        return paged(request, positions, rows)

    def children(self, position: int | None = None) -> Iterator[int]:
        """The nodes in sight just beneath one, or at the top."""
        tree, named = self.viewpoint.nodes.tree, self.sight.named
        return (i for i in tree.children(position) if tree.nodes[i].id in named)

    def position(self, node: str) -> int:
        """Where a node lies in the tree. Raises NotFound for one out of sight."""
        if node not in self.sight.named:
            raise NotFound
        return self.viewpoint.nodes.tree.index[node]

    def _row(self, i: int, found: bool) -> dict[str, Any]:
        nodes, whole = self.viewpoint.nodes, bool(self.sight.whole[i])
        node = nodes.tree.nodes[i]
        return {
            "id": node.id,
            "parent": node.parent,
            "title": nodes.titles[node.id],
            "type": node.type if whole else None,
            "state": node.state if whole else None,
            "context": not whole,
            "branch": any(True for _ in self.children(i)),
            "found": found,
        }


class Children(Part):
    """What stands under a node, or without one at the top of a tree."""

    def get(self, request: Request, node: str | None = None) -> Response:
        if node is None:
            wanted, tree = self.wanted(request), self.viewpoint.nodes.tree
            return self.part(request, [i for i in self.children() if tree.nodes[i].tree == wanted])
        return self.part(request, list(self.children(self.position(node))))


class Way(Part):
    """All that is listed once everything above a node stands open."""

    def get(self, request: Request, node: str) -> Response:
        tree, at = self.viewpoint.nodes.tree, self.position(node)
        listed = [i for i in self.children() if tree.nodes[i].tree == tree.nodes[at].tree]
        for above in tree.path(node)[:-1]:
            listed.extend(self.children(tree.index[above]))
        return self.part(request, sorted(listed))


class Found(Part):
    """The first nodes whose titles hold some words, or those of some ids, with what is above each."""

    def found(self, request: Request) -> Iterator[int]:
        """Positions of what is asked for."""
        nodes, sight, asked = self.viewpoint.nodes, self.sight, request.query_params
        if ids := asked.getlist("id"):
            yield from (nodes.tree.index[id] for id in ids if id in sight.named)
            return
        wanted, tree = self.wanted(request), nodes.tree
        words, type = asked.get("words", "").strip().lower(), asked.get("type")
        places: Iterable[int] = range(len(tree))
        low = nodes.low_titles
        if under := asked.getlist("under"):
            branches = [tree.branch(id) for id in under if id in sight.named]
            places = chain.from_iterable(range(branch.start + 1, branch.stop) for branch in branches)
        fits = (
            i
            for i in places
            if words in low[i]
            and tree.nodes[i].tree == wanted
            and tree.nodes[i].id in sight.named
            and (not type or (tree.nodes[i].type == type and sight.whole[i]))
        )
        yield from islice(fits, MOST_FOUND)

    def get(self, request: Request) -> Response:
        found = frozenset(self.found(request))
        return self.part(request, _with_above(self.viewpoint.nodes.tree, found), found)


def _with_above(tree: Tree, positions: Iterable[int]) -> list[int]:
    """Some nodes with all that is above them, in the order of the tree."""
    kept = set[int]()
    for position in positions:
        step: int | None = position
        while step is not None and step not in kept:
            kept.add(step)
            parent = tree.nodes[step].parent
            step = tree.index[parent] if parent is not None else None
    return sorted(kept)
