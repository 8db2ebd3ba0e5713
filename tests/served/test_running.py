"""docs/running.md, followed word by word: from an empty database to a page that a visitor reads."""

import os
import pty
import shlex
import subprocess
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import pytest

from tests.served.support import Client, Database
from tools.console import ROOT
from tools.install import PYTHON
from tools.processes import free_port, start, stop
from tools.serving import address_of, wait_until_answers

COMMANDS = [line.strip() for line in (ROOT / "docs/running.md").read_text().splitlines() if line.startswith("    ")]
PASSWORD = "the tide waits for nobody"


class Installation(Database):
    """An empty database, and the commands of the page said against it."""

    def __init__(self, home: Path) -> None:
        super().__init__("running")
        self.port, self.log = free_port(), home / "server.log"
        self.address = address_of(self.port)
        self.env |= {"GONFALON_MEDIA": str(home / "media"), "GONFALON_STATIC": str(home / "static")}

    def words(self, command: str) -> list[str]:
        """A command as it is run here: with this environment's Python, at a port that is free."""
        said = command.replace("127.0.0.1:8000", f"127.0.0.1:{self.port}")
        return [word.replace(".venv/bin", str(PYTHON.parent)) for word in shlex.split(said)]

    def do(self, command: str) -> None:
        done = subprocess.run(self.words(command), cwd=ROOT, env=self.env, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stdout + done.stderr

    def do_typing(self, command: str, typed: str) -> None:
        """The same at a terminal, answering what is asked there."""
        ours, theirs = pty.openpty()
        with subprocess.Popen(
            self.words(command),
            cwd=ROOT,
            env=self.env,
            stdin=theirs,
            stdout=theirs,
            stderr=theirs,
            start_new_session=True,
        ) as process:
            os.close(theirs)
            told = b""
            for asked in (b"password", b"Once more"):
                while asked not in told:
                    told += os.read(ours, 1000)
                os.write(ours, f"{typed}\n".encode())
            while (more := _read(ours)) != b"":
                told += more
        assert process.returncode == 0, told.decode()

    @contextmanager
    def running(self, command: str) -> Iterator[subprocess.Popen[bytes]]:
        process = start(self.words(command), self.log, env=self.env)
        try:
            yield process
        finally:
            stop(process)


def _read(terminal: int) -> bytes:
    """What comes from a terminal; nothing once nobody is at it any more."""
    try:
        return os.read(terminal, 1000)
    except OSError:
        return b""


def beginning_with(*words: str) -> str:
    """The one command of the page that begins so."""
    [command] = [line for line in COMMANDS if line.startswith(words)]
    return command


@pytest.fixture
def installation(tmp_path: Path) -> Installation:
    return Installation(tmp_path)


def test_the_page_leads_from_nothing_to_a_page_that_a_visitor_reads(installation):
    manage = [line for line in COMMANDS if line.startswith(".venv/bin/python manage.py")]
    first = [line for line in manage if "db_worker" not in line and "begin" not in line]
    assert "CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci" in beginning_with("CREATE DATABASE")
    for command in first:
        if "keyholder" in command:
            installation.do_typing(command, PASSWORD)
        else:
            installation.do(command)
    with ExitStack() as running:
        server = running.enter_context(installation.running(beginning_with(".venv/bin/gunicorn")))
        running.enter_context(installation.running(beginning_with(".venv/bin/python manage.py db_worker")))
        wait_until_answers(server, installation.address, installation.log)
        keyholder = Client(installation.address)
        keyholder("GET", "/api/session")
        assert keyholder("POST", "/api/session", {"email": "you@your.example", "password": PASSWORD})[0] == 200
        installation.do(beginning_with(".venv/bin/python manage.py begin"))
        [home] = keyholder("GET", "/api/desk/children")[1]
        made = {"parent": home["id"], "type": "page", "title": "When the tide turns"}
        status, page = keyholder("POST", "/api/desk/pages", made)
        assert status == 201, page
        visitor = Client(installation.address)
        assert visitor("GET", "/site/slack-water-club/when-the-tide-turns")[0] == 404
        keyholder.headers["If-Match"] = f'"{page["version"]}"'
        assert keyholder("POST", f"/api/desk/pages/{page['id']}/publish")[0] == 200
        status, read = visitor("GET", "/site/slack-water-club/when-the-tide-turns")
        assert status == 200
        assert "<h1>When the tide turns</h1>" in read
