"""Define: the expectations that rest on one cell of a role, and how they stand."""

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.vocabulary import kind_of
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.problems import NotFound
from gonfalon.api.verify.expectations import READING
from gonfalon.core.checks.expectations import resting_on
from gonfalon.core.model.vocabulary import BARRED, SAYS
from gonfalon.core.operations import SetAnswer
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import sentences

MOST_SHOWN = 4


class ShownShape(serializers.Serializer):
    id = serializers.CharField()
    sentence = serializers.CharField()
    holds = serializers.BooleanField()


class RestingShape(serializers.Serializer):
    """How many expectations rest on a cell and how many of those hold, with a few: those that break before others."""

    expectations = serializers.IntegerField()
    holding = serializers.IntegerField()
    shown = ShownShape(many=True)


class RestingView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(
        responses=RestingShape,
        operation_id="cell_expectations",
        parameters=[OpenApiParameter("capability", str, required=True)],
    )
    def get(self, request: Request, role: str) -> Response:
        """Those that may come to hold or break if the role said something else there. A fixed number of queries.

        They are told to whoever may read expectations.
        """
        READING.pass_through(self.session, self.kwargs)
        before, capability = self.viewpoint.engine, request.query_params.get("capability", "")
        kind = kind_of(capability, before.policy)
        if role not in before.policy.roles or kind is None:
            raise NotFound("cell")
        said = before.grants.statements(role).get(capability)
        other = SAYS[kind][0] if said is not None and said.says == BARRED else BARRED
        after = before.changed(SetAnswer(role, capability, other).apply(before.policy))
        stand = how_they_stand(self.viewpoint)
        resting = sorted(resting_on(stand.results, before, after, self.viewpoint.at), key=lambda result: result.holds)
        shown = {result.expectation.id: result.holds for result in resting[:MOST_SHOWN]}
        told = sentences((row for row in stand.rows if row.id in shown), self.viewpoint)
        holding = sum(result.holds for result in resting)
        return Response(
            {
                "expectations": len(resting),
                "holding": holding,
                "shown": [{"id": id, "sentence": told[id], "holds": holds} for id, holds in shown.items()],
            }
        )
