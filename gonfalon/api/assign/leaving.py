"""Leaving: what somebody wrote, what only they could do, and disabling them with all of it handed on in one step."""

from typing import Any

import numpy as np
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.describe import capital
from gonfalon.access.reviews import hand_reviews, waiting_for
from gonfalon.accounts.models import Account
from gonfalon.accounts.sessions import open_sessions
from gonfalon.api.assign.account import AccountShape, account_data
from gonfalon.api.assign.inviting import account_known
from gonfalon.api.changes.impact import BreakingShape, foreseen
from gonfalon.api.guard import GuardedView, May, may, require
from gonfalon.api.problems import Invalid
from gonfalon.content.models import Node
from gonfalon.core import Question
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Subject
from gonfalon.inputs import Input
from gonfalon.verify.models import AccessRequest
from gonfalon.verify.requests import withdraw_all
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

MOST_ASKED = 300
"""So many of what somebody wrote are asked about: whether anybody else may edit them."""
MOST_NAMED = 6


class LeavingShape(serializers.Serializer):
    """What stays behind when somebody leaves, as far as whoever asks may know of it."""

    wrote = serializers.IntegerField(help_text="Pages and media they are the author of.")
    named = serializers.ListField(child=serializers.CharField(), help_text="The first few of them.")
    alone = serializers.ListField(child=serializers.CharField(), help_text="Pages that only they may edit.")
    duties = serializers.ListField(child=serializers.CharField(), help_text="What only they may do.")
    roles = serializers.IntegerField(help_text="Roles given to them directly.")
    hands_out = serializers.IntegerField(help_text="What they let others have, by a delegation of their own.")
    reviews = serializers.ListField(child=serializers.CharField(), help_text="Reviews that wait for them.")
    requests = serializers.IntegerField(help_text="What they asked for and nobody decided; it ends with the account.")
    sessions = serializers.IntegerField(help_text="Where they are signed in now.")


class DisableInput(Input):
    pages_to = serializers.CharField(
        required=False, allow_null=True, help_text="Who becomes author of what they wrote."
    )
    roles_to = serializers.CharField(
        required=False, allow_null=True, help_text="Who is given their roles, and hands out what they did."
    )
    reviews_to = serializers.CharField(required=False, allow_null=True, help_text="Who reviews in their place.")


class LeavingView(GuardedView):
    doors = {"get": May("accounts.disable")}

    @extend_schema(responses=LeavingShape, operation_id="leaving")
    def get(self, request: Request, account: str) -> Response:
        """What to think of before an account is disabled."""
        account_known(account, self.viewpoint)
        return Response(_left_behind(account, self.viewpoint))


class DisableView(GuardedView):
    doors = {"post": May("accounts.disable")}
    locks = {"post": (POLICY, NODES)}

    @extend_schema(request=DisableInput, responses=AccountShape, operation_id="disable_account")
    def post(self, request: Request, account: str) -> Response:
        """Disable an account at once, everywhere, and hand on what they wrote and what they held."""
        row = account_known(account, self.viewpoint)
        data = _handing_over(request, account, self.viewpoint)
        operations = _disabling(account, data, self.viewpoint)
        hand_reviews(account, data.get("reviews_to"), self.session.by)
        withdraw_all(account, self.viewpoint, self.session.by)
        apply_at_once(self.viewpoint.account or "", operations, self.session.by, self.viewpoint.sight)
        return Response(account_data(Account.objects.get(pk=row.pk), self.viewpoint.renewed()))


class DisableForeseenView(GuardedView):
    doors = {"post": May("accounts.disable")}
    reads = frozenset({"post"})

    @extend_schema(request=DisableInput, responses=BreakingShape, operation_id="disabling_foreseen")
    def post(self, request: Request, account: str) -> Response:
        """Who would gain and lose by it, whose pages are whose included, and what would break."""
        account_known(account, self.viewpoint)
        data = _handing_over(request, account, self.viewpoint)
        return Response(foreseen(self.viewpoint, _disabling(account, data, self.viewpoint)))


def _handing_over(request: Request, account: str, viewpoint: Viewpoint) -> dict[str, Any]:
    """To whom what is handed over. Raises Invalid, and Refused where that gives somebody more than one may."""
    given = DisableInput(data=request.data)
    given.is_valid(raise_exception=True)
    data, accounts = dict(given.validated_data), viewpoint.snapshot.policy.accounts
    for key, to in data.items():
        if to is not None:
            require(viewpoint, "roles.assign")  # each gives somebody more
            known = to in accounts and to in viewpoint.sight.people
            if to == account or not known or accounts[to].state == "disabled":
                raise Invalid({f"/{key}": "Choose somebody else who is not disabled."})
    return data


