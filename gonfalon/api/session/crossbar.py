"""The figures that stand beside the places on the crossbar."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.models import Limit, Role
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, SignedIn, decide
from gonfalon.core import Question
from gonfalon.verify.expectation_cache import how_they_stand


class CrossbarShape(serializers.Serializer):
    """The figures beside the places; null where the place is closed."""

    roles = serializers.IntegerField(allow_null=True)
    accounts = serializers.IntegerField(allow_null=True)
    limits = serializers.IntegerField(allow_null=True)
    holding = serializers.IntegerField(allow_null=True)
    expectations = serializers.IntegerField(allow_null=True)


class CrossbarView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=CrossbarShape, operation_id="crossbar")
    def get(self, request: Request) -> Response:
        def open_to(*capabilities: str) -> bool:
            return any(self._may(c) for c in capabilities)

        verify = open_to("expectations.keep", "impersonate.start")
        results = how_they_stand(self.presence).results if verify else []
        return Response(
            {
                "roles": Role.objects.count() if open_to("roles.define") else None,
                "accounts": Account.objects.count() if open_to("roster.see") else None,
                "limits": Limit.objects.count() if open_to("limits.set") else None,
                "holding": sum(r.holds for r in results) if verify else None,
                "expectations": len(results) if verify else None,
            }
        )

    def _may(self, capability: str) -> bool:
        return decide(self.presence, Question(self.presence.who, capability, at=self.presence.at), trail=False).allow
