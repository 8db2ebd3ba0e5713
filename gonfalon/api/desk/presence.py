"""Two people on one page see that the other is there."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.desk.copy_data import tag_of
from gonfalon.api.desk.waiting import sees_copy
from gonfalon.api.guard import GuardedView, On
from gonfalon.content import presence, working_copies
from gonfalon.content.models import Node
from gonfalon.inputs import Input


class HereInput(Input):
    working = serializers.BooleanField(help_text="Whether one is on the working copy of the page.")


class OtherShape(serializers.Serializer):
    name = serializers.CharField()
    working = serializers.BooleanField()


class HereShape(serializers.Serializer):
    others = OtherShape(many=True)
    tag = serializers.CharField(help_text="Of what one has open as it is saved by now.")


class HereView(GuardedView):
    doors = {"put": On("see", desk=True)}
    locks = {"put": ()}

    @extend_schema(request=HereInput, responses=HereShape, operation_id="be_here")
    def put(self, request: Request, node: str) -> Response:
        """Say that one has a page open, which counts for a moment; who else has, as far as one knows of them.

        Nobody is told of a working copy whose page alone they may see. At most six queries.
        """
        given = HereInput(data=request.data)
        given.is_valid(raise_exception=True)
        here, row = self.viewpoint, self.place.row
        copies = row.state == Node.State.PUBLISHED and sees_copy(here, row.id)
        working = given.validated_data["working"] and copies
        if here.account is not None:
            presence.note(row.id, here.account, working=working)
        there = [one for one in presence.others(row.id, here.account or "") if copies or not one.working]
        names = names_of({one.account for one in there if one.account in here.sight.people})
        told = [{"name": names.get(one.account, HIDDEN_PERSON), "working": one.working} for one in there]
        tag = tag_of(working_copies.copy_of(row)) if working else str(row.version)
        return Response({"others": told, "tag": tag})
