"""`python3 -m tools demo | demo-reset | test | check | screenshots | bench`, as the Makefile calls them."""

import os
import shutil
import sys

from tools import install
from tools.console import ROOT, RUN, Trouble, follow, report, run, say
from tools.database import Database
from tools.processes import free_port, require_free, stop_on_signals
from tools.serving import demo_database, environment, secrets_of, served

DEMO, TEST = RUN / "demo", RUN / "test"
SIGN_INS = (
    ("keyholder", "odile@skerrow.example"),
    ("tenant", "ines@sailloft.example"),
    ("intern", "aiko@skerrow.example"),
)


def demo() -> int:
    """Serve Skerrow Harbour until Ctrl-C."""
    port = _port()
    require_free(port)
    install.debian(install.SERVE)
    install.python("requirements.txt")
    install.front_end()
    with demo_database(DEMO) as env, served(DEMO, env, port) as server:
        password = secrets_of(DEMO)["demo"]
        say(f"\nGonfalon is at {server.address}\n")
        for who, email in SIGN_INS:
            say(f"  {who:<10} {email:<26} {password}")
        say(f"\nThe public site is at {server.address}/site/harbour/ . Ctrl-C stops everything.")
        code = server.process.wait()
    raise Trouble(f"The server ended by itself, with code {code}. Its log is {DEMO / 'server.log'}")


def _port() -> int:
    text = os.environ.get("PORT", "8000")
    if not text.isdigit() or not 0 < int(text) < 65536:
        raise Trouble(f"PORT={text} is no port; use a number from 1024 to 65535.")
    return int(text)


def demo_reset() -> int:
    """Forget all that was changed in the demo, and begin anew."""
    with Database(DEMO / "database", secrets_of(DEMO)["database"]):
        pass  # takes the lock, so that a running demo is not swept away
    shutil.rmtree(DEMO)
    return demo()


def _install_all() -> None:
    install.debian(install.SERVE | install.BROWSE)
    install.python("requirements-dev.txt")
    install.npm()
    install.front_end()


def test() -> int:
    """Every test: the rules, the API on MariaDB, the interface in a browser. ARGS chooses some of them."""
    _install_all()
    kept = secrets_of(TEST)
    with Database(TEST / "database", kept["database"], durable=False) as database:
        env = environment(TEST, database, kept)
        run("Collecting static files", [str(install.PYTHON), "manage.py", "collectstatic", "--noinput", "-v0"], env=env)
        return follow([str(install.PYTHON), "-m", "pytest", *os.environ.get("ARGS", "").split()], env=env)


def check() -> int:
    """Style, types and direction, of both halves."""
    install.debian(install.SERVE)
    install.python("requirements-dev.txt")
    install.npm()
    env = os.environ | {"GONFALON_SECRET_KEY": "not used for anything"}
    bin = install.PYTHON.parent
    failed = 0
    for name, command in {
        "ruff": [f"{bin}/ruff", "check", "."],
        "ruff format": [f"{bin}/ruff", "format", "--check", "-q", "."],
        "mypy": [f"{bin}/mypy"],
        "import-linter": [f"{bin}/lint-imports", "--no-cache"],
        "API types": [str(install.PYTHON), "-m", "tools.api_types", "--check"],
        "Biome and tsc": ["npm", "run", "--silent", "check"],
    }.items():
        say(f"{name}")
        failed |= follow(command, env=env, cwd=install.WEB if command[0] == "npm" else ROOT)
    return int(bool(failed))


def screenshots() -> int:
    """One picture of each main view from untouched demo data, into docs/screenshots/."""
    return _on_fresh_demo([str(install.PYTHON), "-m", "tools.screenshots"])


def bench() -> int:
    """The measurements under bench/: the rules on the large policy, then the served demo in a browser."""
    install.python("requirements-dev.txt")
    if code := follow([str(install.PYTHON), "-m", "bench.rules"]):
        return code
    return _on_fresh_demo([str(install.PYTHON), "-m", "bench"])


def _on_fresh_demo(command: list[str]) -> int:
    _install_all()
    home = RUN / "fresh"
    shutil.rmtree(home, ignore_errors=True)
    with demo_database(home, durable=False) as env, served(home, env, free_port()) as server:
        return follow([*command, server.address], env=env)


COMMANDS = {
    "demo": demo,
    "demo-reset": demo_reset,
    "test": test,
    "check": check,
    "screenshots": screenshots,
    "bench": bench,
}

if __name__ == "__main__":
    stop_on_signals()
    if len(sys.argv) != 2 or sys.argv[1] not in COMMANDS:
        sys.exit(f"Say one of: {', '.join(COMMANDS)}")
    report(COMMANDS[sys.argv[1]])
