"""The nodes of a policy document as rows: their places, and what the rules know of them."""

from collections.abc import Iterator

from gonfalon.content.models import Node
from gonfalon.core.document.errors import Fault, pointer
from gonfalon.core.model.tree import Tree

_SAID = ["type", "site_id", "author_id", "state", "topics"]
_PLACE = ["path", "depth", "numchild"]


def check_nodes(was: Tree, now: Tree, sites: frozenset[str]) -> Iterator[Fault]:
    """Nodes that are here and that a document leaves out, and what of it is in the bin."""
    for node in was.nodes:
        if node.id not in now:
            yield Fault(
                pointer(("nodes", node.id)), "this node is here; pages are removed on the desk, not by importing"
            )
    for node in Node.everywhere.exclude(removed_with=None):
        if node.id in now:
            yield Fault(pointer(("nodes", node.id)), "this node is in the bin; bring it back, or empty it first")
        if node.site_id not in sites:
            yield Fault("/sites", f"pages of {node.site_id} are in the bin; bring them back, or empty it first")


def install_nodes(tree: Tree) -> None:
    """Make rows what the tree says. New nodes get their id for a title."""
    rows = {row.id: row for row in Node.objects.all()}
    placed = _placed(tree)
    new: list[Node] = []
    said: list[Node] = []
    moved: list[Node] = []
    for node in tree.nodes:
        row = rows.get(node.id) or Node(id=node.id, title=node.id)
        before = (row.type, row.site_id, row.author_id, row.state, frozenset(row.topics))
        place = row.path, row.depth, row.numchild
        row.type, row.site_id, row.author_id, row.state = node.type, node.site, node.author, node.state
        row.topics = row.topics if frozenset(row.topics) == node.topics else sorted(node.topics)
        row.path, row.depth, row.numchild = placed[node.id]
        if node.id not in rows:
            new.append(row)
            continue
        if before != (node.type, node.site, node.author, node.state, node.topics):
            said.append(row)
        if place != placed[node.id]:
            moved.append(row)
    # Places are unique: those that change are vacated before any is taken.
    for i, row in enumerate(moved):
        Node.objects.filter(pk=row.id).update(path=f"~{i:07}")
    Node.objects.bulk_update(moved, _PLACE, batch_size=500)
    Node.objects.bulk_update(said, _SAID, batch_size=500)
    Node.objects.bulk_create(new, batch_size=500)


def _placed(tree: Tree) -> dict[str, tuple[str, int, int]]:
    """Each node's path, depth and number of children, as rows keep a tree."""
    children: dict[str | None, int] = {}
    placed: dict[str, tuple[str, int, int]] = {}
    for node in tree.nodes:
        step = children[node.parent] = children.get(node.parent, 0) + 1
        above, depth, _ = placed[node.parent] if node.parent is not None else ("", 0, 0)
        placed[node.id] = Node._get_path(above, depth + 1, step), depth + 1, 0
    return {id: (path, depth, children.get(id, 0)) for id, (path, depth, _) in placed.items()}
