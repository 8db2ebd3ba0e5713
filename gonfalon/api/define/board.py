"""Define: what roles say, cell by cell: a board, one capability across all roles, what stands around a cell."""

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import models
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names, capital
from gonfalon.access.entries import LIMITS
from gonfalon.access.operations import plain
from gonfalon.access.vocabulary import kind_of
from gonfalon.accounts.names import names_of
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core.decide.grants import RoleResolver, gives
from gonfalon.core.decide.outcome import Outcome, Outcomes
from gonfalon.core.model.policy import Policy
from gonfalon.viewpoint.viewpoint import Viewpoint

SHOWN_HOLDERS = 8


class OutcomeShape(serializers.Serializer):
    """What counts in a cell: a word or null, whether it gives anything, whence it comes, and how it reads."""

    says = serializers.CharField(allow_null=True)
    given = serializers.BooleanField()
    source = serializers.ChoiceField(choices=["own", "built-on", "baseline"])
    by = serializers.CharField(allow_null=True)
    form = serializers.CharField(help_text="The key of the sentence, as the catalogue words it.")


class CellShape(serializers.Serializer):
    """One answer of a role: what it says itself, and what reaches its holders from elsewhere."""

    capability = serializers.CharField()
    said = serializers.CharField(allow_null=True)
    staged = serializers.BooleanField()
    inherited = serializers.CharField(allow_null=True)
    inherited_from = serializers.CharField(allow_null=True)
    baseline = serializers.CharField(allow_null=True)
    baseline_from = serializers.CharField(allow_null=True)
    outcomes = serializers.IntegerField(help_text="A place in the outcomes that come with the cells.")


class ListShape(serializers.Serializer):
    """A list a role says, or takes from one it builds on; null where neither says any: all is allowed then."""

    component = serializers.CharField(allow_null=True)
    said = serializers.ListField(child=serializers.CharField(), allow_null=True)
    inherited = serializers.ListField(child=serializers.CharField(), allow_null=True)
    inherited_from = serializers.CharField(allow_null=True)
    staged = serializers.BooleanField()


class Board:
    """What a role says about capabilities, and what that comes to, for each word that it may say instead.

    Many cells come to the same: their outcomes are told once, in `outcomes`, by word (nothing said: "").
    """

    def __init__(self, role: str, policy: Policy, says: RoleResolver) -> None:
        self._outcomes = Outcomes(says, role)
        self._said = says.policy.roles[role].grants
        self._was = policy.roles[role].grants if role in policy.roles else {}
        self._places: dict[tuple[tuple[str, Outcome], ...], int] = {}
        self.outcomes: list[dict[str, dict[str, Any]]] = []

    def cell(self, capability: str) -> dict[str, Any]:
        above = self._outcomes.above(capability)
        baseline = self._outcomes.strongest_of_baseline(capability)
        said = self._said.get(capability)
        return {
            "capability": capability,
            "said": said,
            "staged": said != self._was.get(capability),
            "inherited": above.says if above else None,
            "inherited_from": above.said_by if above else None,
            "baseline": baseline.says if baseline else None,
            "baseline_from": baseline.said_by if baseline else None,
            "outcomes": self._place(capability),
        }

    def _place(self, capability: str) -> int:
        each = {word or "": self._outcomes.if_said(capability, word) for word in self._outcomes.words(capability)}
        key = tuple(each.items())
        if key not in self._places:
            self._places[key] = len(self.outcomes)
            self.outcomes.append({word: {**of._asdict(), "given": of.given} for word, of in each.items()})
        return self._places[key]


