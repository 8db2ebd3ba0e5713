"""Killing the server or its database while a working copy is saved or published: all of it is there, or none."""

import threading
import time
from contextlib import suppress

import pytest

from tests.served.killing import PATIENCE, held_up, kill_connection, kill_workers, waiting
from tests.served.support import ODILE, Client, Harbour
from tools.processes import free_port
from tools.serving import served

COPY = "/api/desk/pages/p3-sail-loft/copy"
LEDGER = "LOCK TABLES ledger_entry WRITE; SELECT 'held'"
"""Whoever saves or publishes waits once all else is written: the entry comes last."""
STATE = """
    SELECT (SELECT title FROM content_node WHERE id = 'p3-sail-loft'),
           (SELECT COUNT(*) FROM content_version WHERE node_id = 'p3-sail-loft'),
           COALESCE((SELECT title FROM content_workingcopy WHERE node_id = 'p3-sail-loft'), ''),
           (SELECT COUNT(*) FROM content_copyversion WHERE copy_id = 'p3-sail-loft'),
           (SELECT COUNT(*) FROM ledger_entry WHERE kind LIKE 'page.copy-%')
"""


def state(harbour: Harbour) -> tuple[str, int, str, int, int]:
    """Of the page its title and versions, of its copy the same, and the entries about copies."""
    [[title, versions, copy, saves, entries]] = harbour.sql(STATE)
    return title, int(versions), copy, int(saves), int(entries)


@pytest.mark.parametrize("what", ["server", "database"])
def test_nothing_is_lost_that_was_told_as_saved_nor_half_published(harbour, tmp_path, what):
    with served(tmp_path, harbour.env, free_port()) as server:
        odile = Client(server.address, ODILE)

        def read() -> str:
            """The tag of the copy, once somebody answers: a killed worker is replaced."""
            until = time.monotonic() + PATIENCE
            while True:
                with suppress(OSError):
                    return odile("GET", COPY)[1]["tag"]
                assert time.monotonic() < until, "nobody answers any more"

        def send(method: str, path: str, data: object) -> None:
            odile.headers["If-Match"] = f'"{read()}"'
            with suppress(OSError):
                told.append(odile(method, path, data)[0])

        def killed(method: str, path: str, data: object) -> bool:
            """Whether it was told as done, though it was killed before its end."""
            told.clear()
            with held_up(harbour, LEDGER):
                sending = threading.Thread(target=send, args=(method, path, data))
                sending.start()
                id = waiting(harbour, "INSERT INTO `ledger_entry`%")
                kill_workers(server.process.pid) if what == "server" else kill_connection(harbour, id)
            sending.join(PATIENCE)
            return told == [200]

        told: list[int] = []
        title, versions, *_, entries = state(harbour)
        begun = killed("PATCH", COPY, {"title": "The loft next", "sitting": True})
        assert begun == (what == "database"), "a lost connection is begun again, a killed server is not"
        assert state(harbour) == (title, versions, *(("The loft next", 1, entries + 1) if begun else ("", 0, entries)))
        send("PATCH", COPY, {"title": "The loft next", "sitting": True})
        before = state(harbour)
        assert before == (title, versions, "The loft next", 1, entries + 1)
        public = killed("POST", f"{COPY}/publish", {})
        assert state(harbour) == (("The loft next", versions + 1, "", 0, entries + 2) if public else before)
