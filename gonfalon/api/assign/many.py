"""Many accounts at once: what is to be done to those chosen, or to all that filters find, previewed and staged."""

from collections.abc import Callable, Iterable
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.operations.accounts import last_keyholder
from gonfalon.access.roster import Roster
from gonfalon.accounts.names import names_of
from gonfalon.api.assign.roster import SHOWS, found_by
from gonfalon.api.changes.change_set import ChangeSetShape, change_set_data, require_duties, stage_all
from gonfalon.api.changes.impact import Telling
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.problems import Invalid
from gonfalon.core.checks.expectations import newly_broken
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.inputs import Input
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectations import sentences
from gonfalon.verify.preview import Preview, as_proposed
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

Operation = dict[str, Any]
MOST_NAMED = 8
MOST_PLACES = 50_000
"""So many things all scopes of one request may name together: each is looked at for each account."""
ACTIONS = ("give-role", "take-role", "join", "leave", "set-end", "disable", "enable")


class FilterInput(Input):
    search = serializers.CharField(allow_blank=True, default="")
    role = serializers.CharField(allow_blank=True, default="")
    group = serializers.CharField(allow_blank=True, default="")
    state = serializers.CharField(allow_blank=True, default="")
    show = serializers.ChoiceField(choices=["", *SHOWS], default="")


class ManyInput(Input):
    """Which accounts, and what is to be done: `role`, `group`, `scope`, `starts` and `ends` as the action needs."""

    accounts = serializers.ListField(child=serializers.CharField(), required=False, max_length=20_000)
    all_that_match = FilterInput(required=False)
    action = serializers.ChoiceField(choices=ACTIONS)
    role = serializers.CharField(required=False, allow_null=True)
    group = serializers.CharField(required=False, allow_null=True)
    scope = serializers.DictField(child=serializers.ListField(child=serializers.CharField()), required=False)
    starts = serializers.DateTimeField(required=False, allow_null=True)
    ends = serializers.DateTimeField(required=False, allow_null=True)

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        if ("accounts" in data) is ("all_that_match" in data):
            raise serializers.ValidationError({"accounts": "Name accounts, or filters that find them."})
        needed = {"give-role": "role", "take-role": "role", "set-end": "role", "join": "group", "leave": "group"}
        if (key := needed.get(data["action"])) and not data.get(key):
            raise serializers.ValidationError({key: f"Choose a {key}."})
        return data


class KeepsShape(serializers.Serializer):
    """Somebody to whom nothing happens although they were chosen, and why."""

    name = serializers.CharField()
    why = serializers.CharField()


class ManyPreviewShape(serializers.Serializer):
    chosen = serializers.IntegerField()
    changes = serializers.IntegerField()
    gain = serializers.IntegerField()
    lose = serializers.IntegerField()
    gaining = serializers.ListField(child=serializers.CharField(), help_text="The first few by name.")
    losing = serializers.ListField(child=serializers.CharField())
    keeps = KeepsShape(many=True)
    breaks = serializers.ListField(child=serializers.CharField(), allow_null=True)


class ManyPreviewView(GuardedView):
    doors = {"post": May("roster.see")}
    reads = frozenset({"post"})

    @extend_schema(request=ManyInput, responses=ManyPreviewShape, operation_id="preview_many")
    def post(self, request: Request) -> Response:
        """What it would do by itself: who gains, who loses, what would break, and who stays as they are."""
        asked = _read(request)
        chosen, proposed = _chosen(asked, self.viewpoint), self.viewpoint.snapshot.policy
        operations, keeps = operations_for(asked, chosen, proposed)
        require_duties(self.viewpoint, operations)
        preview = as_proposed(self.viewpoint, operations)
        touched = preview.touched
        told = Telling(self.viewpoint).touching(touched)
        gain, lose = (sorted(id for id in side if isinstance(id, str)) for side in (touched.gain, touched.lose))
        names = names_of([*gain[:MOST_NAMED], *lose[:MOST_NAMED], *(id for id, _ in keeps[:MOST_NAMED])])
        return Response(
            {
                "chosen": len(chosen),
                "changes": len(operations),
                "gain": told["gain"],
                "lose": told["lose"],
                "gaining": [names[id] for id in gain[:MOST_NAMED] if id in names],
                "losing": [names[id] for id in lose[:MOST_NAMED] if id in names],
                "keeps": [{"name": names[id], "why": why} for id, why in keeps[:MOST_NAMED] if id in names],
                "breaks": self._breaks(preview) if may(self.viewpoint, "expectations.keep") else None,
            }
        )

    def _breaks(self, preview: Preview) -> list[str]:
        stand = how_they_stand(self.viewpoint)
        broken = {e.id for e in newly_broken(stand.results, preview.touched)}
        return list(sentences((row for row in stand.rows if row.id in broken), self.viewpoint).values())