def part_list(role: str, policy: Policy, proposed: Policy, component: str | None) -> dict[str, Any]:
    """The components a role may insert, or with `component` the facets of it that it may change."""

    def said(of: Policy, key: str) -> frozenset[str] | None:
        if key not in of.roles:
            return None
        return of.roles[key].components if component is None else of.roles[key].facets.get(component)

    above = [(key, said(proposed, key)) for key in proposed.role_chain(role)[1:]]
    inherited_from, inherited = next(((key, listed) for key, listed in above if listed is not None), (None, None))
    own = said(proposed, role)
    return {
        "component": component,
        "said": None if own is None else sorted(own),
        "inherited": None if inherited is None else sorted(inherited),
        "inherited_from": inherited_from,
        "staged": own != said(policy, role),
    }


class RoleCellShape(CellShape):
    role = serializers.CharField()
    outcomes = serializers.DictField(child=OutcomeShape(), help_text="By word; nothing said is the empty one.")


class CapabilityView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(
        responses=RoleCellShape(many=True),
        operation_id="capability",
        parameters=[OpenApiParameter("capability", str, required=True), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """What every role says about one capability, with what one has staged. A fixed number of queries."""
        capability = request.query_params.get("capability", "")
        policy = self.viewpoint.snapshot.policy
        if kind_of(capability, policy) is None:
            raise NotFound("capability")
        proposed = staged_policy(self.viewpoint.account or "", policy)
        says = RoleResolver(proposed)
        order = models.Role.objects.values_list("key", flat=True)
        return paged(request, [_role_cell(role, policy, says, capability) for role in order if role in proposed.roles])


def _role_cell(role: str, policy: Policy, says: RoleResolver, capability: str) -> dict[str, Any]:
    board = Board(role, policy, says)
    cell = board.cell(capability)
    return {"role": role, **cell, "outcomes": board.outcomes[cell["outcomes"]]}


class AlsoShape(serializers.Serializer):
    role = serializers.CharField()
    says = serializers.CharField()


class HolderShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    group = serializers.CharField(allow_null=True)


class CellContextShape(serializers.Serializer):
    """What stands around one cell: other roles that give the same, limits, and the role's holders.

    Holders are told to whoever sees the roster.
    """

    also = AlsoShape(many=True)
    narrowed = serializers.ListField(child=serializers.CharField())
    holders = HolderShape(many=True)


class CellContextView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(
        responses=CellContextShape,
        operation_id="cell_context",
        parameters=[OpenApiParameter("capability", str, required=True)],
    )
    def get(self, request: Request, role: str) -> Response:
        policy = self.viewpoint.snapshot.policy
        capability = request.query_params.get("capability", "")
        if role not in policy.roles or kind_of(capability, policy) is None:
            raise NotFound("cell")
        answers = self.viewpoint.snapshot.engine.grants.statements
        also = [
            {"role": key, "says": answers(key)[capability].says}
            for key in policy.roles
            if key != role and capability in answers(key) and gives(answers(key)[capability].says)
        ]
        held = self.viewpoint.holders.by_role[role] if self.viewpoint.sight.roster else []
        shown = list({h.account: h for h in held}.values())[:SHOWN_HOLDERS]
        names = names_of(h.account for h in shown)
        return Response(
            {
                "also": also,
                "narrowed": _narrowed(policy, role, capability, self.viewpoint),
                "holders": [{"id": h.account, "name": names[h.account], "group": h.group} for h in shown],
            }
        )


def _narrowed(policy: Policy, role: str, capability: str, viewpoint: Viewpoint) -> list[str]:
    verb = capability.split(".")[1] if capability.split(".")[0] in policy.types else capability
    action = {"see-draft": "see", "edit-live": "edit"}.get(verb, verb)
    chain = policy.role_chain(role)
    found = [k for k in policy.limits.values() if k.to.kind == "role" and k.to.id in chain and k.matches(action)]
    told = [{**plain(limit), "effect": str(limit.effect)} for limit in found]
    names = Names(told, viewpoint.sight, viewpoint.catalogue)
    return list(dict.fromkeys(f"{capital(names.node(limit['node']))}: {LIMITS.words(limit, names)}" for limit in told))
