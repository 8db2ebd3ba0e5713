"""What is said of a role beside its board: where it is narrowed, which fields it has, where it is given."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names, capital, where_words
from gonfalon.access.entries.limits import APPLIES
from gonfalon.access.operations import plain
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.problems import NotFound
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import FIELD_MARKS

_MARKS = {
    "see-own": "see {field} of their own {plural}",
    "see-all": "see {field} of all {plural}",
    "change-own": "change {field} of their own {plural}",
    "change-all": "change {field} of all {plural}",
    "fill": "fill in {field} of new {plural}",
}


class BesideShape(serializers.Serializer):
    """In words that do not name the role, so that two roles can be held side by side; null where it is not told."""

    limits = serializers.ListField(child=serializers.CharField(), help_text="Of the role and those it builds on.")
    fields_said = serializers.ListField(
        child=serializers.CharField(), allow_null=True, help_text="For whoever sets limits."
    )
    given = serializers.ListField(child=serializers.CharField(), allow_null=True, help_text="For whoever sees people.")


class BesideView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(responses=BesideShape, operation_id="beside_board")
    def get(self, request: Request, role: str) -> Response:
        """What stands beside the board of a role, with what one has staged."""
        viewpoint = self.viewpoint
        policy = staged_policy(viewpoint.account or "", viewpoint.snapshot.policy)
        if role not in policy.roles:
            raise NotFound("role")
        limits = [k for k in policy.limits.values() if k.to.kind == "role" and k.to.id in policy.role_chain(role)]
        given = [a for a in policy.assignments.values() if a.role == role]
        told = [{**plain(one), "effect": str(getattr(one, "effect", ""))} for one in (*limits, *given)]
        names = Names(told, viewpoint.sight, viewpoint.catalogue)
        return Response(
            {
                "limits": _unlike(_limit_words(limit, names) for limit in told[: len(limits)]),
                "fields_said": _unlike(_field_words(role, policy, viewpoint.catalogue))
                if may(viewpoint, "limits.set")
                else None,
                "given": _unlike(capital(where_words(one["scope"], names)) for one in told[len(limits) :])
                if viewpoint.sight.roster
                else None,
            }
        )


def _limit_words(limit: dict[str, Any], names: Names) -> str:
    actions = "everything" if limit["actions"] is None else ", ".join(limit["actions"])
    return f"{capital(names.node(limit['node']))}: {limit['effect']} {actions}, {APPLIES[limit['applies']]}"


def _field_words(role: str, policy: Policy, catalogue: Catalogue) -> Iterator[str]:
    for (type, field), rule in policy.fields.items():
        kind = catalogue.type(type)
        for mark in FIELD_MARKS if rule.mode == "table" else ():
            if mark in rule.table.get(role, ()):
                yield capital(_MARKS[mark].format(field=kind.field_name(field).lower(), plural=kind.plural))


def _unlike(words: Iterator[str]) -> list[str]:
    return list(dict.fromkeys(words))
