"""The desk: the tree one may see, and a page as one may edit it."""

from dataclasses import asdict
from typing import Any

from django.db import transaction
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import type_named
from gonfalon.access.markup import Markup
from gonfalon.access.words import REASON_WORDS, trail_data
from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data, usable_sets
from gonfalon.api.desk.telling import tell_author, tell_reviewers
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, On, ask, decide, tree_asked
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound, Refused
from gonfalon.content import page_parts, pages
from gonfalon.content.models import Node, Topic
from gonfalon.content.nodes import ancestors, as_target
from gonfalon.content.page_input import BadInput, Writer, read_changes
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.verify.presence import Presence


class TreeRowShape(serializers.Serializer):
    """A node one may see, or (`context`) one above it, shown by name alone."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    type = serializers.CharField(allow_null=True)
    site = serializers.CharField(allow_null=True)
    state = serializers.CharField(allow_null=True)
    context = serializers.BooleanField()
    may_edit = serializers.BooleanField()


class DeskTreeView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(
        responses=TreeRowShape(many=True),
        operation_id="desk_tree",
        parameters=[OpenApiParameter("tree", str, enum=["content", "media"]), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """Everything the account may see in one tree, with what is above it. Two queries, whole tree at once."""
        presence, wanted = self.presence, tree_asked(self.presence, request)
        nodes, sight = presence.nodes, presence.in_sight
        edit = presence.survey.allowed([presence.who], None, ["edit"], presence.at)[0, :, 0]
        shown = sight.whole
        return paged(
            request,
            [
                {
                    "id": node.id,
                    "parent": node.parent,
                    "title": nodes.titles[node.id],
                    "type": node.type if shown[i] else None,
                    "site": node.site if shown[i] else None,
                    "state": node.state if shown[i] else None,
                    "context": not shown[i],
                    "may_edit": bool(shown[i] and edit[i]),
                }
                for i, node in enumerate(nodes.tree.nodes)
                if node.id in sight.named and node.tree == wanted
            ],
        )


class ComponentInput(serializers.Serializer):
    """A part of a page; one that is there already by its id."""

    id = serializers.CharField(required=False, allow_blank=True)
    kind = serializers.CharField()
    props = serializers.DictField(required=False)


class TopicsField(serializers.ListField):
    """Keys of topics that there are, each once."""

    child = serializers.CharField()

    def to_internal_value(self, data: Any) -> list[str]:
        keys = sorted(set(super().to_internal_value(data)))
        known = set(Topic.objects.filter(pk__in=keys).values_list("pk", flat=True))
        if unknown := [key for key in keys if key not in known]:
            raise serializers.ValidationError(f"There is no topic “{unknown[0]}”.")
        return keys


class PageInput(serializers.Serializer):
    title = serializers.CharField(required=False, allow_blank=True)
    values = serializers.DictField(required=False)
    components = serializers.ListField(child=ComponentInput(), required=False)
    topics = TopicsField(required=False)


class PageView(GuardedView):
    doors = {"get": On("see", desk=True), "patch": On("edit", desk=True)}

    @extend_schema(responses=PageShape, operation_id="page", parameters=[ETAG])
    def get(self, request: Request, node: str) -> Response:
        row = row_of(node)
        return Response(page_data(self.presence, row, ancestors(row)), headers={"ETag": etag(row.version)})

    @extend_schema(request=PageInput, responses=PageShape, operation_id="save_page", parameters=TAGGED)
    def patch(self, request: Request, node: str) -> Response:
        """Save title, fields and components; every part that changes is asked of the rules first."""
        row = row_of(node)
        above = ancestors(row)
        expected = expected_version(request)
        if expected != etag(row.version):
            raise self._changed_meanwhile(row)
        given = PageInput(data=request.data)
        given.is_valid(raise_exception=True)
        target = as_target(row, above)
        access = PageAccess(self.presence, target)
        usable = [Markup.of(markup) for markup in usable_sets(access)]
        writer = Writer(self.presence.snapshot.catalogue.components, usable, access.finds)
        try:
            new = read_changes(row, given.validated_data, writer)
        except BadInput as bad:
            raise Invalid(bad.errors) from None
        if (about := given.validated_data.get("topics", row.topics)) != row.topics:
            ask(self.presence, "edit", target, topics=frozenset(about))
            new["topics"] = about
        hidden = [key for key in given.validated_data.get("values", ()) if not access.may("see-field", field=key)]
        named = page_parts.named(given.validated_data, hidden)
        for part in (*named, *page_parts.touched(row, new, access.may_arrange)):
            self._ask(part, target)
        saved = pages.save(row, new, self.presence.by, still=lambda now: etag(now.version) == expected)
        if saved is None:
            raise self._changed_meanwhile(row_of(node))
        data = page_data(self.presence, saved, above) | {"taken_off": sorted(writer.taken_off)}
        return Response(data, headers={"ETag": etag(saved.version)})

    def _ask(self, part: page_parts.Part, target: Target) -> None:
        """Raise Refused, naming the part in its own words, unless whoever asks may change it."""
        question = Question(self.presence.who, target=target, at=self.presence.at, **asdict(part))
        answer = decide(self.presence, question)
        if not answer.allow:
            why = f"You may not {part.words(target.type)}. {REASON_WORDS[answer.reason]}"
            raise Refused(str(answer.reason), why, trail_data(answer))

    def _changed_meanwhile(self, row: Node) -> ChangedMeanwhile:
        theirs = page_data(self.presence, row, ancestors(row))
        return ChangedMeanwhile(
            f"{theirs['saved_by'] or 'Someone'} saved {row.title} while you were editing it.", theirs
        )


class WordInput(serializers.Serializer):
    note = serializers.CharField(max_length=500, required=False, allow_blank=True, default="")


class NoteInput(serializers.Serializer):
    note = serializers.CharField(max_length=500, error_messages={"blank": "Say what is to be changed."})


class _StateView(GuardedView):
    """Moves a page from some states to another, when it is still as it was seen."""

    action: str
    to: str
    since: tuple[str, ...]
    kind: str
    summary: str

    def _move_on(self, request: Request, node: str, note: str = "") -> Response:
        row = row_of(node)
        above = ancestors(row)
        expected = expected_version(request)
        if row.state not in self.since:
            raise Invalid({"/state": f"This page is {row.state}; it would have to be {' or '.join(self.since)}."})
        saved = pages.set_state(
            row,
            self.to,
            self.presence.by,
            self.kind,
            self.summary,
            still=lambda now: etag(now.version) == expected,
            note=note,
        )
        if saved is None:
            row = row_of(node)
            raise ChangedMeanwhile(f"{row.title} was changed meanwhile.", page_data(self.presence, row, above))
        return Response(page_data(self.presence, saved, above), headers={"ETag": etag(saved.version)})


def ask_for_required(row: Node, above: list[Node], presence: Presence) -> None:
    """Raise Invalid where a required field that whoever asks may change is not filled in."""
    access = PageAccess(presence, as_target(row, above))
    empty = [
        field
        for field in type_named(row.type).fields
        if field.required and row.values.get(field.key) in (None, "") and access.may("change-field", field=field.key)
    ]
    if empty:
        raise Invalid({f"/values/{field.key}": f"{field.name} is needed first." for field in empty})


class PublishView(_StateView):
    doors = {"post": On("publish", desk=True)}
    to, since = "published", ("draft", "review", "retired")
    kind, summary = "page.published", "Published"

    @extend_schema(request=None, responses=PageShape, operation_id="publish", parameters=TAGGED)
    @transaction.atomic
    def post(self, request: Request, node: str) -> Response:
        """Publish a page; whoever wrote it is told by mail if it was handed in."""
        row = row_of(node)
        ask_for_required(row, ancestors(row), self.presence)
        waited = row.state == Node.State.REVIEW
        response = self._move_on(request, node)
        if waited:
            tell_author(row_of(node), "published", self.presence)
        return response


class HandInView(_StateView):
    doors = {"post": On("edit", desk=True)}
    to, since = "review", ("draft",)
    kind, summary = "page.handed-in", "Handed in"

    @extend_schema(request=WordInput, responses=PageShape, operation_id="hand_in", parameters=TAGGED)
    @transaction.atomic
    def post(self, request: Request, node: str) -> Response:
        """Hand a page in for review, with a word if one likes; those who may publish it are told by mail."""
        given = WordInput(data=request.data)
        given.is_valid(raise_exception=True)
        word, row = given.validated_data["note"].strip(), row_of(node)
        ask_for_required(row, ancestors(row), self.presence)
        response = self._move_on(request, node, word)
        tell_reviewers(row_of(node), self.presence, word)
        return response


class RetireView(_StateView):
    doors = {"post": On("retire", desk=True)}
    to, since = "retired", ("draft", "review", "published")
    kind, summary = "page.retired", "Retired"

    @extend_schema(request=None, responses=PageShape, operation_id="retire", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        return self._move_on(request, node)


class TakeBackView(_StateView):
    doors = {"post": On("edit", desk=True)}
    to, since = "draft", ("review",)
    kind, summary = "page.taken-back", "Took back"

    @extend_schema(request=None, responses=PageShape, operation_id="take_back", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Take a page back that was handed in."""
        return self._move_on(request, node)


class ReturnView(_StateView):
    doors = {"post": On("publish", desk=True)}
    to, since = "draft", ("review",)
    kind, summary = "page.returned", "Returned"

    @extend_schema(request=NoteInput, responses=PageShape, operation_id="return_page", parameters=TAGGED)
    @transaction.atomic
    def post(self, request: Request, node: str) -> Response:
        """Give a page back that was handed in, with a note; whoever wrote it is told by mail."""
        given = NoteInput(data=request.data)
        given.is_valid(raise_exception=True)
        note = given.validated_data["note"]
        response = self._move_on(request, node, note)
        tell_author(row_of(node), "returned", self.presence, note)
        return response


class ToDraftView(_StateView):
    doors = {"post": On("retire", desk=True)}
    to, since = "draft", ("retired",)
    kind, summary = "page.to-draft", "Made a draft again of"

    @extend_schema(request=None, responses=PageShape, operation_id="to_draft", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Make a draft again of a page that was retired."""
        return self._move_on(request, node)


def row_of(node: str) -> Node:
    """A node by its id. Raises NotFound."""
    row = Node.objects.filter(pk=node).first()
    if row is None:
        raise NotFound
    return row
