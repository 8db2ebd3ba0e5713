"""Find anything by words: roles, groups, accounts and pages, as far as whoever asks may know of them."""

from typing import Any

from django.db.models import Q
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.models import Role
from gonfalon.accounts.models import Account, Group
from gonfalon.api.guard import GuardedView, SignedIn, may
from gonfalon.core.model.vocabulary import DESK_OPEN

MOST = 8
"""Of each kind."""


class FoundShape(serializers.Serializer):
    kind = serializers.ChoiceField(choices=["role", "group", "account", "page"])
    id = serializers.CharField()
    name = serializers.CharField()
    note = serializers.CharField()


_LONGEST = 400
"""No name is as long: more characters than that find nothing."""


class FindView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(
        responses=FoundShape(many=True),
        operation_id="find",
        parameters=[OpenApiParameter("words", str, required=True)],
    )
    def get(self, request: Request) -> Response:
        """The first few of each kind whose name holds all the words. Three queries and what deciding costs."""
        asked = request.query_params.get("words", "")
        words = list(dict.fromkeys(asked.lower().split()))
        if not words or len(asked) > _LONGEST:
            return Response([])
        found: list[dict[str, Any]] = []
        if may(self.viewpoint, "roles.define"):
            found += _named(Role.objects.values_list("key", "name", "description"), words, "role")
        if self.viewpoint.sight.roster:
            groups = Group.objects.values_list("key", "name", "parent__name")
            named = ((key, name, f"in {above}" if above else "") for key, name, above in groups)
            found += _named(named, words, "group")
            accounts = Account.objects.all()
            for word in words:
                accounts = accounts.filter(Q(name__icontains=word) | Q(email__icontains=word))
            rows = accounts.order_by("name").values_list("id", "name", "email")[:MOST]
            found += [{"kind": "account", "id": id, "name": name, "note": email} for id, name, email in rows]
        if may(self.viewpoint, DESK_OPEN):
            found += self._pages(words)
        return Response(found)

    def _pages(self, words: list[str]) -> list[dict[str, Any]]:
        """Pages in sight; of one known by name alone, not even its kind is told."""
        nodes, sight = self.viewpoint.nodes, self.viewpoint.on_desk
        pages = (
            (n.id, nodes.titles[n.id], n.type if sight.whole[i] else "")
            for i, n in enumerate(nodes.tree.nodes)
            if n.tree == "content" and n.id in sight.named
        )
        return _named(pages, words, "page")


def _named(rows: Any, words: list[str], kind: str) -> list[dict[str, Any]]:
    """Those whose names hold all words, the shortest names first."""
    found = [row for row in rows if all(word in row[1].lower() for word in words)]
    found.sort(key=lambda row: (len(row[1]), row[1]))
    return [{"kind": kind, "id": id, "name": name, "note": note} for id, name, note in found[:MOST]]
