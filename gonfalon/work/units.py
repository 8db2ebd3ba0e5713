"""Running a unit of work: locks, then the work, then the commit; all of it once more where somebody was in the way.

    result = run(work, (POLICY, NODES.shared), keeps=lambda response: response.status_code < 400)

Locks are taken before anything is read, so that all that is read is how things stand while they are held. Whatever is
raised, and whatever `keeps` does not keep, rolls everything back. Time stands still in a unit, and its ids come again
when it is tried again. Inside a transaction that is there already, as in tests that roll back, a unit is a savepoint.
"""

import logging
import random
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.db import OperationalError, models, transaction

from gonfalon import clock
from gonfalon.work.locks import Locks, VersionLock, in_order

P = ParamSpec("P")
R = TypeVar("R")
_log = logging.getLogger(__name__)

PAUSES = (0.02, 0.1, 0.4)
"""Seconds before each further try, made longer or shorter by chance so that two do not meet again."""
_LOCK_WAIT, _DEADLOCK, _CHANGED_SINCE_READ = 1205, 1213, 1020
_GONE, _LOST = 2006, 2013
IN_THE_WAY = frozenset({_LOCK_WAIT, _DEADLOCK, _CHANGED_SINCE_READ})
"""What MariaDB says when somebody else was at the same rows; a failed certification in a cluster is a deadlock too."""
CONNECTION_LOST = frozenset({_GONE, _LOST})


class Unit:
    """One try: what it holds, what it has read for itself alone, and what is to be done once it is kept."""

    writes_versions = True
    apart_from_all = True
    """Whether what is written apart is written apart from it."""

    def __init__(self, apart: list[Any]) -> None:
        self.held: dict[str, VersionLock] = {}
        self.rows: dict[Any, Any] = {}
        """The version rows it holds, as it has left them; and single rows, by model and key."""
        self.own: dict[str, Any] = {}
        """What was read under a version that is this unit's alone until it is kept, by the name of its lock."""
        self.memory: dict[str, Any] = {}
        """What those who write tell those who do something before the commit."""
        self.before: list[Callable[[], object]] = []
        self.after: list[Callable[[], object]] = []
        self.undoing: list[Callable[[], object]] = []
        self.entries: list[tuple[type[models.Model], Any]] = []
        self.apart, self.told_apart = apart, 0
        """What was written apart, which is not written again when the unit is tried again."""
        self.committing = self.undone = False

    def commits(self) -> None:
        """All is written: what follows is the commit."""
        self.committing = True

    def may_be_tried_again(self, error: OperationalError) -> bool:
        """Whether it is sure that nothing was kept, and another try may go better."""
        code = _code(error)
        if code in CONNECTION_LOST:
            return not self.committing or bool(self.entries)  # was_kept() has been asked by then
        return code in IN_THE_WAY

    def hold(self, locks: Locks, arguments: Mapping[str, Any]) -> None:
        versions, rows = in_order(locks)
        for lock in versions:
            self.rows[lock.name] = lock.take()
            self.held[lock.name] = lock
        for row in rows:
            self.rows[row.model, arguments[row.argument]] = row.take(arguments)
        for lock in versions:
            if lock.exclusive and hasattr(self.rows[lock.name], "when_held"):
                self.rows[lock.name].when_held()

    def alone(self, lock: VersionLock) -> bool:
        """Whether what is read under a version is this unit's alone until it is kept."""
        held = self.held.get(lock.name)
        return held is not None and held.exclusive

    def raised(self, lock: VersionLock) -> Any:
        """The version row, which the unit is about to raise. RuntimeError unless it is held exclusively."""
        self.require(lock)
        self.own.clear()
        return self.rows[lock.name]

    def part(self, work: Callable[[], R], locks: Locks, keeps: Callable[[R], bool]) -> R:
        """Some work that says it is a unit, within this one, which has to hold what that needs."""
        self.require(*in_order(locks)[0])
        return work()

    def require(self, *locks: VersionLock) -> None:
        """Raise RuntimeError unless all of these are held, as firmly as asked."""
        for lock in locks:
            held = self.held.get(lock.name)
            if held is None or (lock.exclusive and not held.exclusive):
                how = "exclusively" if lock.exclusive else "shared"
                raise RuntimeError(f"This unit has to hold {lock.name} {how}: declare it.")

    def was_kept(self) -> bool:
        """Whether a commit that nothing was heard of went through: told by an entry that the unit wrote."""
        return any(model._base_manager.filter(pk=pk).exists() for model, pk in self.entries)


_running: ContextVar[Unit | None] = ContextVar("running", default=None)


def running() -> Unit | None:
    """The unit that is under way here."""
    return _running.get()


