"""Where nodes stand: made, moved, put into the bin, brought back, emptied out of it for good.

    page = make(parent, "page", "Slack water", by=by)
    move(page, section, by)
    remove(page, by)            # into the bin, with all that is beneath it
    bring_back(entry, section, by)

Each is part of a unit that holds NODES, so the trees change one step at a time and are never torn; the rows they are
given were read in it. Whether somebody may is asked before.
"""

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any

from django.db.models import F, Max, Value
from django.db.models.functions import Concat, Length, Substr
from django.utils.http import base36_to_int, int_to_base36

from gonfalon.access.progress import counted
from gonfalon.clock import new_id, now
from gonfalon.content.media.files import files_of, take_away
from gonfalon.content.models import BIN, LONGEST_ADDRESS, LONGEST_SLUG, Node, Removed, on_branch
from gonfalon.content.nodes import ancestors, raise_places
from gonfalon.content.pages import keep_version, slug_for
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, locked, unit

DEEPEST = 60
"""Levels of a tree; a path has room for a few more."""


class TooDeep(Exception):
    """A tree would have more levels than it can hold, or an address more characters."""


@unit(NODES)
def make(
    parent: Node,
    type: str,
    title: str,
    by: By,
    *,
    topics: Iterable[str] = (),
    values: dict[str, Any] | None = None,
    components: list[dict[str, Any]] | None = None,
    before: Node | None = None,
) -> Node | None:
    """A new draft under a parent, as its last child or before one of the others. Raises TooDeep."""
    above = Node.objects.filter(pk=parent.pk).first()
    if above is None:
        return None
    if above.depth >= DEEPEST:
        raise TooDeep
    author = by.standing_for or by.actor
    row = Node(
        id=new_id(),
        type=type,
        site_id=above.site_id,
        title=title,
        author_id=author,
        topics=sorted(topics),
        values=values or {},
        components=components or [],
        saved_at=now(),
        saved_by_id=author,
    )
    _address(row, above)
    Node.objects.add_child(above, instance=row)
    _put_before(row, before)
    row.refresh_from_db()
    keep_version(row, by)
    raise_places()
    stands = _stands(None, above.title, above.id)
    record(by, "page.made", about=("node", row.id), changes=[stands], title=title)
    return row


@unit(NODES)
def move(row: Node, above: Node, by: By, *, before: Node | None = None) -> Node:
    """Put a branch under another parent, or elsewhere among its siblings. Raises TooDeep."""
    was, changed_in = ancestors(row)[-1], raise_places()
    with _stages(by, row.path, 3) as stage_done:
        if was.pk != above.pk:
            _has_room(row.path, above)
            Node.objects.move(row, above, "last-child")
            stage_done()
            row = Node.objects.get(pk=row.pk)
            _re_address(row, above, changed_in)
            stage_done()
        _put_before(row, before)
    row = Node.objects.get(pk=row.pk)
    row.version += 1
    row.save(update_fields=["version", "slug"])
    stands = _stands((was.title, was.id), above.title, above.id)
    record(by, "page.moved", about=("node", row.id), changes=[stands], title=row.title)
    return row


@unit(NODES)
def remove(row: Node, by: By) -> Removed:
    """Put a branch into the bin."""
    above = ancestors(row)
    siblings = Node.objects.filter(on_branch(above[-1].path), depth=row.depth)
    follows = siblings.filter(path__gt=row.path).order_by("path").values_list("pk", flat=True).first()
    place = _free_in_bin()
    with _stages(by, row.path, 2) as stage_done:
        _shift(row.path, place)
        stage_done()
        beneath = Node.everywhere.filter(on_branch(place)).update(removed_with=row.pk) - 1
    Node.objects.filter(pk=above[-1].pk).update(numchild=F("numchild") - 1)
    entry = Removed.objects.create(
        node_id=row.pk, above=[n.pk for n in above], before=follows, by=by.standing_for or by.actor, at=now()
    )
    raise_places()
    changes = [_stands((above[-1].title, above[-1].id), "the bin", None)]
    if beneath:
        changes.append(Change(what="beneath", was=None, now=beneath))
    record(by, "page.removed", about=("node", row.id), changes=changes, title=row.title)
    return entry


@unit(NODES)
def bring_back(entry: Removed, to: Node, by: By) -> Node | None:
    """Put a branch from the bin under a parent, where it stood among the others if they are there. Raises TooDeep."""
    kept = locked(Removed.objects).filter(pk=entry.pk).first()
    above = Node.objects.filter(pk=to.pk).first()
    if kept is None or above is None:
        return None
    row = Node.everywhere.get(pk=kept.pk)
    _has_room(row.path, above)
    last = Node.objects.get_children(above).last()
    with _stages(by, row.path, 3) as stage_done:
        _shift(row.path, last._inc_path() if last else Node._get_path(above.path, above.depth + 1, 1))
        Node.objects.filter(pk=above.pk).update(numchild=F("numchild") + 1)
        Node.everywhere.filter(removed_with=row.pk).update(removed_with=None)
        stage_done()
        row = Node.objects.get(pk=row.pk)
        _re_address(row, above, raise_places())
        stage_done()
        _put_before(row, Node.objects.filter(pk=kept.before).first())
    row = Node.objects.get(pk=row.pk)
    row.version += 1
    row.save(update_fields=["version", "slug"])
    kept.delete()
    stands = _stands(("the bin", None), above.title, above.id)
    record(by, "page.brought-back", about=("node", row.id), changes=[stands], title=row.title)
    return row


