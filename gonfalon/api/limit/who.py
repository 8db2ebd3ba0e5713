"""Who can do something here: everybody by name, through what; and who almost can, and what stops them."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.http import HttpResponse
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names, where_words
from gonfalon.accounts.models import Account
from gonfalon.api.guard import May, decide, require
from gonfalon.api.paging import whole
from gonfalon.api.problems import Invalid
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.api.tables import csv_answer
from gonfalon.api.verify.why import ASKED, Asking
from gonfalon.core import Question
from gonfalon.core.checks.who import MOST_ANSWERS, Amount, TooMany, stops, through, who_can, who_can_beneath
from gonfalon.core.document.writer import write_scope
from gonfalon.core.engine import Engine
from gonfalon.core.model.question import Finding
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import Reason

PAGE = 200
ASKS = [name for name in ASKED if name not in ("account", "role", "profile")]


class ThroughShape(serializers.Serializer):
    """One way somebody holds it: a role, or a single capability where that is null; through a group, or directly."""

    role = RoleTagShape(allow_null=True)
    group = serializers.CharField(allow_null=True)
    where = serializers.CharField()
    says = serializers.CharField(allow_null=True)
    ends = serializers.DateTimeField(allow_null=True)


class WhoCanRowShape(serializers.Serializer):
    account = serializers.CharField()
    name = serializers.CharField()
    through = ThroughShape(many=True)
    reason = serializers.CharField(help_text="Of the answer.")
    stopped = serializers.CharField(allow_blank=True, help_text="What stops them, in words.")
    can = serializers.IntegerField(help_text="On how many pages of the branch; one for a page.")
    of = serializers.IntegerField()


class WhoCanShape(serializers.Serializer):
    """Everybody who can, and everybody who almost can, a page of each; keyholders are counted apart."""

    can = WhoCanRowShape(many=True)
    almost = WhoCanRowShape(many=True)
    can_count = serializers.IntegerField()
    almost_count = serializers.IntegerField()
    keyholders = serializers.IntegerField()


@dataclass(frozen=True, slots=True)
class _Standing:
    """How one account stands to a question."""

    account: str
    reason: Reason
    amount: Amount
    anywhere: bool = False
    """Whether it is asked of a whole branch."""


class _Who(Asking):
    doors = {"get": May("limits.set")}

    def knows(self, account: str) -> bool:
        return account in self.viewpoint.sight.people

    def sees(self, target: Target) -> bool:
        here = self.viewpoint
        return decide(here, Question(here.subject, "see", target, here.at), trail=False).allow

    def standings(self, request: Request) -> tuple[Engine, Question, list[_Standing]]:
        """Everybody's, those who can first; under what one has staged. Raises Invalid naming the field."""
        require(self.viewpoint, "roster.see")
        asked = request.query_params.dict()
        branch = asked.pop("branch", "")
        question = self.question({**asked, "node": branch} if branch else asked)
        here = self.viewpoint.engine
        proposed = staged_policy(self.viewpoint.account or "", here.policy)
        engine = here if proposed is here.policy else here.changed(proposed)
        if not branch:
            found = who_can(engine, question)
            one = Amount(1, 1)
            every = [_Standing(id, Reason.ALLOWED, one) for id in found.can]
            return engine, question, every + [_Standing(id, why, Amount(0, 1)) for id, why in found.almost.items()]
        if question.action in engine.policy.plain:
            raise Invalid({"/branch": "This is about the whole site, not about a branch."})
        if question.action in ("create", "fill-field"):
            raise Invalid({"/branch": "Ask this of one page: what would be made stands beneath it."})
        try:
            amounts = who_can_beneath(engine, branch, replace(question, target=None), self.viewpoint.at)
        except TooMany:
            raise Invalid({"/branch": f"That comes to more than {MOST_ANSWERS:,} answers. Ask of less."}) from None
        ordered = sorted(amounts.items(), key=lambda of: -of[1].can)
        return engine, question, [_Standing(id, Reason.ALLOWED, amount, anywhere=True) for id, amount in ordered]

    def told(
        self, engine: Engine, question: Question, standings: Sequence[_Standing], names: Mapping[str, str]
    ) -> list[dict[str, Any]]:
        """Standings as `WhoCanRowShape` has them: one decision and its trail each, four queries for all."""
        policy = engine.policy
        asked = [replace(question, who=one.account) for one in standings]
        pairs = list(zip(standings, asked, strict=True))
        givers = [through(engine, q, anywhere=one.anywhere or one.reason is not Reason.ALLOWED) for one, q in pairs]
        stoppers = [[] if one.reason is Reason.ALLOWED else stops(engine, q) for one, q in pairs]
        given = [policy.assignments.get(f.id) or policy.direct_grants.get(f.id) for each in givers for f in each]
        limits = [policy.limits[id] for each in stoppers for f in each for id in f.limits]
        sight = self.viewpoint.sight
        words = Names(
            [{"scope": write_scope(g.scope)} for g in given if g]
            + [{"node": k.node} for k in limits]
            + [{"scope": write_scope(a.scope)} for a in policy.assignments.values() if a.to.id in names],
            sight,
            self.viewpoint.catalogue,
        )
        tags = role_tags({f.role for each in givers for f in each if f.role})
        return [
            {
                "account": one.account,
                "name": names[one.account],
                "through": [self._through(f, engine, words, tags) for f in each],
                "reason": str(one.reason),
                "stopped": "" if one.reason is Reason.ALLOWED else self._stopped(one.reason, stopping, engine, words),
                "can": one.amount.can,
                "of": one.amount.of,
            }
            for one, each, stopping in zip(standings, givers, stoppers, strict=True)
        ]

    def _through(self, f: Finding, engine: Engine, names: Names, tags: Mapping[str, Any]) -> dict[str, Any]:
        given = engine.policy.assignments.get(f.id) or engine.policy.direct_grants.get(f.id)
        return {
            "role": tags.get(f.role or ""),
            "group": names.group(f.group) if f.group else None,
            "where": where_words(write_scope(given.scope), names) if given else "for everybody",
            "says": f.says,
            "ends": given.period.ends if given else None,
        }

    def _stopped(self, reason: Reason, stopping: list[Finding], engine: Engine, names: Names) -> str:
        """What stands in the way, in a few words."""
        limits = {engine.policy.limits[id].node for f in stopping for id in f.limits}
        on = f" on {names.nodes(limits)}" if limits else ""
        if reason is Reason.OUT_OF_SCOPE:
            held = [engine.policy.assignments.get(f.id) or engine.policy.direct_grants.get(f.id) for f in stopping]
            where = dict.fromkeys(where_words(write_scope(g.scope), names) for g in held if g)
            return f"only {', '.join(where)}" if where else "only elsewhere"
        return f"{STOPS[reason]}{on}"


