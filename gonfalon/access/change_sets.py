"""Change sets: operations staged by one person, seen in memory, applied to rows as one.

    stage(ada, [{"kind": "set-answer", ...}], policy)
    staged_policy(ada, policy)             # what would be
    apply_staged(ada, by)                  # what is, from then on

Applying holds the version row, so change sets are applied one after another; an operation whose part
has changed since it was staged refuses the whole set, and nothing is written.
"""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from gonfalon.access import operations, telling
from gonfalon.access.models import ChangeSet, StagedOperation
from gonfalon.access.snapshot import current, lock_version, raise_version
from gonfalon.core import changes
from gonfalon.core.policy import Policy
from gonfalon.ledger.models import By, Change, Entry, record
from gonfalon.moment import now

Data = dict[str, Any]


class StaleOperations(Exception):
    """Parts that changed after they were staged, by the positions of their operations."""

    def __init__(self, positions: list[int]) -> None:
        super().__init__(f"{len(positions)} of the changes rest on something that has changed since")
        self.positions = positions


class NothingStaged(Exception):
    """There is no change to apply."""


@dataclass(frozen=True, slots=True)
class Staged:
    """A staged operation with its words; `stale` when its part has changed since."""

    position: int
    data: Data
    told: Change
    stale: bool


def open_set(owner: str) -> ChangeSet | None:
    return ChangeSet.objects.filter(owner_id=owner, state=ChangeSet.State.OPEN).first()


def staged_rows(owner: str) -> list[StagedOperation]:
    return list(StagedOperation.objects.filter(change_set__owner_id=owner, change_set__state=ChangeSet.State.OPEN))


def staged(owner: str, policy: Policy) -> list[Staged]:
    """What is staged, in order, with words. Four queries however many operations."""
    rows = staged_rows(owner)
    names = telling.Names([{"data": row.data, "was": row.was} for row in rows]) if rows else None
    return [
        Staged(row.position, row.data, telling.change(row.data, row.was, names), _stale(row, policy))
        for row in rows
        if names
    ]


def staged_policy(owner: str, policy: Policy) -> Policy:
    """The policy as it would be with everything staged that still can be applied."""
    fresh = [operations.operation(row.data) for row in staged_rows(owner) if not _stale(row, policy)]
    return changes.apply(policy, fresh) if fresh else policy


@transaction.atomic
def stage(owner: str, asked: list[Data], policy: Policy) -> None:
    """Add operations, each in place of an earlier one on the same part; what changes nothing is left out.

    All or none: raises ValidationError naming the field when one of them cannot be read. The number of
    queries does not grow with the number of answers said.
    """
    lock_version()
    change_set = open_set(owner) or ChangeSet.objects.create(owner_id=owner)
    kept = {row.part: row for row in change_set.operations.all()}
    before = dict(kept)
    position = max((row.position for row in kept.values()), default=0)
    seen = changes.apply(policy, [operations.operation(row.data) for row in kept.values() if not _stale(row, policy)])
    for data in asked:
        kind = operations.kind_named(data)
        complete = kind.read(data, seen)
        operation = kind.operation(complete)
        seen = operation.apply(seen)
        part = "/".join(operation.part)
        was = operations.plain(operation.standing(policy))
        kept.pop(part, None)
        if was != operations.plain(operation.standing(seen)):
            position += 1
            kept[part] = StagedOperation(change_set=change_set, position=position, part=part, data=complete, was=was)
    gone = [row.pk for part, row in before.items() if kept.get(part) is not row]
    change_set.operations.filter(pk__in=gone).delete()
    StagedOperation.objects.bulk_create(row for row in kept.values() if row.pk is None)


def unstage(owner: str, position: int | None = None) -> None:
    """Drop one staged operation, or the last one."""
    staged = StagedOperation.objects.filter(change_set__owner_id=owner, change_set__state=ChangeSet.State.OPEN)
    last = staged.order_by("-position").first() if position is None else staged.filter(position=position).first()
    if last:
        last.delete()


def discard(owner: str) -> None:
    ChangeSet.objects.filter(owner_id=owner, state=ChangeSet.State.OPEN).update(
        state=ChangeSet.State.DROPPED, ended_at=now()
    )


@transaction.atomic
def apply_staged(owner: str, by: By) -> Entry:
    """Apply everything staged as one ledger entry. Raises NothingStaged or StaleOperations."""
    lock_version()
    policy = current().policy
    change_set = open_set(owner)
    rows = list(change_set.operations.all()) if change_set else []
    if change_set is None or not rows:
        raise NothingStaged
    stale = [row.position for row in rows if _stale(row, policy)]
    if stale:
        raise StaleOperations(stale)
    names = telling.Names([{"data": row.data, "was": row.was} for row in rows])
    told = [telling.change(row.data, row.was, names) for row in rows]
    for row in rows:
        operations.KINDS[row.data["kind"]].write(row.data, by)
    change_set.state = ChangeSet.State.APPLIED
    change_set.ended_at = now()
    change_set.save()
    raise_version()
    summary = told[0]["what"] if len(told) == 1 else f"{len(told)} changes, the first: {told[0]['what']}"
    return record(by, "change-set.applied", summary, about=("change-set", change_set.id), changes=told)


def _stale(row: StagedOperation, policy: Policy) -> bool:
    try:
        return operations.plain(operations.operation(row.data).standing(policy)) != row.was
    except KeyError:
        return True
