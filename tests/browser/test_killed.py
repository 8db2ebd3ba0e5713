"""Killing the server or its database in the middle of an apply: afterwards all of it is there, or none."""

import os
import signal
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from random import Random

import pytest
from playwright.sync_api import Error as LostConnection
from playwright.sync_api import Page

from tests.browser.conftest import ODILE, _environment, _server, sign_in_by_form
from tools.processes import free_port
from tools.serving import Server, served

VERBS = ("see", "edit", "publish", "retire", "remove", "move", "history", "restore")
TYPES = ("notice", "berth", "event", "article", "section", "home")
WORDS = ("own", "team")
TRIES = 8
AGAIN = 5
"""How often a question is asked again whose connection a killed worker dropped."""


@pytest.fixture
def server(harbour, tmp_path) -> Iterator[Server]:
    with served(tmp_path, dict(os.environ), free_port()) as server:
        yield server


def sql(statement: str) -> list[list[str]]:
    told = subprocess.run(
        ["mariadb", *_server(), "gonfalon", "-N", "-B", "-e", statement],
        env=_environment(),
        stdout=subprocess.PIPE,
        check=True,
        text=True,
    )
    return [line.split("\t") for line in told.stdout.splitlines()]


def kill_workers(master: int) -> None:
    found = subprocess.run(["pgrep", "-P", str(master)], stdout=subprocess.PIPE, text=True, check=False)
    for pid in found.stdout.split():
        os.kill(int(pid), signal.SIGKILL)


def kill_connections() -> None:
    for [id] in sql("SELECT id FROM information_schema.processlist WHERE id <> CONNECTION_ID() AND db = 'gonfalon'"):
        subprocess.run(
            ["mariadb", *_server(), "-e", f"KILL {id}"], env=_environment(), check=False, stderr=subprocess.DEVNULL
        )


class Applying:
    """Odile, who says one word in many cells at once."""

    def __init__(self, page: Page, address: str) -> None:
        self.requests, self.address = page.request, address
        page.goto(f"{address}/sign-in")
        sign_in_by_form(page, ODILE)
        page.wait_for_url(lambda url: "/sign-in" not in url)
        cookies = {cookie["name"]: cookie["value"] for cookie in page.context.cookies(address)}
        self.headers = {"X-CSRFToken": cookies["csrftoken"]}

    def stage(self, says: str) -> int:
        operations = [
            {"kind": "set-answer", "role": "pilot", "capability": f"{type}.{verb}", "says": says}
            for type in TYPES
            for verb in VERBS
        ]
        path, data = "/api/change-set/operations", {"operations": operations}
        told = self.requests.post(self.address + path, data=data, headers=self.headers, max_retries=AGAIN)
        return len(told.json()["operations"])

    def apply(self) -> None:
        with suppress(LostConnection):
            self.requests.post(f"{self.address}/api/change-set/apply", headers=self.headers)

    def staged(self) -> int:
        told = self.requests.get(f"{self.address}/api/change-set", max_retries=AGAIN)
        return len(told.json()["operations"])


def settle() -> None:
    """Wait for what the database may still be at: whoever applies holds this row until the end."""
    sql("SELECT number FROM access_policyversion FOR UPDATE")


def said(word: str) -> int:
    return int(sql(f"SELECT COUNT(*) FROM access_answer WHERE role_id = 'pilot' AND says = '{word}'")[0][0])


def entries() -> int:
    return int(sql("SELECT COUNT(*) FROM ledger_entry WHERE kind = 'change-set.applied'")[0][0])


@pytest.mark.parametrize("what", ["server", "database"])
def test_all_of_it_or_none_and_the_ledger_agrees(open_as, server, what):
    odile = Applying(open_as(), server.address)
    kill: Callable[[], None] = kill_connections if what == "database" else lambda: kill_workers(server.process.pid)
    random = Random(7)
    odile.stage(WORDS[0])
    began = time.perf_counter()
    odile.apply()
    usual = time.perf_counter() - began
    for attempt in range(1, TRIES):
        word = WORDS[attempt % 2]
        count, before = odile.stage(word), entries()
        killing = threading.Timer(random.uniform(0, usual), kill)
        killing.start()
        odile.apply()
        killing.join()
        settle()
        applied = entries() - before
        assert (odile.staged(), applied) in ((count, 0), (0, 1))
        assert said(word) == (count if applied else 0)
        if not applied:
            odile.apply()
            assert (odile.staged(), entries() - before, said(word)) == (0, 1, count)
