"""How far long work has come, told to whoever waits for it while the work's own unit is still open.

    with counted(owner, 2 * len(rows)) as count:
        for row in rows:
            ...
            count()
    how_far(owner)                     # (done, total), or None where nothing long is under way

Short work is not told of, and costs nothing.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from gonfalon.access.models import Progress

LONG = 1_000
"""Steps. Less is over before anybody could read how far it has come."""
STEP = 1_000


@contextmanager
def counted(owner: str, total: int) -> Iterator[Callable[..., None]]:
    """Count the steps of some work: call what this gives with how many more are done."""
    done = 0

    def count(more: int = 1) -> None:
        nonlocal done
        before, done = done, done + more
        if total >= LONG and before // STEP != done // STEP:
            _tell(owner, done, total)

    try:
        yield count
    finally:
        if done >= STEP and total >= LONG:
            _tell(owner, None, total)


def how_far(owner: str) -> tuple[int, int] | None:
    """Steps done, and steps in all. One query."""
    return Progress.objects.filter(owner=owner).values_list("done", "total").first()


def _tell(owner: str, done: int | None, total: int) -> None:
    """Say how far it is, None that it is over. Seen by others before the work is."""
    if done is None:
        Progress.objects.filter(owner=owner).delete()
    else:
        Progress.objects.update_or_create(owner=owner, defaults={"done": done, "total": total})
