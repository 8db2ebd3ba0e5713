"""Nodes as the rules see them: one by its own row, all by arrays kept per content version."""

from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any, NamedTuple
from weakref import WeakKeyDictionary

from django.db import connection, models

from gonfalon.access.catalogue import installed
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.content.models import BIN, ContentVersion, Node
from gonfalon.core import Engine, Question
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.model import tree as core
from gonfalon.core.model.bits import Bools
from gonfalon.core.model.policy import NodeType
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target, Tree
from gonfalon.work import NODES, POLICY, after_commit, held_row, own, raise_row, raised, version_row
from gonfalon.work.kept import KeptByVersion

VERSION_ROW = 1


def raise_version() -> None:
    """Say that more of some nodes changed than the functions below can say.

    Belongs, as those do, in the unit of the change, which holds NODES.
    """
    _raise("whole")


def raise_version_of(row: Node) -> None:
    """Say that a node has another title or state, before it is saved."""
    row.changed_in = _raise()


def raise_places() -> int:
    """Say that nodes came, went or are put elsewhere.

    Gives the number that those of them keep as `changed_in` whose site or address changes with it.
    """
    return _raise("places")


def _raise(*marks: str) -> int:
    """Raise the number, and let marks be it; the number. One query where the unit holds the row."""
    held: ContentVersion | None = raised(NODES)
    row = held or ContentVersion.objects.get(pk=VERSION_ROW)
    raise_row(row, **dict.fromkeys(("number", *marks), row.number + 1))
    return row.number


def ancestors(node: Node) -> list[Node]:
    """The nodes above, from the root down. One query."""
    paths = [node.path[:end] for end in range(node.steplen, len(node.path), node.steplen)]
    return list(Node.objects.filter(path__in=paths).order_by("path")) if paths else []


def as_target(node: Node, above: Iterable[Node]) -> Target:
    """A row as a question's target; it sits in the tree whose root it comes from."""
    above = list(above)
    return Target(
        id=node.id,
        path=(*(n.id for n in above), node.id),
        type=node.type,
        tree=tree_of((*above, node)[0].type),
        site=node.site_id,
        author=node.author_id,
        state=node.state,
        topics=frozenset(node.topics),
        leaf=node.numchild == 0,
    )


@dataclass(frozen=True, slots=True)
class Place:
    """A node as it was read for a decision: its row, the rows above it, and both as the rules see them."""

    row: Node
    above: list[Node]
    target: Target


def place(id: str) -> Place | None:
    """The node with this id, from its own row and those above it. Two queries, one where the unit holds the row."""
    row: Node | None = held_row(Node, id) or Node.objects.select_related("author").filter(pk=id).first()
    if row is None or row.removed_with is not None:
        return None
    above = ancestors(row)
    return Place(row, above, as_target(row, above))


def target(id: str) -> Target | None:
    """The same as the rules see it."""
    found = place(id)
    return found.target if found else None


@dataclass(frozen=True)
class Content:
    """All nodes at one version: the rules' tree, and what screens show of each."""

    version: int
    tree: Tree
    titles: dict[str, str]
    addresses: dict[str, str]

    @cached_property
    def low_titles(self) -> list[str]:
        """The title of each node in small letters, in the order of the tree: for finding by words."""
        return [self.titles[node.id].lower() for node in self.tree.nodes]


_kept = KeptByVersion[Content](NODES)
_engines: dict[str, Engine] = {}
_known: WeakKeyDictionary[Engine, OrderedDict[Who, tuple[SubjectGrants, "InSight"]]] = WeakKeyDictionary()
_MOST_KNOWN = 32


def content(snapshot: Snapshot | None = None) -> Content:
    """All nodes as they stand. One query unless something changed, then one or two more.

    Where only titles and states of single nodes did, those are read; where some came, went or stand elsewhere, where
    all stand, and those; else all of all. The policy tells
    in which tree each kind is; it is looked up unless it is given.
    """
    row: ContentVersion = version_row(NODES) or ContentVersion.objects.get(pk=VERSION_ROW)
    return _kept.at(row.number, lambda kept: _read_since(row, kept, snapshot))


def _read_since(row: ContentVersion, kept: Content | None, snapshot: Snapshot | None) -> Content:
    """All nodes at a version, with what of an earlier one still holds."""
    if kept is not None and kept.version == row.number:
        return kept
    if kept is not None and max(row.whole, row.places) <= kept.version < row.number:
        return _read_on(row.number, kept)
    if kept is not None and row.whole <= kept.version < row.number:
        return _read_places(row.number, kept, (snapshot or current()).words.types)
    return _read(row.number, kept, (snapshot or current()).words.types)


def engine_over(nodes: Content, snapshot: Snapshot) -> Engine:
    """An engine of a policy in force over all nodes, kept for as long as neither side changes.

    Under another version of the policy, and where only states of nodes are others, what is known is handed on, as a
    snapshot does.
    """
    alone = own(NODES) if own(POLICY) is None else own(POLICY)
    if alone is not None and not (alone.get("policy") is snapshot or alone.get("nodes") is nodes):
        alone = None
    database = str(connection.settings_dict["NAME"])
    kept = _engines.get(database) if alone is None else alone.get("engine", _engines.get(database))
    same_policy = kept is not None and kept.policy is snapshot.policy
    if kept is not None and same_policy and kept.tree is nodes.tree:
        return kept
    if kept is not None and kept.tree.same_places(nodes.tree) and (same_policy or snapshot.line):
        kept.detach()
        engine = kept.changed(snapshot.policy, nodes.tree)
    else:
        engine = Engine(snapshot.policy, nodes.tree)
    if alone is None:
        _engines[database] = engine
    else:
        alone["engine"] = engine
        after_commit(lambda: _share_engine(alone, engine, database))
    return engine


