"""`python3 -m tools demo | demo-large | test | ...`: what the Makefile calls, each a function below."""

import os
import secrets
import shlex
import shutil
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from tools import install
from tools.console import ROOT, RUN, Trouble, follow, report, run, say
from tools.database import Database
from tools.processes import free_port, require_free, stop_on_signals
from tools.serving import address_of, demo_database, environment, mailed, own_database, secrets_of, served, working

SITE, DEMO, LARGE, TEST = RUN / "site", RUN / "demo", RUN / "large", RUN / "test"
PYTEST = [str(install.PYTHON), "-m", "pytest", "--numprocesses=2", "--dist=worksteal"]
CLOCKS = ("2028-02-28 09:30:00", "2026-12-31 23:45:00")
"""The day before a leap day, and the last minutes of a year."""
DATED = [
    "tests/api/assign/test_accounts.py",
    "tests/api/assign/test_taking_on.py",
    "tests/api/changes/test_change_sets.py",
    "tests/api/desk/test_start.py",
    "tests/api/session/test_first_keyholder.py",
    "tests/api/session/test_session.py",
    "tests/api/test_demo.py",
    "tests/api/verify/test_expectation_cache.py",
    "tests/api/verify/test_stand_in.py",
    "tests/api/verify/test_words.py",
]
"""Where dates are given, told and run out."""
SAMPLED = [
    "tests/api/changes/test_accepted.py",
    "tests/api/test_bad_requests.py",
    "tests/api/test_doors.py",
    "tests/api/test_knowledge.py",
    "tests/api/verify/test_demo_pairs.py",
]
"""Of which the other runs take a sample."""
SIGN_INS = (
    ("keyholder", "odile@skerrow.example"),
    ("tenant", "ines@sailloft.example"),
    ("intern", "aiko@skerrow.example"),
)
SIGN_INS_LARGE = (("keyholder", "keeper@skerrow.example"),)


def start() -> int:
    """Serve an installation of one's own until Ctrl-C: its data lie under .run/site, and stay."""
    port = _port()
    require_free(port)
    install.debian(install.SERVE)
    install.python("requirements.txt")
    install.front_end()
    with own_database(SITE) as env, working(SITE, env, address_of(port)), served(SITE, env, port) as server:
        link = run("Asking for the keys", [str(install.PYTHON), "manage.py", "first_link"], env=env).strip()
        say(f"\nGonfalon is at {server.address}")
        if link:
            say(f"\nWhoever opens this becomes the keyholder; it works once, for a day:\n\n  {link}")
        say(f"\nIts data lie in {SITE.relative_to(ROOT)}. Ctrl-C stops everything, and loses nothing.")
        code = server.process.wait()
    raise Trouble(f"The server ended by itself, with code {code}. Its log is {SITE / 'server.log'}")


def demo() -> int:
    """Serve Skerrow Harbour until Ctrl-C."""
    return _serve(DEMO, "load_demo", SIGN_INS, "The public site is at {address}/site/harbour/ .")


def demo_large() -> int:
    """Serve a harbour of 10,000 accounts and 100,000 pages, made from a seed, until Ctrl-C."""
    return _serve(LARGE, "load_large", SIGN_INS_LARGE, "")


def _serve(home: Path, load: str, sign_ins: Sequence[tuple[str, str]], more: str) -> int:
    port = _port()
    require_free(port)
    install.debian(install.SERVE)
    install.python("requirements.txt")
    install.front_end()
    with (
        demo_database(home, load) as env,
        mailed(home, env, address_of(port)) as mail,
        served(home, env, port) as server,
    ):
        password = secrets_of(home)["demo"]
        say(f"\nGonfalon is at {server.address}\n")
        for who, email in sign_ins:
            say(f"  {who:<10} {email:<26} {password}")
        say(f"\n{more.format(address=server.address)} Mail that is sent is shown at {mail} .".replace("\n ", "\n"))
        say("Ctrl-C stops everything.")
        code = server.process.wait()
    raise Trouble(f"The server ended by itself, with code {code}. Its log is {home / 'server.log'}")


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
    """Every test: the front end's logic, the rules, the API on MariaDB, the interface in a browser.

    Each in two processes; those that are served have a database of their own in each. ARGS chooses some of those that
    pytest runs, as a shell would split it, and leaves the rest out.
    """
    _install_all()
    chosen = shlex.split(os.environ.get("ARGS", ""))
    if chosen:
        return _with_database([[*PYTEST[:3], *chosen]])
    quiet = "ignore::pytest.PytestConfigWarning"  # the settings of pytest-django are in one file with the others
    rules = [*PYTEST, "-p", "no:django", "-W", quiet, "tests/core", "gonfalon/core"]
    return (
        follow(["npm", "run", "--silent", "test"], cwd=install.WEB)
        or follow(rules)
        or _with_database([[*PYTEST, "tests/api"], [*PYTEST, "tests/served", "tests/browser"]])
    )


