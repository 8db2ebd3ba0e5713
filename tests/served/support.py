"""The application as it is served, on a harbour of its own: for the browser's tests, and for those over HTTP alone."""

import itertools
import json
import os
import shutil
import subprocess
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

from tools.console import run
from tools.install import PYTHON

ODILE, INES, LUDO = "odile@skerrow.example", "ines@sailloft.example", "ludo@agency.example"


class Database:
    """A database of its own for each process that runs tests."""

    def __init__(self, name: str) -> None:
        """An empty one, whatever an earlier run left in it."""
        self.name = f"test_gonfalon_{name}_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}"
        self.env = os.environ | {"GONFALON_DB_NAME": self.name}
        self._ask(
            f"DROP DATABASE IF EXISTS {self.name};"
            f"CREATE DATABASE {self.name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
        )

    def manage(self, *command: str) -> str:
        """What a management command prints. Raises Trouble where it fails."""
        return run(command[0], [str(PYTHON), "manage.py", *command], env=self.env)

    def sql(self, statement: str) -> list[list[str]]:
        """The rows that a statement answers, as text."""
        return [line.split("\t") for line in self._ask(statement, self.name).splitlines()]

    @contextmanager
    def talking(self) -> Iterator[tuple[Callable[[str], None], Callable[[], str]]]:
        """A connection that stays open: say statements to it, and hear line by line what it answers."""
        command = ["mariadb", *self._server, "-N", "-B", "--unbuffered", self.name]
        with subprocess.Popen(
            command, env=self._password, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1
        ) as client:
            assert client.stdin is not None
            assert client.stdout is not None
            write, hear = client.stdin.write, client.stdout.readline
            yield lambda text: (write(text), None)[1], hear

    def _ask(self, statements: str, database: str = "") -> str:
        command = ["mariadb", *self._server, "-N", "-B", *([database] if database else [])]
        done = subprocess.run(
            command, env=self._password, input=statements, stdout=subprocess.PIPE, check=True, text=True
        )
        return done.stdout

    @property
    def _server(self) -> list[str]:
        return ["--no-defaults", "--host=127.0.0.1", f"--port={os.environ['GONFALON_DB_PORT']}", "--user=gonfalon"]

    @property
    def _password(self) -> dict[str, str]:
        return os.environ | {"MYSQL_PWD": os.environ["GONFALON_DB_PASSWORD"]}


class Harbour(Database):
    """The harbour, and putting it back as it was."""

    def __init__(self, home: Path) -> None:
        super().__init__("served")
        self.home = home
        self.env |= {"GONFALON_MEDIA": str(home / "media")}
        self._versions = itertools.count(1_000, 1_000)
        self.manage("migrate", "-v0")
        self.manage("load_demo")
        rows_alone = ("--no-create-info", "--skip-add-locks", "--skip-disable-keys", "--single-transaction")
        command = ["mariadb-dump", *self._server, *rows_alone, self.name]
        kept = subprocess.run(command, env=self._password, stdout=subprocess.PIPE, check=True, text=True).stdout
        emptied = "".join(f"DELETE FROM {table};" for [table] in self.sql("SHOW TABLES"))
        self._files = home / "files-kept"
        shutil.copytree(home / "media", self._files)
        self._back = f"SET FOREIGN_KEY_CHECKS=0; START TRANSACTION; {emptied} {kept}"

    def restore(self) -> None:
        """In one transaction: what is on its way meanwhile reads all of it as it was, or all of it as it will be.

        Servers keep what they read by version, so each restored harbour has versions of its own.
        """
        version = next(self._versions)
        raised = (
            f"UPDATE access_policyversion SET number={version};"
            f"UPDATE content_contentversion SET number={version}, whole={version};"
        )
        self._ask(f"{self._back} {raised} COMMIT;", self.name)
        for kept in self._files.glob("*/*"):
            there = self.home / "media" / kept.relative_to(self._files)
            if not there.exists():
                shutil.copy2(kept, there)


class Client:
    """Somebody who speaks HTTP with the served application, each request on a connection of its own."""

    def __init__(self, address: str, email: str | None = None) -> None:
        self.address, self._cookies, self.headers = address, CookieJar(), dict[str, str]()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._cookies))
        if email:
            self("GET", "/api/session")
            sent = {"email": email, "password": os.environ["GONFALON_DEMO_PASSWORD"]}
            status, answer = self("POST", "/api/session", sent)
            assert status == 200, answer

    def __call__(self, method: str, path: str, data: Any = None) -> tuple[int, Any]:
        """The status and what came, JSON read. OSError when the connection is lost."""
        token = next((cookie.value for cookie in self._cookies if cookie.name == "csrftoken"), "") or ""
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, **self.headers}
        body = None if method == "GET" else json.dumps(data or {}).encode()
        request = urllib.request.Request(self.address + path, body, headers, method=method)
        try:
            with self._opener.open(request, timeout=60) as answer:
                return answer.status, _read(answer)
        except urllib.error.HTTPError as refusal:
            with refusal:
                return refusal.code, _read(refusal)


def _read(answer: Any) -> Any:
    text = answer.read().decode()
    return json.loads(text) if "json" in answer.headers.get("Content-Type", "") else text
