"""Walk lists: how much of each role has been proved, what there is to try, and who was asked to try it."""

from typing import Any

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.models import Role
from gonfalon.access.walks import walkers, walks_of
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.api.shapes import role_tags
from gonfalon.api.verify.walk_list_data import (
    WalkCountShape,
    WalkListShape,
    count_data,
    entries_data,
    news_data,
    walkers_data,
)
from gonfalon.api.verify.walking import KEEPING, TOLD, keeps, list_of, outside
from gonfalon.inputs import Input
from gonfalon.verify.models import WalkList
from gonfalon.verify.walks.giving import give, take_back
from gonfalon.verify.walks.lists import drop, make
from gonfalon.verify.walks.ticks import standing
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY, RowLock

THE_LIST = RowLock("verify.WalkList", "walk_list")
NONE_GIVEN = "There is no such active account."


class WalkListInput(Input):
    role = serializers.CharField(max_length=120)


class GiveWalkInput(Input):
    account = serializers.CharField(max_length=120)
    word = serializers.CharField(max_length=500, required=False, allow_blank=True, default="")


class WalkListsView(GuardedView):
    doors = {"get": TOLD, "post": KEEPING}
    locks = {"post": (POLICY.shared, NODES.shared)}
    never_rehearsed = frozenset({"get"})

    @extend_schema(responses=WalkCountShape(many=True), operation_id="walk_lists")
    def get(self, request: Request) -> Response:
        """Every role that is given to people, to whoever keeps expectations; else the lists that one was given.

        Five queries.
        """
        here = outside(self.session)
        given = walks_of(here.account or "")
        every = [role for role in _roles() if role in here.snapshot.policy.roles and (keeps(here) or role in given)]
        rows = {row.role: row for row in WalkList.objects.filter(role__in=every)}
        ticks = standing(list(rows.values()), here) if rows else {}
        tags, rehearsed = role_tags(every), _rehearsed(self.session)
        told = [role for role in every if keeps(here) or role in rows]
        return Response(
            [
                count_data(
                    tags[role],
                    rows.get(role),
                    ticks[rows[role].id] if role in rows else {},
                    rehearsed=role in rehearsed,
                    given=given.get(role),
                )
                for role in told
            ]
        )

    @extend_schema(
        request=WalkListInput, responses={200: WalkListShape, 201: WalkListShape}, operation_id="make_walk_list"
    )
    def post(self, request: Request) -> Response:
        """Make the list of a role from its board as it is now, in place of the one there was."""
        asked = WalkListInput(data=request.data)
        asked.is_valid(raise_exception=True)
        role, here = asked.validated_data["role"], self.viewpoint
        names = _roles()
        if role not in names or role not in here.snapshot.policy.roles:
            raise Invalid({"/role": "There is no such role that people are given."})
        before = WalkList.objects.filter(role=role).exists()
        row = make(role, here, self.session.by, names[role])
        return Response(_list_data(row, self.session, here), status=200 if before else 201)


class WalkListView(GuardedView):
    doors = {"get": TOLD, "delete": KEEPING}
    locks = {"delete": (POLICY.shared, THE_LIST)}
    never_rehearsed = frozenset({"get"})

    @extend_schema(
        responses=WalkListShape,
        operation_id="walk_list",
        parameters=[OpenApiParameter("node", str, description="The page one is on: what can be tried there is told.")],
    )
    def get(self, request: Request, walk_list: str) -> Response:
        """What there is to try, with what came of it. Twelve queries."""
        here = outside(self.session)
        row = list_of(here, walk_list)
        return Response(_list_data(row, self.session, here, request.query_params.get("node")))

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_walk_list")
    def delete(self, request: Request, walk_list: str) -> Response:
        """Take it away with all that was ticked in it, also from those it was given to."""
        row = list_of(self.viewpoint, walk_list)
        drop(row, self.session.by, _roles()[row.role])
        return Response(status=204)


class GivenWalksView(GuardedView):
    doors = {"post": KEEPING}
    locks = {"post": (POLICY.shared, THE_LIST)}

    @extend_schema(request=GiveWalkInput, responses={201: WalkListShape}, operation_id="give_walk_list")
    def post(self, request: Request, walk_list: str) -> Response:
        """Ask somebody to try it: they are told by mail, and may rehearse as themselves from now on."""
        asked = GiveWalkInput(data=request.data)
        asked.is_valid(raise_exception=True)
        row, here = list_of(self.viewpoint, walk_list), self.viewpoint
        account = Account.objects.filter(pk=asked.validated_data["account"], state=Account.State.ACTIVE).first()
        if account is None or account.id not in here.sight.people:
            raise Invalid({"/account": NONE_GIVEN})
        give(row, account, asked.validated_data["word"].strip(), self.session.by, _roles()[row.role])
        return Response(_list_data(row, self.session, here), status=201)


class GivenWalkView(GuardedView):
    doors = {"delete": KEEPING}
    locks = {"delete": (POLICY.shared, THE_LIST)}

    @extend_schema(responses={200: WalkListShape}, operation_id="take_walk_list_back")
    def delete(self, request: Request, walk_list: str, account: str) -> Response:
        """Ask them no more. What they ticked stays."""
        row, here = list_of(self.viewpoint, walk_list), self.viewpoint
        if not take_back(row, account, self.session.by, _roles()[row.role]):
            raise NotFound("walk list of theirs")
        return Response(_list_data(row, self.session, here))


def _roles() -> dict[str, str]:
    """Names of the roles that people are given, in their order. One query."""
    return dict(Role.objects.filter(baseline="").order_by("position", "key").values_list("key", "name"))


def _rehearsed(session: Session) -> frozenset[str]:
    """The roles of whom one rehearses as, under what is in force."""
    under_way = session.standing_in
    if under_way is None or not under_way.rehearsal:
        return frozenset()
    grants = session.in_force.engine.grants.of(under_way.who, session.at)
    return frozenset(source.role for source in grants.sources if source.role)


def _list_data(row: WalkList, session: Session, here: Viewpoint, node: str | None = None) -> dict[str, Any]:
    ticks = standing([row], here)[row.id]
    under_way = session.standing_in
    account = under_way.who if under_way is not None and isinstance(under_way.who, str) else None
    tag = role_tags([row.role])[row.role]
    given, keeping = walks_of(here.account or "").get(row.role), keeps(here)
    return {
        **count_data(tag, row, ticks, rehearsed=row.role in _rehearsed(session), given=given),
        "made_at": row.made_at,
        "entries": entries_data(row, ticks, here, account, node),
        "news": news_data(row, here) if keeping else None,
        "walkers": walkers_data(walkers([row.role]), here) if keeping else [],
    }
