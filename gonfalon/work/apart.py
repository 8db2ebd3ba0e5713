"""What is written whatever becomes of the unit: guesses that are counted, how far long work has come, what was used.

    wait = apart(lambda: count(keys))

It goes over a connection of its own, to tables without foreign keys that no unit locks: those whose model says
`written_apart = True`. A unit that is tried again does not write it again.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from django.db import models, transaction

from gonfalon.work.units import running

APART = "apart"
"""The connection, as settings name it."""
T = TypeVar("T")
M = TypeVar("M", bound=models.Model)


class Router:
    """Sends models that are written apart over their connection."""

    def db_for_read(self, model: type[models.Model], **hints: Any) -> str | None:
        return APART if getattr(model, "written_apart", False) and _apart() else None

    db_for_write = db_for_read


def apart(write: Callable[[], T]) -> T:
    """Write over the connection APART, in a transaction of its own; what that gives."""
    unit = running()
    if not _apart():
        return write()
    if unit is not None and unit.told_apart < len(unit.apart):
        unit.told_apart += 1
        written: T = unit.apart[unit.told_apart - 1]
        return written
    with transaction.atomic(using=APART):
        written = write()
    if unit is not None:
        unit.apart.append(written)
        unit.told_apart += 1
    return written


@contextmanager
def held_apart(rows: "models.QuerySet[M]") -> Iterator[M | None]:
    """The first of some rows that are written apart, held until this ends; what is written apart meanwhile is kept."""
    with transaction.atomic(using=APART):
        yield rows.using(APART).select_for_update().first()


def _apart() -> bool:
    """Whether anything is written apart: in a rehearsal that is rolled back with all else."""
    unit = running()
    return unit is None or unit.apart_from_all
