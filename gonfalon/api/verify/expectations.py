"""Verify: what should hold, how it stands, and what staged changes would do to it."""

from collections.abc import Mapping
from time import perf_counter
from typing import Any

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.describe import capital
from gonfalon.access.sight import Sight
from gonfalon.access.vocabulary import kind_of
from gonfalon.accounts.names import names_of
from gonfalon.api.guard import IN_EARNEST, GuardedView, May
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core.checks.expectations import prove
from gonfalon.core.checks.runner import Result
from gonfalon.core.document.requests import RANGES, faults_in
from gonfalon.core.model.vocabulary import Kind
from gonfalon.inputs import Input
from gonfalon.ledger.models import Change, record
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import action_words, as_asked, names_in, subject_words
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

READING = May("expectations.keep")


class AgainstShape(serializers.Serializer):
    account = serializers.CharField(allow_null=True)
    name = serializers.CharField()
    node = serializers.CharField(allow_null=True)
    title = serializers.CharField(allow_null=True)
    reason = serializers.CharField()


class ExpectationShape(serializers.Serializer):
    id = serializers.CharField()
    question = serializers.DictField()
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    note = serializers.CharField()
    who = serializers.CharField()
    verb = serializers.CharField()
    object = serializers.CharField()
    recorded_by = serializers.CharField(allow_null=True)
    recorded_at = serializers.DateTimeField()
    holds = serializers.BooleanField()
    asked = serializers.IntegerField(
        allow_null=True, help_text="How many questions it is; null where that tells of people or pages out of sight."
    )
    failed = serializers.IntegerField(allow_null=True)
    against = AgainstShape(allow_null=True)


class ExpectationInput(Input):
    account = serializers.CharField(required=False, allow_null=True)
    holders_of = serializers.CharField(required=False)
    members_of = serializers.CharField(required=False)
    except_holders_of = serializers.CharField(required=False)
    except_members_of = serializers.CharField(required=False)
    action = serializers.CharField()
    node = serializers.CharField(required=False)
    branch = serializers.CharField(required=False)
    types = serializers.ListField(child=serializers.CharField(), required=False)
    field = serializers.CharField(required=False)
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    note = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        """What the rules can ask of what is in sight (§8); anything else is as good as not there."""
        viewpoint: Viewpoint = self.context["viewpoint"]
        sight, policy = viewpoint.sight, viewpoint.snapshot.policy
        question = {key: value for key, value in data.items() if key not in ("expect", "note")}
        if len([key for key in ("account", *RANGES) if key in question]) != 1:
            raise serializers.ValidationError({"account": "Say whom it is about: one account, role or group."})
        action, kind = data["action"], kind_of(data["action"], policy)
        if action.partition("-")[0] in ("create", "fill", "insert", "arrange", "stand") or action == "change-facet":
            raise serializers.ValidationError({"action": "This action cannot be recorded as an expectation."})
        if kind not in (Kind.OPENING, Kind.SITEWIDE) and not {"node", "branch"} & question.keys():
            raise serializers.ValidationError({"node": "Say which page or branch it is about."})
        if question.get("account") is not None and question["account"] not in sight.people:
            raise serializers.ValidationError({"account": f"There is no account “{question['account']}”."})
        for key in ("node", "branch"):
            if key in question and question[key] not in sight.nodes:
                raise serializers.ValidationError({key: "There is no such page."})
        faults = faults_in(question, policy, viewpoint.nodes.tree)
        if faults:
            raise serializers.ValidationError({fault.pointer.strip("/") or "action": fault.message for fault in faults})
        return data


KEPT_THOUGH_REHEARSED = OpenApiParameter(
    IN_EARNEST, str, OpenApiParameter.HEADER, description="With it, what is done while one rehearses is kept."
)


