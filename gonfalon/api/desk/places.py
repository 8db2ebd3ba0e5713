"""Where pages stand: a new one, a copy, elsewhere in the tree, into the bin."""

from collections import Counter
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import ContentType
from gonfalon.access.markup import Markup
from gonfalon.accounts.models import Account
from gonfalon.api.desk.edits import TopicsField
from gonfalon.api.desk.handing_on import ask_to_hand_on
from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data, usable_sets
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, On, ask, decide, may
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound
from gonfalon.api.shapes import WithFields
from gonfalon.content import branches, copying
from gonfalon.content.authorship import hand_on_page
from gonfalon.content.models import LONGEST_ADDRESS, Node
from gonfalon.content.nodes import Place, ancestors, as_target
from gonfalon.content.page_input import BadInput, Writer, read_changes
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import SECTION_OF_TREE
from gonfalon.inputs import Input
from gonfalon.ledger.models import By
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

ROOT = "A home page, or the first folder of a tree, stays where it is: it comes and goes with its site."
TOO_DEEP = f"A tree has at most {branches.DEEPEST} levels, and an address at most {LONGEST_ADDRESS} characters."


class NewFieldShape(serializers.Serializer):
    """A field that may be filled in while making a page."""

    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())


class NewKindShape(WithFields):
    """A kind of content that may be made under a page."""

    type = serializers.CharField()
    name = serializers.CharField()
    fields_ = NewFieldShape(many=True, source="fields")


class MakeInput(Input):
    parent = serializers.CharField()
    type = serializers.CharField()
    title = serializers.CharField(max_length=200, error_messages={"blank": "A page needs a title."})
    topics = TopicsField(required=False)
    values = serializers.DictField(required=False)


class MoveInput(Input):
    to = serializers.CharField(required=False, help_text="The new parent; without it, it stays under the one it has.")
    before = serializers.CharField(required=False, allow_null=True, help_text="A sibling; without one it is the last.")


class CopyInput(Input):
    beneath = serializers.BooleanField(default=False, help_text="Whether what is beneath is copied too.")


class HandOnInput(Input):
    account = serializers.CharField()


class NewKindsView(GuardedView):
    doors = {"get": On("see", desk=True)}

    @extend_schema(responses=NewKindShape(many=True), operation_id="new_kinds")
    def get(self, request: Request, node: str) -> Response:
        """What may be made under a page, with the fields that may be filled in; first what most stands there."""
        target, viewpoint = self.place.target, self.viewpoint
        tree, seen = viewpoint.nodes.tree, viewpoint.in_sight.whole
        beneath = tree.children(tree.index[node]) if node in tree else ()
        standing = Counter(tree.nodes[i].type for i in beneath if seen[i])
        kinds = sorted(_kinds(viewpoint, target), key=lambda kind: -standing[kind.key])
        return Response([_kind_data(viewpoint, target, kind) for kind in kinds])


