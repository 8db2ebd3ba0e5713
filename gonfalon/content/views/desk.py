"""The desk: the tree one may see, and a page as one may edit it."""

from typing import Any

from django.http import FileResponse
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import COMPONENTS, Field, type_named
from gonfalon.accounts.models import Account
from gonfalon.content import pages
from gonfalon.content.models import Node, Site
from gonfalon.content.nodes import ancestors, as_target, within_sight
from gonfalon.core import Question
from gonfalon.core.tree import Target
from gonfalon.core.vocabulary import ACTIONS
from gonfalon.server.etag import etag, expected_version
from gonfalon.server.guard import GuardedPage, GuardedView, May, On, ask, decide
from gonfalon.server.paging import PAGED, paged
from gonfalon.server.presence import Presence
from gonfalon.server.problems import ChangedMeanwhile, Invalid, NotFound


class TreeRowShape(serializers.Serializer):
    """A node one may see, or (`context`) one above it, shown by name alone."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    type = serializers.CharField()
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
        wanted = request.query_params.get("tree", "content")
        nodes = self.presence.nodes
        presence = self.presence
        see, above = within_sight(presence.survey, presence.who, presence.at)
        edit = presence.survey.allowed([presence.who], None, ["edit"], presence.at)[0, :, 0]
        shown = see & (nodes.tree.having("tree", frozenset({wanted})))
        return paged(
            request,
            [
                {
                    "id": node.id,
                    "parent": node.parent,
                    "title": nodes.titles[node.id],
                    "type": node.type,
                    "state": node.state if shown[i] else None,
                    "context": not shown[i],
                    "may_edit": bool(shown[i] and edit[i]),
                }
                for i, node in enumerate(nodes.tree.nodes)
                if shown[i] or (node.id in above and node.tree == wanted)
            ],
        )


class PageFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    value = serializers.JSONField(allow_null=True)
    shown = serializers.CharField(allow_null=True)
    may_change = serializers.BooleanField()


class PageComponentShape(serializers.Serializer):
    id = serializers.CharField()
    kind = serializers.CharField()
    props = serializers.DictField()
    facets = serializers.DictField(child=serializers.BooleanField())
    locked = serializers.BooleanField()


class PageShape(serializers.Serializer):
    id = serializers.CharField()
    type = serializers.CharField()
    tree = serializers.CharField()
    title = serializers.CharField()
    state = serializers.CharField()
    site = serializers.CharField()
    address = serializers.CharField()
    author = serializers.CharField(allow_null=True)
    version = serializers.IntegerField()
    saved_at = serializers.DateTimeField()
    saved_by = serializers.CharField(allow_null=True)
    above = serializers.ListField(child=serializers.CharField())
    locked = serializers.BooleanField()
    may = serializers.ListField(child=serializers.CharField())
    fields_ = PageFieldShape(many=True, source="fields")
    components = PageComponentShape(many=True)
    insertable = serializers.ListField(child=serializers.CharField())

    def get_fields(self) -> dict:
        fields = super().get_fields()
        fields["fields"] = fields.pop("fields_")
        fields["fields"].source = None
        return fields


class PageInput(serializers.Serializer):
    title = serializers.CharField(required=False, allow_blank=True)
    values = serializers.DictField(required=False)
    components = serializers.ListField(child=serializers.DictField(), required=False)


class _Asker:
    """Asks about one page for whoever looks at it. In memory: no query."""

    def __init__(self, presence: Presence, target: Target) -> None:
        self.presence, self.target = presence, target

    def may(self, action: str, **part: Any) -> bool:
        question = Question(self.presence.who, action, self.target, self.presence.at, **part)
        return decide(self.presence, question, trail=False).allow


def page_data(presence: Presence, node: Node, above: list[Node]) -> dict[str, Any]:
    """A page with only what its reader may see of it, and what they may do to it."""
    target = as_target(node, above)
    asker = _Asker(presence, target)
    locks = [k for k in presence.snapshot.policy.locks.values() if k.node == node.id]
    fields = [f for f in type_named(node.type).fields if asker.may("see-field", field=f.key)]
    pictures = _seen_titles(presence, node, fields)
    names = dict(Account.objects.filter(pk__in=[node.author_id, node.saved_by_id]).values_list("id", "name"))
    may_edit = asker.may("edit")
    return {
        "id": node.id,
        "type": node.type,
        "tree": type_named(node.type).tree,
        "title": node.title,
        "state": node.state,
        "site": node.site_id,
        "address": node.address,
        "author": names.get(node.author_id or ""),
        "version": node.version,
        "saved_at": node.saved_at,
        "saved_by": names.get(node.saved_by_id or ""),
        "above": [n.title for n in above],
        "locked": any(k.field is None and k.component is None for k in locks),
        "may": [action for action in ACTIONS if action != "create" and asker.may(action)],
        "fields": [
            {
                "key": f.key,
                "name": f.name,
                "kind": f.kind,
                "choices": f.choices,
                "value": node.values.get(f.key),
                "shown": pictures.get(node.values.get(f.key)),
                "may_change": may_edit and asker.may("change-field", field=f.key),
            }
            for f in fields
        ],
        "components": [
            {
                "id": c["id"],
                "kind": c["kind"],
                "props": c["props"],
                "facets": {
                    facet: may_edit
                    and asker.may("change-facet", component=c["kind"], facet=facet, component_id=c["id"])
                    for facet in COMPONENTS[c["kind"]].facets
                },
                "locked": any(k.component == c["id"] for k in locks),
            }
            for c in node.components
        ],
        "insertable": [key for key in COMPONENTS if may_edit and asker.may("insert-component", component=key)],
    }


def _seen_titles(presence: Presence, node: Node, fields: list[Field]) -> dict[Any, str]:
    """Titles of what reference and picture fields name, those that may be seen. One query for all."""
    named = {node.values.get(f.key) for f in fields if f.kind in ("reference", "picture")} - {None}
    if not named:
        return {}
    nodes = presence.nodes
    known = [id for id in named if id in nodes.tree]
    see = presence.survey.allowed([presence.who], known, ["see"], presence.at)[0, :, 0]
    return {id: nodes.titles[id] for id, seen in zip(known, see, strict=True) if seen}


class PageView(GuardedView):
    doors = {"get": On("see", desk=True), "patch": On("edit", desk=True)}

    @extend_schema(responses=PageShape, operation_id="page")
    def get(self, request: Request, node: str) -> Response:
        row = _row(node)
        return Response(page_data(self.presence, row, ancestors(row)), headers={"ETag": etag(row.version)})

    @extend_schema(request=PageInput, responses=PageShape, operation_id="save_page")
    def patch(self, request: Request, node: str) -> Response:
        """Save title, fields and components; every part that changes is asked of the rules first."""
        row = _row(node)
        above = ancestors(row)
        expected = expected_version(request)
        if expected != etag(row.version):
            raise self._changed_meanwhile(row)
        given = PageInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            new = pages.read_changes(row, given.validated_data)
        except pages.BadInput as bad:
            raise Invalid(bad.errors) from None
        target = as_target(row, above)
        for part in pages.parts_touched(row, new):
            ask(
                self.presence,
                part.action,
                target,
                field=part.field,
                component=part.component,
                facet=part.facet,
                component_id=part.component_id,
            )
        saved = pages.save(row, new, self.presence.by, still=lambda now: etag(now.version) == expected)
        if saved is None:
            raise self._changed_meanwhile(_row(node))
        return Response(page_data(self.presence, saved, above), headers={"ETag": etag(saved.version)})

    def _changed_meanwhile(self, row: Node) -> ChangedMeanwhile:
        theirs = page_data(self.presence, row, ancestors(row))
        return ChangedMeanwhile(
            f"{theirs['saved_by'] or 'Someone'} saved {row.title} while you were editing it.", theirs
        )


class _StateView(GuardedView):
    """Moves a page from some states to another, when it is still as it was seen."""

    action: str
    to: str
    since: tuple[str, ...]
    kind: str
    summary: str

    def _move_on(self, request: Request, node: str) -> Response:
        row = _row(node)
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
        )
        if saved is None:
            row = _row(node)
            raise ChangedMeanwhile(f"{row.title} was changed meanwhile.", page_data(self.presence, row, above))
        return Response(page_data(self.presence, saved, above), headers={"ETag": etag(saved.version)})


class PublishView(_StateView):
    doors = {"post": On("publish", desk=True)}
    to, since = "published", ("draft", "review", "retired")
    kind, summary = "page.published", "Published"

    @extend_schema(request=None, responses=PageShape, operation_id="publish")
    def post(self, request: Request, node: str) -> Response:
        return self._move_on(request, node)


class HandInView(_StateView):
    doors = {"post": On("edit", desk=True)}
    to, since = "review", ("draft",)
    kind, summary = "page.handed-in", "Handed in"

    @extend_schema(request=None, responses=PageShape, operation_id="hand_in")
    def post(self, request: Request, node: str) -> Response:
        return self._move_on(request, node)


class RetireView(_StateView):
    doors = {"post": On("retire", desk=True)}
    to, since = "retired", ("draft", "review", "published")
    kind, summary = "page.retired", "Retired"

    @extend_schema(request=None, responses=PageShape, operation_id="retire")
    def post(self, request: Request, node: str) -> Response:
        return self._move_on(request, node)


class SiteShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()


class SitesView(GuardedView):
    doors = {"get": May("desk.open", "roster.see", "limits.set")}

    @extend_schema(responses=SiteShape(many=True), operation_id="sites", parameters=PAGED)
    def get(self, request: Request) -> Response:
        return paged(request, [{"key": s.key, "name": s.name} for s in Site.objects.all()])


class FileView(GuardedPage):
    """A picture or document itself, for whoever may see its node."""

    doors = {"get": On("see")}

    def get(self, request: Request, node: str) -> FileResponse:
        row = _row(node)
        if not row.file:
            raise NotFound("file")
        return FileResponse(row.file.open("rb"), headers={"Cache-Control": "private, max-age=60"})


def _row(node: str) -> Node:
    row = Node.objects.filter(pk=node).first()
    if row is None:
        raise NotFound
    return row
