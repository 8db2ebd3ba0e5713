"""The bin: what was removed, brought back by whoever may, emptied for good after a while."""

from datetime import timedelta
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.desk.page_data import PageShape
from gonfalon.api.desk.places import ROOT, TOO_DEEP, answer, changed_meanwhile, fitting, seen_node
from gonfalon.api.etag import ETAG, IF_MATCH, etag, expected_version
from gonfalon.api.guard import GuardedView, May, On, ask, decide, refuse, require
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Invalid, NotFound, Refused
from gonfalon.content import branches, linking
from gonfalon.content.models import Node, Removed, Site
from gonfalon.content.nodes import ancestors, as_target
from gonfalon.content.removed import standing, standing_branches
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import SECTION_OF_TREE
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

SHOWN = 8


class RemovalShape(serializers.Serializer):
    """What removing a page would do, of what may be known of it."""

    beneath = serializers.IntegerField(help_text="How many pages in sight would go with it.")
    linked_from = serializers.ListField(child=serializers.CharField(), help_text="Titles of pages that lead to it.")
    days = serializers.IntegerField(help_text="For how long it can be brought back, at least.")


class BinRowShape(serializers.Serializer):
    """A branch in the bin that one may bring back, or empty for good."""

    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    tree = serializers.CharField()
    site = serializers.CharField()
    beneath = serializers.IntegerField(help_text="How many pages in sight went with it.")
    stood_under = serializers.CharField()
    parent = serializers.CharField(allow_null=True, help_text="Where it stood, if that is there and in sight.")
    removed_by = serializers.CharField()
    removed_at = serializers.DateTimeField()
    kept_until = serializers.DateTimeField(help_text="Before that nobody empties it for good.")
    may_restore = serializers.BooleanField()
    may_empty = serializers.BooleanField()


class BringBackInput(Input):
    to = serializers.CharField(required=False, help_text="Another parent than the one it stood under.")


