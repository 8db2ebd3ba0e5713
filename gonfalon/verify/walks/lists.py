"""Walk lists themselves: made from a role's board, made anew when that has changed, taken away.

walk_list = make("tenant-editor", viewpoint, by)
items_of(walk_list)                     # [Item("edit", True, ("berth",), own=True), ...]
news(walk_list, viewpoint)              # what it would have, and not have, if it were made now
"""

from dataclasses import dataclass

from gonfalon.access.models import GivenWalk
from gonfalon.clock import now
from gonfalon.core.checks.walk import Item, walk
from gonfalon.ledger.models import By, record
from gonfalon.verify.models import WalkList, WalkTick
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import after_commit
from gonfalon.work.apart import APART


@dataclass(frozen=True, slots=True)
class News:
    """How far a list is behind the board: items to come, and items that are there no more."""

    more: int
    gone: int


def make(role: str, here: Viewpoint, by: By, name: str) -> WalkList:
    """The list of a role as its board is now, in place of the one there was; ticks of what stays stay. KeyError for a
    role that there is not."""
    items = [list(item) for item in walk(role, here.engine, here.at)]
    row, made = WalkList.objects.update_or_create(
        role=role, defaults={"items": items, "made_by": by.actor, "made_at": now()}
    )
    record(by, "walk-list.made", about=("role", role), way="" if made else "anew", name=name)
    return row


def drop(row: WalkList, by: By, name: str) -> None:
    """Take a list away, from everybody it was given to as well; its ticks are forgotten once the unit is kept."""
    id = row.id
    GivenWalk.objects.filter(role=row.role).delete()
    row.delete()
    after_commit(lambda: WalkTick.objects.using(APART).filter(walk_list=id).delete())
    record(by, "walk-list.dropped", about=("role", row.role), name=name)


def items_of(row: WalkList) -> list[Item]:
    """What there is to try."""
    return [_read(said) for said in row.items]


def news(row: WalkList, here: Viewpoint) -> News:
    """What making it anew would bring."""
    if row.role not in here.snapshot.policy.roles:
        return News(0, 0)
    present, kept = set(walk(row.role, here.engine, here.at)), set(items_of(row))
    return News(len(present - kept), len(kept - present))


def _read(said: list[object]) -> Item:
    return Item(*(tuple(value) if isinstance(value, list) else value for value in said))  # type: ignore[arg-type]
