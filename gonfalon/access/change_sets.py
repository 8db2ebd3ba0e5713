"""Change sets: operations staged by one person, seen in memory, applied to rows as one.

    stage(ada, [{"kind": "set-answer", ...}], policy, sight)
    staged_policy(ada, policy)             # what would be
    apply_staged(ada, by)                  # what is, from then on
    undo_applied(change_set, ada, by, sight)   # as it was, if nothing was built on it

Applying holds the version row, so change sets are applied one after another; an operation whose part
has changed since it was staged refuses the whole set, and nothing is written.
"""

from collections.abc import Iterable, Iterator, Set
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from django.db.models import QuerySet
from rest_framework.serializers import ValidationError

from gonfalon.access import describe, operations
from gonfalon.access.catalogue import Catalogue
from gonfalon.access.models import ChangeSet, StagedOperation
from gonfalon.access.names import titles
from gonfalon.access.operations.base import OperationKind, plain
from gonfalon.access.policy_changes import becomes
from gonfalon.access.progress import counted
from gonfalon.access.sight import EVERYTHING, UNBOUND, Sight
from gonfalon.access.snapshot import current, raise_version
from gonfalon.clock import now
from gonfalon.core.model.policy import Policy
from gonfalon.core.operations import Run, apply
from gonfalon.ledger.models import By, Change, Entry, record
from gonfalon.work import POLICY, unit

Data = dict[str, Any]
LOOKED_AT = 50
MOST_STAGED = 50_000
"""So many changes wait in one tray: it is read whole wherever it is looked at."""
_AT_ONCE = 2_000
"""So many rows are written at once: one statement has to fit into a packet of the database."""


class StaleOperations(Exception):
    """Parts that changed after they were staged, by the positions of their operations."""

    def __init__(self, positions: list[int]) -> None:
        super().__init__(f"{len(positions)} of the changes rest on something that has changed since")
        self.positions = positions


class NothingStaged(Exception):
    """There is no change to apply."""


class BuiltOn(Exception):
    """What stands in the way of undoing: each change that something was built on, in words."""

    def __init__(self, told: list[str]) -> None:
        super().__init__("Something was built on these changes, so that they cannot be undone as one.")
        self.told = told


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


def staged(owner: str, policy: Policy, sight: Sight) -> list[Staged]:
    """What is staged, in order, with words; only nodes in sight are named. Four queries however many operations."""
    rows = staged_rows(owner)
    if not rows:
        return []
    names = describe.Names([{"data": row.data, "was": row.was} for row in rows], sight, current().catalogue)
    _, stale = _sorted_out(rows, policy)
    return [
        Staged(row.position, row.data, operations.told(row.data, row.was, names), row.position in stale) for row in rows
    ]


def staged_policy(owner: str, policy: Policy) -> Policy:
    """The policy as it would be with everything staged that still can be applied."""
    return _sorted_out(staged_rows(owner), policy)[0]


def staged_data(owner: str, policy: Policy) -> list[Data]:
    """The operations staged that still can be applied, in order."""
    rows = staged_rows(owner)
    _, stale = _sorted_out(rows, policy)
    return [row.data for row in rows if row.position not in stale]


def read(asked: list[Data], policy: Policy, sight: Sight) -> list[Data]:
    """Operations as they would be staged, each on top of those before it. Raises ValidationError like `stage`."""
    complete, run = [], Run(policy)
    for data in asked:
        kind = operations.kind_named(data)
        complete.append(kind.read(data, run.policy, sight))
        run.apply(kind.operation(complete[-1]))
    return complete


def with_operations(every: list[Data], policy: Policy) -> Policy:
    """A policy with some operations applied; itself when there are none."""
    return apply(policy, map(operations.operation, every))


