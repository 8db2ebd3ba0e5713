"""What every kind of policy entry has: how it is read from rows, put there, and taken away."""

from collections.abc import Iterable, Mapping
from typing import Any, ClassVar, Generic, TypeVar

from django.db import models

from gonfalon.core.model.policy import Scope
from gonfalon.ledger.models import By

V = TypeVar("V")
_AT_ONCE = 2_000


class Entries(Generic[V]):
    """The entries of one mapping of the policy, a row each.

    ASSIGNMENTS.read()                      # {"a1": Assignment("a1", …)}
    ASSIGNMENTS.put([assignment], by)       # anew, or otherwise than it is there
    ASSIGNMENTS.drop(["a1"])
    """

    mapping: ClassVar[str]
    """The field of `Policy`."""
    model: ClassVar[type[models.Model]]
    key: ClassVar[tuple[str, ...]] = ("id",)
    """The columns of its key."""
    columns: ClassVar[tuple[str, ...]]
    """Those that say what it is, in the order in which `value` is given them after the key."""
    made_by: ClassVar[str | None] = None
    """The column that keeps who put it there."""

    def value(self, *said: Any) -> V:
        """The entry that a row's columns say."""
        raise NotImplementedError

    def said(self, entry: V) -> Mapping[str, Any]:
        """What the columns of a row say of an entry, its key included."""
        raise NotImplementedError

    def read(self) -> dict[Any, V]:
        """All of them by key. One query."""
        keys, found = len(self.key), self.model._base_manager.values_list(*self.key, *self.columns)
        return {row[0] if keys == 1 else row[:keys]: self.value(*row) for row in found}

    def put(self, entries: Iterable[V], by: By, *, keeps_maker: bool = False) -> None:
        """Write entries, new ones and those that are there. One query.

        With `keeps_maker` whoever put one there first stays who did.
        """
        made = {self.made_by: by.actor} if self.made_by else {}
        rows = [self.model(**self.said(entry), **made) for entry in entries]
        changed = [*self.columns, *(() if keeps_maker else made)]
        self.model._base_manager.bulk_create(rows, update_conflicts=True, update_fields=changed, batch_size=_AT_ONCE)

    def drop(self, keys: Iterable[Any]) -> None:
        """Take entries away. One query."""
        self.model._base_manager.filter(pk__in=list(keys)).delete()


def read_scope(data: Mapping[str, Iterable[str] | None]) -> Scope:
    """A scope from its JSON: a missing list does not restrict."""
    return Scope(**{name: frozenset(values) for name, values in data.items() if values is not None})
