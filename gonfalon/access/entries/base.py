"""What every kind of policy entry has: how it is read from rows, put there, taken away, and told of."""

from collections.abc import Iterable, Mapping
from typing import Any, ClassVar, Generic, TypeVar

from django.db import models

from gonfalon.access.describe import Names
from gonfalon.access.keys import spend
from gonfalon.core.model.policy import Scope
from gonfalon.ledger.models import By, Change

Data = dict[str, Any]
V = TypeVar("V")
AT_ONCE = 2_000
"""So many rows are written by one statement, which has to fit into a packet of the database."""


class Entries(Generic[V]):
    """The entries of one mapping of the policy, a row each.

    ASSIGNMENTS.read()                      # {"a1": Assignment("a1", …)}
    ASSIGNMENTS.put([assignment], by)       # anew, or otherwise than it is there
    ASSIGNMENTS.drop(["a1"])
    ASSIGNMENTS.told(given, None, names)    # {"what": "Ada: Harbour lead", "was": None, "now": "given everywhere"}
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
    gone: ClassVar[str] = "taken away"
    """What is told of one that is dropped."""

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
        self.model._base_manager.bulk_create(rows, update_conflicts=True, update_fields=changed, batch_size=AT_ONCE)

    def drop(self, keys: Iterable[Any]) -> None:
        """Take entries away. One query."""
        self.model._base_manager.filter(pk__in=list(keys)).delete()

    def what(self, said: Data, names: Names) -> str:
        """What an entry is about, in words. `said` is as operations say it, or as it stood."""
        raise NotImplementedError

    def words(self, said: Data, names: Names) -> str:
        """What it says, in words."""
        raise NotImplementedError

    def told(self, now: Data | None, was: Data | None, names: Names) -> Change:
        """A change of an entry in words: one that is put (`was` None where it is new), or dropped (`now` None)."""
        return Change(
            what=self.what(now or was or {}, names),
            was=None if was is None else self.words(was, names),
            now=self.gone if now is None else self.words(now, names),
        )


class Named(Entries[V]):
    """Entries that people gave a name, by which one that is gone is still told. Its key is not given again."""

    kind: ClassVar[str]
    """What one is called in `spend`."""
    above: ClassVar[str]
    """The column that names another of them."""

    def drop(self, keys: Iterable[str]) -> None:
        """Take entries away, also those that name each other. Four queries."""
        gone = dict(self.model._base_manager.filter(pk__in=list(keys)).values_list("key", "name"))
        self.model._base_manager.filter(pk__in=gone).update(**{self.above: None})
        super().drop(gone)
        spend(self.kind, gone)


Cell = tuple[str, ...]


class Cells(Entries[tuple[Cell, V]]):
    """Entries without an id of their own: each is put with what it is said of, and told whether it is said or not."""

    def values(self) -> dict[Cell, V]:
        """All of them by what they are said of. One query."""
        return dict(self.read().values())

    def drop(self, keys: Iterable[Cell]) -> None:
        """Take entries away. A query for each value of the part of their keys that has fewest."""
        every = list(keys)
        if not every:
            return
        first = min(range(len(self.key)), key=lambda part: len({cell[part] for cell in every}))
        others: dict[str, list[Cell]] = {}
        for cell in every:
            others.setdefault(cell[first], []).append(cell)
        for value, cells in others.items():
            rest = {f"{name}__in": {cell[i] for cell in cells} for i, name in enumerate(self.key) if i != first}
            self.model._base_manager.filter(**{self.key[first]: value}, **rest).delete()

    def heard(self, value: Any, said: Data, names: Names) -> str:
        """What is said of it, or None where nothing is, in words."""
        raise NotImplementedError


def read_scope(data: Mapping[str, Iterable[str] | None]) -> Scope:
    """A scope from its JSON: a missing list does not restrict."""
    return Scope(**{name: frozenset(values) for name, values in data.items() if values is not None})
