"""What one's staged changes would do: to whom, by which role, where, to expectations, and at what risk."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import component_name, type_named
from gonfalon.access.change_sets import with_asked
from gonfalon.access.holders import Holders
from gonfalon.access.risks import newly_given
from gonfalon.access.telling import capability_words
from gonfalon.access.views.changes import StageInput, require_duties
from gonfalon.access.views.shapes import RiskShape
from gonfalon.access.vocabulary import kind_of
from gonfalon.access.words import ACTION_WORDS
from gonfalon.core import Policy, Question
from gonfalon.core.expectations import newly_broken
from gonfalon.core.impact import impact
from gonfalon.core.turned import Turned
from gonfalon.core.vocabulary import Kind
from gonfalon.server.guard import GuardedView, May, decide, refuse
from gonfalon.server.paging import PAGED, paged
from gonfalon.server.people import names_of
from gonfalon.server.presence import Presence
from gonfalon.server.problems import NotFound
from gonfalon.standin.expectations import action_words, names_in, subject_words
from gonfalon.standin.models import Expectation
from gonfalon.standin.proved import how_they_stand
from gonfalon.standin.would_be import WouldBe, staged_impact

DOOR = May("roles.define", "roles.assign", "limits.set")


class RoleImpactShape(serializers.Serializer):
    """Of those who hold a role, before or after, how many accounts gain and lose something."""

    role = serializers.CharField()
    gain = serializers.IntegerField()
    lose = serializers.IntegerField()


class ImpactShape(serializers.Serializer):
    """Accounts that gain and lose, answers that turn, expectations that would break, risks newly given."""

    gain = serializers.IntegerField()
    lose = serializers.IntegerField()
    gained = serializers.IntegerField()
    lost = serializers.IntegerField()
    roles = RoleImpactShape(many=True)
    breaks = serializers.ListField(child=serializers.CharField())
    risks = RiskShape(many=True)


class ImpactView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=ImpactShape, operation_id="impact")
    def get(self, request: Request) -> Response:
        before, would_be, stand = self.presence.survey, staged_impact(self.presence), how_they_stand(self.presence)
        broken = {e.id for e in newly_broken(stand.results, would_be.changed)}
        breaks = [row for row in stand.rows if row.id in broken]
        names = names_in(breaks, self.presence.in_sight)
        changed = would_be.changed
        return Response(
            {
                "gain": len(changed.gain),
                "lose": len(changed.lose),
                "gained": changed.gained,
                "lost": changed.lost,
                "roles": list(_by_role(would_be, self.presence.holders)),
                "breaks": [_sentence(row, names) for row in breaks],
                "risks": [
                    risk._asdict()
                    for risk in newly_given(before.policy, would_be.after.policy, self.presence.snapshot.catalogue)
                ],
            }
        )


class PreviewShape(serializers.Serializer):
    """Whom some operations alone would turn something for: how many accounts, and how many answers."""

    gain = serializers.IntegerField()
    lose = serializers.IntegerField()
    gained = serializers.IntegerField()
    lost = serializers.IntegerField()


class PreviewView(GuardedView):
    doors = {"post": DOOR}

    @extend_schema(request=StageInput, responses=PreviewShape, operation_id="preview")
    def post(self, request: Request) -> Response:
        """What operations would change by themselves, on the policy in force. Nothing is staged or written."""
        given = StageInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked, before = given.validated_data["operations"], self.presence.survey
        require_duties(self.presence, asked)
        after = before.engine.changed(with_asked(asked, before.policy, self.presence.in_sight)).surveyor
        changed = impact(before, after, self.presence.at)
        counts = {"gained": changed.gained, "lost": changed.lost}
        return Response({"gain": len(changed.gain), "lose": len(changed.lose), **counts})


def _by_role(would_be: WouldBe, holders: Holders) -> Iterator[dict[str, Any]]:
    changed = would_be.changed
    before, after = changed.before.policy, changed.after.policy
    sides = [holders]
    if any(getattr(before, part) is not getattr(after, part) for part in ("assignments", "accounts", "groups")):
        sides.append(Holders(after, would_be.at))
    for role in {**before.roles, **after.roles}:
        held = {account for side in sides for account in side.accounts_of(role)}
        gain, lose = len(held & changed.gain), len(held & changed.lose)
        if gain or lose:
            yield {"role": role, "gain": gain, "lose": lose}


def _sentence(row: Expectation, names: Any) -> str:
    verb, thing = action_words(row.question, names)
    may = "may" if row.expect == "allow" else "may not"
    return f"{subject_words(row.question, names)} {may} {verb} {thing}".strip()


class TurnShape(serializers.Serializer):
    """One thing that turns for an account; `places` says whether its nodes can be listed."""

    key = serializers.CharField()
    words = serializers.CharField()
    gained = serializers.IntegerField()
    lost = serializers.IntegerField()
    places = serializers.BooleanField()


class AccountImpactShape(serializers.Serializer):
    account = serializers.CharField(allow_null=True)
    name = serializers.CharField()
    turns = TurnShape(many=True)


class ImpactAccountsView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=AccountImpactShape(many=True), operation_id="impact_accounts", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Everyone for whom something turns, those who lose most first. Names for one page only.

        Who is there, and what they may do, is told to whoever sees the roster.
        """
        _require_roster(self.presence)
        changed = staged_impact(self.presence).changed
        turned, policy = changed.turned, changed.after.policy
        ordered = sorted(turned, key=lambda who: (-_sum(turned[who].values()).lost, -_sum(turned[who].values()).gained))
        page = paged(request, ordered)
        names = names_of(who for who in page.data if isinstance(who, str))
        page.data = [
            {
                "account": who,
                "name": "Visitors" if who is None else names.get(who, who),
                "turns": [_turn(key, turn, policy) for key, turn in turned[who].items()],
            }
            for who in page.data
        ]
        return page


