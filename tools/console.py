"""Words on the terminal, and trouble told as a sentence instead of a traceback."""

import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
RUN = ROOT / ".run"


class Trouble(Exception):
    """What went wrong and what to do about it, for whoever ran the command."""


def say(text: str) -> None:
    print(text, flush=True)


def run(
    what: str, command: Sequence[str], *, env: dict[str, str] | None = None, cwd: Path = ROOT, advice: str = ""
) -> str:
    """Run a command to its end; its output is kept for when it fails. Raises Trouble."""
    began = time.monotonic()
    done = subprocess.run(command, cwd=cwd, env=env, text=True, capture_output=True, check=False)
    if done.returncode:
        tail = "\n".join((done.stdout + done.stderr).strip().splitlines()[-25:])
        raise Trouble(f"{what} failed.{' ' + advice if advice else ''}\n\n{tail}")
    if time.monotonic() - began > 2:
        say(f"  {what}: {time.monotonic() - began:.0f} s")
    return done.stdout


def follow(command: Sequence[str], *, env: dict[str, str] | None = None, cwd: Path = ROOT) -> int:
    """Run a command whose output goes straight to the terminal."""
    return subprocess.run(command, cwd=cwd, env=env, check=False).returncode


def report(main: object) -> None:
    """Call `main`, telling trouble in words."""
    try:
        sys.exit(main())  # type: ignore[operator]
    except Trouble as trouble:
        print(f"\n{trouble}", file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
