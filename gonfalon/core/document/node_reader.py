"""The nodes of a policy document, by far its longest list (§8).

A node with nothing wrong is taken in one look; any other is read key by key, so that all its faults
are told.
"""

from collections.abc import Container, Mapping
from operator import itemgetter
from typing import Any

from gonfalon.core.document.errors import Path, Validator, shown
from gonfalon.core.model.policy import NodeType
from gonfalon.core.model.tree import Node, Tree
from gonfalon.core.model.vocabulary import PROFILE, STATES, TREES

_REQUIRED = ("id", "tree", "site", "type", "state")
_KEYS = frozenset({*_REQUIRED, "parent", "author", "topics"})
_required = itemgetter(*_REQUIRED)
_NONE: frozenset[str] = frozenset()
_LONGEST_WAY = 20


class NodeReader:
    """Reads nodes that may name these types, accounts, sites and topics."""

    def __init__(
        self,
        check: Validator,
        types: Mapping[str, NodeType],
        accounts: Container[str],
        sites: Container[str],
        topics: Container[str],
    ) -> None:
        self.check, self.types, self.accounts, self.sites, self.topics = check, types, accounts, sites, topics
        self._topics: dict[tuple[str, ...], frozenset[str]] = {(): _NONE}

    def read(self, given: list[Any]) -> Tree:
        """The nodes as a tree. What is faulty is kept as far as it can be, so that others may name it."""
        nodes: dict[str, Node] = {}
        positions: dict[str, int] = {}
        quick = self._quick
        for i, said in enumerate(given):
            node = quick(said) or self._slow(said, ("nodes", i))
            if node is None:
                continue
            if node.id in nodes:
                self.check.fault(("nodes", i, "id"), f"there is another node with the id {shown(node.id)}")
            nodes[node.id] = node
            positions[node.id] = i
        self._placed(nodes, positions)
        tree = Tree.build(nodes.values())
        if len(tree) < len(nodes):
            tree = self._without_cycles(nodes, positions, tree)
        return tree

    def _quick(self, said: object) -> Node | None:
        """A node with nothing wrong, or None."""
        if type(said) is not dict:
            return None
        try:
            id, tree, site, type_, state = _required(said)
            parent, author, topics = said.get("parent"), said.get("author"), said.get("topics")
            optional = ("parent" in said) + ("author" in said) + ("topics" in said)
            if (
                len(said) != len(_REQUIRED) + optional
                or type(id) is not str
                or not id.isascii()
                or tree is None
                or self.types[type_].tree != tree
                or site not in self.sites
                or state not in STATES
                or (author is not None and author not in self.accounts)
                or (parent is not None and type(parent) is not str)
                or (topics is not None and type(topics) is not list)
            ):
                return None
            kept = self._topics[tuple(topics)] if topics else _NONE
        except (KeyError, TypeError):
            return None
        return Node(id, parent, tree, site, type_, author, state, kept)

    def _slow(self, given: object, path: Path) -> Node | None:
        check = self.check
        said = check.mapping(given, path, _KEYS, _REQUIRED)
        id = check.text(said["id"], (*path, "id")) if said and "id" in said else None
        if said is None:
            return None
        tree = check.word(said["tree"], (*path, "tree"), TREES) if "tree" in said else None
        site = check.known(said["site"], (*path, "site"), self.sites, "site") if "site" in said else None
        state = check.word(said["state"], (*path, "state"), STATES) if "state" in said else None
        type = self._type(said, tree, path)
        author = said.get("author")
        if author is not None:
            author = check.known(author, (*path, "author"), self.accounts, "account")
        parent = check.text(said["parent"], (*path, "parent")) if "parent" in said else None
        topics = check.some(said.get("topics"), (*path, "topics"), self.topics, "topic")
        listed = said.get("topics")
        if isinstance(listed, list) and len(topics) == len(listed):
            self._topics[tuple(listed)] = topics
        if id is None:
            return None
        return Node(id, parent, tree or "", site or "", type or "", author, state or "", topics)

    def _type(self, said: Mapping[str, Any], tree: str | None, path: Path) -> str | None:
        if "type" not in said:
            return None
        own = {key: type for key, type in self.types.items() if key != PROFILE}
        type = self.check.known(said["type"], (*path, "type"), own, "type of node")
        if type is not None and tree is not None and self.types[type].tree != tree:
            where = self.types[type].tree
            sits = f"nodes of the type {shown(type)} sit in the tree {where}" if where else "its type names no tree"
            self.check.fault((*path, "tree"), sits)
        return type

    def _placed(self, nodes: Mapping[str, Node], positions: Mapping[str, int]) -> None:
        """Each node's parent is there, in the same tree and on the same site."""
        for node in nodes.values():
            if node.parent is None:
                continue
            above = nodes.get(node.parent)
            if above is not None and above.site == node.site and above.tree == node.tree:
                continue
            i = positions[node.id]
            if above is None:
                self.check.fault(("nodes", i, "parent"), f"there is no node {shown(node.parent)}")
                continue
            for key, own, other in (("tree", node.tree, above.tree), ("site", node.site, above.site)):
                if own and other and own != other:
                    self.check.fault(("nodes", i, key), f"this is not the {key} of its parent, which is {shown(other)}")

    def _without_cycles(self, nodes: Mapping[str, Node], positions: Mapping[str, int], tree: Tree) -> Tree:
        """Tell each cycle, and hold all nodes in a tree all the same."""
        lost = {id: node.parent for id, node in nodes.items() if id not in tree}
        for cycle in cycles(lost):
            way = " → ".join(shown(key)[1:-1] for key in cycle[:_LONGEST_WAY])
            self.check.fault(("nodes", positions[cycle[0]], "parent"), f"node lies beneath itself through {way}")
        return Tree.build(node if node.id in tree else node._replace(parent=None) for node in nodes.values())


def cycles(above: Mapping[str, str | None]) -> list[list[str]]:
    """Every cycle of things that each have at most one above them, each told once from its first key.

    >>> cycles({"lead": "writer", "writer": "lead", "guest": "lead"})
    [['lead', 'writer']]
    """
    found: list[list[str]] = []
    done: set[str] = set()
    for start in above:
        way: dict[str, None] = {}
        step: str | None = start
        while step is not None and step not in done and step not in way:
            way[step] = None
            step = above.get(step)
        if step is not None and step in way:
            keys = list(way)
            found.append(keys[keys.index(step) :])
        done.update(way)
    return found
