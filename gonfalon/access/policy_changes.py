"""What each version of the policy changed, entry by entry, and the policy as it was at any moment since that is kept.

    as_of(moment)               # today's policy with all that changed since taken back
    known_since()               # before that it cannot be told

Whoever holds the policy to change it compares, before they commit, what it said with what it says: so every way of
changing access is in it.
"""

from collections.abc import Iterator
from datetime import datetime
from itertools import takewhile
from typing import NamedTuple

from gonfalon.access.models import PolicyChange
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.clock import now
from gonfalon.core.document.entries import EntryChange, changes_between, taken_back
from gonfalon.core.model.policy import Policy
from gonfalon.work import POLICY, before_commit, read_together, running, version_row

MOST_ENTRIES = 20_000
"""What changes more at once, as a whole installation that is loaded, is not kept: nothing before it can be told."""


_BECOMES = "what the policy becomes"


class NotKnown(Exception):
    """Nothing is kept of the policy at a moment; it is from `since` on."""

    def __init__(self, since: datetime) -> None:
        super().__init__(f"The policy is known from {since:%-d %B %Y, %H:%M} UTC on.")
        self.since = since


def watch() -> None:
    """Keep what the running unit changes of the policy, if it does."""
    before = current()
    before_commit(lambda: _keep(before))


def becomes(policy: Policy) -> None:
    """Say what the policy comes to by what the running unit has just written, so that it need not be read for that."""
    unit = running()
    if unit is not None:
        unit.memory[_BECOMES] = policy


def _keep(before: Snapshot) -> None:
    version = version_row(POLICY).number
    if version == before.version:
        return
    told = running().memory.get(_BECOMES)  # type: ignore[union-attr]
    # Where it was raised more than once, what was said of one of them is not all of it.
    after = told if told is not None and version == before.version + 1 else current().policy
    changes = list(changes_between(before.policy, after))
    PolicyChange.objects.create(version=version, at=now(), changes=changes if len(changes) <= MOST_ENTRIES else None)


def as_of(moment: datetime) -> Policy:
    """The policy in force at a moment. Two queries. Raises NotKnown."""
    with read_together():
        here = current()
        since = list(PolicyChange.objects.filter(at__gt=moment, version__lte=here.version).order_by("-version"))
    unknown = next((row for row in since if row.changes is None), None)
    if unknown is not None:
        raise NotKnown(unknown.at)
    return taken_back(here.policy, _backwards(since)) if since else here.policy


class Past(NamedTuple):
    """A version of the policy: when it came into force, and what it changed."""

    at: datetime
    row: PolicyChange

    def backwards(self) -> Iterator[EntryChange]:
        """Its changes, the last one first."""
        return _backwards([self.row])


def latest_changes(most: int) -> list[Past]:
    """The versions that are known, so many at most, the last one first. One query."""
    rows = PolicyChange.objects.filter(version__lte=current().version).order_by("-version")[:most]
    return [Past(row.at, row) for row in takewhile(lambda row: row.changes is not None, rows)]


def known_since() -> datetime | None:
    """From when on the policy is known; None where it always is. One query."""
    return PolicyChange.objects.filter(changes__isnull=True).order_by("-version").values_list("at", flat=True).first()


def _backwards(rows: list[PolicyChange]) -> Iterator[EntryChange]:
    for row in rows:
        for kind, key, was, now_ in reversed(row.changes or ()):
            yield EntryChange(kind, tuple(key), was, now_)
