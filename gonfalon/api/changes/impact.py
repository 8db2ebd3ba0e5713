"""What one's staged changes would do: to whom, by which role, where, to expectations, and at what risk."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.holders import Holders
from gonfalon.access.risks import newly_given
from gonfalon.api.changes.change_set import StageInput, require_duties
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.shapes import RiskShape
from gonfalon.core.checks.expectations import newly_broken
from gonfalon.core.diff.affected_accounts import AffectedAccounts
from gonfalon.core.diff.impact import Impact
from gonfalon.core.model.question import Who
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import sentences
from gonfalon.verify.impact_text import has_pages, has_places, turn_words
from gonfalon.verify.preview import Preview, as_proposed, as_staged

DOOR = May("roles.define", "roles.assign", "limits.set")
VISITORS: frozenset[Who] = frozenset({None})


class TouchedShape(serializers.Serializer):
    """How many accounts gain and lose something, and whether visitors do, who are no account."""

    gain = serializers.IntegerField()
    lose = serializers.IntegerField()
    visitors_gain = serializers.BooleanField()
    visitors_lose = serializers.BooleanField()


class StagedTouchShape(TouchedShape):
    """The same of what is staged, with the expectations that would break, and the risks newly given."""

    breaks = serializers.ListField(child=serializers.CharField())
    risks = RiskShape(many=True)


class RoleImpactShape(serializers.Serializer):
    """Of those who hold a role, before or after, how many accounts gain and lose something."""

    role = serializers.CharField()
    gain = serializers.IntegerField()
    lose = serializers.IntegerField()


class TotalShape(TouchedShape):
    """One thing that changes: for whom, and at how many places for the one that gains or loses most.

    `places` says whether it is about places at all, and `pages` whether those can be listed.
    """

    key = serializers.CharField()
    words = serializers.CharField()
    most_gained = serializers.IntegerField()
    most_lost = serializers.IntegerField()
    places = serializers.BooleanField()
    pages = serializers.BooleanField()


class TurningShape(TouchedShape):
    """Those who gain and lose anything, and what: whole pages and plain duties first, then parts of pages."""

    turns = TotalShape(many=True)


class ImpactShape(TurningShape):
    """The same with the roles through which."""

    roles = RoleImpactShape(many=True)


class ImpactView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=ImpactShape, operation_id="impact")
    def get(self, request: Request) -> Response:
        """What the staged changes do, for whom, and how much of it."""
        preview = as_staged(self.presence)
        return Response({**_turning(preview.changed), "roles": list(_by_role(preview, self.presence.holders))})


class TouchedView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=StagedTouchShape, operation_id="touched")
    def get(self, request: Request) -> Response:
        """For whom the staged changes do anything, what they would break and at what risk: sooner than what they do."""
        preview, stand = as_staged(self.presence), how_they_stand(self.presence)
        broken = {e.id for e in newly_broken(stand.results, preview.touched)}
        breaks = sentences((row for row in stand.rows if row.id in broken), self.presence)
        sides, catalogue = (preview.before.policy, preview.after.policy), self.presence.snapshot.catalogue
        return Response(
            {
                **_touching(preview.touched),
                "breaks": list(breaks.values()),
                "risks": [risk._asdict() for risk in newly_given(*sides, catalogue)],
            }
        )


class PreviewView(GuardedView):
    doors = {"post": DOOR}

    @extend_schema(request=StageInput, responses=TurningShape, operation_id="preview")
    def post(self, request: Request) -> Response:
        """What operations would change by themselves, on the policy in force. Nothing is staged or written."""
        return Response(_turning(self._asked(request).changed))

    def _asked(self, request: Request) -> Preview:
        given = StageInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data["operations"]
        require_duties(self.presence, asked)
        return as_proposed(self.presence, asked)


class PreviewTouchedView(PreviewView):
    @extend_schema(request=StageInput, responses=TouchedShape, operation_id="preview_touched")
    def post(self, request: Request) -> Response:
        """For whom they would change anything by themselves, told sooner than what. Nothing is staged or written."""
        return Response(_touching(self._asked(request).touched))


def _turning(changed: Impact) -> dict[str, Any]:
    policy = changed.after.policy
    turns: list[dict[str, Any]] = [
        {
            "key": key,
            "words": turn_words(key, policy),
            "places": has_places(key, policy),
            "pages": has_pages(key, policy),
            "gain": total.gain,
            "lose": total.lose,
            "visitors_gain": total.visitors.gained > 0,
            "visitors_lose": total.visitors.lost > 0,
            "most_gained": total.most_gained,
            "most_lost": total.most_lost,
        }
        for key, total in changed.totals.items()
    ]
    turns.sort(key=lambda turn: (" " in turn["key"], -turn["lose"], -turn["gain"], turn["words"]))
    return {**_touching(changed), "turns": turns}


def _touching(changed: Impact | AffectedAccounts) -> dict[str, Any]:
    return {
        "gain": len(changed.gain - VISITORS),
        "lose": len(changed.lose - VISITORS),
        "visitors_gain": None in changed.gain,
        "visitors_lose": None in changed.lose,
    }


def _by_role(preview: Preview, holders: Holders) -> Iterator[dict[str, Any]]:
    changed = preview.changed
    before, after = changed.before.policy, changed.after.policy
    sides = [holders]
    if any(getattr(before, part) is not getattr(after, part) for part in ("assignments", "accounts", "groups")):
        sides.append(Holders(after, preview.at))
    for role in {**before.roles, **after.roles}:
        held = {account for side in sides for account in side.accounts_of(role)}
        gain, lose = len(held & changed.gain), len(held & changed.lose)
        if gain or lose:
            yield {"role": role, "gain": gain, "lose": lose}
