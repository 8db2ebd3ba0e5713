"""The project's own MariaDB: a data directory under `.run/`, on loopback, on a port of its own.

with Database(RUN / "demo" / "database", password) as database:
    database.environment   # what the settings read
"""

import fcntl
import getpass
import shutil
import subprocess
import tempfile
import time
from pathlib import Path

from tools.console import Trouble, run, say
from tools.processes import free_port, start, stop

PATIENCE = 60


class Database:
    """A MariaDB server for as long as the `with` block lasts."""

    def __init__(self, directory: Path, password: str, *, durable: bool = True) -> None:
        self.directory = directory
        self.password = password
        self.durable = durable
        self.port = 0

    @property
    def environment(self) -> dict[str, str]:
        return {
            "GONFALON_DB_HOST": "127.0.0.1",
            "GONFALON_DB_PORT": str(self.port),
            "GONFALON_DB_NAME": "gonfalon",
            "GONFALON_DB_USER": "gonfalon",
            "GONFALON_DB_PASSWORD": self.password,
        }

    def __enter__(self) -> "Database":
        self.directory.parent.mkdir(parents=True, exist_ok=True)
        self._claim()
        # Socket paths are limited to about 100 characters, which a clone's path may exceed.
        self._sockets = Path(tempfile.mkdtemp(prefix="gonfalon-"))
        try:
            fresh = self._install()
            self._start()
            if fresh:
                self._make_user()
        except BaseException:
            self.__exit__()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        if server := getattr(self, "_server", None):
            stop(server, PATIENCE)
        shutil.rmtree(self._sockets, ignore_errors=True)
        self._lock.close()

    def _claim(self) -> None:
        self._lock = (self.directory.parent / "lock").open("w")
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Trouble(
                f"Another run is using {self.directory.parent}. Stop it first, with Ctrl-C where it was started."
            ) from None

    def _install(self) -> bool:
        if (self.directory / "ready").exists():
            return False
        shutil.rmtree(self.directory, ignore_errors=True)
        say("Making a database")
        user = getpass.getuser()
        run(
            "mariadb-install-db",
            [
                "mariadb-install-db",
                "--no-defaults",
                f"--datadir={self.directory}",
                f"--user={user}",
                f"--auth-root-socket-user={user}",
                "--auth-root-authentication-method=socket",
                "--skip-test-db",
            ],
            advice="Is there room on the disk?",
        )
        return True

    def _start(self) -> None:
        self.port = free_port()
        log = self.directory / "server.log"
        flags = [] if self.durable else ["--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=0"]
        self._server = start(
            [
                shutil.which("mariadbd") or "/usr/sbin/mariadbd",
                "--no-defaults",
                f"--datadir={self.directory}",
                f"--user={getpass.getuser()}",
                f"--socket={self._sockets / 's'}",
                f"--pid-file={self._sockets / 'pid'}",
                "--bind-address=127.0.0.1",
                f"--port={self.port}",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci",
                "--innodb-buffer-pool-size=256M",
                "--skip-name-resolve",
                *flags,
            ],
            log,
        )
        until = time.monotonic() + PATIENCE
        while not self._answers():
            if self._server.poll() is not None or time.monotonic() > until:
                tail = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
                raise Trouble(f"MariaDB did not start. Its log, {log}, ends:\n\n{tail}")
            time.sleep(0.05)

    def _answers(self) -> bool:
        return subprocess.run([*self._client, "-e", "SELECT 1"], capture_output=True, check=False).returncode == 0

    def _make_user(self) -> None:
        statements = (
            f"CREATE USER 'gonfalon'@'127.0.0.1' IDENTIFIED BY '{self.password}';"
            "CREATE DATABASE gonfalon CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;"
            "GRANT ALL ON gonfalon.* TO 'gonfalon'@'127.0.0.1';"
            "GRANT ALL ON `test\\_gonfalon%`.* TO 'gonfalon'@'127.0.0.1';"
        )
        run("Making the database user", [*self._client, "-e", statements])
        (self.directory / "ready").touch()

    @property
    def _client(self) -> list[str]:
        return ["mariadb", "--no-defaults", f"--socket={self._sockets / 's'}", f"--user={getpass.getuser()}"]
