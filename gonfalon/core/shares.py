"""Work on the lines of a file, shared out among processors (§8).

    for answer in shared_out(answer_of, lines):    # in the order of the lines
        ...

Processes are copies of this one, so that what is in memory, as a policy, need not be read again by each.
"""

import os
import signal
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import chain, islice
from multiprocessing import get_context

_SHARE = 2_000
_AHEAD = 2
"""Shares waiting for each process: enough that none is idle, few enough that memory stays constant."""

Answer = Callable[[bytes], str]
_answer: list[Answer] = []


class Killed(Exception):
    """A process was killed before it had answered."""


def shared_out(answer: Answer, lines: Iterable[bytes]) -> Iterator[str]:
    """`answer` of each line, in their order. What is little, or all there is one processor for, is done here.

    Raises Killed when a process that answers is killed from outside.
    """
    coming, processes = iter(lines), len(os.sched_getaffinity(0))
    first = list(islice(coming, _SHARE))
    if len(first) < _SHARE or processes == 1:
        yield from map(answer, chain(first, coming))
        return
    with ProcessPoolExecutor(processes, get_context("fork"), _begin, (answer,)) as pool:
        waiting: deque[Future[list[str]]] = deque([pool.submit(_answered, first)])
        try:
            while waiting:
                while len(waiting) < _AHEAD * processes and (share := list(islice(coming, _SHARE))):
                    waiting.append(pool.submit(_answered, share))
                yield from waiting.popleft().result()
        except BrokenProcessPool:
            raise Killed("a process that answered questions was killed; perhaps memory ran out") from None


def _begin(answer: Answer) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whoever started it stops it
    _answer.append(answer)


def _answered(lines: list[bytes]) -> list[str]:
    return list(map(_answer[-1], lines))
