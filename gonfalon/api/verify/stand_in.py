"""Standing in for someone, stepping out, and what the X-ray shows meanwhile."""

from datetime import timedelta
from typing import Any

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import type_named
from gonfalon.access.words import REASON_WORDS
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Invalid, NotFound, Problem, Refused
from gonfalon.content.models import Node
from gonfalon.content.nodes import ancestors, as_target, in_sight
from gonfalon.core import Question
from gonfalon.core.bulk.survey import CODE, REASONS
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS, STAND_IN, Reason
from gonfalon.ledger.models import record
from gonfalon.verify.excess import beyond_words
from gonfalon.verify.presence import Presence, StandingIn

LASTS = timedelta(minutes=30)
NOBODY = "There is no such account, or you may not stand in for it."
AS_ACTOR = May(STAND_IN, as_actor=True, while_looking=True)


class StandInInput(serializers.Serializer):
    account = serializers.CharField()
    came_from = serializers.RegexField(
        r"^/(?!/)[^\s\\]*$",
        max_length=500,
        default="/verify",
        error_messages={"invalid": "This is no place here."},
    )
    staged = serializers.BooleanField(default=False)


class StandInView(GuardedView):
    doors = {"post": May(STAND_IN, as_actor=True), "delete": AS_ACTOR}

    @extend_schema(request=StandInInput, responses={204: OpenApiResponse()}, operation_id="stand_in")
    def post(self, request: Request) -> Response:
        """Begin to look at the desk as someone else has it, or with `staged` as they would with what is staged.

        Nobody's password is needed. Under changes that are not applied somebody might see what the actor may not
        (§7), so that only keyholders, who may see everything, do that.
        """
        given = StandInInput(data=request.data)
        given.is_valid(raise_exception=True)
        presence, actor = self.presence, self.presence.actor
        staged = given.validated_data["staged"]
        if staged and not (actor and actor.keyholder):
            raise Refused("beyond", "Only keyholders may stand in under changes that are not applied yet.")
        subject = Account.objects.filter(pk=given.validated_data["account"]).first()
        if subject is None or actor is None:
            raise Invalid({"/account": NOBODY})
        answer = presence.engine.may_stand_in(actor.id, subject.id, presence.at)
        if not answer.allow and subject.id not in presence.sight_of_actor.people:
            raise Invalid({"/account": NOBODY})
        if not answer.allow:
            why = REASON_WORDS[answer.reason]
            if answer.reason is Reason.BEYOND and actor.id != subject.id and not subject.keyholder:
                why = beyond_words(presence.engine.excess(actor.id, subject.id, presence.at), presence)
            raise Refused(str(answer.reason), f"You may not stand in for {subject.name}. {why}")
        presence.stand_in(StandingIn(subject.id, presence.at + LASTS, given.validated_data["came_from"], staged))
        record(
            presence.by,
            "stand-in.begun",
            f"Stood in for {subject.name}, to look only{', with what was staged' if staged else ''}",
            about=("account", subject.id),
        )
        return Response(status=204)

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="step_out")
    def delete(self, request: Request) -> Response:
        if self.presence.standing_in:
            record(
                self.presence.by,
                "stand-in.ended",
                "Stepped out",
                about=("account", self.presence.standing_in.account),
            )
        self.presence.stand_in(None)
        return Response(status=204)


class GhostRowShape(serializers.Serializer):
    """A node the other person does not see, or sees but may not edit, and why."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    type = serializers.CharField()
    seen = serializers.BooleanField()
    reason = serializers.CharField()


class XrayTreeView(GuardedView):
    doors = {"get": AS_ACTOR}

    @extend_schema(
        responses=GhostRowShape(many=True),
        operation_id="xray_tree",
        parameters=[OpenApiParameter("tree", str, enum=["content", "media"]), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """What is closed to whom one stands in for, as far as one may see it oneself."""
        presence = _standing(self.presence)
        wanted, nodes = request.query_params.get("tree") or "content", presence.nodes
        actor, survey = presence.actor.id if presence.actor else None, presence.survey
        theirs = survey.reasons(presence.who, ["see", "edit"], presence.at)
        mine = in_sight(presence.engine, actor, presence.at).whole
        allowed, tree = CODE[Reason.ALLOWED], nodes.tree
        closed = (theirs != allowed).any(axis=1) & mine & tree.having("tree", frozenset({wanted}))
        known = presence.in_sight.named | {tree.nodes[i].id for i in closed.nonzero()[0]}
        ghosts = []
        for i in closed.nonzero()[0]:
            node, seen = tree.nodes[i], theirs[i, 0] == allowed
            ghosts.append(
                {
                    "id": node.id,
                    "parent": node.parent if node.parent in known else None,
                    "title": nodes.titles[node.id],
                    "type": node.type,
                    "seen": bool(seen),
                    "reason": str(REASONS[theirs[i, 1 if seen else 0]]),
                }
            )
        return paged(request, ghosts)


class GhostShape(serializers.Serializer):
    kind = serializers.ChoiceField(choices=["action", "field", "component", "facet"])
    key = serializers.CharField()
    name = serializers.CharField()
    reason = serializers.CharField()


class XrayPageShape(serializers.Serializer):
    title = serializers.CharField()
    ghosts = GhostShape(many=True)


class XrayPageView(GuardedView):
    doors = {"get": AS_ACTOR}

    @extend_schema(responses=XrayPageShape, operation_id="xray_page")
    def get(self, request: Request, node: str) -> Response:
        """What is closed on one page: actions, fields, components, facets. Names and reasons, no values."""
        presence = _standing(self.presence)
        row = Node.objects.filter(pk=node).first()
        target = as_target(row, ancestors(row)) if row else None
        actor = presence.actor.id if presence.actor else None
        if row is None or target is None or node not in presence.sight_of_actor.nodes:
            raise NotFound
        if not _may(presence, actor, "see", target):
            raise NotFound
        return Response({"title": row.title, "ghosts": list(_ghosts(presence, row, target))})


def _ghosts(presence: Presence, row: Node, target: Target) -> Any:
    def closed(action: str, **part: Any) -> str | None:
        answer = decide(presence, Question(presence.who, action, target, presence.at, **part), trail=False)
        return None if answer.allow else str(answer.reason)

    for action in ACTIONS:
        if action != "create" and (reason := closed(action)):
            yield {"kind": "action", "key": action, "name": action, "reason": reason}
    for field in type_named(row.type).fields:
        if reason := closed("see-field", field=field.key):
            yield {"kind": "field", "key": field.key, "name": field.name, "reason": reason}
    for component in row.components:
        for facet in presence.snapshot.policy.components.get(component["kind"], ()):
            part = {"component": component["kind"], "facet": facet, "component_id": component["id"]}
            if reason := closed("change-facet", **part):
                yield {"kind": "facet", "key": f"{component['id']}.{facet}", "name": facet, "reason": reason}
    for kind, component in presence.snapshot.catalogue.components.items():
        if reason := closed("insert-component", component=kind):
            yield {"kind": "component", "key": kind, "name": component.name, "reason": reason}


def _may(presence: Presence, who: str | None, action: str, target: Target) -> bool:
    return decide(presence, Question(who, action, target, presence.at), trail=False).allow


def _standing(presence: Presence) -> Presence:
    if presence.standing_in is None:
        raise Problem(409, "not-standing-in", "Nobody is stood in for", "Stand in for someone first.")
    return presence
