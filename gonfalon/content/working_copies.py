"""The working copy of a public page: what it is to become next, while what is public stays as it is (§4).

save(page, copy_of(page), new, by)      # begins it where there is none
publish(page, copy, by)                 # makes it public, and there is no copy any more
"""

from copy import copy as shallow
from typing import Any

from gonfalon.access.snapshot import current
from gonfalon.clock import new_id, now
from gonfalon.content import pages
from gonfalon.content.models import CopyVersion, Node, WorkingCopy
from gonfalon.content.sittings import going_on
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, unit

Data = dict[str, Any]
CONTENT = ("title", "topics", "values", "components")
"""What a working copy has of its own."""
PUBLISHED = "page.copy-published"
OF_A_COPY = frozenset(f"page.copy-{did}" for did in ("saved", "handed-in", "taken-back", "returned", "discarded"))
"""Kinds of entries of the ledger that tell of a working copy alone: to whoever may see it."""


def copy_of(row: Node) -> WorkingCopy:
    """The working copy of a page; where there is none, one that is not written yet. One query."""
    found = WorkingCopy.objects.filter(node=row).first()
    return found or WorkingCopy(node=row, base=row.version, **{key: getattr(row, key) for key in CONTENT})


def begun(copy: WorkingCopy) -> bool:
    """Whether it is written: a page with nothing of the kind has one that is not."""
    return copy.version > 0


def as_page(row: Node, copy: WorkingCopy) -> Node:
    """The page as its working copy has it, its state and who saved it too; never to be written."""
    page = shallow(row)
    taken = (*CONTENT, "state", "note", "version") + (("saved_at", "saved_by_id") if begun(copy) else ())
    for key in taken:
        setattr(page, key, getattr(copy, key))
    return page


@unit(NODES.shared)
def save(row: Node, copy: WorkingCopy, new: Data, by: By, *, sitting: bool = False) -> None:
    """Write the change on the working copy, as a new version of it or as part of a `sitting`."""
    new = {"topics": copy.topics} | new
    if not any(pages.changes_of(as_page(row, copy), new, current().catalogue)):
        return
    for key in CONTENT:
        setattr(copy, key, new[key])
    if not begun(copy):
        copy.key = new_id()
    copy.writer_id = by.standing_for or by.actor
    last = going_on(copy.versions.first(), by) if sitting and begun(copy) else None
    _raise(copy, by)
    if last is not None:
        last.at, last.data = copy.saved_at, _data(copy)
        last.save(update_fields=["at", "data"])
        return
    _keep_version(copy, by, sitting=sitting)
    record(by, "page.copy-saved", about=("node", row.id), title=row.title)


@unit(NODES.shared)
def set_state(row: Node, copy: WorkingCopy, state: str, by: By, did: str, note: str = "") -> None:
    """Hand a working copy in, take it back, or return it with a note."""
    changes = [Change(what="state", was=copy.state, now=state)]
    if note:
        changes.append(Change(what="note", was=None, now=note))
    copy.state, copy.note = state, note
    _raise(copy, by)
    _keep_version(copy, by)
    record(by, f"page.copy-{did}", about=("node", row.id), changes=changes, title=row.title)


@unit(NODES)
def publish(row: Node, copy: WorkingCopy, by: By) -> None:
    """Let the page be what its working copy is, as a new version; one that changes nothing is only given up."""
    was = row.version
    pages.save(row, {key: getattr(copy, key) for key in CONTENT}, by, kind=PUBLISHED)
    if row.version == was:
        discard(row, copy, by)
    else:
        copy.delete()


@unit(NODES.shared)
def discard(row: Node, copy: WorkingCopy, by: By) -> None:
    """Give the working copy up, with its history."""
    copy.delete()
    record(by, "page.copy-discarded", about=("node", row.id), title=row.title)


def _raise(copy: WorkingCopy, by: By) -> None:
    copy.version += 1
    copy.saved_at, copy.saved_by_id = now(), by.standing_for or by.actor
    copy.save(force_insert=copy.version == 1)


def _keep_version(copy: WorkingCopy, by: By, *, sitting: bool = False) -> None:
    of = {"copy": copy, "number": copy.version, "at": copy.saved_at, "by": by.actor}
    CopyVersion.objects.create(**of, data=_data(copy), sitting=sitting)


def _data(copy: WorkingCopy) -> Data:
    return {key: getattr(copy, key) for key in ("state", "note", *CONTENT)}
