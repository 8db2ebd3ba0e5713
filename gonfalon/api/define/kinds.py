"""Define: kinds of content and their fields, made and changed here."""

from collections import Counter
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import kinds
from gonfalon.access.catalogue import FIELD_KINDS
from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.kinds import (
    ChangedSince,
    NameTaken,
    Needed,
    NewField,
    NewKind,
    NotHere,
    TooMany,
    answers_like,
    fits_profile,
    kind_rows,
)
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, require
from gonfalon.api.names import NameField
from gonfalon.api.problems import ChangedMeanwhile, Conflict, Invalid, NotFound
from gonfalon.api.shapes import WithFields
from gonfalon.content.field_values import purge_values
from gonfalon.core.model.policy import FieldRule
from gonfalon.core.model.vocabulary import FIELD_MARKS, PROFILE
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

KIND_TAKEN, FIELD_TAKEN = "Another kind has this name.", "Another field of this kind has this name."
_NAMELESS = {"blank": "It needs a name."}
SHIPPED = frozenset({"home", "section", "page", "folder", "picture", "document", "account"})


class KindFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.ChoiceField(choices=FIELD_KINDS)
    help = serializers.CharField(allow_blank=True)
    required = serializers.BooleanField()
    choices = serializers.ListField(child=serializers.CharField())
    retired = serializers.BooleanField()
    mode = serializers.CharField(help_text="Who sees and changes it: open, author or table.")
    asked = serializers.BooleanField(help_text="Whether people must fill it in when they come.")


class KindShape(WithFields):
    key = serializers.CharField()
    name = serializers.CharField()
    plural = serializers.CharField()
    tree = serializers.CharField(allow_null=True)
    under = serializers.ListField(child=serializers.CharField())
    components = serializers.ListField(child=serializers.CharField(), allow_null=True, help_text="Null: of any.")
    fields_ = KindFieldShape(many=True, source="fields")
    retired = serializers.BooleanField(help_text="Nothing new is made of it.")
    version = serializers.IntegerField()
    ships = serializers.BooleanField(help_text="Whether it came with the application.")
    pages = serializers.IntegerField(help_text="How many there are in sight.")


class _Under(serializers.ListField):
    """Keys of kinds that there are."""

    child = serializers.CharField()

    def to_internal_value(self, data: Any) -> list[str]:
        known = self.context["catalogue"].every_type
        if not isinstance(data, list) or not all(isinstance(key, str) and key in known for key in data):
            raise serializers.ValidationError("Name kinds of content that there are.")
        return list(dict.fromkeys(data))


class _BuiltOf(serializers.ListField):
    """Keys of components that there are."""

    child = serializers.CharField()

    def to_internal_value(self, data: Any) -> list[str]:
        known = self.context["catalogue"].every_component
        if not isinstance(data, list) or not all(isinstance(key, str) and key in known for key in data):
            raise serializers.ValidationError("Name components that there are.")
        return [key for key in known if key in data]


class KindInput(Input):
    name = NameField(max_length=80, error_messages=_NAMELESS)
    plural = NameField(max_length=80, error_messages=_NAMELESS)
    tree = serializers.ChoiceField(choices=("content", "media"), default="content")
    under = _Under(default=list)
    components = _BuiltOf(allow_null=True, default=None)
    like = serializers.CharField(
        allow_null=True,
        default=None,
        help_text="Each role says of it what it says of this kind; null: nobody has it.",
    )


class KindChangeInput(Input):
    name = NameField(max_length=80, required=False, error_messages=_NAMELESS)
    plural = NameField(max_length=80, required=False, error_messages=_NAMELESS)
    under = _Under(required=False)
    components = _BuiltOf(allow_null=True, required=False)
    retired = serializers.BooleanField(required=False)


class FieldRuleInput(Input):
    """Who sees and changes a field from its beginning."""

    mode = serializers.ChoiceField(choices=("open", "author", "table"))
    table = serializers.DictField(
        child=serializers.ListField(child=serializers.ChoiceField(choices=sorted(FIELD_MARKS))), default=dict
    )


class _Choices(serializers.ListField):
    child = serializers.CharField(max_length=80)

    def to_internal_value(self, data: Any) -> list[str]:
        return list(dict.fromkeys(super().to_internal_value(data)))


