"""The X-ray of what is listed: places and sections, and rows of lists that they do not have and one has oneself."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.models import Account
from gonfalon.api.desk.bin import may_bring_back
from gonfalon.api.desk.profiles import sees_profile
from gonfalon.api.desk.waiting import waiting
from gonfalon.api.guard import GuardedView, decide
from gonfalon.api.problems import Invalid
from gonfalon.api.session.session import PLACES
from gonfalon.api.verify.stand_in import AS_ACTOR
from gonfalon.api.verify.xray import standing
from gonfalon.content.models import Removed
from gonfalon.content.removed import standing as as_it_stood
from gonfalon.core import Question
from gonfalon.core.model.tree import Target, profile
from gonfalon.core.model.vocabulary import SECTIONS
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_ROWS = 100
LISTS = ("waiting", "bin", "people")


class ClosedThingShape(serializers.Serializer):
    """Something that is closed to them, and why; `asked` is the question, where it can be asked."""

    name = serializers.CharField()
    reason = serializers.CharField()
    asked = serializers.DictField(child=serializers.CharField())


class XrayPlacesView(GuardedView):
    doors = {"get": AS_ACTOR}

    @extend_schema(responses=ClosedThingShape(many=True), operation_id="xray_places")
    def get(self, request: Request) -> Response:
        """The places of the crossbar and the sections of the desk that are closed to them."""
        viewpoint = standing(self.session)
        duties = viewpoint.catalogue.duties
        opening = [(place.capitalize(), any_of) for place, any_of in PLACES.items()]
        opening += [(duties[key].name, (key,)) for key in SECTIONS]
        told = []
        for name, any_of in opening:
            questions = (Question(viewpoint.subject, capability, at=viewpoint.at) for capability in any_of)
            answers = [decide(viewpoint, question, trail=False) for question in questions]
            if not any(answer.allow for answer in answers):
                told.append({"name": name, "reason": str(answers[0].reason), "asked": {"action": any_of[0]}})
        return Response(told)


class XrayRowsView(GuardedView):
    doors = {"get": AS_ACTOR}

    @extend_schema(
        responses=ClosedThingShape(many=True),
        operation_id="xray_rows",
        parameters=[OpenApiParameter("of", str, enum=LISTS, required=True)],
    )
    def get(self, request: Request) -> Response:
        """The first hundred rows of a list of the desk that one has oneself and they do not."""
        standing(self.session)
        missing = {"waiting": _waiting, "bin": _bin, "people": _people}.get(request.query_params.get("of", ""))
        if missing is None:
            raise Invalid({"/of": f"Say one of: {', '.join(LISTS)}."})
        told = zip(range(MOST_ROWS), missing(self.session), strict=False)
        return Response([row for _, row in told])


def _waiting(session: Session) -> Iterator[dict[str, Any]]:
    theirs, there = set(waiting(session.viewpoint)), session.viewpoint
    for one in waiting(session.actors_viewpoint):
        id = one.id
        if one not in theirs and id in there.nodes.tree:
            target = there.nodes.tree.target(id)
            if one.working:
                target = target.working_copy()
            yield _closed(there, there.nodes.titles[id], "publish", target, {"action": "publish", "node": id})


def _bin(session: Session) -> Iterator[dict[str, Any]]:
    for entry in Removed.objects.select_related("node"):
        if any(may_bring_back(session.actors_viewpoint, entry)) and not any(may_bring_back(session.viewpoint, entry)):
            yield _closed(session.viewpoint, entry.node.title, "restore", as_it_stood(entry), {})


def _people(session: Session) -> Iterator[dict[str, Any]]:
    mine, theirs = session.actors_viewpoint, session.viewpoint
    for id, name in Account.objects.filter(state=Account.State.ACTIVE).order_by("name", "id").values_list("id", "name"):
        if id in mine.sight.people and sees_profile(mine, id) and not sees_profile(theirs, id):
            yield _closed(theirs, name, "see", profile(id), {"action": "see", "profile": id})


def _closed(viewpoint: Viewpoint, name: str, action: str, target: Target, asked: dict[str, str]) -> dict[str, Any]:
    """With the first thing that they do not pass: seeing it, or what the list is about."""
    for needed in ("see", action):
        answer = decide(viewpoint, Question(viewpoint.subject, needed, target, viewpoint.at), trail=False)
        if not answer.allow:
            break
    return {"name": name, "reason": str(answer.reason), "asked": asked and {**asked, "action": needed}}
