"""What stands above a public page while one stands in for somebody, and what the X-ray shows on it.

strip(session, request, row)        # None where nobody is stood in for
"""

from typing import Any

from django.http import HttpRequest
from django.middleware.csrf import get_token

from gonfalon.access.words import REASON_SHORT
from gonfalon.api.guard import decide
from gonfalon.content.models import Node
from gonfalon.content.nodes import as_target
from gonfalon.core import Question
from gonfalon.core.bulk.survey import CODE, REASONS
from gonfalon.core.model.vocabulary import Reason
from gonfalon.verify.whom import VISITOR, whom_words
from gonfalon.viewpoint.session import Session


def strip(session: Session, request: HttpRequest, row: Node | None, above: list[Node]) -> dict[str, Any] | None:
    """For whom one stands in, in which mode and for how long; with `?xray=on` what is closed to them here."""
    under_way = session.standing_in
    if under_way is None:
        return None
    name = session.subject.name if session.subject else whom_words(under_way.who)
    xray = request.GET.get("xray") == "on"
    return {
        "name": "a visitor" if name == VISITOR else name,
        "rehearses": under_way.mode == "rehearse",
        "minutes": max(0, int((under_way.until - session.outside_at).total_seconds() // 60)),
        "at": under_way.at,
        "staged": under_way.staged,
        "desk": not session.as_visitor,
        "token": get_token(request),
        "xray": xray,
        "ghosts": _ghosts(session, row, above) if xray and row is not None else [],
    }


def _ghosts(session: Session, row: Node, above: list[Node]) -> list[dict[str, Any]]:
    """Pages just beneath, sections of the site and fields that they are not shown, as far as one sees them oneself."""
    here, target = session.viewpoint, as_target(row, above)
    tree, mine = here.nodes.tree, session.actors_sight.whole
    root = tree.path(row.id)[0]
    reasons = here.survey.reasons(here.subject, ["see"], here.at)[:, 0].tolist()
    public = here.survey.allowed([None], None, ["see"], here.at)[0, :, 0]
    found = [
        _ghost(here.nodes.titles[node.id], REASONS[reasons[i]], {"action": "see", "node": node.id})
        for i, node in enumerate(tree.nodes)
        if node.parent in (root, row.id) and mine[i] and not public[i] and reasons[i] != CODE[Reason.ALLOWED]
    ]
    if not session.actor_sees(target):
        return found
    visitor = here.seen_by(None)
    for field in here.catalogue.type(row.type).fields:
        asked = [Question(v.subject, "see-field", target, v.at, field=field.key) for v in (here, visitor)]
        answers = [decide(here, question, trail=False) for question in asked]
        if not any(answer.allow for answer in answers):
            what = {"action": "see-field", "node": row.id, "field": field.key}
            found.append(_ghost(field.name, answers[0].reason, what))
    return found


def _ghost(name: str, reason: Reason, asked: dict[str, str]) -> dict[str, Any]:
    return {"name": name, "reason": REASON_SHORT[reason], "asked": asked}
