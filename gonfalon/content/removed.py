"""What is in the bin, as if it stood where it stood (§4): the only way in which anything is decided about it.

standing(entry)                       # the branch's top as a question's target
standing_branches([entry, ...])       # it, and every node that went with it
"""

from collections.abc import Iterable, Iterator

from gonfalon.content.models import Node, Removed
from gonfalon.content.nodes import tree_of
from gonfalon.core.model.tree import Target


def standing(entry: Removed) -> Target:
    """A removed node as a target. Its row is read with the entry."""
    return _target(entry.node, (*entry.above, entry.node.id))


def standing_branches(entries: Iterable[Removed]) -> Iterator[tuple[Node, Target]]:
    """Every node of some branches in the bin, each with its target; tops come before what is beneath. One query."""
    above = {entry.pk: tuple(entry.above) for entry in entries}
    ids: dict[str, str] = {}
    for node in Node.everywhere.filter(removed_with__in=list(above)).order_by("path"):
        ids[node.path] = node.id
        steps = range(2 * Node.steplen, len(node.path) + 1, Node.steplen)  # a path in the bin begins with two steps
        yield node, _target(node, (*above[node.removed_with or ""], *(ids[node.path[:end]] for end in steps)))


def standing_of(ids: Iterable[str]) -> dict[str, Target]:
    """Those of some nodes that are in the bin, as targets by id. Three queries at most."""
    wanted = set(ids)
    tops = set(Node.everywhere.filter(pk__in=wanted).exclude(removed_with=None).values_list("removed_with", flat=True))
    entries = Removed.objects.filter(pk__in=tops) if tops else ()
    return {node.id: target for node, target in standing_branches(entries) if node.id in wanted}


def _target(node: Node, path: tuple[str, ...]) -> Target:
    tree = tree_of(node.type)
    return Target(node.id, path, node.type, tree, node.site_id, node.author_id, node.state, frozenset(node.topics))
