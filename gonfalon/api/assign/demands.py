"""What people must have when they come: of whom a second factor is asked, and what must be filled in."""

from typing import Any
from zlib import crc32

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.demands import missing, risky_duties, set_demands
from gonfalon.access.snapshot import Demands
from gonfalon.accounts.models import Account
from gonfalon.accounts.tickets import void
from gonfalon.api.assign.inviting import account_known
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, may, prove_again
from gonfalon.api.people import may_answer_for
from gonfalon.api.problems import ChangedMeanwhile, Invalid
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.mail.outbox import post
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock

NAMED = 100
"""So many of those who lack something are named."""


class DemandFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    asked = serializers.BooleanField()


class LackingShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    missing = serializers.ListField(child=serializers.CharField())


class DemandsShape(serializers.Serializer):
    roles = serializers.ListField(child=serializers.CharField(), help_text="Whose holders need a second factor.")
    risky = serializers.BooleanField(help_text="Whether holders of risky duties need one.")
    duties = serializers.ListField(child=serializers.CharField(), help_text="The risky duties, in words.")
    fields_asked = DemandFieldShape(many=True)
    lacking = LackingShape(many=True, help_text="Active accounts that will be asked at their next visit.")
    lacking_in_all = serializers.IntegerField(allow_null=True)


class DemandsInput(Input):
    roles = serializers.ListField(child=serializers.CharField(max_length=100), max_length=500)
    risky = serializers.BooleanField()
    fields_asked = serializers.ListField(child=serializers.CharField(max_length=100), max_length=100)


class DemandsView(GuardedView):
    doors = {"get": May("roles.define"), "put": May("roles.define")}
    locks = {"put": (POLICY,)}

    @extend_schema(responses=DemandsShape, operation_id="demands", parameters=[ETAG])
    def get(self, request: Request) -> Response:
        return Response(_data(self.viewpoint), headers={"ETag": etag(_tag(self.viewpoint))})

    @extend_schema(request=DemandsInput, responses=DemandsShape, operation_id="set_demands", parameters=TAGGED)
    def put(self, request: Request) -> Response:
        """Ask people for these, from their next visit on."""
        expected = expected_version(request)
        self.viewpoint.renewed()
        if expected != etag(_tag(self.viewpoint)):
            raise ChangedMeanwhile("Somebody else changed this meanwhile.", _data(self.viewpoint))
        given = DemandsInput(data=request.data)
        given.is_valid(raise_exception=True)
        data, snapshot = given.validated_data, self.viewpoint.in_force
        for i, role in enumerate(data["roles"]):
            if role not in snapshot.policy.roles:
                raise Invalid({f"/roles/{i}": "There is no such role."})
        known = {field.key: field for field in snapshot.catalogue.types[PROFILE].fields}
        for i, field in enumerate(data["fields_asked"]):
            if field not in known:
                raise Invalid({f"/fields_asked/{i}": "A profile has no such field."})
            if not known[field].fits_profile:
                raise Invalid({f"/fields_asked/{i}": f"Nobody could fill in “{known[field].name}”."})
        asked = Demands(frozenset(data["roles"]), data["risky"], frozenset(data["fields_asked"]))
        set_demands(asked, self.session.by)
        viewpoint = self.viewpoint.renewed()
        return Response(_data(viewpoint), headers={"ETag": etag(_tag(viewpoint))})


class FactorsOfView(GuardedView):
    doors = {"delete": May("accounts.invite")}
    locks = {"delete": (POLICY.shared, RowLock("accounts.Account", "account"))}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="remove_factors_of")
    def delete(self, request: Request, account: str) -> Response:
        """Take the second factors of somebody away who has lost them; they are told by mail."""
        row = account_known(account, self.viewpoint)
        may_answer_for(row, self.viewpoint)
        prove_again(self.session)
        removed, _ = row.factors.all().delete()
        row.recovery_codes.all().delete()
        void(row.id)
        if removed:
            post(row.email, "Your second factor was taken away",
                 f"Hello {row.name},\n\nYou now sign in with your password alone. "
                 "If you did not ask for that, tell whoever runs the site.\n")  # fmt: skip
            record(self.session.by, "account.factors-removed", about=("account", row.id), name=row.name)
        return Response(status=204)


def _data(viewpoint: Viewpoint) -> dict[str, Any]:
    snapshot, demands = viewpoint.in_force, viewpoint.in_force.demands
    words = snapshot.catalogue
    lacking = list(_lacking(viewpoint)) if may(viewpoint, "roster.see") else None
    return {
        "roles": sorted(demands.roles),
        "risky": demands.risky,
        "duties": [words.duties[duty].name for duty in risky_duties(snapshot)],
        "fields_asked": [
            {"key": field.key, "name": field.name, "asked": field.key in demands.fields}
            for field in words.types[PROFILE].fields
            if field.fits_profile
        ],
        "lacking": (lacking or [])[:NAMED],
        "lacking_in_all": None if lacking is None else len(lacking),
    }


def _lacking(viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Active accounts that lack something. Two queries."""
    rows = Account.objects.filter(state=Account.State.ACTIVE).prefetch_related("factors")
    found = ((row, missing(viewpoint.in_force, row, viewpoint.at)) for row in rows)
    return [{"id": row.id, "name": row.name, "missing": sorted(lacks)} for row, lacks in found if lacks]


def _tag(viewpoint: Viewpoint) -> int:
    return crc32(repr(viewpoint.in_force.demands.data()).encode())