def _disabling(account: str, handed: dict[str, Any], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    operations: list[dict[str, Any]] = [{"kind": "set-state", "account": account, "state": "disabled"}]
    if (roles_to := handed.get("roles_to")) is not None:
        operations += _roles_for(roles_to, account, viewpoint)
    if (pages_to := handed.get("pages_to")) is not None and Node.objects.filter(author=account).exists():
        operations.append({"kind": "hand-over", "account": account, "to": {"kind": "account", "id": pages_to}})
    return operations


class EnableView(GuardedView):
    doors = {"post": May("accounts.disable")}
    locks = {"post": (POLICY,)}

    @extend_schema(request=None, responses=AccountShape, operation_id="enable_account")
    def post(self, request: Request, account: str) -> Response:
        """Enable an account again. Where it was signed in before, it stays signed out."""
        row = account_known(account, self.viewpoint)
        operations = [{"kind": "set-state", "account": account, "state": "active"}]
        apply_at_once(self.viewpoint.account or "", operations, self.session.by, self.viewpoint.sight)
        return Response(account_data(Account.objects.get(pk=row.pk), self.viewpoint.renewed()))


def _roles_for(to: str, account: str, viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """What gives somebody the roles of an account and lets them hand out what it did, where and for as long."""
    mine = Subject.account(account)
    receiver = {"kind": "account", "id": to}
    delegated = [
        {
            "kind": "put-delegation",
            "to": receiver,
            "roles": sorted(d.roles),
            "scope": write_scope(d.scope),
            "receivers": d.receivers,
            "ends": d.ends,
        }
        for d in viewpoint.snapshot.policy.delegations.values()
        if d.to == mine and (d.ends is None or d.ends > viewpoint.at)
    ]
    return delegated + [
        {
            "kind": "give-role",
            "role": a.role,
            "to": receiver,
            "scope": write_scope(a.scope),
            "starts": a.period.starts,
            "ends": a.period.ends,
        }
        for a in viewpoint.snapshot.policy.assignments.values()
        if a.to == mine and (a.period.ends is None or a.period.ends > viewpoint.at)
    ]


def _left_behind(account: str, viewpoint: Viewpoint) -> dict[str, Any]:
    nodes, sight = viewpoint.nodes, viewpoint.in_sight
    wrote = [int(i) for i in nodes.tree.by_author(account) if sight.whole[i]]
    ids = [nodes.tree.nodes[i].id for i in wrote]
    mine = Subject.account(account)
    return {
        "wrote": len(ids),
        "named": [nodes.titles[id] for id in ids[:MOST_NAMED]],
        "alone": [nodes.titles[id] for id in _alone_editing(account, ids[:MOST_ASKED], viewpoint)][:MOST_NAMED],
        "duties": [capital(viewpoint.catalogue.phrase(duty)) for duty in _alone_doing(account, viewpoint)],
        "roles": sum(a.to == mine for a in viewpoint.snapshot.policy.assignments.values()),
        "hands_out": sum(d.to == mine for d in viewpoint.snapshot.policy.delegations.values()),
        "reviews": [review.name for review in waiting_for(account)] if may(viewpoint, "roles.assign") else [],
        "requests": AccessRequest.objects.filter(account_id=account, state=AccessRequest.State.OPEN).count(),
        "sessions": open_sessions(account).count(),
    }


def _others(account: str, viewpoint: Viewpoint) -> list[str]:
    """All other active accounts but keyholders, who may do everything anyway."""
    accounts = viewpoint.snapshot.policy.accounts.values()
    return [a.id for a in accounts if a.id != account and a.state == "active" and not a.keyholder]


def _alone_editing(account: str, ids: list[str], viewpoint: Viewpoint) -> list[str]:
    """Those nodes that an account may edit, and nobody else but keyholders."""
    if not ids:
        return []
    mine = viewpoint.survey.allowed([account], ids, ["edit"], viewpoint.at)[0, :, 0]
    others = viewpoint.survey.allowed(_others(account, viewpoint), ids, ["edit"], viewpoint.at)[:, :, 0]
    alone = mine & ~np.any(others, axis=0)
    return [ids[i] for i in alone.nonzero()[0].tolist()]


def _alone_doing(account: str, viewpoint: Viewpoint) -> list[str]:
    """The duties that an account passes, and nobody else but keyholders."""
    engine, at = viewpoint.snapshot.engine, viewpoint.at
    others = _others(account, viewpoint)

    def passes(who: str, duty: str) -> bool:
        return engine.decide(Question(who, duty, at=at)).allow

    plain = viewpoint.snapshot.policy.plain
    return [duty for duty in plain if passes(account, duty) and not any(passes(other, duty) for other in others)]