def run(
    work: Callable[[], R],
    locks: Locks = (),
    *,
    keeps: Callable[[R], bool] = lambda _: True,
    arguments: Mapping[str, Any] | None = None,
) -> R:
    """Do some work as one unit, or as part of the one that is running, which then has to hold what this needs."""
    outer = running()
    if outer is not None:
        return outer.part(work, locks, keeps)
    ids, told_apart = clock.Ids(), list[Any]()
    for pause in (*PAUSES, None):
        unit = Unit(told_apart)
        try:
            return _try(unit, ids, work, locks, keeps, arguments or {})
        except OperationalError as error:
            if pause is None or not unit.may_be_tried_again(error):
                raise
        time.sleep(pause * random.uniform(0.5, 1.5))
    raise AssertionError("the last try returns or raises")


@contextmanager
def entering(unit: Unit) -> Iterator[None]:
    """Let a unit be the one that is running."""
    token = _running.set(unit)
    try:
        yield
    finally:
        _running.reset(token)


def _try(
    unit: Unit,
    ids: clock.Ids,
    work: Callable[[], R],
    locks: Locks,
    keeps: Callable[[R], bool],
    arguments: Mapping[str, Any],
) -> R:
    try:
        with entering(unit), transaction.atomic():
            unit.hold(locks, arguments)
            with clock.standing_still(ids):
                result = work()
                kept = keeps(result) and not unit.undone
                for step in unit.before if kept else ():
                    step()
            if kept:
                unit.commits()
            else:
                transaction.set_rollback(True)
    except BaseException as error:
        kept = isinstance(error, OperationalError) and _code(error) in CONNECTION_LOST and unit.committing
        if not (kept and unit.was_kept()):
            follow(unit.undoing)
            raise
    follow(unit.after if kept else unit.undoing)
    return result


def may_be_tried_again(error: BaseException) -> bool:
    """Whether it comes of something that the unit which is running may not meet another time."""
    if running() is None or not isinstance(error, OperationalError):
        return False
    return _code(error) in IN_THE_WAY | CONNECTION_LOST


def _code(error: OperationalError) -> object:
    return error.args[0] if error.args else None


def follow(steps: Iterable[Callable[[], object]]) -> None:
    """Take the steps that follow a commit or a rollback; what fails in one is the log's."""
    for step in steps:
        try:
            step()
        except Exception:  # what is kept is kept: nobody is told that it was not
            _log.exception("Something that follows a commit failed")


def unit(*locks: VersionLock) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Have a function be a unit that holds these, or part of one that does."""

    def wrap(work: Callable[P, R]) -> Callable[P, R]:
        @wraps(work)
        def whole(*args: P.args, **kwargs: P.kwargs) -> R:
            return run(lambda: work(*args, **kwargs), locks)

        return whole

    return wrap


def before_commit(step: Callable[[], object]) -> None:
    """Do something as the last of the running unit, if it is to be kept."""
    unit = running()
    if unit is None:
        raise RuntimeError("There is no unit that could end.")
    unit.before.append(step)


def after_commit(step: Callable[[], object]) -> None:
    """Do something once the unit is kept: at once where none is running, never where it is rolled back."""
    unit = running()
    if unit is None:
        step()
    else:
        unit.after.append(step)


def after_rollback(step: Callable[[], object]) -> None:
    """Do something where the unit is not kept: take away a file that was written for it."""
    unit = running()
    if unit is not None:
        unit.undoing.append(step)


def roll_back() -> None:
    """Let nothing of the running unit be kept, though it ends without a refusal."""
    unit = running()
    if unit is None:
        raise RuntimeError("There is no unit that could be rolled back.")
    unit.undone = True


def written_as(entry: models.Model) -> None:
    """Say by which row it can be told later whether the unit was kept."""
    unit = running()
    if unit is not None:
        unit.entries.append((type(entry), entry.pk))


def version_row(lock: VersionLock) -> Any:
    """The version row as the running unit holds it, without a query; None where it has to be read."""
    unit = running()
    return unit.rows.get(lock.name) if unit else None


def held_row(model: type[models.Model], key: str) -> Any:
    """A single row that the running unit has held from its beginning, without a query; None where it has to be read."""
    unit = running()
    return unit.rows.get((model._meta.label, key)) if unit else None


def raised(lock: VersionLock) -> Any:
    """Note that a version is raised; its row, for saying so there too. None where no unit is running.

    RuntimeError where the running unit does not hold it exclusively.
    """
    unit = running()
    return unit.raised(lock) if unit else None


def own(lock: VersionLock) -> dict[str, Any] | None:
    """Where to keep what was read under a version that may be rolled back; None where it is everybody's."""
    unit = running()
    return unit.own if unit and unit.alone(lock) else None


def raise_row(row: models.Model, **values: Any) -> None:
    """Let a version row be something else; it is written, unless the unit that is running has versions of its own."""
    for name, value in values.items():
        setattr(row, name, value)
    unit = running()
    if unit is None or unit.writes_versions:
        type(row)._base_manager.filter(pk=row.pk).update(**values)


@contextmanager
def read_together() -> Iterator[None]:
    """Whatever is read inside is read as of one moment."""
    with transaction.atomic():
        yield
