"""Expectations together: their groups, and those that a role was made for."""

from collections import Counter

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView
from gonfalon.api.problems import NotFound
from gonfalon.api.verify.expectation_data import PartShape, parts_data
from gonfalon.api.verify.expectations import READING
from gonfalon.core.sentences.writing import parts_of
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.lexicon import told
from gonfalon.verify.models import ExpectationGroup
from gonfalon.verify.suggested import suggested


class ExpectationGroupShape(serializers.Serializer):
    """Expectations that belong together, and how many of them there are and break."""

    id = serializers.CharField()
    name = serializers.CharField()
    note = serializers.CharField()
    expectations = serializers.IntegerField()
    breaking = serializers.IntegerField()


class ExpectationGroupsShape(serializers.Serializer):
    groups = ExpectationGroupShape(many=True)
    expectations = serializers.IntegerField()
    breaking = serializers.IntegerField()


class SuggestedShape(serializers.Serializer):
    """An expectation that holds now and is not recorded: as it is said, and as it would be sent."""

    question = serializers.DictField()
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    sentence = serializers.CharField()
    parts = PartShape(many=True)


class ExpectationGroupsView(GuardedView):
    doors = {"get": READING}

    @extend_schema(responses=ExpectationGroupsShape, operation_id="expectation_groups")
    def get(self, request: Request) -> Response:
        """What there is, and how much of it breaks. A fixed number of queries."""
        proved = how_they_stand(self.viewpoint)
        stands = Counter((row.group_id, result.holds) for row, result in zip(proved.rows, proved.results, strict=True))
        groups = [
            {
                "id": group.id,
                "name": group.name,
                "note": group.note,
                "expectations": stands[group.id, True] + stands[group.id, False],
                "breaking": stands[group.id, False],
            }
            for group in ExpectationGroup.objects.all()
        ]
        breaking = sum(count for (_, holds), count in stands.items() if not holds)
        return Response({"groups": groups, "expectations": stands.total(), "breaking": breaking})


class SuggestedView(GuardedView):
    doors = {"get": READING}

    @extend_schema(
        responses=SuggestedShape(many=True),
        operation_id="suggested_expectations",
        parameters=[OpenApiParameter("role", str, required=True)],
    )
    def get(self, request: Request) -> Response:
        """What a role was made for, seen from its board. Seven queries."""
        role, here = request.query_params.get("role", ""), self.viewpoint
        if role not in here.snapshot.policy.roles:
            raise NotFound("role")
        lexicon = told(here)
        return Response(
            [
                {
                    "question": expected.question,
                    "expect": expected.expect,
                    "sentence": "".join(part.text for part in parts),
                    "parts": parts_data(parts),
                }
                for expected in suggested(role, here)
                for parts in [parts_of(expected, lexicon)]
            ]
        )
