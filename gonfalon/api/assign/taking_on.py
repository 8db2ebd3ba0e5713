"""Taking people on in one step, and what they would be able to do, told before it counts."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.risks import risks_of
from gonfalon.access.taking_on import NEWCOMER, Giving, Newcomer, Taken, TakenAddress, as_newcomer, take_on
from gonfalon.api.changes.impact import ProposedShape, Telling, breaking
from gonfalon.api.guard import GuardedView, May, require
from gonfalon.api.names import AddressField, NameField
from gonfalon.api.people import LANGUAGES
from gonfalon.api.problems import Invalid
from gonfalon.api.shapes import RiskShape
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.model.policy import Policy
from gonfalon.inputs import Input
from gonfalon.verify.preview import Preview
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_PEOPLE = 30
MOST_GIVEN = 30
"""So many groups, and so many roles, at once; a table brings in more people."""


class NewcomerInput(Input):
    name = NameField(
        max_length=120,
        error_messages={"blank": "An account needs a name.", "required": "An account needs a name."},
    )
    email = AddressField(
        error_messages={"blank": "An account needs an address.", "required": "An account needs an address."}
    )


class HeldInput(Input):
    """A role as it is given, where, and from when until when. `to` is nobody yet."""

    role = serializers.CharField()
    scope = serializers.DictField(child=serializers.ListField(child=serializers.CharField()), required=False)
    starts = serializers.DateTimeField(allow_null=True, required=False)
    ends = serializers.DateTimeField(allow_null=True, required=False)

    def to_internal_value(self, data: Any) -> Any:
        super().to_internal_value(data)  # as it is sent: an operation reads it
        return dict(data)


class GivingInput(Input):
    groups = serializers.ListField(child=serializers.CharField(), max_length=MOST_GIVEN, default=list)
    roles = HeldInput(many=True, max_length=MOST_GIVEN, default=list)

    @property
    def giving(self) -> Giving:
        return Giving(tuple(dict.fromkeys(self.validated_data["groups"])), self.validated_data["roles"])


class TakeOnInput(GivingInput):
    people = NewcomerInput(many=True, allow_empty=False, max_length=MOST_PEOPLE)
    language = serializers.ChoiceField(choices=LANGUAGES, default="en")
    how = serializers.ChoiceField(choices=["invite", "password"], default="invite")
    message = serializers.CharField(max_length=2000, allow_blank=True, default="")

    def validate_people(self, people: list[dict[str, str]]) -> list[dict[str, str]]:
        seen: set[str] = set()
        for place, one in enumerate(people):
            if (email := one["email"].lower()) in seen:
                raise serializers.ValidationError({place: {"email": "This address is written above already."}})
            seen.add(email)
        return people


class ForeseenShape(ProposedShape):
    """What somebody who comes would be able to do, and at what risk."""

    risks = RiskShape(many=True)


class TakenShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    password = serializers.CharField(allow_null=True, help_text="Shown this once, and kept nowhere.")


class TakenOnShape(serializers.Serializer):
    """Those who were taken on, and the change set that takes all of it back."""

    people = TakenShape(many=True)
    change_set = serializers.CharField()


def taken_on(request: Request, view: GuardedView) -> dict[str, Any]:
    """Take on whom a request names. Raises Invalid, Refused."""
    given = TakeOnInput(data=request.data)
    given.is_valid(raise_exception=True)
    data, viewpoint = given.validated_data, view.viewpoint
    _readable(given.giving, viewpoint)
    newcomers = [Newcomer(one["name"], one["email"]) for one in data["people"]]
    try:
        taken = take_on(
            newcomers,
            given.giving,
            view.session.by,
            viewpoint.account or "",
            viewpoint.sight,
            language=data["language"],
            with_passwords=data["how"] == "password",
            message=data["message"],
        )
    except TakenAddress as taken_already:
        raise Invalid({f"/people/{taken_already.place}/email": "Another account has this address."}) from None
    return _told(taken)


class TakeOnForeseenView(GuardedView):
    doors = {"post": May("accounts.invite")}
    reads = frozenset({"post"})

    @extend_schema(request=GivingInput, responses=ForeseenShape, operation_id="take_on_foreseen")
    def post(self, request: Request) -> Response:
        """What each would be able to do who is taken on so: told before it counts. Nothing is written."""
        given = GivingInput(data=request.data)
        given.is_valid(raise_exception=True)
        before, after = _readable(given.giving, self.viewpoint)
        engine, tree = self.viewpoint.engine, self.viewpoint.nodes.tree
        without = engine.changed(before, tree)
        preview = Preview(without, without.changed(after, tree), self.viewpoint.at, {NEWCOMER})
        says, catalogue = RoleResolver(before), self.viewpoint.snapshot.catalogue
        roles = dict.fromkeys(role["role"] for role in given.giving.roles)
        return Response(
            {
                **breaking(preview, self.viewpoint),
                **Telling(self.viewpoint).turning(preview.changed),
                "risks": [risk._asdict() for role in roles for risk in risks_of(role, says, catalogue)],
            }
        )


def _readable(giving: Giving, viewpoint: Viewpoint) -> tuple[Policy, Policy]:
    """The policy with a newcomer, before and after, for whoever may give this. Raises Refused, ValidationError."""
    if giving.groups or giving.roles:
        require(viewpoint, "roles.assign")
    return as_newcomer(giving, viewpoint.snapshot.policy, viewpoint.sight)


def _told(taken: Taken) -> dict[str, Any]:
    people = [{"id": a.id, "name": a.name, "password": password} for a, password in taken.accounts]
    return {"people": people, "change_set": taken.entry.about_id}
