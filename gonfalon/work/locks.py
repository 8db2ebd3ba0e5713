"""What a unit holds while it decides and writes: version rows first, in one order, then single rows.

    locks = {"patch": (POLICY.shared, NODES.shared, RowLock("content.Node", "node"))}

A version row is held exclusively by what raises it and shared by what rests on it, so that two people save two pages
at once and neither saves under a policy that is just being changed. A shared lock is never made exclusive later: two
who did would wait for each other.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeAlias, TypeVar

from django.apps import apps
from django.db import models

ONLY_ROW = 1
"""The primary key of every version row."""
M = TypeVar("M", bound=models.Model)


@dataclass(frozen=True, slots=True)
class VersionLock:
    """The version row of a model that has only that one. Its `when_held()`, if any, is called by whoever may raise it.

    >>> POLICY.order < NODES.order, POLICY.shared.exclusive
    (True, False)
    """

    name: str
    order: int
    model: str
    exclusive: bool = True

    @property
    def shared(self) -> "VersionLock":
        """The same row, held together with all others who only rest on it."""
        return replace(self, exclusive=False)

    def look(self) -> Any:
        """The row as it stands, without holding it."""
        model: Any = apps.get_model(self.model)
        return model.objects.get(pk=ONLY_ROW)

    def take(self) -> Any:
        """Wait for the row and hold it; the row as it stands then."""
        model: Any = apps.get_model(self.model)
        how = "FOR UPDATE" if self.exclusive else "LOCK IN SHARE MODE"
        # The ORM knows no shared locks.
        return model.objects.raw(f"SELECT * FROM {model._meta.db_table} WHERE id = {ONLY_ROW} {how}")[0]


POLICY = VersionLock("policy", 0, "access.PolicyVersion")
"""All that is said about access, and the catalogue with it."""
NODES = VersionLock("nodes", 1, "content.ContentVersion")
"""Where all nodes stand, with what their titles, states, authors and topics are."""


@dataclass(frozen=True, slots=True)
class RowLock:
    """One row, whose key is an argument of the address; it need not be there."""

    model: str
    argument: str

    def take(self, arguments: Mapping[str, Any]) -> Any:
        """Wait for the row and hold it; the row, or None where there is none."""
        model: Any = apps.get_model(self.model)
        return locked(model._base_manager.filter(pk=arguments[self.argument])).first()


Locks: TypeAlias = Sequence[VersionLock | RowLock]


def in_order(locks: Locks) -> tuple[list[VersionLock], list[RowLock]]:
    """Version rows in the order in which everybody takes them, then the single rows."""
    versions = sorted((lock for lock in locks if isinstance(lock, VersionLock)), key=lambda lock: lock.order)
    return versions, [lock for lock in locks if isinstance(lock, RowLock)]


def locked(rows: "models.QuerySet[M] | models.Manager[M]") -> "models.QuerySet[M]":
    """The same rows, held until the unit ends. One that was changed since the unit read it has it tried again."""
    return rows.select_for_update()
