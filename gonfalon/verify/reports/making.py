"""Asking for a report, and the worker that makes it; kept a week for whoever asked.

report = ask_for(owner, ("branch", "pier-3"), at=None, reader="Ines Marrow")
"""

from datetime import datetime, timedelta

from django_tasks import task

from gonfalon.access.policy_changes import NotKnown
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.core import Question
from gonfalon.verify.models import Report
from gonfalon.verify.reports.maker import Maker
from gonfalon.viewpoint.viewpoint import Viewpoint, viewpoint
from gonfalon.work import unit

KEPT = timedelta(days=7)
MOST = 20
"""Reports of one maker: a further one takes the place of the oldest."""
DUTY = "roster.see"
"""Without it nobody is told who can do what."""
NEEDS = {"branch": "limits.set", "role": "roles.define"}
"""What whoever asks must have besides, by what it is about: as for what the screens tell of it."""


def ask_for(owner: str, about: tuple[str, str], at: datetime | None, reader: str) -> Report:
    """Have a report made. Those that are over, and the oldest beyond MOST, are taken away."""
    Report.objects.filter(until__lte=now()).delete()
    older = Report.objects.filter(owner=owner).values_list("pk", flat=True)[MOST - 1 :]
    Report.objects.filter(pk__in=list(older)).delete()
    kind, id = about
    report = Report.objects.create(owner=owner, about_kind=kind, about_id=id, at=at, reader=reader, until=now() + KEPT)
    make.enqueue(report.id)
    return report


def may_be_told(kind: str, here: Viewpoint) -> bool:
    """Whether somebody has the duties to be told of such a thing."""
    duties = [DUTY, *([NEEDS[kind]] if kind in NEEDS else [])]
    return all(here.engine.decide(Question(here.subject, duty, at=here.at)).allow for duty in duties)


def is_known(kind: str, id: str, here: Viewpoint) -> bool:
    """Whether there is such a thing for whoever asks."""
    policy = here.snapshot.policy
    if kind == "branch":
        return id in here.engine.tree and id in here.sight.nodes
    known = {"role": policy.roles, "group": policy.groups, "account": policy.accounts}
    if kind not in known:
        return kind == "everything" and id == ""
    return id in known[kind] and (kind != "account" or id in here.sight.people)


@task
def make(id: str) -> str:
    """Make one report, as its maker sees things now; its state afterwards."""
    if not Report.objects.filter(pk=id, state=Report.State.WAITING).update(state=Report.State.MAKING):
        return "gone"
    try:
        return _made(Report.objects.get(pk=id))
    except Exception:
        _keep(id, Report.State.CLOSED, None)  # nobody waits for what will not come
        raise


def _made(report: Report) -> str:
    """Make it, and tell its state."""
    reader = _reader(report)
    there = None if reader is None else _then(report, reader)
    if reader is None or there is None:
        return _keep(report.id, Report.State.CLOSED, None)

    def count(done: int, total: int) -> None:
        Report.objects.filter(pk=report.id).update(done=done, total=total)

    told = Maker(there, reader, count).about(report.about_kind, report.about_id).data()
    return _keep(report.id, Report.State.MADE, told)


def _reader(report: Report) -> Viewpoint | None:
    """Its maker as they are now; None where they may not be told of it."""
    if not Account.objects.filter(pk=report.owner, state=Account.State.ACTIVE).exists():
        return None
    here = viewpoint(report.owner, now())
    known = may_be_told(report.about_kind, here) and is_known(report.about_kind, report.about_id, here)
    return here if known else None


def _then(report: Report, here: Viewpoint) -> Viewpoint | None:
    """How it is, was or will be at the moment it is of; None where that is not known."""
    if report.at is None:
        return here
    try:
        then = here.at_moment(report.at) if report.at >= here.at else here.as_of(report.at)
    except NotKnown:
        return None
    policy = then.snapshot.policy
    there = {"role": policy.roles, "group": policy.groups, "account": policy.accounts}.get(report.about_kind)
    return then if there is None or report.about_id in there else None


@unit()
def _keep(id: str, state: str, told: dict[str, object] | None) -> str:
    Report.objects.filter(pk=id).update(state=state, told=told, made_at=now())
    return str(state)
