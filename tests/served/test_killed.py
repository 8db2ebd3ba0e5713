"""Killing the server or its database in the middle of an apply: none of it is there, and it can be applied again."""

import threading
import time
from collections.abc import Iterator
from contextlib import suppress

import pytest

from tests.served.killing import PATIENCE, held_up, kill_connection, kill_workers, waiting
from tests.served.support import ODILE, Client
from tools.processes import free_port
from tools.serving import Server, served

VERBS = ("see", "edit", "publish", "retire", "remove", "move", "history", "restore")
TYPES = ("notice", "berth", "event", "article", "section", "home")
WORDS = ("own", "team")
MIDDLE = "event.remove"
TRIES = 4


@pytest.fixture
def server(harbour, tmp_path) -> Iterator[Server]:
    with served(tmp_path, harbour.env, free_port()) as server:
        yield server


class Applying:
    """Odile, who says one word in many cells at once."""

    def __init__(self, server: Server) -> None:
        self.client = Client(server.address, ODILE)

    def stage(self, says: str) -> int:
        operations = [
            {"kind": "set-answer", "role": "pilot", "capability": f"{type}.{verb}", "says": says}
            for type in TYPES
            for verb in VERBS
        ]
        return len(self._again("POST", "/api/change-set/operations", {"operations": operations})["operations"])

    def staged(self) -> int:
        return len(self._again("GET", "/api/change-set")["operations"])

    def apply(self) -> None:
        with suppress(OSError):
            self.client("POST", "/api/change-set/apply")

    def _again(self, method: str, path: str, data: object = None) -> dict:
        """Ask until somebody answers: a killed worker is replaced, and its connections are gone."""
        until = time.monotonic() + PATIENCE
        while True:
            with suppress(OSError):
                status, answer = self.client(method, path, data)
                if status == 200:
                    return answer
            assert time.monotonic() < until, "nobody answers any more"


LOCK = f"SELECT 'held' FROM access_answer WHERE role_id = 'pilot' AND capability = '{MIDDLE}' FOR UPDATE"
"""Whoever applies waits in the middle, half of the answers written: somebody else holds the row of the next one."""


@pytest.mark.parametrize("what", ["server", "database"])
def test_none_of_it_is_there_or_all_of_it_once_and_the_ledger_agrees(server, harbour, what):
    odile = Applying(server)
    kills = {"server": lambda _: kill_workers(server.process.pid), "database": lambda id: kill_connection(harbour, id)}

    def said(word: str) -> int:
        return int(harbour.sql(f"SELECT COUNT(*) FROM access_answer WHERE role_id = 'pilot' AND says = '{word}'")[0][0])

    def entries() -> int:
        return int(harbour.sql("SELECT COUNT(*) FROM ledger_entry WHERE kind = 'change-set.applied'")[0][0])

    odile.stage(WORDS[0])
    odile.apply()
    for attempt in range(1, TRIES):
        word = WORDS[attempt % 2]
        count, before = odile.stage(word), entries()
        with held_up(harbour, LOCK):
            applying = threading.Thread(target=odile.apply)
            applying.start()
            kills[what](waiting(harbour, "%access_answer%", f"%{MIDDLE}%"))
        applying.join()
        harbour.sql("SELECT number FROM access_policyversion FOR UPDATE")  # held by whoever applies, until the end
        if what == "server":  # of a lost connection the server itself begins again
            assert (odile.staged(), entries() - before, said(word)) == (count, 0, 0)
            odile.apply()
        assert (odile.staged(), entries() - before, said(word)) == (0, 1, count)
