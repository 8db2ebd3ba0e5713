"""What all that an account holds adds up to: kinds by actions, duties, fields and components, each with its sources."""

from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np
from rest_framework import serializers

from gonfalon.access.catalogue import Component, Duty
from gonfalon.access.describe import Names
from gonfalon.api.assign.narrowed import NarrowedShape, narrowed
from gonfalon.core.decide.grants import GrantSource, allows_component, allows_facet, gives
from gonfalon.core.model.policy import FieldRule, Policy
from gonfalon.core.model.vocabulary import ACTIONS, PROFILE, Extent
from gonfalon.viewpoint.viewpoint import Viewpoint

Sources = tuple[GrantSource, ...]
Data = dict[str, Any]


class SumMarkShape(serializers.Serializer):
    role = serializers.CharField(allow_null=True)
    extent = serializers.IntegerField()
    baseline = serializers.BooleanField()
    barred = serializers.BooleanField()
    somewhere = serializers.BooleanField()


class ExampleShape(serializers.Serializer):
    """A page, or the profile of the account, by which one can ask why."""

    id = serializers.CharField()
    title = serializers.CharField()


class SumRowShape(serializers.Serializer):
    """A kind of content by actions."""

    example = ExampleShape(allow_null=True)
    type = serializers.CharField()
    marks = serializers.DictField(child=SumMarkShape(many=True))


class SumDutyShape(serializers.Serializer):
    """A duty that something gives or bars, in words, with the sources that do."""

    key = serializers.CharField()
    name = serializers.CharField()
    area = serializers.CharField()
    marks = SumMarkShape(many=True)


class SumFieldShape(serializers.Serializer):
    """A field that is not open to all, with what lets the account see, fill and change it: roles by verb."""

    type = serializers.CharField()
    type_name = serializers.CharField()
    key = serializers.CharField()
    name = serializers.CharField()
    example = ExampleShape(allow_null=True)
    author = serializers.BooleanField(help_text="Open to the author of a page alone, and to whoever may see all such.")
    see = SumMarkShape(many=True)
    fill = SumMarkShape(many=True)
    change = SumMarkShape(many=True)


class SumComponentShape(serializers.Serializer):
    """A component, with the sources that let the account insert it, and the facets that none lets it change."""

    key = serializers.CharField()
    name = serializers.CharField()
    marks = SumMarkShape(many=True)
    closed = serializers.ListField(child=serializers.CharField())


class SumShape(serializers.Serializer):
    kinds = SumRowShape(many=True)
    duties = SumDutyShape(many=True)
    fields_narrowed = SumFieldShape(many=True)
    components = SumComponentShape(many=True)
    narrowed = NarrowedShape(many=True)


def sum_of(account: str, sources: Sources, viewpoint: Viewpoint, names: Names) -> Data:
    """What sources come to, as `SumShape` has it; examples are pages that whoever asks may see."""
    catalogue, policy = viewpoint.snapshot.catalogue, viewpoint.snapshot.policy
    return {
        "kinds": list(_kinds(account, sources, viewpoint)),
        "duties": list(_duties(sources, catalogue.duties.values())),
        "fields_narrowed": list(_fields(account, sources, policy, viewpoint)),
        "components": list(_components(sources, policy, catalogue.components.values())),
        "narrowed": narrowed(account, sources, policy, names),
    }


def _kinds(account: str, sources: Sources, viewpoint: Viewpoint) -> Iterator[Data]:
    """For each type and action, the sources that give it, a longer one making shorter ones needless."""
    for type in viewpoint.snapshot.catalogue.types.values():
        marks = {action: list(_marks(sources, f"{type.key}.{action}")) for action in ACTIONS}
        if any(marks.values()):
            yield {"type": type.key, "marks": marks, "example": _example(account, type.key, viewpoint)}


