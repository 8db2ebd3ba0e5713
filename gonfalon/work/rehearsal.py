"""A unit that is always rolled back: what was done in it so far is done again, then something more is asked or done.

    with rehearsing(at_most=1.0) as rehearsal:
        rehearsal.again(first_step, at=monday, ids=Ids(kept))
        answer = ask()
    rehearsal.entries                   # what the last step wrote into the ledger

Whatever runs as a unit in it is a step, kept for what follows or rolled back by itself. It holds no version row and
writes none: its versions are its own. It waits for no row that somebody else holds (Busy), and what it wrote it holds
for a moment at most (TooLong). Nothing follows a commit that never is.
"""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from copy import copy
from datetime import datetime
from typing import Any, TypeVar

from django.db import OperationalError, connection, transaction

from gonfalon import clock
from gonfalon.work.locks import NODES, POLICY, Locks, VersionLock, in_order
from gonfalon.work.units import CONNECTION_LOST, IN_THE_WAY, Unit, entering, follow

R = TypeVar("R")
FAR = 2**50
"""No version in force has so high a number: what is kept of one is never mistaken for a rehearsal's."""
_WRITES = ("INSERT", "UPDATE", "DELETE", "REPLACE")


class Busy(Exception):
    """Somebody else holds what would be written: another try may go better."""


class TooLong(Exception):
    """What was written would be held for longer than others may be kept waiting."""


class Rehearsal(Unit):
    """The unit; of what it wrote and read nothing is kept."""

    writes_versions = False
    apart_from_all = False

    def __init__(self, at_most: float) -> None:
        super().__init__([])
        self.rows = {lock.name: lock.look() for lock in (POLICY, NODES)}
        self._at_most, self._wrote_at = at_most, 0.0
        self._within_step = False

    def alone(self, lock: VersionLock) -> bool:
        return True

    def raised(self, lock: VersionLock) -> Any:
        self.own.clear()
        row = self.rows[lock.name]
        if row.number < FAR:
            row.number += FAR
        return row

    def require(self, *locks: VersionLock) -> None:
        """It holds none: whatever it decides counts for nobody."""

    def part(self, work: Callable[[], R], locks: Locks, keeps: Callable[[R], bool]) -> R:
        return work() if self._within_step else self._step(work, locks, keeps)

    def again(self, step: Callable[[], R], *, at: datetime, ids: clock.Ids) -> R:
        """Do something at a moment, with the ids and secrets that it had when it was done first."""
        with clock.standing_still(ids, at):
            return step()

    def _step(self, work: Callable[[], R], locks: Locks, keeps: Callable[[R], bool]) -> R:
        before = {key: copy(row) for key, row in self.rows.items()}, dict(self.own)
        self.before, self.entries, self.memory, self.undone = [], [], {}, False
        self._within_step, kept = True, False
        try:
            with transaction.atomic():
                for lock in in_order(locks)[0]:
                    if lock.exclusive and hasattr(self.rows[lock.name], "when_held"):
                        self.rows[lock.name].when_held()
                result = work()
                kept = keeps(result) and not self.undone
                for follows in self.before if kept else ():
                    follows()
                if not kept:
                    transaction.set_rollback(True)
        finally:
            self._within_step = False
            if not kept:
                self.rows, self.own, self.entries = *before, []
        return result

    def watched(self, execute: Callable[..., Any], sql: str, *rest: Any) -> Any:
        """Run a query, unless what was written before it has been held for too long."""
        if self._wrote_at and time.monotonic() - self._wrote_at > self._at_most:
            raise TooLong
        if not self._wrote_at and sql.startswith(_WRITES):
            self._wrote_at = time.monotonic()
        return execute(sql, *rest)


@contextmanager
def rehearsing(at_most: float) -> Iterator[Rehearsal]:
    """A rehearsal, over with all that was done in it when this ends. `at_most` is in seconds from the first write.

    Raises Busy and TooLong.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT @@innodb_lock_wait_timeout")
        waits = cursor.fetchone()[0]
        cursor.execute("SET innodb_lock_wait_timeout = 0")
    rehearsal: Rehearsal | None = None
    try:
        with transaction.atomic():
            try:
                rehearsal = Rehearsal(at_most)
                with connection.execute_wrapper(rehearsal.watched), entering(rehearsal):
                    yield rehearsal
            finally:
                transaction.set_rollback(True)
    except OperationalError as error:
        if error.args and error.args[0] in IN_THE_WAY:
            raise Busy from None
        raise
    finally:
        if rehearsal is not None:
            follow(rehearsal.undoing)
        _wait_again(waits)


def _wait_again(waits: int) -> None:
    if connection.connection is None:
        return
    try:
        with connection.cursor() as cursor:
            cursor.execute("SET innodb_lock_wait_timeout = %s", [waits])
    except OperationalError as error:
        if not error.args or error.args[0] not in CONNECTION_LOST:
            raise
        connection.close()
