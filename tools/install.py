"""Installing what is missing: Debian packages, the virtual environment, npm packages, the front end.

Each step leaves a stamp of what it was made from under `.run/`, so a second run does nothing.
"""

import hashlib
import os
import shutil
import sys
from collections.abc import Iterable
from pathlib import Path

from tools.console import ROOT, RUN, Trouble, run, say

PYTHON = ROOT / ".venv" / "bin" / "python"
WEB = ROOT / "web"

SERVE = {"mariadbd": "mariadb-server", "mariadb_config": "libmariadb-dev", "pkg-config": "pkg-config"}
BROWSER = "chromium-headless-shell"
"""Chromium without windows: two thirds of the processor time of the whole one."""
BROWSE = {BROWSER: BROWSER}


def debian(wanted: dict[str, str]) -> None:
    """Install the packages whose programs are missing. Needs root only when something is."""
    missing = [package for program, package in wanted.items() if not _found(program)]
    if not missing:
        return
    if not shutil.which("apt-get"):
        raise Trouble(f"These programs are missing: {', '.join(missing)}. Install them and run this again.")
    if os.geteuid() != 0:
        raise Trouble(f"Some Debian packages are missing. As root, run: apt-get install {' '.join(missing)}")
    say(f"Installing Debian packages: {', '.join(missing)}")
    quiet = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    run("apt-get update", ["apt-get", "update", "-qq"], env=quiet, advice="Is there a network?")
    # The packages' own service stays off: the project runs an instance of its own.
    policy = Path("/usr/sbin/policy-rc.d")
    ours = not policy.exists()
    if ours:
        policy.write_text("#!/bin/sh\nexit 101\n")
        policy.chmod(0o755)
    try:
        run(
            "apt-get install",
            ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *missing],
            env=quiet,
            advice=f"Try it by hand: apt-get install {' '.join(missing)}",
        )
    finally:
        if ours:
            policy.unlink()


def _found(program: str) -> bool:
    return shutil.which(program, path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/local/sbin") is not None


def python(lock: str) -> None:
    """The virtual environment, with the exact versions of a lock file and the `gonfalon` command."""
    stamp = _digest([*sorted(ROOT.glob("requirements*.txt")), ROOT / "pyproject.toml"])  # one names another
    if PYTHON.exists() and _stamped(lock, stamp):
        return
    say("Installing Python packages")
    if not PYTHON.exists():
        run("Making the virtual environment", [sys.executable, "-m", "venv", str(ROOT / ".venv")])
    run(
        "pip install",
        [str(PYTHON), "-m", "pip", "install", "-q", "-r", str(ROOT / lock)],
        advice="Is there a network?",
    )
    run(
        "Installing the gonfalon command",
        [str(PYTHON), "-m", "pip", "install", "-q", "--no-deps", "-e", str(ROOT)],
        advice="Is there a network?",
    )
    _leave(lock, stamp)


def npm() -> None:
    """The front end's packages, as its lock file says."""
    stamp = _digest([WEB / "package-lock.json"])
    if (WEB / "node_modules").is_dir() and _stamped("npm", stamp):
        return
    if not shutil.which("npm"):
        raise Trouble("npm is missing. Install Node.js 20 or newer, with npm.")
    say("Installing npm packages")
    run("npm ci", ["npm", "ci", "--no-audit", "--no-fund"], cwd=WEB, advice="Is there a network?")
    _leave("npm", stamp)


def front_end() -> None:
    """Build the front end, if its sources changed since the last time."""
    sources = [p for p in (WEB / "src").rglob("*") if p.is_file()]
    stamp = _digest([*sorted(sources), WEB / "index.html", WEB / "vite.config.ts", WEB / "package-lock.json"])
    if (WEB / "dist" / "index.html").exists() and _stamped("front-end", stamp):
        return
    npm()
    say("Building the front end")
    run("vite build", ["npm", "run", "--silent", "build"], cwd=WEB)
    _leave("front-end", stamp)


def _digest(files: Iterable[Path]) -> str:
    digest = hashlib.sha256(str(ROOT).encode())
    for file in files:
        digest.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()


def _stamped(name: str, stamp: str) -> bool:
    file = RUN / "stamps" / name
    return file.exists() and file.read_text() == stamp


def _leave(name: str, stamp: str) -> None:
    (RUN / "stamps").mkdir(parents=True, exist_ok=True)
    (RUN / "stamps" / name).write_text(stamp)