class RemoveView(GuardedView):
    doors = {"get": On("remove", desk=True), "post": On("remove", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(responses=RemovalShape, operation_id="removal")
    def get(self, request: Request, node: str) -> Response:
        """What goes with a page, and what leads to it."""
        row, viewpoint = self.place.row, self.viewpoint
        branch, seen = viewpoint.nodes.tree.branch(node), viewpoint.in_sight.whole
        leading = [id for id in linking.leading_to(row) if id in viewpoint.nodes.tree]
        shown = [viewpoint.nodes.titles[id] for id in leading if seen[viewpoint.nodes.tree.index[id]]]
        return Response(
            {
                "beneath": int(seen[branch].sum()) - 1,
                "linked_from": shown[:SHOWN],
                "days": Site.objects.values_list("bin_days", flat=True).get(pk=row.site_id),
            }
        )

    @extend_schema(request=None, responses={204: None}, operation_id="remove_page", parameters=[IF_MATCH])
    def post(self, request: Request, node: str) -> Response:
        """Put a page into the bin, with all that is beneath it."""
        row, expected = self.place.row, expected_version(request)
        if row.is_root():
            raise Invalid({"": ROOT})
        if expected != etag(row.version):
            raise changed_meanwhile(self.viewpoint, self.place)
        branches.remove(row, self.session.by)
        return Response(status=204)


class BinView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=BinRowShape(many=True), operation_id="bin", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """What one may bring back or empty, the last removed first. Five queries, however much there is."""
        return paged(request, _rows(self.viewpoint))


class BringBackView(GuardedView):
    doors = {"post": May("desk.open")}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=BringBackInput, responses=PageShape, operation_id="bring_back", parameters=[ETAG])
    def post(self, request: Request, node: str) -> Response:
        """Bring a branch back: to where it stood, or to another parent."""
        given = BringBackInput(data=request.data)
        given.is_valid(raise_exception=True)
        viewpoint, entry = self.viewpoint, _seen_entry(self.viewpoint, node)
        stood = standing(entry)
        ask(viewpoint, "restore", stood)
        where = given.validated_data.get("to")
        if where is None and not Node.objects.filter(pk=entry.above[-1]).exists():
            raise Invalid({"/to": "Where it stood is gone. Say where it is to stand."})
        parent = seen_node(viewpoint, where or entry.above[-1], "/to")
        place = as_target(parent, ancestors(parent))
        if entry.node.type not in {kind.key for kind in fitting(viewpoint, place)}:
            plural = viewpoint.catalogue.type(entry.node.type).plural.capitalize()
            raise Invalid({"/to": f"{plural} cannot stand there."})
        ask(viewpoint, "create", place.child(entry.node.type, stood.topics))
        try:
            row = branches.bring_back(entry, parent, self.session.by)
        except branches.TooDeep:
            raise Invalid({"/to": TOO_DEEP}) from None
        if row is None:
            raise NotFound
        return answer(viewpoint, row)


class EmptyView(GuardedView):
    doors = {"delete": May("desk.open")}
    locks = {"delete": (POLICY.shared, NODES)}

    @extend_schema(responses={204: None}, operation_id="empty_bin")
    def delete(self, request: Request, node: str) -> Response:
        """Empty a branch out of the bin for good, once it was kept for as long as its site says."""
        viewpoint, entry = self.viewpoint, _seen_entry(self.viewpoint, node)
        question = Question(viewpoint.subject, "bin.empty", at=viewpoint.at, site=entry.node.site_id)
        answered = decide(viewpoint, question)
        if not answered.allow:
            refuse(self.viewpoint, question, answered)
        if viewpoint.at < _kept_until(entry, dict(Site.objects.values_list("pk", "bin_days"))):
            raise Refused("kept", f"{entry.node.title} is kept for a while yet, so that it can be brought back.")
        if not branches.empty(entry, self.session.by):
            raise NotFound
        return Response(status=204)


def _seen_entry(viewpoint: Viewpoint, node: str) -> Removed:
    """A branch in the bin that whoever asks would see where it stood. Raises NotFound, and Refused where its section is
    closed."""
    entry = Removed.objects.select_related("node").filter(pk=node).first()
    if entry is None:
        raise NotFound
    stood = standing(entry)
    require(viewpoint, SECTION_OF_TREE[stood.tree])
    ask(viewpoint, "see", stood)
    return entry


def _kept_until(entry: Removed, days: dict[str, int]) -> Any:
    return entry.at + timedelta(days=days[entry.node.site_id])


def _rows(viewpoint: Viewpoint) -> list[dict[str, Any]]:
    entries = list(Removed.objects.select_related("node"))
    days = dict(Site.objects.values_list("pk", "bin_days"))
    asked = {entry: may_bring_back(viewpoint, entry) for entry in entries}
    shown = [entry for entry in entries if any(asked[entry])]
    beneath = _beneath(viewpoint, shown)
    people = names_of({entry.by for entry in shown if entry.by is not None and entry.by in viewpoint.sight.people})
    return [
        {
            "id": entry.pk,
            "title": entry.node.title,
            "type": entry.node.type,
            "tree": viewpoint.catalogue.type(entry.node.type).tree,
            "site": entry.node.site_id,
            "beneath": beneath[entry.pk],
            "stood_under": viewpoint.nodes.titles.get(entry.above[-1], HIDDEN_NODE)
            if entry.above[-1] in viewpoint.sight.nodes
            else HIDDEN_NODE,
            "parent": entry.above[-1] if entry.above[-1] in viewpoint.sight.nodes else None,
            "removed_by": people.get(entry.by or "", HIDDEN_PERSON),
            "removed_at": entry.at,
            "kept_until": _kept_until(entry, days),
            "may_restore": asked[entry][0],
            "may_empty": asked[entry][1] and viewpoint.at >= _kept_until(entry, days),
        }
        for entry in shown
    ]


def any_in_bin(viewpoint: Viewpoint) -> bool:
    """Whether the bin holds anything for whoever asks. One query."""
    return any(any(may_bring_back(viewpoint, entry)) for entry in Removed.objects.select_related("node"))


def may_bring_back(viewpoint: Viewpoint, entry: Removed) -> tuple[bool, bool]:
    """Whether a branch may be brought back, and whether it may be emptied for good."""
    stood = standing(entry)

    def may(action: str, target: Target | None = None, site: str | None = None) -> bool:
        return decide(
            viewpoint, Question(viewpoint.subject, action, target, viewpoint.at, site=site), trail=False
        ).allow

    if not may("see", stood) or not may(SECTION_OF_TREE[stood.tree]):
        return False, False
    return may("restore", stood), may("bin.empty", site=stood.site)


def _beneath(viewpoint: Viewpoint, entries: list[Removed]) -> dict[str, int]:
    """How many of the nodes that went with each are in sight, as if they stood where they stood. One query."""
    count = dict.fromkeys((entry.pk for entry in entries), 0)
    for node, target in standing_branches(entries):
        if node.id != node.removed_with:
            question = Question(viewpoint.subject, "see", target, viewpoint.at)
            count[node.removed_with or ""] += decide(viewpoint, question, trail=False).allow
    return count
