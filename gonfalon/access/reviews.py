"""Reviews of what is given: begun over some assignments, decided one by one, closed by hand or by their date.

review = begin("Volunteers, spring", {"group": "volunteers"}, ["joost"], due, "keep", by, policy, covering)
decide(item, "end", "Left the crew.", by)
close(review, by)           # what nobody decided is kept or ended, as the review says
"""

from collections.abc import Callable, Iterable
from datetime import datetime
from typing import Any

from django_tasks import task

from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.models import Review, ReviewItem, Role
from gonfalon.access.sight import UNBOUND
from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, Policy, Scope, Subject
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, locked, unit

Covers = Callable[[Scope, str], bool]
"""Whether a scope covers anything on a branch."""


class Closed(Exception):
    """The review is over, or this was decided already."""


def assignments_about(about: dict[str, str], policy: Policy, covers: Covers) -> Iterable[Assignment]:
    """The assignments that a review about something goes through."""
    group, role, branch = (about.get(key) for key in ("group", "role", "branch"))
    members = {a.id for a in policy.accounts.values() if group in policy.all_groups(a)} if group else set()
    for a in policy.assignments.values():
        mine = a.to == Subject.group(group or "") or (a.to.kind == "account" and a.to.id in members)
        if (not group or mine) and (not role or a.role == role) and (not branch or covers(a.scope, branch)):
            yield a


@unit(POLICY.shared)
def begin(
    name: str,
    about: dict[str, str],
    reviewers: list[str],
    due: datetime,
    silent: str,
    by: By,
    found: Iterable[Assignment],
) -> Review:
    """A new review of some assignments; a worker closes it when it is due."""
    review = Review.objects.create(
        name=name, about=about, reviewers=reviewers, due_at=due, silent=silent, made_by=by.actor
    )
    ReviewItem.objects.bulk_create(
        ReviewItem(
            review=review,
            assignment=a.id,
            role=a.role,
            to_kind=a.to.kind,
            to_id=a.to.id,
            scope=write_scope(a.scope),
            ends=a.period.ends,
        )
        for a in found
    )
    close_when_due.using(run_after=due).enqueue(review.id)
    record(by, "review.begun", about=("review", review.id), name=name)
    return review


def waiting_for(reviewer: str) -> list[Review]:
    """The reviews under way that somebody is to decide in. One query."""
    return list(Review.objects.filter(closed_at=None, reviewers__contains=reviewer))


def hand_reviews(reviewer: str, to: str | None, by: By) -> None:
    """Let somebody decide in the place of another; with nobody, only where others are left who do. An entry each."""
    names: dict[str | None, str] = dict(Account.objects.filter(pk__in=[reviewer, to]).values_list("id", "name"))
    for review in waiting_for(reviewer):
        others = [id for id in review.reviewers if id not in (reviewer, to)]
        if to is not None or others:
            review.reviewers = [*others, *([to] if to else [])]
            review.save(update_fields=["reviewers"])
            about, way, instead = ("review", review.id), "" if to else "left", names[reviewer]
            record(by, "review.handed-on", about=about, way=way, name=review.name, to=names.get(to), instead=instead)


@unit(POLICY)
def decide(item: ReviewItem, decision: str, reason: str, by: By, owner: str) -> None:
    """Keep or end one assignment; what is ended ends at once. Raises Closed."""
    row = locked(ReviewItem.objects).select_related("review").get(pk=item.pk)
    if row.review.closed_at is not None or (row.decision == Review.Silent.END):
        raise Closed
    row.decision, row.reason, row.decided_by, row.decided_at = decision, reason, by.actor, now()
    row.save()
    if decision == Review.Silent.END:
        _end([row], by, owner)
    about = ("review", row.review_id)
    role = Role.objects.filter(pk=row.role).values_list("name", flat=True).first() or row.role
    record(by, "review.decided", about=about, way=decision, name=row.review.name, role=role)


@unit(POLICY)
def close(review: Review, by: By, owner: str) -> None:
    """End the review: whatever nobody decided is kept or ended, as it says. Raises Closed."""
    row = locked(Review.objects).get(pk=review.pk)
    if row.closed_at is not None:
        raise Closed
    undecided = list(row.items.filter(decision=""))
    if row.silent == Review.Silent.END:
        _end(undecided, by, owner)
    row.items.filter(decision="").update(decision=row.silent, decided_at=now())
    row.closed_at = now()
    row.save()
    record(by, "review.closed", about=("review", row.id), name=row.name)


@task
@unit(POLICY)
def close_when_due(id: str) -> None:
    """Close a review whose date has come, for whoever began it."""
    review = Review.objects.filter(pk=id, closed_at=None, due_at__lte=now()).first()
    if review is not None and review.made_by is not None:
        close(review, By(review.made_by), review.made_by)


def _end(items: list[ReviewItem], by: By, owner: str) -> None:
    there = current().policy.assignments
    operations: list[dict[str, Any]] = [
        {"kind": "take-role", "assignment": item.assignment} for item in items if item.assignment in there
    ]
    if operations:
        apply_at_once(owner, operations, by, UNBOUND)