@unit(NODES)
def empty(entry: Removed, by: By) -> bool:
    """Take a branch out of the bin for good, with its versions and what was said under it."""
    kept = locked(Removed.objects).select_related("node").filter(pk=entry.pk).first()
    if kept is None:
        return False
    title, id, gone = kept.node.title, kept.pk, Node.everywhere.filter(removed_with=kept.pk)
    files = files_of(gone)
    _, counts = gone.delete()
    take_away(kept.node, files)
    beneath = counts["content.Node"] - 1
    changes = [Change(what="beneath", was=None, now=beneath)] if beneath else []
    record(by, "page.emptied", about=("node", id), changes=changes, title=title)
    return True


@contextmanager
def _stages(by: By, path: str, number: int) -> Iterator[Callable[[], None]]:
    """Tell whoever waits how far work on a branch has come, once for each stage of it that is done."""
    size = Node.everywhere.filter(on_branch(path)).count()
    with counted(by.standing_for or by.actor or "", number * size) as count:
        yield partial(count, size)


def _stands(was: tuple[str, str | None] | None, now: str, id: str | None) -> Change:
    nodes = [i for i in (was and was[1], id) if i is not None]
    return Change(what="place", was=was and was[0], now=now, nodes=nodes)


def _has_room(path: str, above: Node) -> None:
    lowest = Node.everywhere.filter(on_branch(path)).order_by("-depth").values_list("path", flat=True).first()
    if above.depth + (len(lowest or path) - len(path)) // Node.steplen + 1 > DEEPEST:
        raise TooDeep


def _put_before(row: Node, before: Node | None) -> None:
    """Put a node before a sibling; where there is none, it stays the last."""
    if before is None:
        siblings = Node.objects.filter(on_branch(row.path[: -row.steplen]), depth=row.depth)
        last = siblings.order_by("path").last()
        if last is not None and last.pk != row.pk:
            Node.objects.move(Node.objects.get(pk=row.pk), last, "right")
        return
    sibling = Node.objects.filter(pk=before.pk).first()
    if sibling is not None and sibling.pk != row.pk and sibling.path[: -row.steplen] == row.path[: -row.steplen]:
        Node.objects.move(Node.objects.get(pk=row.pk), sibling, "left")


def _address(row: Node, above: Node) -> None:
    """Give a node an address under a parent that none of its siblings has. Raises TooDeep where there is no room."""
    room = LONGEST_ADDRESS - len(above.address) - 1
    if room < LONGEST_SLUG:
        raise TooDeep
    siblings = Node.objects.filter(on_branch(above.path), depth=above.depth + 1).exclude(pk=row.pk)
    row.slug = slug_for(row.slug or row.title, set(siblings.values_list("slug", flat=True)))
    row.address = f"{above.address}/{row.slug}".lstrip("/")


def _re_address(row: Node, above: Node, changed_in: int) -> None:
    """The same for a branch that stands elsewhere now: each address begins with its new parent's; sites go with it."""
    was = row.address
    _address(row, above)
    branch = Node.objects.filter(on_branch(row.path))
    longest = branch.aggregate(longest=Max(Length("address")))["longest"] or 0
    if longest - len(was) + len(row.address) > LONGEST_ADDRESS:
        raise TooDeep
    branch.update(site_id=above.site_id, changed_in=changed_in)
    if was:
        branch.filter(address__startswith=f"{was}/").update(
            address=Concat(Value(row.address), Substr("address", len(was) + 1))
        )
    Node.objects.filter(pk=row.pk).update(slug=row.slug, address=row.address)


def _shift(path: str, to: str) -> None:
    """Let a branch have other paths. The depth comes first: the database works assignments out one after another."""
    new = Concat(Value(to), Substr("path", len(path) + 1))
    Node.everywhere.filter(on_branch(path)).update(depth=Length(new) / Node.steplen, path=new)


def _free_in_bin() -> str:
    """A path of two steps that no branch in the bin has."""
    last = Node.everywhere.filter(path__startswith=BIN).order_by("-path").values_list("path", flat=True).first()
    number = base36_to_int(last[1 : 2 * Node.steplen].lower()) + 1 if last else 1
    return BIN + int_to_base36(number).upper().zfill(2 * Node.steplen - 1)
