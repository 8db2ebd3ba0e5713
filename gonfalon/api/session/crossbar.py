"""The figures that stand beside the places on the crossbar."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.models import Role
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, SignedIn, may
from gonfalon.verify.expectation_cache import how_they_stand


class CrossbarShape(serializers.Serializer):
    """The figures beside the places; null where the place is closed. Limits are counted as far as one sees where."""

    roles = serializers.IntegerField(allow_null=True)
    accounts = serializers.IntegerField(allow_null=True)
    limits = serializers.IntegerField(allow_null=True)
    holding = serializers.IntegerField(allow_null=True)
    expectations = serializers.IntegerField(allow_null=True)


class CrossbarView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=CrossbarShape, operation_id="crossbar")
    def get(self, request: Request) -> Response:
        viewpoint = self.viewpoint
        keeps = may(viewpoint, "expectations.keep")
        results = how_they_stand(viewpoint).results if keeps else []
        limits = viewpoint.snapshot.policy.limits.values()
        return Response(
            {
                "roles": Role.objects.count() if may(viewpoint, "roles.define") else None,
                "accounts": Account.objects.count() if viewpoint.sight.roster else None,
                "limits": sum(limit.node in viewpoint.sight.nodes for limit in limits)
                if may(viewpoint, "limits.set")
                else None,
                "holding": sum(r.holds for r in results) if keeps else None,
                "expectations": len(results) if keeps else None,
            }
        )
