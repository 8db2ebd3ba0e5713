"""What each version of the policy changed, entry by entry, and the policy as it was at any moment since that is kept.

    as_of(moment)               # today's policy with all that changed since taken back
    known_since()               # before that it cannot be told

Whoever holds the policy to change it compares, before they commit, what it said with what it says: so every way of
changing access is in it.
"""

from collections.abc import Iterator
from datetime import datetime

from gonfalon.access.models import PolicyChange
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.clock import now
from gonfalon.core.document.entries import EntryChange, changes_between, taken_back
from gonfalon.core.model.policy import Policy
from gonfalon.work import before_commit, read_together

MOST_ENTRIES = 20_000
"""What changes more at once, as a whole installation that is loaded, is not kept: nothing before it can be told."""


class NotKnown(Exception):
    """Nothing is kept of the policy at a moment; it is from `since` on."""

    def __init__(self, since: datetime) -> None:
        super().__init__(f"The policy is known from {since:%-d %B %Y, %H:%M} UTC on.")
        self.since = since


def watch() -> None:
    """Keep what the running unit changes of the policy, if it does."""
    before = current()
    before_commit(lambda: _keep(before))


def _keep(before: Snapshot) -> None:
    after = current()
    if after.version == before.version:
        return
    changes = list(changes_between(before.policy, after.policy))
    PolicyChange.objects.create(
        version=after.version, at=now(), changes=changes if len(changes) <= MOST_ENTRIES else None
    )


def as_of(moment: datetime) -> Policy:
    """The policy in force at a moment. Two queries. Raises NotKnown."""
    with read_together():
        here = current()
        since = list(PolicyChange.objects.filter(at__gt=moment, version__lte=here.version).order_by("-version"))
    unknown = next((row for row in since if row.changes is None), None)
    if unknown is not None:
        raise NotKnown(unknown.at)
    return taken_back(here.policy, _backwards(since)) if since else here.policy


def known_since() -> datetime | None:
    """From when on the policy is known; None where it always is. One query."""
    return PolicyChange.objects.filter(changes__isnull=True).order_by("-version").values_list("at", flat=True).first()


def _backwards(rows: list[PolicyChange]) -> Iterator[EntryChange]:
    for row in rows:
        for kind, key, was, now_ in reversed(row.changes or ()):
            yield EntryChange(kind, tuple(key), was, now_)