STOPS = {
    Reason.LOCKED: "it is locked",
    Reason.FIELD: "the rule of the field keeps it closed",
    Reason.COMPONENT: "no role of theirs inserts this",
    Reason.FACET: "no role of theirs changes this of it",
    Reason.LIVE: "not what is published",
    Reason.OUT_OF_REACH: "confined to other branches",
    Reason.STOPPED: "stopped",
    Reason.BARRED: "barred",
    Reason.OUT_OF_EXTENT: "only what they or their team wrote",
}

PARAMETERS = [OpenApiParameter(name, str) for name in (*ASKS, "branch", "search")]


class WhoView(_Who):
    @extend_schema(responses=WhoCanShape, operation_id="who", parameters=[*PARAMETERS, OpenApiParameter("offset", int)])
    def get(self, request: Request) -> Response:
        """Everybody who can do something, on a page or anywhere in a branch, and everybody who almost can.

        What one has staged counts as applied. Seven queries.
        """
        engine, question, every = self.standings(request)
        names = _named(every, request.query_params.get("search", ""))
        found = [one for one in every if one.account in names]
        can = [one for one in found if one.reason is Reason.ALLOWED]
        almost = [one for one in found if one.reason is not Reason.ALLOWED]
        offset = whole(request, "offset", 0)
        shown = [*can[offset : offset + PAGE], *almost[offset : offset + PAGE]]
        rows = self.told(engine, question, shown, names)
        keyholders = [a for a in engine.policy.accounts.values() if a.keyholder and a.state == "active"]
        return Response(
            {
                "can": [row for row in rows if row["reason"] == Reason.ALLOWED],
                "almost": [row for row in rows if row["reason"] != Reason.ALLOWED],
                "can_count": len(can),
                "almost_count": len(almost),
                "keyholders": len(keyholders),
            }
        )


class WhoTableView(_Who):
    @extend_schema(
        responses={(200, "text/csv"): OpenApiResponse(bytes)}, operation_id="who_table", parameters=PARAMETERS
    )
    def get(self, request: Request) -> HttpResponse:
        """The same as a table: all of them."""
        engine, question, every = self.standings(request)
        names = _named(every, request.query_params.get("search", ""))
        rows = self.told(engine, question, [one for one in every if one.account in names], names)
        return csv_answer("who", ("name", "can", "on", "of", "through", "stopped by"), _cells(rows))


def _cells(rows: list[dict[str, Any]]) -> Iterator[tuple[Any, ...]]:
    for row in rows:
        ways = [
            " ".join(filter(None, [t["role"] and t["role"]["name"], t["group"] and f"in {t['group']}", t["where"]]))
            for t in row["through"]
        ]
        can = "yes" if row["reason"] == Reason.ALLOWED else "almost"
        yield row["name"], can, row["can"], row["of"], "; ".join(ways), row["stopped"]


def _named(every: Sequence[_Standing], words: str) -> dict[str, str]:
    """The names of those whose name holds some words, in one query."""
    accounts = Account.objects.filter(pk__in=[one.account for one in every])
    if words:
        accounts = accounts.filter(name__icontains=words[:100])
    return dict(accounts.values_list("id", "name"))
