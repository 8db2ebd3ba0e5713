"""Why? The trail of one answer, in words."""

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.vocabulary import kind_of
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target, profile
from gonfalon.core.model.vocabulary import ACTIONS, PART_ACTIONS, STAND_IN, Kind
from gonfalon.verify.why import TrailSentences

NEW = ("create", "fill-field")
"""What is asked of a page about to be made: the node named is where it would be."""


class SentenceShape(serializers.Serializer):
    role = RoleTagShape(allow_null=True)
    text = serializers.CharField()
    good = serializers.BooleanField()


class WhyShape(serializers.Serializer):
    allow = serializers.BooleanField()
    reason = serializers.CharField()
    title = serializers.CharField()
    steps = SentenceShape(many=True)


class WhyView(GuardedView):
    doors = {"get": May(STAND_IN, "roles.define", "limits.set", as_actor=True)}

    @extend_schema(
        responses=WhyShape,
        operation_id="why",
        parameters=[
            OpenApiParameter(name, str)
            for name in (
                *("action", "account", "role", "node", "profile", "type"),
                *("field", "component", "facet", "component_id"),
            )
        ],
    )
    def get(self, request: Request) -> Response:
        """The answer for whom one stands in for, or for the account or role named; about a node that one may see
        oneself, or about the profile of an account that one knows of."""
        viewpoint = self.viewpoint
        asked = request.query_params
        who = self._whom(asked)
        action = asked.get("action", "")
        target = self._target(asked)
        self._readable(action, target is not None, asked)
        if target is not None and action in NEW:
            target = target.child(asked["type"])
        part = {key: asked[key] for key in ("field", "component", "facet", "component_id") if key in asked}
        question = Question(who, action, target, viewpoint.at, **part)
        answer = decide(viewpoint, question)
        sight, catalogue = self.session.actors_viewpoint.sight, viewpoint.catalogue
        words = TrailSentences(viewpoint.snapshot.policy, who, target, answer, sight, catalogue)
        steps = words.steps()
        tags = role_tags(step.role for step in steps if step.role)
        return Response(
            {
                "allow": answer.allow,
                "reason": str(answer.reason),
                "title": _title(words.short, answer.allow, action, asked, catalogue),
                "steps": [{"role": tags.get(s.role or ""), "text": s.text, "good": s.good} for s in steps],
            }
        )

    def _whom(self, asked: Any) -> Who:
        viewpoint = self.viewpoint
        if self.session.standing_in:
            return viewpoint.who
        policy = viewpoint.snapshot.policy
        if role := asked.get("role"):
            if role not in policy.roles:
                raise Invalid({"/role": "There is no such role."})
            return HypotheticalSubject((role,))
        account = asked.get("account") or viewpoint.who
        if account not in policy.accounts or account not in viewpoint.sight.people:
            raise Invalid({"/account": "There is no such account."})
        return account

    def _target(self, asked: Any) -> Target | None:
        viewpoint = self.viewpoint
        if asked.get("profile"):
            if asked["profile"] not in self.session.actors_viewpoint.sight.people:
                raise NotFound
            return profile(asked["profile"])
        if not asked.get("node"):
            return None
        known = asked["node"] in self.session.actors_viewpoint.sight.nodes
        target = viewpoint.nodes.tree.target(asked["node"]) if known else None
        actor = self.session.actors_viewpoint.who
        if target is None or not decide(viewpoint, Question(actor, "see", target, viewpoint.at), trail=False).allow:
            raise NotFound
        return target

    def _readable(self, action: str, on_node: bool, asked: Any) -> None:
        kind = kind_of(action, self.viewpoint.snapshot.policy)
        if action in ACTIONS or action in PART_ACTIONS or kind is Kind.PLACED:
            if not on_node:
                raise Invalid({"/node": "Say which page, or whose profile."})
        elif kind not in (Kind.OPENING, Kind.SITEWIDE):
            raise Invalid({"/action": "There is no such action."})
        if action in NEW and asked.get("type") not in self.viewpoint.snapshot.policy.node_types:
            raise Invalid({"/type": "Say what kind of page would be made."})


def _title(who: str, allow: bool, action: str, asked: Any, catalogue: Catalogue) -> str:
    verb = catalogue.action(action)
    if "field" in asked:
        names = {f.key: f.name for t in catalogue.every_type.values() for f in t.fields}
        verb = verb.replace("this field", names.get(asked["field"], asked["field"]).lower())
    elif action == "change-facet":
        component = catalogue.component_name(asked.get("component", "component")).lower()
        verb = f"change the {asked.get('facet', '')} of this {component}"
    elif action == "create":
        verb = f"make {catalogue.type(asked['type']).plural} here"
    verb = f"{verb} page" if verb.endswith("this") else verb
    return f"Why {'can' if allow else 'can’t'} {who} {verb}?"