@unit(POLICY.shared)
def stage(owner: str, asked: list[Data], policy: Policy, sight: Sight) -> None:
    """Add operations, each in place of an earlier one on the same part; what changes nothing is left out.

    All or none: raises ValidationError naming the field when one of them cannot be read, or names a node or an account
    that is not in sight, or more would be staged than MOST_STAGED. The number of queries does not grow with the number
    of answers said.
    """
    change_set = open_set(owner) or ChangeSet.objects.create(owner_id=owner)
    kept = {row.part: row for row in change_set.operations.all()}
    before = dict(kept)
    position = max((row.position for row in kept.values()), default=0)
    run = Run(_sorted_out(list(kept.values()), policy)[0])
    with counted(owner, len(asked)) as count:
        for data in asked:
            kind = operations.kind_named(data)
            if not kind.staged:
                raise ValidationError({"kind": "This is done at once, and not staged."})
            complete = kind.read(data, run.policy, sight)
            operation = kind.operation(complete)
            run.apply(operation)
            part = "/".join(operation.part)
            was = plain(operation.value_in(policy))
            kept.pop(part, None)
            if was != plain(operation.value_in(run.policy)):
                position += 1
                row = StagedOperation(change_set=change_set, position=position, part=part, data=complete, was=was)
                kept[part] = row
            count()
    if len(kept) > MOST_STAGED:
        raise ValidationError(
            f"So many changes do not wait together. Apply or drop some: {MOST_STAGED:,} are the most."
        )
    gone = [row.pk for part, row in before.items() if kept.get(part) is not row]
    change_set.operations.filter(pk__in=gone).delete()
    StagedOperation.objects.bulk_create((row for row in kept.values() if row.pk is None), batch_size=_AT_ONCE)


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


def undoable() -> QuerySet[ChangeSet]:
    """Change sets that are applied and not undone; those from before it was kept what takes them back left out."""
    return ChangeSet.objects.filter(state=ChangeSet.State.APPLIED).exclude(
        pk__in=StagedOperation.objects.filter(reverse={}).values("change_set")
    )


def undoable_by(sight: Sight) -> Iterator[ChangeSet]:
    """The same, the last one first, as far as all that each changed may be known. Two queries for each LOOKED_AT."""
    before = undoable().order_by("-ended_at", "-pk")
    for first in range(0, before.count(), LOOKED_AT):
        some = list(before[first : first + LOOKED_AT])
        changed: dict[str, list[tuple[Data, Any]]] = {row.pk: [] for row in some}
        found = StagedOperation.objects.filter(change_set__in=changed).values_list("change_set_id", "data", "was")
        for change_set, data, was in found:
            changed[change_set].append((data, was))
        yield from (row for row in some if operations.are_known(changed[row.pk], sight))


def rebase(owner: str, position: int, policy: Policy) -> None:
    """Take one staged operation as meant on top of what others applied meanwhile."""
    row = StagedOperation.objects.filter(
        change_set__owner_id=owner, change_set__state=ChangeSet.State.OPEN, position=position
    ).first()
    if row is None:
        return
    operation = operations.operation(row.data)
    try:
        standing = operation.value_in(policy)
        same = plain(standing) == plain(operation.value_in(operation.apply(policy)))
    except KeyError:
        same = True
    if same or operations.KINDS[row.data["kind"]].obstacle(row.data, policy):
        row.delete()
    else:
        row.was = plain(standing)
        row.save(update_fields=["was"])


@unit(POLICY.shared)
def put_aside(owner: str, name: str) -> None:
    """Keep what is staged under a name, and begin with nothing staged. Raises NothingStaged."""
    change_set = open_set(owner)
    if change_set is None or not change_set.operations.exists():
        raise NothingStaged
    change_set.name, change_set.state = name, ChangeSet.State.KEPT
    change_set.save()


@unit(POLICY.shared)
def take_up(owner: str, id: str) -> bool:
    """Go on with one of one's kept change sets; what is staged now is kept instead. False: there is none."""
    kept = ChangeSet.objects.filter(pk=id, owner_id=owner, state=ChangeSet.State.KEPT).first()
    if kept is None:
        return False
    at_hand = open_set(owner)
    if at_hand is not None and at_hand.operations.exists():
        put_aside(owner, at_hand.name or f"Put aside for {kept.name}"[:80])
    elif at_hand is not None:
        at_hand.delete()
    kept.state = ChangeSet.State.OPEN
    kept.save()
    return True


