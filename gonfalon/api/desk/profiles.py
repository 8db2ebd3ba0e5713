"""People on the desk: the profiles that one may see, and what may be changed of them (§5)."""

from collections.abc import Sequence
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.models import Account
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, Within, ask, decide
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.people import ProfileFieldShape, change_account, portrait_address, who_data
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound
from gonfalon.core import Question
from gonfalon.core.model.tree import profile
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock, locked

LONGEST = 400
"""Characters of what is looked for: no name is as long."""


class ProfileRowShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    portrait = serializers.CharField(allow_null=True)


class ProfileShape(ProfileRowShape):
    """Who somebody is, as far as whoever asks sees their profile."""

    profile = ProfileFieldShape(many=True)


class ProfileInput(Input):
    profile = serializers.DictField(help_text="Values by field; one left out stays.")


class ProfilesView(GuardedView):
    doors = {"get": Within("accounts.open")}

    @extend_schema(
        responses=ProfileRowShape(many=True),
        operation_id="profiles",
        parameters=[OpenApiParameter("words", str), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """Those active people by name whose profile one may see. One query, and one answer each."""
        words = request.query_params.get("words", "")
        if len(words) > LONGEST:
            raise Invalid({"/words": f"No name is longer than {LONGEST} characters."})
        rows = Account.objects.filter(state=Account.State.ACTIVE)
        for word in words.split():
            rows = rows.filter(name__icontains=word)
        there = rows.order_by("name", "id").only("id", "name", "portrait")
        return paged(request, [row for row in there if sees_profile(self.viewpoint, row.id)], _rows)


class ProfileView(GuardedView):
    doors = dict.fromkeys(("get", "patch"), Within("accounts.open"))
    locks = {"patch": (POLICY, RowLock("accounts.Account", "account"))}

    @extend_schema(responses=ProfileShape, operation_id="profile", parameters=[ETAG])
    def get(self, request: Request, account: str) -> Response:
        """One profile, as far as one sees it."""
        ask(self.viewpoint, "see", profile(account))
        return self._told(_active(account))

    @extend_schema(request=ProfileInput, responses=ProfileShape, operation_id="change_profile", parameters=TAGGED)
    def patch(self, request: Request, account: str) -> Response:
        """Save fields of a profile; each is asked of the rules."""
        ask(self.viewpoint, "see", profile(account))
        ask(self.viewpoint, "edit", profile(account))
        expected, row = expected_version(request), _active(account, locked(Account.objects))
        if expected != etag(row.version):
            theirs = _data(row, self.viewpoint)
            raise ChangedMeanwhile(f"The profile of {row.name} was changed while you were editing.", theirs)
        given = ProfileInput(data=request.data)
        given.is_valid(raise_exception=True)
        change_account(row, given.validated_data, self.viewpoint, self.session.by)
        return self._told(row)

    def _told(self, row: Account) -> Response:
        return Response(_data(row, self.viewpoint), headers={"ETag": etag(row.version)})


def _active(account: str, rows: Any = Account.objects) -> Account:
    row: Account | None = rows.filter(pk=account, state=Account.State.ACTIVE).first()
    if row is None:
        raise NotFound("account")
    return row


def sees_profile(viewpoint: Viewpoint, account: str) -> bool:
    return decide(viewpoint, Question(viewpoint.subject, "see", profile(account), viewpoint.at), trail=False).allow


def _rows(rows: Sequence[Account]) -> list[dict[str, Any]]:
    return [{"id": row.id, "name": row.name, "portrait": portrait_address(row)} for row in rows]


def _data(row: Account, viewpoint: Viewpoint) -> dict[str, Any]:
    return {**_rows([row])[0], "profile": who_data(row, viewpoint)["profile"]}