def _example(account: str, type: str, viewpoint: Viewpoint) -> dict[str, str] | None:
    """A page of a type that whoever asks may see, one that the account wrote if there is any; of profiles, its own."""
    if type == PROFILE:
        return {"id": account, "title": "their own profile"}
    nodes, tree = viewpoint.nodes, viewpoint.nodes.tree
    seen = tree.matching_type(frozenset({type}))[tree.kinds // 2] & viewpoint.in_sight.whole
    mine = [int(i) for i in tree.by_author(account) if seen[i]]
    found = mine or np.flatnonzero(seen)[:1].tolist()
    if not found:
        return None
    id = tree.nodes[found[0]].id
    return {"id": id, "title": nodes.titles[id]}


def _duties(sources: Sources, duties: Iterable[Duty]) -> Iterator[Data]:
    for duty in duties:
        if marks := list(_marks(sources, duty.key)):
            yield {"key": duty.key, "name": duty.name, "area": duty.area, "marks": marks}


def _marks(sources: Sources, capability: str) -> Iterator[Data]:
    answers = [(s, s.statements[capability]) for s in sources if capability in s.statements]
    barring = [s for s, answer in answers if answer.says == "barred"]
    if barring:
        somewhere = all(not s.scope.unrestricted for s in barring)
        yield {"role": barring[0].role, "extent": 0, "baseline": False, "barred": True, "somewhere": somewhere}
        if not somewhere:
            return
    best: dict[str | None, tuple[Extent, bool, bool]] = {}
    for source, answer in answers:
        if gives(answer.says):
            extent, _, somewhere = best.get(source.role, (Extent.NONE, False, True))
            narrow = somewhere and not source.scope.unrestricted
            best[source.role] = (max(extent, answer.extent), source.kind == "baseline", narrow)
    beyond = [e for e, baseline, narrow in best.values() if not baseline and not narrow]
    for role, (extent, baseline, somewhere) in best.items():
        if not (baseline and any(e >= extent for e in beyond)):
            yield {
                "role": role,
                "extent": int(extent),
                "baseline": baseline,
                "barred": False,
                "somewhere": somewhere,
            }


def _fields(account: str, sources: Sources, policy: Policy, viewpoint: Viewpoint) -> Iterator[Data]:
    for type in viewpoint.snapshot.catalogue.types.values():
        for field in type.fields:
            rule = policy.fields.get((type.key, field.key))
            if rule is None or rule.mode == "open":
                continue
            yield {
                "type": type.key,
                "type_name": type.name,
                "key": field.key,
                "name": field.name,
                "example": _example(account, type.key, viewpoint),
                "author": rule.mode == "author",
                "see": _rows(sources, rule, "see-all", "see-own"),
                "fill": _rows(sources, rule, "fill"),
                "change": _rows(sources, rule, "change-all", "change-own"),
            }


def _rows(sources: Sources, rule: FieldRule, whole: str, own: str | None = None) -> list[Data]:
    """The sources with a mark in the table of a field: the rows of a role and of those it builds on add up (§5)."""
    found = []
    for source in sources:
        said = {mark for role in source.roles for mark in rule.table.get(role, ())}
        if whole in said or own in said:
            found.append(_mark(source, Extent.ALL if whole in said else Extent.OWN))
    return _once(found)


def _components(sources: Sources, policy: Policy, components: Iterable[Component]) -> Iterator[Data]:
    """Only what lets somebody edit something lets them insert anything."""
    edits = [f"{key}.edit" for key, type in policy.types.items() if type.tree]
    editing = [s for s in sources if any(c in s.statements and gives(s.statements[c].says) for c in edits)]
    for component in components:
        letting = [s for s in editing if allows_component(policy, s.roles, component.key)]
        closed = [
            facet
            for facet in component.facets
            if not any(allows_facet(policy, s.roles, component.key, facet) for s in editing)
        ]
        if editing:
            yield {
                "key": component.key,
                "name": component.name,
                "marks": _once([_mark(s, Extent.ALL) for s in letting]),
                "closed": closed,
            }


def _mark(source: GrantSource, extent: Extent) -> Data:
    return {
        "role": source.role,
        "extent": int(extent),
        "baseline": source.kind == "baseline",
        "barred": False,
        "somewhere": not source.scope.unrestricted,
    }


def _once(marks: list[Data]) -> list[Data]:
    """One mark a role: the longest, and everywhere before somewhere."""
    best: dict[str | None, Data] = {}
    for mark in sorted(marks, key=lambda mark: (-mark["extent"], mark["somewhere"])):
        best.setdefault(mark["role"], mark)
    return list(best.values())
