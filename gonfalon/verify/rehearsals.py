"""The journals of rehearsals: what was asked in each, to be done again whenever it is looked at. Nothing else of it is
kept but what it proved of a role (`walks/ticks.py`).

    begin(id, "odile", until)
    with journal(id) as kept:                   # nobody else goes on with this one meanwhile
        kept.add(request)
    end(id)

They are written apart from whatever a rehearsal does, which is rolled back, and one begins and ends only once the unit
that says so is kept. Nothing of a rehearsal outlives it: it ends with the standing in, or when its time is up.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from django.db.models import QuerySet

from gonfalon.clock import now
from gonfalon.verify.models import Rehearsal, RehearsedRequest
from gonfalon.work import after_commit
from gonfalon.work.apart import APART, held_apart

MOST_STEPS = 50
MOST_IN_A_STEP = 20
"""Saves of one page in a row are one step, up to this many."""
MOST_BYTES = 20 * 1024 * 1024
"""Of all that was sent in one rehearsal."""


class Full(Exception):
    """Nothing more fits into a rehearsal."""


class Over(LookupError):
    """There is no such rehearsal any more."""


class Journal:
    """What was asked in one rehearsal, in order."""

    def __init__(self, rehearsal: str) -> None:
        self.rehearsal = rehearsal
        self.requests = list(RehearsedRequest.objects.using(APART).filter(rehearsal=rehearsal))

    @property
    def played(self) -> list[RehearsedRequest]:
        """What is done again."""
        return [request for request in self.requests if request.refused is None]

    def next_step(self, method: str, path: str, size: int) -> int:
        """The number that a request would have, of some bytes. Raises Full."""
        last = self.requests[-1] if self.requests else None
        if sum(len(r.body) for r in self.requests) + size > MOST_BYTES:
            raise Full
        if last is None:
            return 1
        saves = method == "PATCH" and last.refused is None and (last.method, last.path) == (method, path)
        if saves and sum(r.step == last.step for r in self.requests) < MOST_IN_A_STEP:
            return last.step
        if len({r.step for r in self.requests}) >= MOST_STEPS:
            raise Full
        return last.step + 1

    def add(self, request: RehearsedRequest) -> None:
        """Keep one more."""
        request.rehearsal = self.rehearsal
        request.save(using=APART)
        self.requests.append(request)

    def take_back(self, step: int) -> bool:
        """Forget a step; whether there was one. What comes after it is done on top of what there is then."""
        gone = [r for r in self.requests if r.step == step]
        rows = RehearsedRequest.objects.using(APART).filter(rehearsal=self.rehearsal)
        rows.filter(step=step).delete()
        rows.filter(step__gt=step).update(on_top=True)
        self.requests = list(rows)
        return bool(gone)


def begin(id: str, actor: str, until: datetime) -> None:
    """Begin one, once the running unit is kept; those whose time is up are gone."""

    def write() -> None:
        _forget(Rehearsal.objects.using(APART).filter(until__lte=now()))
        Rehearsal.objects.using(APART).create(id=id, actor=actor, until=until)

    after_commit(write)


def lengthen(id: str, until: datetime) -> None:
    """Let one go on until later, once the running unit is kept."""
    after_commit(lambda: Rehearsal.objects.using(APART).filter(pk=id).update(until=until))


def end(id: str) -> None:
    """Forget one with all that was asked in it, once the running unit is kept."""
    after_commit(lambda: _forget(Rehearsal.objects.using(APART).filter(pk=id)))


def end_those_over() -> None:
    """Forget all whose time is up, once the running unit is kept."""
    after_commit(lambda: _forget(Rehearsal.objects.using(APART).filter(until__lte=now())))


def _forget(some: QuerySet[Rehearsal]) -> None:
    RehearsedRequest.objects.using(APART).filter(rehearsal__in=list(some.values_list("pk", flat=True))).delete()
    some.delete()


@contextmanager
def journal(id: str) -> Iterator[Journal]:
    """The journal of a rehearsal, held: its requests are answered one after another. Raises Over."""
    with held_apart(Rehearsal.objects.filter(pk=id, until__gt=now())) as held:
        if held is None:
            raise Over
        yield Journal(id)