def test_long() -> int:
    """What no push waits for: properties on many more examples, and all that tests/ otherwise takes a sample of.

    The seed is printed, and taken from GONFALON_SEED to see the same again.
    """
    _install_all()
    os.environ["GONFALON_TEST"] = "long"
    seed = os.environ.setdefault("GONFALON_SEED", str(secrets.randbelow(10**9)))
    say(f"GONFALON_SEED={seed}")
    quiet = "ignore::pytest.PytestConfigWarning"
    rules = [*PYTEST, f"--hypothesis-seed={seed}", "--timeout=3600", "-p", "no:django", "-W", quiet, "tests/core"]
    return follow(rules) or _with_database([[*PYTEST, "--timeout=3600", *SAMPLED]])


def _with_database(commands: Iterable[list[str]]) -> int:
    """Run test commands one after the other, until one fails."""
    kept = secrets_of(TEST)
    with Database(TEST / "database", kept["database"], durable=False) as database:
        env = environment(TEST, database, kept)
        run("Collecting static files", [str(install.PYTHON), "manage.py", "collectstatic", "--noinput", "-v0"], env=env)
        return next((code for command in commands if (code := follow(command, env=env))), 0)


def clocks() -> int:
    """The tests that know dates, with the clock set to other days: none of them depends on today's."""
    _install_all()
    install.debian({"faketime": "faketime"})
    for clock in CLOCKS:
        say(f"At {clock}")
        at = ["faketime", "--exclude-monotonic", "-f", f"@{clock}"]
        if code := follow([*at, "npm", "run", "--silent", "test"], cwd=install.WEB) or _with_database(
            [[*at, *PYTEST[:3], *DATED]]
        ):
            return code
    return 0


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
    """The measurements under bench/: the rules on the large policy, then the served demos in a browser."""
    install.python("requirements-bench.txt")
    if code := follow([str(install.PYTHON), "-m", "bench.rules"]):
        return code
    on_the_harbour = ("bench", "bench.budgets")
    return max(_on_fresh_demo([str(install.PYTHON), "-m", one]) for one in on_the_harbour) or _on_large_demo()


def _on_large_demo() -> int:
    with demo_database(LARGE, "load_large") as env, served(LARGE, env, free_port()) as server:
        measured = [
            follow([str(install.PYTHON), "-m", f"bench.{one}", server.address], env=env)
            for one in ("large", "pages", "limit")
        ]
        return max(measured)


def _on_fresh_demo(command: list[str]) -> int:
    _install_all()
    home = RUN / "fresh"
    shutil.rmtree(home, ignore_errors=True)
    with demo_database(home, durable=False) as env, served(home, env, free_port()) as server:
        return follow([*command, server.address], env=env)


COMMANDS = {
    "start": start,
    "demo": demo,
    "demo-reset": demo_reset,
    "demo-large": demo_large,
    "test": test,
    "test-long": test_long,
    "clocks": clocks,
    "check": check,
    "screenshots": screenshots,
    "bench": bench,
}

if __name__ == "__main__":
    stop_on_signals()
    if len(sys.argv) != 2 or sys.argv[1] not in COMMANDS:
        sys.exit(f"Say one of: {', '.join(COMMANDS)}")
    report(COMMANDS[sys.argv[1]])
