"""The unit of work: what is written is written whole, decided under its locks, and tried again where it got in the way.

    @unit(POLICY)
    def rename(group, name): ...        # a transaction of its own, or part of the unit that is running

`locks.py` says what is held and in which order, `units.py` runs and tries again, `apart.py` writes what outlives a
refusal; `rehearsal.py` does what is never kept.
"""

from gonfalon.work.apart import apart
from gonfalon.work.locks import NODES, POLICY, Locks, RowLock, VersionLock, locked
from gonfalon.work.rehearsal import Busy, TooLong, rehearsing
from gonfalon.work.units import (
    after_commit,
    after_rollback,
    before_commit,
    held_row,
    own,
    raise_row,
    raised,
    read_together,
    roll_back,
    run,
    running,
    unit,
    version_row,
    written_as,
)

__all__ = (
    "NODES",
    "POLICY",
    "Busy",
    "Locks",
    "RowLock",
    "TooLong",
    "VersionLock",
    "after_commit",
    "after_rollback",
    "apart",
    "before_commit",
    "held_row",
    "locked",
    "own",
    "raise_row",
    "raised",
    "read_together",
    "rehearsing",
    "roll_back",
    "run",
    "running",
    "unit",
    "version_row",
    "written_as",
)
