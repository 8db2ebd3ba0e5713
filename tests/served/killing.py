"""Holding somebody up in the middle of a transaction, and killing the server or its connection there."""

import os
import signal
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress

from tests.served.support import Harbour

PATIENCE = 20


@contextmanager
def held_up(harbour: Harbour, lock: str) -> Iterator[None]:
    """Whoever comes to a row waits there: a statement that answers 'held' holds it."""
    with harbour.talking() as (say, hear):
        say(f"BEGIN; {lock};\n")
        assert hear() == "held\n"
        yield


def waiting(harbour: Harbour, *like: str) -> str:
    """The connection that waits for that row, once one runs a statement like this."""
    alike = "".join(f" AND info LIKE '{part}'" for part in like)
    asked = (
        "SELECT id FROM information_schema.processlist"
        f" WHERE db = '{harbour.name}'{alike} AND info NOT LIKE '%FOR UPDATE%held%' AND id <> CONNECTION_ID()"
    )
    until = time.monotonic() + PATIENCE
    while not (found := harbour.sql(asked)):
        assert time.monotonic() < until, "nobody came to write this"
    return found[0][0]


def kill_workers(master: int) -> None:
    found = subprocess.run(["pgrep", "-P", str(master)], stdout=subprocess.PIPE, text=True, check=False)
    for pid in found.stdout.split():
        with suppress(ProcessLookupError):
            os.kill(int(pid), signal.SIGKILL)


def kill_connection(harbour: Harbour, id: str) -> None:
    with suppress(subprocess.CalledProcessError):  # it may have ended by itself
        harbour.sql(f"KILL {id}")
