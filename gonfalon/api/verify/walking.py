"""Who is told of walk lists, and who may rehearse: the doors of both."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from gonfalon.access.walks import walks_of
from gonfalon.api.guard import Arrived, May
from gonfalon.api.problems import NotFound
from gonfalon.content.nodes import Place
from gonfalon.core import Question
from gonfalon.core.model.vocabulary import REHEARSE, STAND_IN
from gonfalon.verify.models import WalkList
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint

KEEP = "expectations.keep"
KEEPING = May(KEEP)
TOLD = Arrived(while_looking=True)
"""Of lists somebody is told of all, or of those that they were given, or of none."""


@dataclass(frozen=True, slots=True)
class Rehearsing:
    """Whoever may stand in, or rehearse as themselves: also for having been given a walk list."""

    while_looking: bool = False

    def pass_through(self, session: Session, arguments: Mapping[str, Any]) -> Place | None:
        if session.actor is not None and session.walks:
            return None
        return May(STAND_IN, REHEARSE, as_actor=True).pass_through(session, arguments)


def outside(session: Session) -> Viewpoint:
    """How whoever signed in sees what is in force, whatever they try out."""
    return Viewpoint(session.in_force, session.actor.id if session.actor else None, session.at)


def keeps(here: Viewpoint) -> bool:
    """Whether somebody is told of all lists."""
    return here.snapshot.engine.decide(Question(here.subject, KEEP, at=here.at)).allow


def list_of(here: Viewpoint, id: str) -> WalkList:
    """A list that somebody is told of. Raises NotFound. Two queries at most."""
    row = WalkList.objects.filter(pk=id).first()
    if row is None or row.role not in here.snapshot.policy.roles:
        raise NotFound("walk list")
    if not keeps(here) and row.role not in walks_of(here.account or ""):
        raise NotFound("walk list")
    return row
