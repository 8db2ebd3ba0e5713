"""Topics: listed for whoever works here; adding, renaming and removing are duties of their own."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, Within, require
from gonfalon.api.names import NameField
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Conflict, Invalid, NotFound
from gonfalon.content import topics
from gonfalon.content.models import Topic
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

TAKEN = "Another topic has this name."
SHOWN = 8


class TopicShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    pages = serializers.IntegerField(help_text="How many pages in sight are about it.")
    version = serializers.IntegerField()


class TopicNameInput(Input):
    name = NameField(max_length=80, error_messages={"blank": "A topic needs a name."})


class MergeInput(Input):
    into = serializers.CharField()


class TopicUsesShape(serializers.Serializer):
    """What names a topic, of what may be known of it."""

    pages = serializers.IntegerField()
    titles = serializers.ListField(child=serializers.CharField())
    given = serializers.IntegerField(
        allow_null=True, help_text="How many things are given only about it; for whoever sees the roster."
    )


class TopicsView(GuardedView):
    doors = {
        "get": May("desk.open", "roster.see", "roles.assign", "limits.set"),
        "post": Within("topics.open", May("topics.add")),
    }
    locks = {"post": (POLICY,)}

    @extend_schema(responses=TopicShape(many=True), operation_id="topics", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All topics by name. One query."""
        counts = _counts(self.viewpoint)
        return paged(request, [_data(topic, counts) for topic in Topic.objects.all()])

    @extend_schema(request=TopicNameInput, responses={201: TopicShape}, operation_id="add_topic", parameters=[ETAG])
    def post(self, request: Request) -> Response:
        """A new topic."""
        try:
            topic = topics.add(_name(request), self.session.by)
        except topics.NameTaken:
            raise Invalid({"/name": TAKEN}) from None
        return Response(_data(topic, {}), status=201, headers={"ETag": etag(topic.version)})


class _Ending(GuardedView):
    def _ask_where_given(self, topic: Topic) -> None:
        """Where something is given only about a topic, ending it, or letting more be about it, is giving roles (§4)."""
        if topics.uses_of(topic).given:
            require(self.viewpoint, "roles.assign")


class TopicView(_Ending):
    doors = {
        "get": Within("topics.open", May("topics.rename", "topics.remove")),
        "patch": Within("topics.open", May("topics.rename")),
        "delete": Within("topics.open", May("topics.remove")),
    }
    locks = {"patch": (POLICY,), "delete": (POLICY, NODES)}

    @extend_schema(responses=TopicUsesShape, operation_id="topic_uses", parameters=[ETAG])
    def get(self, request: Request, topic: str) -> Response:
        """What names a topic: what removing it would change."""
        row, viewpoint = _topic(topic), self.viewpoint
        used = topics.uses_of(row)
        shown = [viewpoint.nodes.titles[id] for id in used.pages if id in viewpoint.nodes.tree and _seen(viewpoint, id)]
        told = {"pages": len(shown), "titles": shown[:SHOWN], "given": used.given if viewpoint.sight.roster else None}
        return Response(told, headers={"ETag": etag(row.version)})

    @extend_schema(request=TopicNameInput, responses=TopicShape, operation_id="rename_topic", parameters=TAGGED)
    def patch(self, request: Request, topic: str) -> Response:
        """Another name for the same topic."""
        row, expected, name = _topic(topic), expected_version(request), _name(request)
        if expected != etag(row.version):
            raise ChangedMeanwhile("Somebody changed this topic meanwhile.", _data(row, {}))
        try:
            topics.rename(row, name, self.session.by)
        except topics.NameTaken:
            raise Invalid({"/name": TAKEN}) from None
        return Response(_data(row, _counts(self.viewpoint)), headers={"ETag": etag(row.version)})

    @extend_schema(responses={204: None}, operation_id="remove_topic")
    def delete(self, request: Request, topic: str) -> Response:
        """Take a topic off all pages and scopes that name it, and away."""
        row = _topic(topic)
        self._ask_where_given(row)
        topics.remove(row, self.session.by)
        return Response(status=204)


class MergeView(_Ending):
    doors = {"post": Within("topics.open", May("topics.remove"))}
    locks = {"post": (POLICY, NODES)}

    @extend_schema(request=MergeInput, responses=TopicShape, operation_id="merge_topic")
    def post(self, request: Request, topic: str) -> Response:
        """Let everything about one topic be about another, and take the first away."""
        given = MergeInput(data=request.data)
        given.is_valid(raise_exception=True)
        row, into = _topic(topic), Topic.objects.filter(pk=given.validated_data["into"]).first()
        if into is None:
            raise Invalid({"/into": "There is no such topic."})
        if into.pk == row.pk:
            raise Conflict("A topic cannot be merged into itself.")
        self._ask_where_given(row)
        self._ask_where_given(into)
        topics.merge(row, into, self.session.by)
        return Response(_data(into, _counts(self.viewpoint.renewed())))


def _topic(key: str) -> Topic:
    topic = Topic.objects.filter(pk=key).first()
    if topic is None:
        raise NotFound("topic")
    return topic


def _name(request: Request) -> str:
    given = TopicNameInput(data=request.data)
    given.is_valid(raise_exception=True)
    name: str = given.validated_data["name"]
    return name


def _seen(viewpoint: Viewpoint, id: str) -> bool:
    return bool(viewpoint.in_sight.whole[viewpoint.nodes.tree.index[id]])


def _counts(viewpoint: Viewpoint) -> dict[str, int]:
    """How many pages in sight are about each topic."""
    counts: dict[str, int] = {}
    for node, seen in zip(viewpoint.nodes.tree.nodes, viewpoint.in_sight.whole.tolist(), strict=True):
        if seen:
            for key in node.topics:
                counts[key] = counts.get(key, 0) + 1
    return counts


def _data(topic: Topic, counts: dict[str, int]) -> dict[str, Any]:
    return {"key": topic.key, "name": topic.name, "pages": counts.get(topic.key, 0), "version": topic.version}