class ManyView(GuardedView):
    doors = {"post": May("roster.see")}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=ManyInput, responses=ChangeSetShape, operation_id="stage_many")
    def post(self, request: Request) -> Response:
        """Stage it for all of them at once; it is applied and undone as one."""
        asked = _read(request)
        policy = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        operations, _ = operations_for(asked, _chosen(asked, self.viewpoint), policy)
        if not operations:
            raise Invalid({"/accounts": "Nothing would change for any of them."})
        stage_all(self.viewpoint, operations, self.viewpoint.sight)
        return Response(change_set_data(self.viewpoint))


def _read(request: Request) -> dict[str, Any]:
    given = ManyInput(data=request.data)
    given.is_valid(raise_exception=True)
    data: dict[str, Any] = given.validated_data
    return data


def _chosen(asked: dict[str, Any], viewpoint: Viewpoint) -> list[str]:
    """The accounts meant, each once. Raises Invalid for one that there is not, or where a scope names too much for so
    many."""
    chosen = _named(asked, viewpoint)
    places = sum(map(len, asked.get("scope", {}).values()))
    if len(chosen) * places > MOST_PLACES:
        raise Invalid(
            {"/scope": f"For {len(chosen)} accounts at once a scope names at most {MOST_PLACES // len(chosen)}."}
        )
    return chosen


def _named(asked: dict[str, Any], viewpoint: Viewpoint) -> list[str]:
    known = viewpoint.snapshot.policy.accounts
    if "all_that_match" not in asked:
        chosen = list(dict.fromkeys(asked["accounts"]))
        if missing := next((id for id in chosen if id not in known), None):
            raise Invalid({"/accounts": f"There is no account “{missing}”."})
        return chosen
    filters = asked["all_that_match"]
    rows = found_by(filters, viewpoint, Roster(viewpoint.snapshot, viewpoint.at))
    show = filters["show"]
    return [row.id for row in rows if not show or SHOWS[show](row)]


def operations_for(
    asked: dict[str, Any], chosen: Iterable[str], policy: Policy
) -> tuple[list[Operation], list[tuple[str, str]]]:
    """What does it to each of the chosen; and to whom nothing happens, with the reason."""
    one: Callable[[str], list[Operation] | str] = {
        "give-role": _Giving(asked, policy).to,
        "take-role": _Taking(asked["role"], policy).of if asked.get("role") else lambda _: [],
        "set-end": _Taking(asked["role"], policy, asked.get("ends")).of if asked.get("role") else lambda _: [],
        "join": lambda id: _member(id, asked["group"], policy, member=True),
        "leave": lambda id: _member(id, asked["group"], policy, member=False),
        "disable": lambda id: _state(id, "disabled", policy),
        "enable": lambda id: _state(id, "active", policy),
    }[asked["action"]]
    operations: list[Operation] = []
    keeps: list[tuple[str, str]] = []
    for id in chosen:
        done = one(id)
        if isinstance(done, str):
            keeps.append((id, done))
        else:
            operations += done
    return operations, keeps


class _Giving:
    """Giving a role to whoever does not hold it directly in the same scope and period."""

    def __init__(self, asked: dict[str, Any], policy: Policy) -> None:
        self._data = {
            "kind": "give-role",
            "role": asked.get("role"),
            "scope": asked.get("scope") or {},
            "starts": asked.get("starts"),
            "ends": asked.get("ends"),
        }
        self._holding = {
            a.to.id
            for a in policy.assignments.values()
            if a.role == asked.get("role") and a.to.kind == "account" and a.scope.unrestricted and a.period.always
        }

    def to(self, id: str) -> list[Operation] | str:
        if id in self._holding:
            return "has it already, everywhere and without an end"
        return [{**self._data, "to": {"kind": "account", "id": id}}]


class _Taking:
    """Taking a role away, or setting the end of it, wherever it is given directly."""

    def __init__(self, role: str, policy: Policy, *ends: Any) -> None:
        self._ends, self._role, self._policy = ends, role, policy
        self._direct: dict[str, list[str]] = {}
        self._groups = set()
        for a in policy.assignments.values():
            if a.role == role and a.to.kind == "account":
                self._direct.setdefault(a.to.id, []).append(a.id)
            elif a.role == role:
                self._groups.add(a.to)

    def of(self, id: str) -> list[Operation] | str:
        ids = self._direct.get(id)
        if not ids:
            groups = map(Subject.group, self._policy.all_groups(self._policy.accounts[id]))
            return "has it through a group only" if self._groups.intersection(groups) else "does not have it"
        if self._ends:
            return [{"kind": "change-role", "assignment": a, "ends": self._ends[0]} for a in ids]
        return [{"kind": "take-role", "assignment": a} for a in ids]


def _member(id: str, group: str, policy: Policy, *, member: bool) -> list[Operation] | str:
    if (group in policy.accounts[id].groups) is member:
        return "is in it already" if member else "is not in it"
    return [{"kind": "set-member", "account": id, "group": group, "member": member}]


def _state(id: str, state: str, policy: Policy) -> list[Operation] | str:
    if policy.accounts[id].state == state or (state == "active" and policy.accounts[id].state == "invited"):
        return f"is {policy.accounts[id].state} already"
    if state == "disabled" and last_keyholder(id, policy):
        return "is the last active keyholder"
    return [{"kind": "set-state", "account": id, "state": state}]
