"""Extensions: which are installed, what each brings, and switching them on and off."""

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Extension, installed
from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version, with_words
from gonfalon.access.vocabulary import switch, vocabulary
from gonfalon.api.changes.impact import Telling, TouchedShape
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Engine
from gonfalon.core.diff.affected_accounts import affected_accounts
from gonfalon.inputs import Input
from gonfalon.ledger.models import Change, record
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY


class ExtensionShape(serializers.Serializer):
    """What an extension brings, how many roles say something of that, and how many pages in sight are of its kinds."""

    key = serializers.CharField()
    name = serializers.CharField()
    version = serializers.CharField()
    description = serializers.CharField()
    on = serializers.BooleanField()
    types = serializers.ListField(child=serializers.CharField())
    components = serializers.ListField(child=serializers.CharField())
    duties = serializers.ListField(child=serializers.CharField())
    roles = serializers.IntegerField(allow_null=True, help_text="For whoever may know what roles say.")
    pages = serializers.IntegerField()


class SwitchInput(Input):
    on = serializers.BooleanField()


class ExtensionsView(GuardedView):
    doors = {"get": May("roles.define", "site.settings")}

    @extend_schema(responses=ExtensionShape(many=True), operation_id="extensions", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Every extension installed. One query."""
        there, off = installed().extensions.values(), self.viewpoint.snapshot.words.off
        return paged(request, list(_data(there, off, self.viewpoint)))


class ExtensionView(GuardedView):
    doors = {"put": May("site.settings")}
    locks = {"put": (POLICY,)}

    @extend_schema(request=SwitchInput, responses=ExtensionShape, operation_id="switch_extension")
    def put(self, request: Request, extension: str) -> Response:
        """Switch one on or off. What is said about what it brings is kept, and counts again once it is on again."""
        if extension not in installed().extensions:
            raise NotFound("extension")
        given = SwitchInput(data=request.data)
        given.is_valid(raise_exception=True)
        on = given.validated_data["on"]
        if switch(extension, on=on):
            change = Change(what="extension", was="off" if on else "on", now="on" if on else "off")
            raise_version()
            name = installed().extensions[extension].name
            by, about, way = self.session.by, ("extension", extension), "on" if on else "off"
            record(by, "extension.switched", about=about, changes=[change], way=way, name=name)
        return Response(next(_data([installed().extensions[extension]], vocabulary().off, self.viewpoint)))


class SwitchedView(GuardedView):
    doors = {"get": May("site.settings")}

    @extend_schema(responses=TouchedShape, operation_id="extension_switched")
    def get(self, request: Request, extension: str) -> Response:
        """For whom anything would change if it were switched the other way. Nothing is written."""
        if extension not in installed().extensions:
            raise NotFound("extension")
        viewpoint, words = self.viewpoint, self.viewpoint.snapshot.words
        switched = replace(words, off=words.off ^ {extension})
        after = Engine(with_words(viewpoint.snapshot.policy, switched), viewpoint.nodes.tree)
        return Response(Telling(viewpoint).touching(affected_accounts(viewpoint.engine, after, viewpoint.at)))


def _data(extensions: Iterable[Extension], off: frozenset[str], viewpoint: Viewpoint) -> Iterator[dict[str, Any]]:
    tells = may(viewpoint, "roles.define")
    said = set(Answer.objects.values_list("role_id", "capability"))
    seen = viewpoint.in_sight.whole
    pages = Counter(node.type for i, node in enumerate(viewpoint.nodes.tree.nodes) if seen[i])
    for e in extensions:
        brings = set(e.brings)
        saying = {role for role, c in said if c in brings or c.partition(".")[0] in brings}
        yield {
            "key": e.key,
            "name": e.name,
            "version": e.version,
            "description": e.description,
            "on": e.key not in off,
            "types": [type.plural for type in e.types],
            "components": [component.name for component in e.components],
            "duties": [duty.name for duty in e.duties],
            "roles": len(saying) if tells else None,
            "pages": sum(pages[type.key] for type in e.types),
        }