class PagesView(GuardedView):
    doors = {"post": May("desk.open")}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=MakeInput, responses={201: PageShape}, operation_id="make_page", parameters=[ETAG])
    def post(self, request: Request) -> Response:
        """A new draft under a page. Topics and fields are asked of the rules, too."""
        given = MakeInput(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        parent = seen_node(self.viewpoint, said["parent"], "/parent")
        above = as_target(parent, ancestors(parent))
        known = {kind.key: kind for kind in fitting(self.viewpoint, above)}
        if said["type"] not in known:
            raise Invalid({"/type": "This cannot stand here."})
        target = above.child(said["type"], frozenset(said.get("topics", ())))
        ask(self.viewpoint, "create", target)
        if known[said["type"]].retired:
            raise Invalid({"/type": _nothing_new(known[said["type"]])})
        access = PageAccess(self.viewpoint, target)
        values = _values(access, said)
        try:
            row = branches.make(
                parent, said["type"], said["title"].strip(), self.session.by, topics=target.topics, values=values
            )
        except branches.TooDeep:
            raise Invalid({"/parent": TOO_DEEP}) from None
        if row is None:
            raise NotFound
        return answer(self.viewpoint, row, status=201)


class MoveView(GuardedView):
    doors = {"post": On("move", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=MoveInput, responses=PageShape, operation_id="move_page", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Put a page, with all beneath it, under another one, or elsewhere among its siblings."""
        given = MoveInput(data=request.data)
        given.is_valid(raise_exception=True)
        expected = expected_version(request)
        row = moved(self.viewpoint, self.session.by, self.place, given.validated_data, expected)
        return answer(self.viewpoint, row)


class DuplicateView(GuardedView):
    doors = {"post": On("see", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=CopyInput, responses={201: PageShape}, operation_id="duplicate_page", parameters=[ETAG])
    def post(self, request: Request, node: str) -> Response:
        """A copy beside a page, as drafts of one's own; what one may not see or fill in is left out."""
        given = CopyInput(data=request.data)
        given.is_valid(raise_exception=True)
        row = self.place.row
        if row.is_root():
            raise Invalid({"": ROOT})
        seen = self.viewpoint.in_sight.whole
        access = copying.Access(
            self._ask_create,
            lambda target, action, **part: PageAccess(self.viewpoint, target).may(action, **part),
            lambda id: id in self.viewpoint.nodes.tree and bool(seen[self.viewpoint.nodes.tree.index[id]]),
            self.viewpoint.catalogue,
        )
        try:
            copy = copying.copy(row, access, self.session.by, beneath=given.validated_data["beneath"])
        except branches.TooDeep:
            raise Invalid({"": TOO_DEEP}) from None
        if copy is None:
            raise NotFound
        return answer(self.viewpoint, copy, status=201)

    def _ask_create(self, target: Target) -> None:
        ask(self.viewpoint, "create", target)
        kind = self.viewpoint.catalogue.type(target.type)
        if kind.retired:
            raise Invalid({"": _nothing_new(kind)})


class HandOnView(GuardedView):
    doors = {"post": On("see", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=HandOnInput, responses=PageShape, operation_id="hand_on_page", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Make somebody else the author of a page: of one's own, of what somebody disabled wrote, of what one may edit
        where one gives roles, since what is given as `own` then reaches it (§4)."""
        row, expected, viewpoint = self.place.row, expected_version(request), self.viewpoint
        given = HandOnInput(data=request.data)
        given.is_valid(raise_exception=True)
        ask_to_hand_on(viewpoint, as_target(row, self.place.above))
        known = given.validated_data["account"] in viewpoint.sight.people
        to = Account.objects.filter(pk=given.validated_data["account"], state=Account.State.ACTIVE).first()
        if to is None or not known:
            raise Invalid({"/account": "There is no such active account."})
        if expected != etag(row.version):
            raise changed_meanwhile(viewpoint, self.place)
        hand_on_page(row, to, self.session.by)
        return answer(viewpoint, row)


def moved(viewpoint: Viewpoint, by: By, stands: Place, said: dict[str, Any], expected: str) -> Node:
    """Move a page as asked. Raises what there is to refuse."""
    row, above = stands.row, stands.above
    if row.is_root():
        raise Invalid({"": ROOT})
    parent = seen_node(viewpoint, said["to"], "/to") if "to" in said else above[-1]
    if parent.pk != above[-1].pk:
        place = as_target(parent, ancestors(parent))
        if row.id in place.path:
            raise Invalid({"/to": "A page cannot stand beneath itself."})
        if row.type not in {kind.key for kind in fitting(viewpoint, place)}:
            raise Invalid({"/to": f"{viewpoint.catalogue.type(row.type).plural.capitalize()} cannot stand there."})
        ask(viewpoint, "move", stands.target, to=place)
    before = seen_node(viewpoint, said["before"], "/before") if said.get("before") else None
    if before is not None and (before.pk == row.pk or not before.is_child_of(parent)):
        raise Invalid({"/before": "This page does not stand there."})
    if expected != etag(row.version):
        raise changed_meanwhile(viewpoint, stands)
    try:
        return branches.move(row, parent, by, before=before)
    except branches.TooDeep:
        raise Invalid({"/to": TOO_DEEP}) from None


def changed_meanwhile(viewpoint: Viewpoint, place: Place) -> ChangedMeanwhile:
    """That a page is not any more as it was seen."""
    return ChangedMeanwhile(f"{place.row.title} was changed meanwhile.", page_data(viewpoint, place.row, place.above))


def answer(viewpoint: Viewpoint, row: Node, status: int = 200) -> Response:
    """A page as it is now, with its version."""
    data = page_data(viewpoint.renewed(), row, ancestors(row))
    return Response(data, status=status, headers={"ETag": etag(row.version)})


def seen_node(viewpoint: Viewpoint, id: str, pointer: str) -> Node:
    """A node that a request names and whoever asks may see. Raises Invalid where it is not there, or out of sight."""
    row = Node.objects.filter(pk=id).first()
    if row is not None:
        question = Question(viewpoint.subject, "see", as_target(row, ancestors(row)), viewpoint.at)
        section = SECTION_OF_TREE[viewpoint.catalogue.type(row.type).tree]
        if may(viewpoint, section) and decide(viewpoint, question, trail=False).allow:
            return row
    raise Invalid({pointer: "There is no such page."})


def fitting(viewpoint: Viewpoint, above: Target) -> list[ContentType]:
    """The kinds of content that can stand under a node, whoever makes them."""
    types = viewpoint.catalogue.types.values()
    return [kind for kind in types if kind.tree == above.tree and above.type in kind.under]


def _nothing_new(kind: ContentType) -> str:
    return f"Nothing new is made of {kind.plural}: the kind is retired."


def _kinds(viewpoint: Viewpoint, above: Target) -> list[ContentType]:
    """Those of them that whoever asks may make there."""
    return [
        kind for kind in fitting(viewpoint, above) if not kind.retired and _may_create(viewpoint, above.child(kind.key))
    ]


def _kind_data(viewpoint: Viewpoint, above: Target, kind: ContentType) -> dict[str, Any]:
    access = PageAccess(viewpoint, above.child(kind.key))
    return {
        "type": kind.key,
        "name": kind.name,
        "fields": [
            {"key": f.key, "name": f.name, "kind": f.kind, "choices": f.choices}
            for f in kind.fields
            if access.may("fill-field", field=f.key)
        ],
    }


def _values(access: PageAccess, said: dict[str, Any]) -> dict[str, Any]:
    """The values of fields sent for a new page, checked and asked of the rules."""
    usable = [Markup.of(markup) for markup in usable_sets(access)]
    writer = Writer(access.viewpoint.catalogue, usable, access.finds)
    blank = Node(type=said["type"], title=said["title"])
    try:
        values: dict[str, Any] = read_changes(blank, {"values": said.get("values", {})}, writer)["values"]
    except BadInput as bad:
        raise Invalid(bad.errors) from None
    for key in said.get("values", {}):
        ask(access.viewpoint, "fill-field", access.target, field=key)
    return {key: value for key, value in values.items() if value is not None}


def _may_create(viewpoint: Viewpoint, target: Target) -> bool:
    return decide(viewpoint, Question(viewpoint.subject, "create", target, viewpoint.at), trail=False).allow