def _require_roster(presence: Presence) -> None:
    question = Question(presence.who, "roster.see", at=presence.at)
    answer = decide(presence, question)
    if not answer.allow:
        refuse(question, answer)


def _sum(turns: Any) -> Turned:
    return sum(turns, Turned(0, 0))


def _turn(key: str, turn: Turned, policy: Policy) -> dict[str, Any]:
    plain = kind_of(key, policy) in (Kind.SITEWIDE, Kind.OPENING)
    words, places = _turn_words(key, policy), not plain and not key.endswith(" account")
    return {"key": key, "words": words, "gained": turn.gained, "lost": turn.lost, "places": places}


def _turn_words(key: str, policy: Policy) -> str:
    """A key of an impact after "may": "edit pages", "create events", "see Annual dues of berth pages"."""
    action, _, part = key.partition(" ")
    thing, _, rest = part.partition(".")
    if action.endswith("-field"):
        type = type_named(thing)
        return f"{action.removesuffix('-field')} {type.field(rest).name} of {type.plural}"
    if action.endswith("-component") or action.endswith("-facet"):
        name = component_name(thing).lower()
        return f"change {rest} of {name}" if rest else f"insert {name}"
    if part:
        return f"{action} profiles"
    verb, _, type_key = action.partition(":")
    if type_key:
        return f"create {type_named(type_key).plural}"
    if kind_of(key, policy):
        return capability_words(key)
    return ACTION_WORDS[verb].removesuffix(" this") + " pages"


class NodeTitleShape(serializers.Serializer):
    title = serializers.CharField()


class ImpactNodesShape(serializers.Serializer):
    gained = NodeTitleShape(many=True)
    lost = NodeTitleShape(many=True)


class ImpactNodesView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(
        responses=ImpactNodesShape,
        operation_id="impact_nodes",
        parameters=[OpenApiParameter("key", str, required=True), OpenApiParameter("account", str)],
    )
    def get(self, request: Request) -> Response:
        """The nodes where one thing turns for one account, in the order of the tree; without one, for visitors."""
        _require_roster(self.presence)
        who = request.query_params.get("account") or None
        changed = staged_impact(self.presence).changed
        key = request.query_params.get("key", "")
        if key not in changed.turned.get(who, {}) or not _turn(key, Turned(0, 0), changed.after.policy)["places"]:
            raise NotFound("change")
        gained, lost = changed.nodes(who, key)
        titles, sight = self.presence.nodes.titles, self.presence.in_sight
        return Response(
            {
                way: [{"title": titles[id] if id in sight else "a page out of sight"} for id in ids]
                for way, ids in (("gained", gained), ("lost", lost))
            }
        )
