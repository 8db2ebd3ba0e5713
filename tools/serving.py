"""Serving the application with demo data from a folder under `.run/`, by gunicorn, as in real use."""

import json
import os
import secrets
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from tools.console import Trouble, run, say
from tools.database import Database
from tools.install import PYTHON
from tools.processes import free_port, start, stop

WORKERS = 2
PATIENCE = 180
"""Seconds: a process of a large site reads it first, on a slow machine."""


def secrets_of(home: Path) -> dict[str, str]:
    """The secrets of one installation, made up the first time and kept in its folder."""
    file = home / "secrets.json"
    if not file.exists():
        home.mkdir(parents=True, exist_ok=True)
        made = {
            "secret_key": secrets.token_urlsafe(48),
            "database": secrets.token_hex(16),
            "demo": f"quay-{secrets.token_hex(4)}",
        }
        file.touch(mode=0o600)
        file.write_text(json.dumps(made))
    kept: dict[str, str] = json.loads(file.read_text())
    return kept


def environment(home: Path, database: Database, kept: dict[str, str]) -> dict[str, str]:
    """What the settings read, for this installation."""
    return {
        **os.environ,
        **database.environment,
        "DJANGO_SETTINGS_MODULE": "gonfalon.server.settings",
        "GONFALON_SECRET_KEY": kept["secret_key"],
        "GONFALON_DEMO_PASSWORD": kept["demo"],
        "GONFALON_MEDIA": str(home / "media"),
        "GONFALON_STATIC": str(home / "static"),
    }


@contextmanager
def own_database(home: Path, *, durable: bool = True) -> Iterator[dict[str, str]]:
    """A running database, as new as the application; gives the environment to serve it."""
    kept = secrets_of(home)
    with Database(home / "database", kept["database"], durable=durable) as database:
        env = environment(home, database, kept)
        run("Preparing the database", [str(PYTHON), "manage.py", "migrate", "-v0"], env=env)
        run("Collecting static files", [str(PYTHON), "manage.py", "collectstatic", "--noinput", "-v0"], env=env)
        yield env


@contextmanager
def demo_database(home: Path, load: str = "load_demo", *, durable: bool = True) -> Iterator[dict[str, str]]:
    """The same with what `load` fills it with."""
    with own_database(home, durable=durable) as env:
        loaded = run("Loading Skerrow Harbour", [str(PYTHON), "manage.py", load], env=env)
        if loaded.strip():
            say(loaded.strip())
        yield env


def address_of(port: int) -> str:
    """Where people reach what is served here: by name, since browsers make no passkeys for a number."""
    return f"http://localhost:{port}"


@dataclass(frozen=True)
class Server:
    """A server that answers at an address, and its process."""

    address: str
    process: subprocess.Popen[bytes]


@contextmanager
def mailed(home: Path, env: dict[str, str], address: str) -> Iterator[str]:
    """The worker that sends mail, and a mail server that keeps it and shows it; gives the address of that page.

    `env` is told where that server is, and at which address links in mails lead here.
    """
    smtp, page = free_port(), free_port()
    env |= {"GONFALON_MAIL_PORT": str(smtp)}
    kept = home / "mail"
    ports = [f"--smtp={smtp}", f"--page={page}", f"--keep={kept}"]
    server = start([str(PYTHON), "-m", "gonfalon.demo.mail", *ports], home / "mail.log", env=env)
    try:
        with working(home, env, address):
            yield f"http://127.0.0.1:{page}"
    finally:
        stop(server)


@contextmanager
def working(home: Path, env: dict[str, str], address: str) -> Iterator[None]:
    """The worker that sends mail and closes reviews; `env` is told at which address links in mails lead here."""
    env.setdefault("GONFALON_ADDRESS", address)
    worker = start([str(PYTHON), "manage.py", "db_worker", "--interval=0.5", "-v0"], home / "worker.log", env=env)
    try:
        yield
    finally:
        stop(worker)


@contextmanager
def served(home: Path, env: dict[str, str], port: int) -> Iterator[Server]:
    """The application on a port of 127.0.0.1, once it answers."""
    log, address = home / "server.log", address_of(port)
    server = start(
        [
            str(PYTHON),
            "-m",
            "gunicorn",
            "gonfalon.server.wsgi",
            f"--workers={WORKERS}",
            "--threads=4",
            f"--bind=127.0.0.1:{port}",
            "--graceful-timeout=5",
            "--timeout=180",
            "--no-control-socket",
        ],
        log,
        env={"GONFALON_ADDRESS": address, **env},
    )
    try:
        wait_until_answers(server, address, log)
        yield Server(address, server)
    finally:
        stop(server)


def wait_until_answers(server: subprocess.Popen[bytes], address: str, log: Path) -> None:
    """Raises Trouble, with the end of its log, when the server ends, or does not answer within three minutes."""
    until = time.monotonic() + PATIENCE
    while not _answers(address):
        if server.poll() is not None or time.monotonic() > until:
            tail = "\n".join(log.read_text(errors="replace").splitlines()[-15:])
            raise Trouble(f"The server did not start. Its log, {log}, ends:\n\n{tail}")
        time.sleep(0.05)


def _answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(f"{address}/api/session", timeout=5) as answer:
            return bool(answer.status == 200)
    except (urllib.error.URLError, ConnectionError, TimeoutError):
        return False
