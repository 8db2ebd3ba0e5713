"""Children that never outlive us, and signals that stop everything in order."""

import ctypes
import signal
import socket
import subprocess
from collections.abc import Sequence
from pathlib import Path

from tools.console import Trouble

_PR_SET_PDEATHSIG = 1


def start(command: Sequence[str], log: Path | None, *, env: dict[str, str] | None = None) -> subprocess.Popen[bytes]:
    """Start a child in a session of its own, so that Ctrl-C reaches only us; it ends when we do."""
    out = log.open("ab") if log else None
    return subprocess.Popen(
        command, stdout=out, stderr=out, env=env, start_new_session=True, preexec_fn=_die_with_parent
    )


def _die_with_parent() -> None:
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def stop(child: subprocess.Popen[bytes], seconds: float = 20) -> None:
    """Ask a child to end; insist when it does not."""
    if child.poll() is None:
        child.terminate()
        try:
            child.wait(seconds)
        except subprocess.TimeoutExpired:
            child.kill()
            child.wait()


def free_port() -> int:
    """A port nobody listens on just now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


def require_free(port: int) -> None:
    """Raise Trouble when the port is taken."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise Trouble(f"Port {port} is taken. Choose another: PORT={port + 1} make demo") from None


def stop_on_signals() -> None:
    """Turn SIGTERM and SIGHUP into KeyboardInterrupt, so that `with` blocks close what they opened."""

    def interrupt(*_: object) -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGTERM, interrupt)
    signal.signal(signal.SIGHUP, interrupt)
