"""Views of the roster that one keeps under a name."""

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.models import KeptView
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.problems import NotFound
from gonfalon.inputs import Input
from gonfalon.work import POLICY


class KeptViewShape(Input):
    id = serializers.CharField(read_only=True)
    name = serializers.CharField(max_length=60, error_messages={"blank": "Give it a name to find it by."})
    query = serializers.CharField(max_length=1000, allow_blank=True)


class KeptViewsView(GuardedView):
    doors = {"get": May("roster.see"), "post": May("roster.see")}
    locks = {"post": (POLICY.shared,)}

    @extend_schema(responses=KeptViewShape(many=True), operation_id="kept_views")
    def get(self, request: Request) -> Response:
        """One's own views by name. One query."""
        rows = KeptView.objects.filter(owner_id=self.viewpoint.account or "")
        return Response(KeptViewShape(rows, many=True).data)

    @extend_schema(request=KeptViewShape, responses={201: KeptViewShape}, operation_id="keep_view")
    def post(self, request: Request) -> Response:
        """Keep filters, columns and order; a view of that name is replaced."""
        given = KeptViewShape(data=request.data)
        given.is_valid(raise_exception=True)
        row, _ = KeptView.objects.update_or_create(
            owner_id=self.viewpoint.account or "",
            name=given.validated_data["name"],
            defaults={"query": given.validated_data["query"]},
        )
        return Response(KeptViewShape(row).data, status=201)


class KeptViewView(GuardedView):
    doors = {"delete": May("roster.see")}
    locks = {"delete": (POLICY.shared,)}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_view")
    def delete(self, request: Request, view: str) -> Response:
        gone, _ = KeptView.objects.filter(pk=view, owner_id=self.viewpoint.account or "").delete()
        if not gone:
            raise NotFound("view")
        return Response(status=204)