class FieldInput(Input):
    name = NameField(max_length=80, error_messages=_NAMELESS)
    kind = serializers.ChoiceField(choices=FIELD_KINDS)
    help = serializers.CharField(max_length=200, allow_blank=True, default="")
    required = serializers.BooleanField(default=False)
    choices = _Choices(default=list, max_length=100)
    rule = FieldRuleInput(required=False)

    def validate(self, given: dict[str, Any]) -> dict[str, Any]:
        if given["kind"] in ("choice", "choices") and not given["choices"]:
            raise serializers.ValidationError({"choices": "Say what there is to choose from."})
        return given


class FieldChangeInput(Input):
    name = NameField(max_length=80, required=False, error_messages=_NAMELESS)
    help = serializers.CharField(max_length=200, allow_blank=True, required=False)
    required = serializers.BooleanField(required=False)
    choices = _Choices(required=False, max_length=100)
    retired = serializers.BooleanField(required=False)


class FieldOrderInput(Input):
    order = serializers.ListField(child=serializers.CharField(), max_length=kinds.MOST_FIELDS)


class _KindView(GuardedView):
    """Says what went wrong with a kind or one of its fields in the words of a problem."""

    def handle_exception(self, exc: Exception) -> Response:
        kind = str(self.kwargs.get("kind", ""))
        if isinstance(exc, NameTaken):
            exc = Invalid({"/name": FIELD_TAKEN if "fields" in self.request.path else KIND_TAKEN})
        elif isinstance(exc, ChangedSince):
            told = f"Somebody changed {kind_rows()[kind]['name']} while you were editing it."
            exc = ChangedMeanwhile(told, _data(self.viewpoint, kind_rows()[kind]))
        elif isinstance(exc, NotHere):
            exc = NotFound("kind" if exc.args[0] == kind else "field")
        elif isinstance(exc, Needed):
            exc = Invalid({"/retired": "No site can do without this kind."})
        elif isinstance(exc, TooMany):
            exc = Conflict(f"A kind has at most {kinds.MOST_FIELDS} fields.")
        return super().handle_exception(exc)

    def _expected(self, request: Request) -> int:
        tag = expected_version(request).strip('"')
        return int(tag) if tag.isascii() and tag.isdecimal() and len(tag) < 10 else -1

    def _answer(self, row: dict[str, Any], status: int = 200) -> Response:
        data = _data(self.viewpoint.renewed(), row)
        return Response(data, status=status, headers={"ETag": etag(row["version"])})


class KindsView(_KindView):
    doors = {"get": May("kinds.define", "roles.define"), "post": May("kinds.define")}
    locks = {"post": (POLICY,)}

    @extend_schema(responses=KindShape(many=True), operation_id="kinds")
    def get(self, request: Request) -> Response:
        """All kinds of content but those of extensions, with their fields, retired ones too. One query."""
        counts, rows = _counts(self.viewpoint), kind_rows()
        order = [key for key in self.viewpoint.snapshot.catalogue.types if key in rows]
        return Response([_data(self.viewpoint, rows[key], counts) for key in order])

    @extend_schema(request=KindInput, responses={201: KindShape}, operation_id="make_kind", parameters=[ETAG])
    def post(self, request: Request) -> Response:
        """A new kind without fields: given as one like it is, by whoever defines roles, or to nobody yet."""
        given = KindInput(data=request.data, context={"catalogue": self.viewpoint.catalogue})
        given.is_valid(raise_exception=True)
        said = given.validated_data
        _fit(said["under"], said["tree"], self.viewpoint)
        like = self._like(said)
        built_of = said["components"]
        new = NewKind(
            said["name"],
            said["plural"],
            said["tree"],
            tuple(said["under"]),
            None if built_of is None else tuple(built_of),
        )
        row = kinds.make_kind(new, self.session.by)
        given_as = answers_like(row["key"], like, self.viewpoint.snapshot.policy) if like else []
        if given_as:
            apply_at_once(self.viewpoint.account or "", given_as, self.session.by, self.viewpoint.sight)
        return self._answer(row, 201)

    def _like(self, said: dict[str, Any]) -> str | None:
        """The kind that it is given like, if there is such a one in its tree. Raises Invalid, Refused."""
        like: str | None = said["like"]
        if like is not None:
            require(self.viewpoint, "roles.define")
            if like not in self.viewpoint.catalogue.types or self.viewpoint.catalogue.type(like).tree != said["tree"]:
                raise Invalid({"/like": "There is no such kind in its tree."})
        return like