@unit(POLICY)
def apply_staged(owner: str, by: By) -> Entry:
    """Apply everything staged as one ledger entry. Raises NothingStaged or StaleOperations."""
    policy = current().policy
    change_set = open_set(owner)
    rows = list(change_set.operations.all()) if change_set else []
    if change_set is None or not rows:
        raise NothingStaged
    _, stale = _sorted_out(rows, policy, looked_at=_there_still(rows))
    if stale:
        raise StaleOperations(sorted(stale))
    entry = _write(rows, policy, by, "change-set.applied", change_set)
    change_set.state = ChangeSet.State.APPLIED
    change_set.ended_at = now()
    change_set.save()
    return entry


@unit(POLICY)
def apply_what_stands(owner: str, by: By) -> None:
    """Apply all that somebody has staged and that still can be applied, if there is any."""
    _, stale = _sorted_out(staged_rows(owner), current().policy)
    for position in stale:
        unstage(owner, position)
    if staged_rows(owner):
        apply_staged(owner, by)


@unit(POLICY)
def apply_at_once(owner: str, asked: list[Data], by: By, sight: Sight) -> Entry:
    """Apply operations without staging them: one ledger entry, a change set of its own that can be undone.

    Raises ValidationError naming the field when one of them cannot be read.
    """
    policy = current().policy
    change_set = ChangeSet.objects.create(owner_id=owner, state=ChangeSet.State.APPLIED, ended_at=now())
    rows, run = [], Run(policy)
    for position, data in enumerate(asked, 1):
        kind = operations.kind_named(data)
        complete = kind.read(data, run.policy, sight)
        operation = kind.operation(complete)
        was, part = plain(operation.value_in(run.policy)), "/".join(operation.part)
        rows.append(StagedOperation(change_set=change_set, position=position, part=part, data=complete, was=was))
        run.apply(operation)
    return _write(rows, policy, by, "change-set.applied", change_set)


@unit(POLICY)
def undo_applied(change_set: ChangeSet, owner: str, by: By, sight: Sight) -> Entry:
    """Take back an applied change set as one ledger entry, itself an applied change set that can be undone.

    Raises BuiltOn where a part does not stand any more as the change set left it, or cannot be put back; only
    nodes in sight are named in it.
    """
    policy = current().policy
    applied = list(change_set.operations.order_by("-position"))
    names = describe.Names([{"data": row.data, "was": row.was} for row in applied], sight, current().catalogue)
    run, obstacles = Run(policy), list[str]()
    back = ChangeSet(owner_id=owner, name=change_set.name, state=ChangeSet.State.APPLIED, ended_at=now())
    rows = []
    for position, row in enumerate(applied, 1):
        kind, operation = operations.KINDS[row.reverse["kind"]], operations.operation(row.reverse)
        what = operations.told(row.data, row.was, names)["what"]
        if (left := _standing(row.reverse, policy)) != row.left:
            obstacles.append(f"{what}: changed since")
        elif why := kind.obstacle(row.reverse, run.policy):
            obstacles.append(f"{what}: {why}")
        else:
            run.apply(operation)
            rows.append(StagedOperation(change_set=back, position=position, part=row.part, data=row.reverse, was=left))
    if obstacles:
        raise BuiltOn(obstacles)
    back.save()
    change_set.state = ChangeSet.State.UNDONE
    change_set.save()
    return _write(rows, policy, by, "change-set.undone", back)