def _share_engine(alone: dict[str, Any], engine: Engine, database: str) -> None:
    if alone.get("engine") is engine:
        _engines[database] = engine


class InSight(NamedTuple):
    """What somebody may be told of the tree.

    `whole` is `[nodes]` booleans: those they may see. `named` are the ids of those and of all that is above any of
    them, which are known by name alone.
    """

    whole: Bools
    named: frozenset[str]


def in_sight(engine: Engine, who: Who, at: datetime) -> InSight:
    """What `who` may be told of the nodes; of media only where that section is open to them."""
    whole = engine.survey([who], None, ["see"], at)[0, :, 0]
    if not engine.decide(Question(who, "media.open", at=at)).allow:
        whole = whole & ~engine.tree.having("tree", frozenset({"media"}))
    return _told(engine.tree, whole)


def without(tree: Tree, sight: InSight, closed: str) -> InSight:
    """The same but for one of the trees."""
    return _told(tree, sight.whole & ~tree.having("tree", frozenset({closed})))


def _told(tree: Tree, whole: Bools) -> InSight:
    seen = [tree.nodes[i] for i in whole.nonzero()[0].tolist()]
    named = {node.id for node in seen}
    for node in seen:
        above = node.parent
        while above is not None and above not in named:
            named.add(above)
            above = tree.nodes[tree.index[above]].parent
    return InSight(whole, frozenset(named))


def cached_in_sight(engine: Engine, who: Who, at: datetime) -> InSight:
    """The same, kept with the engine for as long as `who` holds the same; for those who asked last."""
    kept = _known.setdefault(engine, OrderedDict())
    found = kept.get(who)
    if found is None or not found[0].holds_at(at):
        found = kept[who] = engine.grants.of(who, at), in_sight(engine, who, at)
    kept.move_to_end(who)
    while len(kept) > _MOST_KNOWN:
        kept.popitem(last=False)
    return found[1]


def tree_of(type: str) -> str | None:
    """The tree of a kind of content. No query for those that ship, as all roots are that were made here."""
    known = installed().types.get(type)
    return known.tree if known else current().words.types[type].tree


def _read_on(version: int, before: Content) -> Content:
    """What was read before, with the titles and states that changed since."""
    changed = Node.objects.filter(changed_in__gt=before.version).values_list("id", "title", "state")
    names, tree = dict(before.titles), before.tree
    states: dict[str, str] = {}
    for id, title, state in changed:
        names[id] = title
        if id in tree and tree.nodes[tree.index[id]].state != state:
            states[id] = state
    return Content(version, tree.with_states(states) if states else tree, names, before.addresses)


def _read_places(version: int, before: Content, types: Mapping[str, NodeType]) -> Content:
    """Where all nodes stand now, with what was read before of all that did not change since."""
    # Asked by paths alone, which an index holds: the rows themselves need not be looked at.
    places = list(Node.everywhere.exclude(path__startswith=BIN).order_by("path").values_list("path", "id"))
    index = before.tree.index
    new = [id for _, id in places if id not in index]
    changed = Node.objects.filter(models.Q(changed_in__gt=before.version) | models.Q(pk__in=new))
    rows = {row[1]: row for row in changed.values_list(*_COLUMNS)}
    by_path: dict[str, str] = {}
    nodes: list[core.Node] = []
    names: dict[str, str] = {}
    addresses: dict[str, str] = {}
    for path, id in places:
        parent = by_path.get(path[: -Node.steplen])
        if parent is None and len(path) > Node.steplen:
            continue
        if id in rows:
            nodes.append(_node(rows[id], parent, types))
            names[id], addresses[id] = rows[id][-2:]
        elif id in index:
            node = before.tree.nodes[index[id]]
            nodes.append(node if node.parent == parent else node._replace(parent=parent))
            names[id], addresses[id] = before.titles[id], before.addresses[id]
        else:
            continue  # it went while this was read: the next reading knows
        by_path[path] = id
    return Content(version, Tree.in_order(nodes), names, addresses)


_COLUMNS = ("path", "id", "type", "site_id", "author_id", "state", "topics", "title", "address")


def _node(row: Sequence[Any], parent: str | None, types: Mapping[str, NodeType]) -> core.Node:
    _, id, type, site, author, state, topics, *_ = row
    return core.Node(id, parent, types[type].tree or "", site, type, author, state, frozenset(topics))


def _read(version: int, before: Content | None, types: Mapping[str, NodeType]) -> Content:
    by_path: dict[str, str] = {}
    nodes: list[core.Node] = []
    names: dict[str, str] = {}
    addresses: dict[str, str] = {}
    for row in Node.objects.order_by("path").values_list(*_COLUMNS):
        path, id = row[:2]
        by_path[path] = id
        nodes.append(_node(row, by_path.get(path[: -Node.steplen]), types))
        names[id], addresses[id] = row[-2:]
    whole = Tree.build(nodes)
    if before is not None and before.tree.nodes == whole.nodes:
        whole = before.tree  # what is known of it still holds
    return Content(version, whole, names, addresses)