class ExpectationsView(GuardedView):
    doors = {
        "get": READING,
        "post": May("expectations.keep", as_actor=True, while_looking=True),
    }
    locks = {"post": (POLICY.shared, NODES.shared)}
    kept_if_asked = frozenset({"post"})

    @extend_schema(responses=ExpectationShape(many=True), operation_id="expectations", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Ask every expectation; `Server-Timing` says what asking took. A fixed number of queries."""
        began = perf_counter()
        proved = how_they_stand(self.viewpoint, anew=True)
        took = (perf_counter() - began) * 1000
        answer = paged(request, list(zip(proved.rows, proved.results, strict=True)))
        rows, results = [list(each) for each in zip(*answer.data, strict=True)] if answer.data else ([], [])
        answer.data = expectations_data(rows, results, self.viewpoint)
        answer.headers["Server-Timing"] = f"ask;dur={took:.1f}"
        return answer

    @extend_schema(
        request=ExpectationInput,
        responses={201: ExpectationShape},
        operation_id="record_expectation",
        parameters=[KEPT_THOUGH_REHEARSED],
    )
    def post(self, request: Request) -> Response:
        """Record an expectation, of whoever signed in; from within a rehearsal it is kept where that is asked for."""
        given = ExpectationInput(
            data=request.data,
            context={"viewpoint": self.session.actors_viewpoint},
        )
        given.is_valid(raise_exception=True)
        data = dict(given.validated_data)
        expect, note = data.pop("expect"), data.pop("note")
        actor = self.session.actor
        row = Expectation.objects.create(
            question=data, expect=expect, note=note, recorded_by=actor.id if actor else None
        )
        results = prove(self.viewpoint.engine, [as_asked(row)], self.viewpoint.at)
        [told] = expectations_data([row], results, self.session.actors_viewpoint)
        words = f"{told['who']} {'may' if expect == 'allow' else 'may not'} {told['verb']} {told['object']}".strip()
        record(
            self.session.by,
            "expectation.recorded",
            words=f"Expect: {words}",
            about=("expectation", row.id),
            changes=[_change(row, words, None, "expected")],
        )
        return Response(told, status=201)


class ExpectationView(GuardedView):
    doors = {"delete": May("expectations.keep")}
    locks = {"delete": (POLICY.shared, NODES.shared)}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_expectation")
    def delete(self, request: Request, expectation: str) -> Response:
        row = Expectation.objects.filter(pk=expectation).first()
        if row is None:
            raise NotFound("expectation")
        names = names_in([row], self.viewpoint.sight, self.viewpoint.catalogue)
        verb, thing = action_words(row.question, names)
        words = f"{subject_words(row.question, names)}, {verb} {thing}".strip()
        record(
            self.session.by,
            "expectation.dropped",
            words=f"No longer expected: {words}",
            about=("expectation", row.id),
            changes=[_change(row, words, "expected", "no longer")],
        )
        row.delete()
        return Response(status=204)


def _change(row: Expectation, words: str, was: str | None, now: str) -> Change:
    places = [row.question[key] for key in ("node", "branch") if row.question.get(key) is not None]
    return Change(what=words, was=was, now=now, nodes=places)


def _may_count(question: Mapping[str, Any], viewpoint: Viewpoint) -> bool:
    """Whether how many questions an expectation is may be told: people to whoever sees the roster, pages to whoever
    sees all of them."""
    people = viewpoint.sight.roster or not question.keys() & set(RANGES)
    return people and (viewpoint.sees_all_nodes or "branch" not in question)


def expectations_data(rows: list[Expectation], results: list[Result], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Expectations in words, and how they stand; without the ids of what is out of sight."""
    found = [r.against for r in results if r.against]
    sight = viewpoint.sight
    names = names_in(rows, sight, viewpoint.catalogue, [str(x) for a in found for x in (a.who, a.node) if x])
    people = names_of(row.recorded_by for row in rows if row.recorded_by)
    told = []
    for row, result in zip(rows, results, strict=True):
        verb, thing = action_words(row.question, names)
        against = result.against
        told.append(
            {
                "id": row.id,
                "question": _as_seen(row.question, sight),
                "expect": row.expect,
                "note": row.note,
                "who": subject_words(row.question, names),
                "verb": verb,
                "object": thing,
                "recorded_by": people.get(row.recorded_by or "") if row.recorded_by in sight.people else None,
                "recorded_at": row.recorded_at,
                "holds": result.holds,
                "asked": result.asked if _may_count(row.question, viewpoint) else None,
                "failed": result.failed if _may_count(row.question, viewpoint) else None,
                "against": against
                and {
                    "account": against.who if against.who in sight.people else None,
                    "name": capital(names.account(against.who)) if isinstance(against.who, str) else "A visitor",
                    "node": against.node if against.node in sight.nodes else None,
                    "title": names.node(against.node) if against.node else None,
                    "reason": str(against.reason),
                },
            }
        )
    return told


def _as_seen(question: Mapping[str, Any], sight: Sight) -> dict[str, Any]:
    hidden = {key for key in ("node", "branch") if question.get(key) is not None and question[key] not in sight.nodes}
    if question.get("account") is not None and question["account"] not in sight.people:
        hidden.add("account")
    return {key: None if key in hidden else value for key, value in question.items()}
