"""Why? The trail of one answer, in words."""

from collections.abc import Mapping
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.vocabulary import kind_of
from gonfalon.api.changes.change_set import has_duties
from gonfalon.api.changes.operation_shapes import OperationsField
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.document.writer import write_who
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target, profile
from gonfalon.core.model.vocabulary import ACTIONS, PART_ACTIONS, PROFILE, STAND_IN, Kind
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.writing import write_asked
from gonfalon.inputs import Input
from gonfalon.verify.lexicon import told as told_names
from gonfalon.verify.turning import Turn, ending, turns
from gonfalon.verify.why import TrailSentences
from gonfalon.viewpoint.viewpoint import Viewpoint

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
    question = serializers.CharField(help_text="The same as a question.")
    asked = serializers.DictField(help_text="The same as access-rules §8 write it, to be expected.")
    steps = SentenceShape(many=True)


ASKING = May(STAND_IN, "roles.define", "limits.set", as_actor=True, while_looking=True)
PARTS = ("field", "component", "facet", "component_id")
ASKED = ("action", "account", "role", "node", "profile", "type", *PARTS)


class WhyInput(Input):
    """A question: of an account or a role, about a page, a profile, a part of a page, or the whole site."""

    action = serializers.CharField(max_length=120)
    account = serializers.CharField(required=False, max_length=120)
    role = serializers.CharField(required=False, max_length=120)
    node = serializers.CharField(required=False, max_length=120)
    profile = serializers.CharField(required=False, max_length=120)
    type = serializers.CharField(required=False, max_length=120)
    field = serializers.CharField(required=False, max_length=120)
    component = serializers.CharField(required=False, max_length=120)
    facet = serializers.CharField(required=False, max_length=120)
    component_id = serializers.CharField(required=False, max_length=120)


class WayToYesShape(serializers.Serializer):
    """One change that turns an answer: as it is staged, and in a sentence."""

    operations = OperationsField()
    sentence = serializers.CharField()
    role = RoleTagShape(allow_null=True, help_text="The role that it is about, if it is about one.")
    timed = serializers.BooleanField(help_text="Whether it can be given for a time.")
    allowed = serializers.BooleanField(help_text="Whether one has the duty to do it.")


class WaysToYesShape(serializers.Serializer):
    """The smallest changes that turn an answer, those that reach least for others first."""

    allow = serializers.BooleanField()
    reason = serializers.CharField()
    changes = WayToYesShape(many=True)


class Asking(GuardedView):
    """Reads a question of whom one stands in for, or of the account or role named; about a node that one may see
    oneself, or about the profile of an account that one knows of."""

    def question(self, asked: Any) -> Question:
        """What is asked. Raises NotFound, and Invalid naming the field."""
        action, target = asked.get("action", ""), self._target(asked)
        self._readable(action, target is not None, asked)
        if target is not None and action in NEW:
            target = target.child(asked["type"])
        part = {key: asked[key] for key in PARTS if key in asked}
        return Question(self._whom(asked), action, target, self.viewpoint.at, **part)

    def _whom(self, asked: Any) -> Who:
        viewpoint = self.viewpoint
        if self.session.standing_in:
            return viewpoint.subject
        policy = viewpoint.snapshot.policy
        if role := asked.get("role"):
            if role not in policy.roles:
                raise Invalid({"/role": "There is no such role."})
            return HypotheticalSubject((role,))
        account = asked.get("account") or viewpoint.account
        if account not in policy.accounts or account not in viewpoint.sight.people:
            raise Invalid({"/account": "There is no such account."})
        return account

    def _target(self, asked: Any) -> Target | None:
        viewpoint = self.viewpoint
        if asked.get("profile"):
            if not self.knows(asked["profile"]):
                raise NotFound
            return profile(asked["profile"])
        if not asked.get("node"):
            return None
        tree = viewpoint.nodes.tree
        target = tree.target(asked["node"]) if asked["node"] in tree else None
        if target is None or not self.sees(target):
            raise NotFound
        return target

    def knows(self, account: str) -> bool:
        """Whether whoever asks may ask about an account: as who signed in."""
        return account in self.session.actors_viewpoint.sight.people

    def sees(self, target: Target) -> bool:
        """Whether whoever asks may ask about a node: as who signed in."""
        return self.session.actor_sees(target)

    def _readable(self, action: str, on_node: bool, asked: Any) -> None:
        kind = kind_of(action, self.viewpoint.snapshot.policy)
        if action in ACTIONS or action in PART_ACTIONS or kind is Kind.PLACED:
            if not on_node:
                raise Invalid({"/node": "Say which page, or whose profile."})
        elif kind not in (Kind.OPENING, Kind.SITEWIDE):
            raise Invalid({"/action": "There is no such action."})
        if action in NEW and asked.get("type") not in self.viewpoint.snapshot.policy.node_types:
            raise Invalid({"/type": "Say what kind of page would be made."})


class WhyView(Asking):
    doors = {"get": ASKING}

    @extend_schema(responses=WhyShape, operation_id="why", parameters=[OpenApiParameter(name, str) for name in ASKED])
    def get(self, request: Request) -> Response:
        """An answer, and why it is so."""
        viewpoint, asked = self.viewpoint, request.query_params
        question = self.question(asked)
        answer = decide(viewpoint, question)
        sight, catalogue = self.session.actors_viewpoint.sight, viewpoint.catalogue
        words = TrailSentences(viewpoint.snapshot.policy, question.who, question.target, answer, sight, catalogue)
        steps = words.steps()
        tags = role_tags(step.role for step in steps if step.role)
        return Response(
            {
                "allow": answer.allow,
                "reason": str(answer.reason),
                "title": _title(words.short, answer.allow, question.action, asked, catalogue),
                "question": write_asked(_asked(question.who, asked), told_names(self.session.actors_viewpoint)),
                "asked": normal(_asked(question.who, asked)),
                "steps": [{"role": tags.get(s.role or ""), "text": s.text, "good": s.good} for s in steps],
            }
        )


class TurnsView(Asking):
    doors = {"post": ASKING}
    reads = frozenset({"post"})

    @extend_schema(request=WhyInput, responses=WaysToYesShape, operation_id="why_changes")
    def post(self, request: Request) -> Response:
        """What would turn a no, or end a yes. Nothing is staged or written."""
        given = WhyInput(data=request.data)
        given.is_valid(raise_exception=True)
        question = self.question(given.validated_data)
        answer = decide(self.viewpoint, question, trail=False)
        reader = self.session.actors_viewpoint
        asked = ending if answer.allow else turns
        found = asked(question, self.viewpoint, reader.sight)
        return Response({"allow": answer.allow, "reason": str(answer.reason), "changes": told(found, reader)})


def _asked(who: Who, asked: Mapping[str, str]) -> dict[str, Any]:
    """The question as the rules write it (§8)."""
    place = {"type": PROFILE, "author": asked["profile"]} if asked.get("profile") else asked.get("node")
    parts = {key: asked[key] for key in ("type", *PARTS) if asked.get(key)}
    return {**write_who(who), "action": asked["action"], "node": place or None, **parts}


def told(found: list[Turn], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Changes as `WayToYesShape` has them. One query."""
    tags = role_tags(turn.role for turn in found if turn.role)
    return [
        {
            "operations": turn.operations,
            "sentence": turn.sentence,
            "role": tags.get(turn.role or ""),
            "timed": turn.timed,
            "allowed": has_duties(viewpoint, turn.operations),
        }
        for turn in found
    ]


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
