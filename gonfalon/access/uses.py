"""What is used of what is given: which capabilities of a role decided something for an account, day by day.

    note("ada", decision, at)                       # costs nothing but memory
    last_used([("ada", "notice-writer")])           # {("ada", "notice-writer"): date(2026, 11, 29)}

Notes are gathered in memory and written at most once a minute by each process, so what a killed process had not
written is lost. They are kept for a bit more than a year.
"""

import threading
import time
from collections import defaultdict
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from functools import partial

from django.db.models import Max

from gonfalon.access.models import Use
from gonfalon.core import Decision
from gonfalon.core.model.vocabulary import Reason
from gonfalon.work import apart, locked

EVERY = 60.0
"""Seconds."""
KEPT_FOR = timedelta(days=400)
MOST_AT_ONCE = 2_000
_Key = tuple[str, str, date]

_gathered: dict[_Key, set[str]] = defaultdict(set)
_lock = threading.Lock()
_written_at = time.monotonic()


def note(account: str, decision: Decision, at: datetime) -> None:
    """Note which roles of an account gave what was allowed."""
    if not decision.allow:
        return
    given = [
        (found.role, step.capability)
        for step in decision.trail
        for found in step.findings
        if step.capability and found.what == "source" and found.role and found.reason is Reason.ALLOWED
    ]
    with _lock:
        for role, capability in given:
            _gathered[account, role, at.date()].add(capability)


def write_now_and_then() -> None:
    """Write what was gathered, unless that was done a moment ago. Belongs at the end of a request."""
    if _gathered and time.monotonic() - _written_at >= EVERY:
        write()


def write() -> None:
    """Write what was gathered: two queries for each two thousand notes, and one that lets old ones go."""
    global _written_at
    with _lock:
        taken = dict(_gathered)
        _gathered.clear()
        _written_at = time.monotonic()
    keys = sorted(taken)
    for first in range(0, len(keys), MOST_AT_ONCE):
        some = {key: taken[key] for key in keys[first : first + MOST_AT_ONCE]}
        apart(partial(_write, some))


def _write(taken: dict[_Key, set[str]]) -> None:
    days = {day for _, _, day in taken}
    accounts = {account for account, _, _ in taken}
    kept = locked(Use.objects).filter(day__in=days, account__in=accounts)
    there = {(use.account, use.role, use.day): use.capabilities for use in kept}
    rows = [
        Use(account=account, role=role, day=day, capabilities=sorted(used.union(there.get((account, role, day), ()))))
        for (account, role, day), used in taken.items()
    ]
    Use.objects.bulk_create(rows, update_conflicts=True, update_fields=["capabilities"])
    Use.objects.filter(day__lt=max(days) - KEPT_FOR).delete()


def last_used(held: Iterable[tuple[str, str]]) -> dict[tuple[str, str], date]:
    """For each account and role the last day on which that role gave the account something. One query."""
    wanted = set(held)
    found = Use.objects.filter(account__in={a for a, _ in wanted}, role__in={r for _, r in wanted})
    days = found.values_list("account", "role").annotate(last=Max("day")).order_by()
    return {(account, role): last for account, role, last in days if (account, role) in wanted}
