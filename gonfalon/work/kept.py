"""What a process keeps of one version: shared by all who ask, and a unit's own while that may still be rolled back.

KEPT = KeptByVersion[Snapshot](POLICY)
KEPT.at(version, read)          # read(before) only where it is not kept
"""

from collections.abc import Callable
from threading import Lock
from typing import Any, Generic, Protocol, TypeVar

from django.db import connection

from gonfalon.work.locks import VersionLock
from gonfalon.work.units import after_commit, own


class Versioned(Protocol):
    @property
    def version(self) -> int:
        """Of which version it is."""


T = TypeVar("T", bound=Versioned)


class KeptByVersion(Generic[T]):
    """The last version read of each database."""

    def __init__(self, lock: VersionLock) -> None:
        self._lock = lock
        self._shared: dict[str, T] = {}
        self._reading = Lock()

    def at(self, version: int, read: Callable[[T | None], T]) -> T:
        """What is kept of a version; else what `read` makes of it, given what was kept before."""
        database = str(connection.settings_dict["NAME"])
        kept, alone = self._shared.get(database), own(self._lock)
        if kept is not None and kept.version == version:
            return kept
        if alone is not None:
            return self._at_alone(alone, version, database, read)
        with self._reading:
            kept = self._shared.get(database)
            if kept is None or kept.version != version:
                kept = self._shared[database] = read(kept)
        return kept

    def clear(self) -> None:
        """Keep nothing."""
        self._shared.clear()

    def _at_alone(self, alone: dict[str, Any], version: int, database: str, read: Callable[[T | None], T]) -> T:
        """The same for a unit that may have written some of it; everybody's once the unit is kept."""
        mine: T | None = alone.get(self._lock.name)
        if mine is None or mine.version != version:
            mine = alone[self._lock.name] = read(self._shared.get(database))
            after_commit(lambda: self._share(alone, database))
        return mine

    def _share(self, alone: dict[str, Any], database: str) -> None:
        kept, mine = self._shared.get(database), alone.pop(self._lock.name, None)
        if mine is not None and (kept is None or kept.version < mine.version):
            self._shared[database] = mine
