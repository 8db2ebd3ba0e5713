"""The desk: the tree one may see, and a page as one may edit it."""

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.markup import Markup
from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data, usable_sets
from gonfalon.api.etag import etag, expected_version
from gonfalon.api.guard import GuardedView, May, On, ask
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound
from gonfalon.content import pages
from gonfalon.content.models import Node, Site
from gonfalon.content.nodes import ancestors, as_target, within_sight


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
        see, above = within_sight(presence.engine, presence.who, presence.at)
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


class PageInput(serializers.Serializer):
    title = serializers.CharField(required=False, allow_blank=True)
    values = serializers.DictField(required=False)
    components = serializers.ListField(child=serializers.DictField(), required=False)


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
        target = as_target(row, above)
        access = PageAccess(self.presence, target)
        usable = [Markup.of(markup) for markup in usable_sets(access)]
        writer = pages.Writer(self.presence.snapshot.catalogue.components, usable)
        try:
            new = pages.read_changes(row, given.validated_data, writer)
        except pages.BadInput as bad:
            raise Invalid(bad.errors) from None
        hidden = [key for key in given.validated_data.get("values", ()) if not access.may("see-field", field=key)]
        for part in (*pages.parts_named(given.validated_data, hidden), *pages.parts_touched(row, new)):
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
        data = page_data(self.presence, saved, above) | {"taken_off": sorted(writer.taken_off)}
        return Response(data, headers={"ETag": etag(saved.version)})

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


def _row(node: str) -> Node:
    row = Node.objects.filter(pk=node).first()
    if row is None:
        raise NotFound
    return row
