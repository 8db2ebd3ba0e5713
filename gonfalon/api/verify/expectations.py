"""Verify: what should hold, how it stands, and what staged changes would do to it."""

from time import perf_counter
from typing import Any

from django.db import transaction
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import TYPES
from gonfalon.access.vocabulary import kind_of
from gonfalon.accounts.names import names_of
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Policy
from gonfalon.core.checks.expectations import prove
from gonfalon.core.checks.runner import Result
from gonfalon.core.document.requests import RANGES
from gonfalon.core.model.vocabulary import ACTIONS, PART_ACTIONS, Kind
from gonfalon.ledger.models import Change, record
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import action_words, as_asked, names_in, subject_words
from gonfalon.verify.models import Expectation

READING = May("expectations.keep", "impersonate.start")


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
    asked = serializers.IntegerField()
    failed = serializers.IntegerField()
    against = AgainstShape(allow_null=True)


class ExpectationInput(serializers.Serializer):
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
        policy: Policy = self.context["policy"]
        named = [key for key in ("account", *RANGES) if key in data]
        if len(named) != 1:
            raise serializers.ValidationError({"account": "Say whom it is about: one account, role or group."})
        known: Any = policy.accounts if named[0] == "account" else policy.roles
        known = policy.groups if named[0].endswith("members_of") else known
        if data[named[0]] is not None and data[named[0]] not in known:
            raise serializers.ValidationError({named[0]: "There is no such account, role or group."})
        action, kind = data["action"], kind_of(data["action"], policy)
        sitewide = kind in (Kind.OPENING, Kind.SITEWIDE)
        if not sitewide and action not in ACTIONS and action not in PART_ACTIONS and kind is not Kind.PLACED:
            raise serializers.ValidationError({"action": "There is no such action."})
        if action.partition("-")[0] in ("create", "fill", "insert") or action == "change-facet":
            raise serializers.ValidationError({"action": "This action cannot be recorded as an expectation."})
        places = [key for key in ("node", "branch") if key in data]
        if len(places) != (0 if sitewide else 1):
            raise serializers.ValidationError({"node": "Say which page or branch it is about."})
        for key in places:
            if data[key] not in self.context["in_sight"]:
                raise serializers.ValidationError({key: "There is no such page."})
        if "field" in action and data.get("field") not in {f.key for t in TYPES.values() for f in t.fields}:
            raise serializers.ValidationError({"field": "There is no such field."})
        return data


class ExpectationsView(GuardedView):
    doors = {
        "get": READING,
        "post": May("expectations.keep", as_actor=True, while_looking=True),
    }

    @extend_schema(responses=ExpectationShape(many=True), operation_id="expectations", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Ask every expectation; `Server-Timing` says what asking took. A fixed number of queries."""
        began = perf_counter()
        proved = how_they_stand(self.presence, anew=True)
        took = (perf_counter() - began) * 1000
        answer = paged(request, list(zip(proved.rows, proved.results, strict=True)))
        rows, results = [list(each) for each in zip(*answer.data, strict=True)] if answer.data else ([], [])
        answer.data = expectations_data(rows, results, self.presence.visible_ids)
        answer.headers["Server-Timing"] = f"ask;dur={took:.1f}"
        return answer

    @extend_schema(request=ExpectationInput, responses={201: ExpectationShape}, operation_id="record_expectation")
    @transaction.atomic
    def post(self, request: Request) -> Response:
        given = ExpectationInput(
            data=request.data,
            context={"policy": self.presence.snapshot.policy, "in_sight": self.presence.visible_ids_of_actor},
        )
        given.is_valid(raise_exception=True)
        data = dict(given.validated_data)
        expect, note = data.pop("expect"), data.pop("note")
        actor = self.presence.actor
        row = Expectation.objects.create(
            question=data, expect=expect, note=note, recorded_by=actor.id if actor else None
        )
        results = prove(self.presence.engine, [as_asked(row)], self.presence.at)
        [told] = expectations_data([row], results, self.presence.visible_ids_of_actor)
        words = f"{told['who']} {'may' if expect == 'allow' else 'may not'} {told['verb']} {told['object']}".strip()
        record(
            self.presence.by,
            "expectation.recorded",
            f"Expect: {words}",
            about=("expectation", row.id),
            changes=[_change(row, words, None, "expected")],
        )
        return Response(told, status=201)


class ExpectationView(GuardedView):
    doors = {"delete": May("expectations.keep")}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_expectation")
    @transaction.atomic
    def delete(self, request: Request, expectation: str) -> Response:
        row = Expectation.objects.filter(pk=expectation).first()
        if row is None:
            raise NotFound("expectation")
        names = names_in([row], self.presence.visible_ids)
        verb, thing = action_words(row.question, names)
        words = f"{subject_words(row.question, names)}, {verb} {thing}".strip()
        record(
            self.presence.by,
            "expectation.dropped",
            f"No longer expected: {words}",
            about=("expectation", row.id),
            changes=[_change(row, words, "expected", "no longer")],
        )
        row.delete()
        return Response(status=204)


def _change(row: Expectation, words: str, was: str | None, now: str) -> Change:
    places = [row.question[key] for key in ("node", "branch") if row.question.get(key) is not None]
    return Change(what=words, was=was, now=now, nodes=places)


def expectations_data(rows: list[Expectation], results: list[Result], visible_ids: set[str]) -> list[dict[str, Any]]:
    found = [r.against for r in results if r.against]
    names = names_in(rows, visible_ids, [str(x) for a in found for x in (a.who, a.node) if x])
    people = names_of(row.recorded_by for row in rows if row.recorded_by)
    told = []
    for row, result in zip(rows, results, strict=True):
        verb, thing = action_words(row.question, names)
        against = result.against
        told.append(
            {
                "id": row.id,
                "question": row.question,
                "expect": row.expect,
                "note": row.note,
                "who": subject_words(row.question, names),
                "verb": verb,
                "object": thing,
                "recorded_by": people.get(row.recorded_by or ""),
                "recorded_at": row.recorded_at,
                "holds": result.holds,
                "asked": result.asked,
                "failed": result.failed,
                "against": against
                and {
                    "account": against.who,
                    "name": names.accounts.get(str(against.who), "A visitor"),
                    "node": against.node,
                    "title": names.node(against.node) if against.node else None,
                    "reason": str(against.reason),
                },
            }
        )
    return told
