"""Leftovers: what somebody can still change on a page or over a branch, part by part, the surprising first."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.limit.tree import subject_named
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.content.models import Node
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.engine import Engine
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import CHANGING

MOST_PAGES = 300


class LeftoverShape(serializers.Serializer):
    """One thing that can still be changed: in words, at how many pages, and what makes it surprising."""

    what = serializers.CharField()
    kind = serializers.ChoiceField(choices=["action", "field", "facet", "arrange"])
    pages = serializers.IntegerField()
    of = serializers.IntegerField(help_text="How many pages have such a thing.")
    roles = serializers.IntegerField(help_text="How many other roles let somebody do the same, on the first of them.")
    locked_elsewhere = serializers.BooleanField(help_text="Whether the same is locked on another of the pages.")


class LeftoversShape(serializers.Serializer):
    title = serializers.CharField()
    pages = serializers.IntegerField()
    leftovers = LeftoverShape(many=True)


@dataclass(slots=True)
class _Found:
    """Pages that have a part, and those on which it can be changed."""

    kind: str
    words: str
    have: set[str] = field(default_factory=set)
    may: list[tuple[Target, dict[str, Any]]] = field(default_factory=list)
    locked: bool = False


class LeftoversView(GuardedView):
    doors = {"get": May("limits.set")}

    @extend_schema(
        responses=LeftoversShape,
        operation_id="leftovers",
        parameters=[
            OpenApiParameter("who", str, description="`role KEY`, `group KEY`, `account ID` or `visitor`."),
            OpenApiParameter("own", bool, description="Whether a made-up holder wrote the pages."),
            OpenApiParameter("node", str),
            OpenApiParameter("branch", str),
        ],
    )
    def get(self, request: Request) -> Response:
        """Under what one has staged; of a branch, at most MOST_PAGES pages that one sees. Two queries."""
        here, asked = self.viewpoint, request.query_params
        place = asked.get("branch") or asked.get("node") or ""
        if place not in here.sight.nodes or place not in here.nodes.tree:
            raise NotFound
        proposed = staged_policy(here.account or "", here.snapshot.policy)
        engine = here.engine if proposed is here.engine.policy else here.engine.changed(proposed)
        who = subject_named(asked.get("who", ""), proposed, here.sight)
        if isinstance(who, HypotheticalSubject):
            who = HypotheticalSubject(who.roles, asked.get("own") == "true", groups=who.groups)
        tree = here.nodes.tree
        beneath = [n.id for n in tree.nodes[tree.branch(place)]] if asked.get("branch") else [place]
        seen = [id for id in beneath if here.in_sight.whole[tree.index[id]]]
        if len(seen) > MOST_PAGES:
            raise Invalid({"/branch": f"There are more than {MOST_PAGES} pages beneath. Choose a smaller branch."})
        found = self._found(engine, who, seen)
        told = [self._told(one, engine, who) for one in found.values() if one.may]
        told.sort(key=lambda row: (not row["locked_elsewhere"], row["roles"], -row["pages"], row["what"]))
        return Response({"title": here.nodes.titles[place], "pages": len(seen), "leftovers": told})

    def _found(self, engine: Engine, who: Who, nodes: Sequence[str]) -> dict[tuple[str, ...], _Found]:
        components = dict(Node.objects.filter(pk__in=nodes).values_list("id", "components"))
        found: dict[tuple[str, ...], _Found] = {}
        locks = defaultdict(set)
        for lock in engine.policy.locks.values():
            locks[lock.node].add((lock.field, lock.component))
        for node in nodes:
            target = engine.tree.target(node)
            for key, kind, words, part in self._parts(target, components.get(node, [])):
                one = found.setdefault(key, _Found(kind, words))
                one.have.add(node)
                one.locked |= (part.get("field"), part.get("component_id")) in locks[node]
                if engine.decide(Question(who, target=target, at=self.viewpoint.at, **part)).allow:
                    one.may.append((target, part))
        return found

    def _parts(
        self, target: Target, components: list[dict[str, Any]]
    ) -> Iterator[tuple[tuple[str, ...], str, str, dict[str, Any]]]:
        """Everything of a page that could be changed: a key that is alike on other pages, its kind, words, question."""
        catalogue = self.viewpoint.catalogue
        type = catalogue.type(target.type)
        for action in sorted(CHANGING):
            words = f"{catalogue.action(action).replace(' this', '').capitalize()} {type.plural}"
            yield ("action", action, type.key), "action", words, {"action": action}
        for f in type.fields:
            words = f"{f.name} of {type.plural}"
            yield ("field", type.key, f.key), "field", words, {"action": "change-field", "field": f.key}
        for component in components:
            kind = catalogue.components.get(component["kind"])
            if kind is None:
                continue
            part = {"component": kind.key, "component_id": component["id"]}
            for facet in kind.facets:
                words = f"{facet.capitalize()} of a {kind.name.lower()}"
                yield ("facet", kind.key, facet), "facet", words, {"action": "change-facet", "facet": facet, **part}
            words = f"Where a {kind.name.lower()} stands, and taking it out"
            yield ("arrange", kind.key), "arrange", words, {"action": "arrange-component", **part}

    def _told(self, one: _Found, engine: Engine, who: Who) -> dict[str, Any]:
        target, part = one.may[0]
        mine = set(who.roles) if isinstance(who, HypotheticalSubject) else set()
        roles = [role for role in engine.policy.roles if role not in engine.policy.baseline and role not in mine]
        others = sum(
            engine.decide(Question(HypotheticalSubject((role,)), target=target, at=self.viewpoint.at, **part)).allow
            for role in roles
        )
        pages = {target.id for target, _ in one.may}
        return {
            "what": one.words,
            "kind": one.kind,
            "pages": len(pages),
            "of": len(one.have),
            "roles": others,
            "locked_elsewhere": one.locked,
        }
