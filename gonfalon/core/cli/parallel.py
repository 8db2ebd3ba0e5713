"""Work shared out among processors: the lines of a file, the parts of an impact (§8).

    for answer in shared_out(answer_of, lines):    # in the order of the lines
        ...

Processes are copies of this one, so that what is in memory, as a policy, need not be read again by each. Made for
commands: whoever has threads, as a server, must not copy itself.
"""

import os
import signal
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import chain, islice
from multiprocessing import get_context
from typing import Any, TypeVar

T = TypeVar("T")
A = TypeVar("A")
_SHARE = 2_000
"""Lines that one process answers at a time."""
_AHEAD = 2
"""Shares waiting for each process: enough that none is idle, few enough that memory stays constant."""

_do: list[Callable[[Any], Any]] = []


class Killed(Exception):
    """A process was killed before it had answered."""


def shared_out(do: Callable[[T], A], things: Iterable[T], share: int = _SHARE) -> Iterator[A]:
    """What `do` makes of each thing, in their order. Things, and what is made, go between processes, `share` at a time.

    What is no more than one share, or all there is one processor for, is done here.
    Raises Killed when a process that works is killed from outside.
    """
    coming, processes = iter(things), len(os.sched_getaffinity(0))
    first = list(islice(coming, share + 1))
    coming = chain(first, coming)
    if len(first) <= share or processes == 1:
        yield from map(do, coming)
        return
    with ProcessPoolExecutor(processes, get_context("fork"), _begin, (do,)) as pool:
        waiting: deque[Future[list[A]]] = deque()
        try:
            while True:
                while len(waiting) < _AHEAD * processes and (some := list(islice(coming, share))):
                    waiting.append(pool.submit(_done, some))
                if not waiting:
                    return
                yield from waiting.popleft().result()
        except BrokenProcessPool:
            raise Killed("a process was killed before it had answered; perhaps memory ran out") from None


def _begin(do: Callable[[Any], Any]) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whoever started it stops it
    _do.append(do)


def _done(things: list[Any]) -> list[Any]:
    return list(map(_do[-1], things))