class KindView(_KindView):
    doors = {"patch": May("kinds.define")}
    locks = {"patch": (POLICY,)}

    @extend_schema(request=KindChangeInput, responses=KindShape, operation_id="change_kind", parameters=TAGGED)
    def patch(self, request: Request, kind: str) -> Response:
        """Change its names, where it stands and what its pages are built of; retire it or bring it back."""
        given = KindChangeInput(data=request.data, context={"catalogue": self.viewpoint.catalogue})
        given.is_valid(raise_exception=True)
        said = dict(given.validated_data)
        every = self.viewpoint.catalogue.every_type
        if kind in every:
            _fit(said.get("under", ()), every[kind].tree, self.viewpoint)
        row = kinds.change_kind(kind, said, self.session.by, expected=self._expected(request))
        return self._answer(row)


class KindFieldsView(_KindView):
    doors = {"post": May("kinds.define"), "put": May("kinds.define")}
    locks = {"post": (POLICY,), "put": (POLICY,)}

    @extend_schema(request=FieldInput, responses={201: KindShape}, operation_id="add_field", parameters=TAGGED)
    def post(self, request: Request, kind: str) -> Response:
        """A new field; a rule of who sees and fills it is said at once by whoever may set field rules."""
        given = FieldInput(data=request.data)
        given.is_valid(raise_exception=True)
        said = dict(given.validated_data)
        rule = said.pop("rule", None)
        if rule is not None and rule["mode"] != "open":
            require(self.viewpoint, "limits.set")
            if unknown := set(rule["table"]) - self.viewpoint.snapshot.policy.roles.keys():
                raise Invalid({"/rule/table": f"There is no role “{min(unknown)}”."})
        if not fits_profile(said["kind"], kind):
            raise Invalid({"/kind": "A profile cannot hold this."})
        new = NewField(**said | {"choices": tuple(said["choices"])})
        closed = None
        if rule is not None and rule["mode"] != "open":
            closed = FieldRule(rule["mode"], {role: frozenset(marks) for role, marks in rule["table"].items()})
        row = kinds.add_field(kind, new, self.session.by, expected=self._expected(request), rule=closed)
        return self._answer(row, 201)

    @extend_schema(request=FieldOrderInput, responses=KindShape, operation_id="order_fields", parameters=TAGGED)
    def put(self, request: Request, kind: str) -> Response:
        """Put the fields in an order."""
        given = FieldOrderInput(data=request.data)
        given.is_valid(raise_exception=True)
        expected = self._expected(request)
        try:
            row = kinds.order_fields(kind, given.validated_data["order"], self.session.by, expected=expected)
        except ValueError:
            raise Invalid({"/order": "Name each field once."}) from None
        return self._answer(row)


class KindFieldView(_KindView):
    doors = {"patch": May("kinds.define"), "delete": May("kinds.define")}
    locks = {"patch": (POLICY,), "delete": (POLICY, NODES)}

    @extend_schema(request=FieldChangeInput, responses=KindShape, operation_id="change_field", parameters=TAGGED)
    def patch(self, request: Request, kind: str, field: str) -> Response:
        """Rename it, change its help or choices, whether it is required; retire it or bring it back."""
        given = FieldChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        said = dict(given.validated_data)
        row = kinds.change_field(kind, field, said, self.session.by, expected=self._expected(request))
        return self._answer(row)

    @extend_schema(responses=KindShape, operation_id="purge_field", parameters=TAGGED)
    def delete(self, request: Request, kind: str, field: str) -> Response:
        """Take a retired field away for good, with its values on all pages and in all versions."""
        row = kinds.drop_field(kind, field, self.session.by, expected=self._expected(request))
        purge_values(kind, field)
        return self._answer(row)


def _fit(under: Any, tree: str | None, viewpoint: Viewpoint) -> None:
    if any(viewpoint.catalogue.type(key).tree != tree for key in under):
        raise Invalid({"/under": "It stands under kinds of its own tree."})


def _counts(viewpoint: Viewpoint) -> Counter[str]:
    seen = viewpoint.in_sight.whole.tolist()
    return Counter(node.type for node, here in zip(viewpoint.nodes.tree.nodes, seen, strict=True) if here)


def _data(viewpoint: Viewpoint, row: dict[str, Any], counts: Counter[str] | None = None) -> dict[str, Any]:
    rules, asked = viewpoint.snapshot.policy.fields, viewpoint.in_force.demands.fields
    fields = [
        {
            **f,
            "mode": rules[row["key"], f["key"]].mode if (row["key"], f["key"]) in rules else "open",
            "asked": row["key"] == PROFILE and f["key"] in asked,
        }
        for f in row["fields"]
    ]
    pages = (counts or _counts(viewpoint))[row["key"]]
    return {**row, "fields": fields, "ships": row["key"] in SHIPPED, "pages": pages}
