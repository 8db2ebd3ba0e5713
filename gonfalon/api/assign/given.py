"""What is given to an account or a group, what of it one has staged, and how much it covers."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple

from rest_framework import serializers

from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.api.shapes import ScopeShape
from gonfalon.core.bulk.scopes import covered
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, DirectGrant, Policy, Scope, Subject
from gonfalon.viewpoint.viewpoint import Viewpoint

Anything = Assignment | DirectGrant


class BranchShape(serializers.Serializer):
    """A branch by name; all those out of sight together are one without an id."""

    id = serializers.CharField(allow_null=True)
    title = serializers.CharField()


class CoveredShape(serializers.Serializer):
    """How many pages and media a scope covers, of those in sight."""

    pages = serializers.IntegerField()
    media = serializers.IntegerField()


class GivenShape(serializers.Serializer):
    """A role or one capability given, directly or through a group; with what is staged about it."""

    id = serializers.CharField()
    role = serializers.CharField(allow_null=True)
    capability = serializers.CharField(allow_null=True)
    words = serializers.CharField(allow_null=True, help_text="The capability, as it reads after “may”.")
    says = serializers.CharField(allow_null=True)
    group = serializers.CharField(allow_null=True)
    scope = ScopeShape()
    branches = BranchShape(many=True)
    covers = CoveredShape(allow_null=True)
    starts = serializers.DateTimeField(allow_null=True)
    ends = serializers.DateTimeField(allow_null=True)
    active = serializers.BooleanField()
    staged = serializers.ChoiceField(choices=["", "new", "changed", "ending"])


class Given(NamedTuple):
    """Something given as it would be, and what is staged about it."""

    what: Anything
    staged: str


def given_to(subjects: set[Subject], policy: Policy, proposed: Policy) -> Iterator[Given]:
    """All that is given to some subjects: as it would be with what is staged, what is about to end included."""
    sides: list[tuple[Mapping[str, Anything], Mapping[str, Anything]]] = [
        (policy.assignments, proposed.assignments),
        (policy.direct_grants, proposed.direct_grants),
    ]
    for was, now in sides:
        for id, given in {**was, **now}.items():
            if given.to in subjects:
                same = was.get(id) == now.get(id)
                yield Given(given, "" if same else "new" if id not in was else "ending" if id not in now else "changed")


class Telling:
    """Tells what is given, as far as whoever asks may know of the places. No query."""

    def __init__(self, viewpoint: Viewpoint, given: Iterable[Given], more: Iterable[str] = ()) -> None:
        self._viewpoint = viewpoint
        every = {branch for g in given for branch in g.what.scope.branches or ()} | set(more)
        self._titles = {id: viewpoint.nodes.titles[id] for id in every if id in viewpoint.sight.nodes}
        self._covers: dict[Scope, dict[str, int]] = {}

    def branches(self, ids: Iterable[str]) -> list[dict[str, str | None]]:
        """Branches by name."""
        ids = set(ids)
        shown: list[dict[str, str | None]] = [
            {"id": id, "title": self._titles[id]} for id in sorted(ids) if id in self._titles
        ]
        return shown + [{"id": None, "title": HIDDEN_NODE}] * (len(shown) < len(ids))

    def scope(self, scope: Scope) -> dict[str, list[str]]:
        """Where something holds, without the ids of branches out of sight."""
        told = write_scope(scope)
        if "branches" in told:
            told["branches"] = [id for id in told["branches"] if id in self._titles]
        return told

    def covers(self, scope: Scope) -> dict[str, int]:
        """How many nodes in sight a scope covers, in each tree."""
        if scope not in self._covers:
            self._covers[scope] = covers(self._viewpoint, scope)
        return self._covers[scope]

    def data(self, given: Given) -> dict[str, Any]:
        """Something given, as `GivenShape` has it."""
        what = given.what
        direct = what if isinstance(what, DirectGrant) else None
        return {
            "id": what.id,
            "role": what.role if isinstance(what, Assignment) else None,
            "capability": direct and direct.capability,
            "words": direct and self._viewpoint.catalogue.phrase(direct.capability),
            "says": direct and direct.says,
            "group": what.to.id if what.to.kind == "group" else None,
            "scope": self.scope(what.scope),
            "branches": self.branches(what.scope.branches or ()),
            "covers": self.covers(what.scope),
            "starts": what.period.starts,
            "ends": what.period.ends,
            "active": what.period.active(self._viewpoint.at),
            "staged": given.staged,
        }


def covers(viewpoint: Viewpoint, scope: Scope) -> dict[str, int]:
    """How many nodes in sight a scope covers, in each tree."""
    tree = viewpoint.nodes.tree
    here = covered(tree, scope) & viewpoint.in_sight.whole
    media = tree.having("tree", frozenset({"media"}))
    return {"pages": int((here & ~media).sum()), "media": int((here & media).sum())}
