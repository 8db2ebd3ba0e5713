"""Several pages at once: published, retired, removed or moved; each refused one is told with its reason."""

from collections.abc import Callable
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.places import ROOT, moved
from gonfalon.api.desk.states import PublishView, RetireView, ask_for_required
from gonfalon.api.desk.unseen import Unseen, unseen_once_public
from gonfalon.api.etag import etag
from gonfalon.api.guard import GuardedView, May, On
from gonfalon.api.problems import Conflict, Invalid, Problem
from gonfalon.content import branches, pages
from gonfalon.content.nodes import Place
from gonfalon.inputs import Input
from gonfalon.viewpoint.session import Session
from gonfalon.work import NODES, POLICY, roll_back

MOST = 200


class ManyPagesInput(Input):
    nodes = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=MOST)
    action = serializers.ChoiceField(choices=("publish", "retire", "remove", "move"))
    to = serializers.CharField(required=False, help_text="The new parent, for move.")
    together = serializers.BooleanField(default=False, help_text="Whether nothing is done unless all of it can be.")
    although_unseen = serializers.BooleanField(default=False, help_text="Publish those too that nobody would see.")

    def validate(self, given: dict[str, Any]) -> dict[str, Any]:
        if given["action"] == "move" and not given.get("to"):
            raise serializers.ValidationError({"to": "Say where they are to stand."})
        return given


class OneOfManyShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField(allow_null=True, help_text="Null for one that is not there, or out of sight.")
    done = serializers.BooleanField()
    why = serializers.CharField(help_text="Why it was not done, as one reads it.")
    unseen = serializers.BooleanField(help_text="It was not published because nobody would see it.")


class ManyPagesShape(serializers.Serializer):
    done = serializers.IntegerField()
    pages = OneOfManyShape(many=True)


class ManyPagesView(GuardedView):
    doors = {"post": May("desk.open")}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=ManyPagesInput, responses=ManyPagesShape, operation_id="many_pages")
    def post(self, request: Request) -> Response:
        """Do one thing with several pages: each for which it may be done, or none unless all may."""
        given = ManyPagesInput(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        ids = list(dict.fromkeys(said["nodes"]))
        asks = said["action"] == "publish" and not said["although_unseen"]
        said["unseen"] = unseen_once_public(ids, self.viewpoint) if asks else set()
        told = [self._one(id, said) for id in ids]
        undone = said["together"] and not all(one["done"] for one in told)
        if undone:
            roll_back()
            told = [one | {"done": False} for one in told]
        return Response({"done": sum(one["done"] for one in told), "pages": told})

    def _one(self, id: str, said: dict[str, Any]) -> dict[str, Any]:
        title = None
        try:
            place = On(said["action"], desk=True).pass_through(self.session, {"node": id})
            title = place.row.title
            _DOING[said["action"]](self.session, place, said)
        except Problem as problem:
            title = title or self._title(id)
            why, unseen = str(problem.body["detail"]), isinstance(problem, Unseen)
            return {"id": id, "title": title, "done": False, "why": why, "unseen": unseen}
        return {"id": id, "title": title, "done": True, "why": "", "unseen": False}

    def _title(self, id: str) -> str | None:
        nodes = self.viewpoint.nodes
        seen = id in nodes.tree and self.viewpoint.in_sight.whole[nodes.tree.index[id]]
        return nodes.titles[id] if seen else None


def _step(view: type[PublishView] | type[RetireView]) -> Callable[[Session, Place, dict[str, Any]], None]:
    def do(session: Session, place: Place, said: dict[str, Any]) -> None:
        row = place.row
        if row.state not in view.since:
            raise Invalid({"/state": f"This page is {row.state}."})
        if view is PublishView:
            ask_for_required(row, place.above, session.viewpoint)
            if row.id in said["unseen"]:
                raise Unseen(session.viewpoint.catalogue.type(row.type))
        pages.set_state(row, view.to, session.by, view.kind)

    return do


def _remove(session: Session, place: Place, said: dict[str, Any]) -> None:
    if place.row.is_root():
        raise Conflict(ROOT)
    branches.remove(place.row, session.by)


def _move(session: Session, place: Place, said: dict[str, Any]) -> None:
    moved(session.viewpoint, session.by, place, {"to": said["to"]}, etag(place.row.version))


_DOING: dict[str, Callable[[Session, Place, dict[str, Any]], None]] = {
    "publish": _step(PublishView),
    "retire": _step(RetireView),
    "remove": _remove,
    "move": _move,
}
