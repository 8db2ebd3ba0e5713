"""What one's staged changes would do: to whom, by which role, where, to expectations, and at what risk."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.holders import Holders
from gonfalon.access.risks import newly_given
from gonfalon.access.sight import Sight
from gonfalon.api.changes.change_set import StageInput, require_duties
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.shapes import RiskShape
from gonfalon.core.checks.expectations import newly_broken
from gonfalon.core.diff.affected_accounts import AffectedAccounts
from gonfalon.core.diff.counts import Delta
from gonfalon.core.diff.impact import Impact
from gonfalon.core.model.question import Who
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import sentences
from gonfalon.verify.impact_text import has_pages, has_places, turn_words
from gonfalon.verify.preview import Preview, as_proposed, as_staged
from gonfalon.viewpoint.viewpoint import Viewpoint

DOOR = May("roles.define", "roles.assign", "limits.set")
VISITORS: frozenset[Who] = frozenset({None})


class TouchedShape(serializers.Serializer):
    """How many accounts gain and lose something, and whether visitors do, who are no account.

    People are counted only for whoever sees the roster; to others the counts are null.
    """

    gain = serializers.IntegerField(allow_null=True)
    lose = serializers.IntegerField(allow_null=True)
    visitors_gain = serializers.BooleanField()
    visitors_lose = serializers.BooleanField()


class BreakingShape(TouchedShape):
    """The same with the expectations that would break, told to whoever keeps them; to others `breaks` is null."""

    breaks = serializers.ListField(child=serializers.CharField(), allow_null=True)


class StagedTouchShape(BreakingShape):
    """The same of what is staged, with the risks newly given."""

    risks = RiskShape(many=True)


class RoleImpactShape(serializers.Serializer):
    """Of those who hold a role, before or after, how many accounts gain and lose something."""

    role = serializers.CharField()
    gain = serializers.IntegerField()
    lose = serializers.IntegerField()


class TotalShape(TouchedShape):
    """One thing that changes: for whom, and at how many places for the one that gains or loses most.

    `places` says whether it is about places at all, and `pages` whether those can be listed. Places are counted only
    for whoever sees all of them, and not where something may be made; else `most_gained` and `most_lost` are null.
    """

    key = serializers.CharField()
    words = serializers.CharField()
    most_gained = serializers.IntegerField(allow_null=True)
    most_lost = serializers.IntegerField(allow_null=True)
    places = serializers.BooleanField()
    pages = serializers.BooleanField()


class TurningShape(TouchedShape):
    """Those who gain and lose anything, and what: whole pages and plain duties first, then parts of pages."""

    turns = TotalShape(many=True)


class ProposedShape(TurningShape, BreakingShape):
    """The same with the expectations that would break."""


class ImpactShape(TurningShape):
    """The same with the roles through which."""

    roles = RoleImpactShape(many=True)


class ImpactView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=ImpactShape, operation_id="impact")
    def get(self, request: Request) -> Response:
        """What the staged changes do, for whom, and how much of it."""
        preview, told = as_staged(self.viewpoint), Telling(self.viewpoint)
        roles = list(_by_role(preview, self.viewpoint.holders)) if told.people else []
        return Response({**told.turning(preview.changed), "roles": roles})


class TouchedView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=StagedTouchShape, operation_id="touched")
    def get(self, request: Request) -> Response:
        """For whom the staged changes do anything, what they would break and at what risk: sooner than what they do."""
        preview = as_staged(self.viewpoint)
        sides, catalogue = (preview.before.policy, preview.after.policy), self.viewpoint.snapshot.catalogue
        risks = [risk._asdict() for risk in newly_given(*sides, catalogue)]
        return Response({**breaking(preview, self.viewpoint), "risks": risks})


def foreseen(viewpoint: Viewpoint, operations: list[dict[str, Any]], sight: Sight | None = None) -> dict[str, Any]:
    """What operations would come to if they were applied now, as `BreakingShape` has it: told before they are."""
    return breaking(as_proposed(viewpoint, operations, sight), viewpoint)


def breaking(preview: Preview, viewpoint: Viewpoint) -> dict[str, Any]:
    """For whom anything changes, and what is expected and would break, as `BreakingShape` has it."""
    told, breaks = Telling(viewpoint).touching(preview.touched), None
    if may(viewpoint, "expectations.keep"):
        stand = how_they_stand(viewpoint)
        broken = {e.id for e in newly_broken(stand.results, preview.touched)}
        breaks = list(sentences((row for row in stand.rows if row.id in broken), viewpoint).values())
    return {**told, "breaks": breaks}


class PreviewView(GuardedView):
    doors = {"post": DOOR}
    reads = frozenset({"post"})

    @extend_schema(request=StageInput, responses=ProposedShape, operation_id="preview")
    def post(self, request: Request) -> Response:
        """What operations would change by themselves, on the policy in force. Nothing is staged or written."""
        asked = self._asked(request)
        return Response({**breaking(asked, self.viewpoint), **Telling(self.viewpoint).turning(asked.changed)})

    def _asked(self, request: Request) -> Preview:
        given = StageInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data["operations"]
        require_duties(self.viewpoint, asked)
        return as_proposed(self.viewpoint, asked)


class PreviewTouchedView(PreviewView):
    @extend_schema(request=StageInput, responses=BreakingShape, operation_id="preview_touched")
    def post(self, request: Request) -> Response:
        """For whom they would change anything by themselves, and what they would break, told sooner than what else.

        Nothing is staged or written.
        """
        return Response(breaking(self._asked(request), self.viewpoint))

    reads = frozenset({"post"})


class Telling:
    """Tells what changes as far as whoever asks may know: of people, and of places."""

    def __init__(self, viewpoint: Viewpoint) -> None:
        self.catalogue = viewpoint.catalogue
        self.people = viewpoint.sight.roster
        self.places = self.people and viewpoint.sees_all_nodes

    def turning(self, changed: Impact) -> dict[str, Any]:
        """What changes, and for whom."""
        policy = changed.after.policy
        totals = changed.totals.items()
        words = {key: turn_words(key, policy, self.catalogue) for key in changed.totals}
        turns = sorted(totals, key=lambda of: (" " in of[0], -of[1].lose, -of[1].gain, words[of[0]]))
        return {
            **self.touching(changed),
            "turns": [
                {
                    "key": key,
                    "words": words[key],
                    "places": has_places(key, policy),
                    "pages": has_pages(key, policy),
                    "gain": total.gain if self.people else None,
                    "lose": total.lose if self.people else None,
                    "visitors_gain": total.visitors.gained > 0,
                    "visitors_lose": total.visitors.lost > 0,
                    "most_gained": total.most_gained if self._counts(key) else None,
                    "most_lost": total.most_lost if self._counts(key) else None,
                }
                for key, total in turns
                if self.people or total.visitors != Delta(0, 0)
            ],
        }

    def _counts(self, key: str) -> bool:
        """Places are told in numbers, but those where something may be made: not all take every kind."""
        return self.places and not key.startswith("create:")

    def touching(self, changed: Impact | AffectedAccounts) -> dict[str, Any]:
        """For how many accounts anything changes, and whether for visitors."""
        return {
            "gain": len(changed.gain - VISITORS) if self.people else None,
            "lose": len(changed.lose - VISITORS) if self.people else None,
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