def _write(rows: list[StagedOperation], policy: Policy, by: By, kind: str, change_set: ChangeSet) -> Entry:
    """Write operations to rows, keep them, how they left their parts and what takes them back, and tell the ledger."""
    names = describe.Names([{"data": row.data, "was": row.was} for row in rows], UNBOUND, current().catalogue)
    told = [operations.recorded(row.data, row.was, names) for row in rows]
    run = Run(policy)
    with counted(change_set.owner_id, 2 * len(rows)) as count:
        for row in rows:
            one = operations.KINDS[row.data["kind"]]
            row.reverse = one.reverse(row.data, row.was)
            operation = one.operation(row.data)
            run.apply(operation)
            row.left = plain(operation.value_in(run.policy))
            count()
        for kind_of, group in groupby(rows, key=lambda row: row.data["kind"]):
            alike = [row.data for row in group]
            operations.KINDS[kind_of].write_all(alike, by)
            count(len(alike))
    StagedOperation.objects.bulk_create(
        rows, update_conflicts=True, update_fields=["reverse", "left"], batch_size=1_000
    )
    becomes(run.end())
    raise_version()
    about, data = ("change-set", change_set.id), {"change_set": change_set.id}
    return record(by, kind, words=_summary(told, change_set, kind), about=about, data=data)


def told(entry: Entry, sight: Sight) -> str:
    """The summary of applying or undoing a change set, for somebody who may know as much as is in sight."""
    change_set = ChangeSet.objects.get(pk=entry.about_id)
    rows = list(change_set.operations.all())
    names = describe.Names([{"data": row.data, "was": row.was} for row in rows], sight, current().catalogue)
    return _summary([operations.told(row.data, row.was, names) for row in rows], change_set, entry.kind)


def changes_told(change_sets: Iterable[str], catalogue: Catalogue) -> dict[str, list[Change]]:
    """What applied change sets changed, in words, by their ids. Two queries, and one for each sort of names."""
    rows = list(StagedOperation.objects.filter(change_set__in=set(change_sets)))
    names = describe.Names([{"data": row.data, "was": row.was} for row in rows], UNBOUND, catalogue)
    told: dict[str, list[Change]] = {}
    for row in rows:
        told.setdefault(row.change_set_id, []).append(operations.recorded(row.data, row.was, names))
    return told


def _summary(changes: list[Change], change_set: ChangeSet, kind: str) -> str:
    summary = changes[0]["what"] if len(changes) == 1 else f"{len(changes)} changes, the first: {changes[0]['what']}"
    summary = f"{change_set.name}: {summary}" if change_set.name else summary
    return f"Undone: {summary}" if kind == "change-set.undone" else summary


def _standing(data: Data, policy: Policy) -> Any:
    """How the part of an operation stands; a word of its own where what it belongs to is gone."""
    try:
        return plain(operations.operation(data).value_in(policy))
    except KeyError:
        return "gone"


def _sorted_out(
    rows: list[StagedOperation], policy: Policy, *, looked_at: Sight | None = None
) -> tuple[Policy, set[int]]:
    """The policy with all that still can be applied, and the positions of what cannot.

    With `looked_at`, each is read again as if it were staged now, and may name only what is there.
    """
    run, stale = Run(policy), set()
    for row in rows:
        kind = operations.KINDS[row.data["kind"]]
        if (
            _standing(row.data, policy) != row.was
            or kind.obstacle(row.data, run.policy)
            or (looked_at and not _reads(kind, row.data, run.policy, looked_at))
        ):
            stale.add(row.position)
        else:
            run.apply(operations.operation(row.data))
    return run.end(), stale


def _reads(kind: OperationKind, data: Data, policy: Policy, sight: Sight) -> bool:
    try:
        kind.read(data, policy, sight)
    except ValidationError:
        return False
    return True


class _AllBut:
    """Everything but some ids."""

    def __init__(self, gone: Set[str]) -> None:
        self._gone = gone

    def __contains__(self, id: object) -> bool:
        return id not in self._gone


def _there_still(rows: list[StagedOperation]) -> Sight:
    """Everybody, and all nodes but those that operations name and that are not there. One query."""
    named = set(describe.strings_in([row.data for row in rows]))
    return Sight(_AllBut(named - titles(named).keys()), EVERYTHING)
