"""Fields, components and facets over many nodes at once, with the same answers as `decide` (§5).

    parts = Parts(surveyor, policies, positions)
    parts.answers(holding)["see-field berth.dues"]      # a boolean for each position

Only what some rule or role restricts is a part here: the rest goes as `see`, `edit` and `create` go.
"""

from collections.abc import Hashable, Iterable, Iterator
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding, allows_component, allows_facet
from gonfalon.core.plan import MOST_ACTIONS, Bools
from gonfalon.core.policy import OPEN_FIELD, FieldRule, Policy
from gonfalon.core.survey import AUTHOR, Near, Surveyor, has, near_to, reaching, without
from gonfalon.core.vocabulary import FIELDS_PRIVATE, PROFILE, Effect


class Restricted(NamedTuple):
    """Parts that policies restrict: fields seen and changed, fields filled, components, facets of components."""

    fields: frozenset[tuple[str, str]] = frozenset()
    filled: frozenset[tuple[str, str]] = frozenset()
    components: frozenset[str] = frozenset()
    facets: frozenset[tuple[str, str]] = frozenset()

    @classmethod
    def by(cls, policies: Iterable[Policy]) -> "Restricted":
        fields: set[tuple[str, str]] = set()
        components: set[str] = set()
        facets: set[tuple[str, str]] = set()
        for policy in policies:
            fields |= {key for key, rule in policy.fields.items() if rule.mode != "open" and key[0] != PROFILE}
            for role in policy.roles.values():
                if role.components is not None:
                    components.update(policy.components)
                for component in role.facets:
                    facets |= {(component, facet) for facet in policy.components.get(component, ())}
        return cls(frozenset(fields), frozenset(fields), frozenset(components), frozenset(facets))

    def apart(self) -> "Iterator[Restricted]":
        """The same in pieces that ask about different actions, each small enough for one plan."""
        if self.fields:
            yield Restricted(fields=self.fields)
        types = sorted({type for type, _ in self.filled})
        for first in range(0, len(types), MOST_ACTIONS):
            some = types[first : first + MOST_ACTIONS]
            yield Restricted(filled=frozenset(key for key in self.filled if key[0] in some))
        if self.components or self.facets:
            yield Restricted(components=self.components, facets=self.facets)


class Parts:
    """Answers about one piece of restricted parts, at some ascending positions, under one policy."""

    def __init__(self, survey: Surveyor, restricted: Restricted, positions: NDArray[np.intp]) -> None:
        self.survey, self.policy, self.restricted = survey, survey.policy, restricted
        actions = ["see", "edit", FIELDS_PRIVATE] if restricted.fields else ["edit"]
        if restricted.filled:
            actions = [f"create:{type}" for type in sorted({type for type, _ in restricted.filled})]
        self.actions = tuple(actions)
        self.sheet = survey.sheet(survey.plan(self.actions, alone=True), positions)
        self._types: dict[str, Bools] = {}

    def footing(self, who: Holding) -> Hashable:
        """What `answers` rests on for a stranger, as `Surveyor.footing`."""
        spoken = frozenset((s.scope, key) for s in who.sources for key in s.roles if key in self._telling)
        giving = None
        if self.restricted.components or self.restricted.facets:
            giving = frozenset(
                (None if self._telling.isdisjoint(source.roles) else source.said, stand)
                for source in who.sources
                if (stand := self.sheet.stand(source)) is not None
            )
        return self.survey.footing(self.sheet, who), spoken, giving

    def minds_author(self, who: Holding) -> bool:
        """Whether it can count for somebody's answers here who wrote a node."""
        rules = [self.rule(key) for key in self.restricted.fields]
        if any(rule.mode == "author" or (rule.mode == "table" and _minds(rule, who)) for rule in rules):
            return True
        return self.survey.minds_author(self.sheet, who)

    def answers(self, who: Holding, near: Near | None = None) -> dict[str, Bools]:
        """`[positions]` yes or no for each restricted part, by its action and name; see `Surveyor.bits`."""
        return dict(_Asked(self, who, near).answers())

    def rule(self, key: tuple[str, str]) -> FieldRule:
        return self.policy.fields.get(key, OPEN_FIELD)

    def of_type(self, type: str) -> Bools:
        """The positions with a node of a type."""
        if type not in self._types:
            names = np.repeat([name == type for name in self.sheet.tree.type_names], 2)
            self._types[type] = names[self.sheet.kinds]
        return self._types[type]

    def locked(self, field: str) -> Bools | None:
        """The positions with a lock on a field; None when there is none."""
        nodes = {k.node for k in self.policy.locks.values() if k.field == field}
        tree = self.sheet.tree
        at = [tree.index[node] for node in nodes if node in tree]
        positions = np.arange(self.sheet.length) if self.sheet.positions is None else self.sheet.positions
        locked = np.isin(positions, at)
        return locked if locked.any() else None

    @cached_property
    def _telling(self) -> frozenset[str]:
        """The roles that what is asked here depends on by name."""
        if self.restricted.components or self.restricted.facets:
            roles = self.policy.roles.values()
            return frozenset(r.key for r in roles if r.components is not None or r.facets)
        keys = self.restricted.fields | self.restricted.filled
        return frozenset(role for key in keys for role in self.rule(key).table)


class _Asked:
    """The answers to one holder, at some rows."""

    def __init__(self, parts: Parts, who: Holding, near: Near | None) -> None:
        self.parts, self.who, self.near = parts, who, near
        self.survey, self.sheet, self.policy = parts.survey, parts.sheet, parts.policy
        bits = self.survey.bits(self.sheet, who, near)
        self.length = len(bits)
        self.may = dict(zip(parts.actions, self.sheet.plan.unpacked(bits).T, strict=True))
        self.may_all = who.keyholder and who.active

    def answers(self) -> Iterator[tuple[str, Bools]]:
        restricted = self.parts.restricted
        for key in sorted(restricted.fields):
            name, of_type = ".".join(key), self.parts.of_type(key[0])
            see, change = self.may["see"] & of_type, self.may["edit"] & of_type
            yield f"see-field {name}", see & self._passes(key, "see") if see.any() else see
            if change.any():
                change = change & self._passes(key, "change") & self._unlocked(key[1])
            yield f"change-field {name}", change
        for key in sorted(restricted.filled):
            create = self.may[f"create:{key[0]}"]
            yield f"fill-field {'.'.join(key)}", create & self._passes(key, "fill") if create.any() else create
        if restricted.components or restricted.facets:
            yield from self._components()

    def _components(self) -> Iterator[tuple[str, Bools]]:
        giving, edit = list(self._giving()), self.may["edit"]
        for component in sorted(self.parts.restricted.components):
            tops = [top for top, roles in giving if allows_component(self.policy, roles, component)]
            yield f"insert-component {component}", edit & self._any(tops)
        for component, facet in sorted(self.parts.restricted.facets):
            tops = [top for top, roles in giving if allows_facet(self.policy, roles, component, facet)]
            yield f"change-facet {component}.{facet}", edit & self._any(tops)

    def _passes(self, key: tuple[str, str], verb: str) -> Bools:
        """Where a field's rule lets a verb pass."""
        rule, nowhere = self.parts.rule(key), np.zeros(self.length, dtype=bool)
        if self.may_all or rule.mode == "open" or (rule.mode == "author" and verb == "fill"):
            return ~nowhere
        if rule.mode == "author":
            either: Bools = self._own | self.may[FIELDS_PRIVATE]
            return either
        column = self.parts.actions.index(f"create:{key[0]}" if verb == "fill" else "see")
        passes = nowhere
        for source in self.who.sources:
            marks = frozenset(mark for role in source.roles for mark in rule.table.get(role, ()))
            if not marks.isdisjoint({verb, f"{verb}-all"}):
                here = ~nowhere
            elif f"{verb}-own" in marks:
                here = self._own
            else:
                continue
            covers = self.sheet.covers(source.scope)
            passes = passes | (here if covers is None else here & has(covers, column))
        return passes

    @cached_property
    def _own(self) -> Bools:
        if self.who.own or self.near is AUTHOR:
            return np.ones(self.length, dtype=bool)
        own = None
        if self.who.account is not None and self.near is None:
            own = self.sheet.by(self.who.account, team=False)
        return np.zeros(self.length, dtype=bool) if own is None else has(own, 0)

    def _unlocked(self, field: str) -> Bools:
        """Where no lock closes the field to the holder."""
        locked, plan = self.parts.locked(field), self.sheet.plan
        if locked is None or plan.opens is None or self.may_all:
            return np.ones(self.length, dtype=bool)
        passed = self.survey.granted(self.sheet, self.who, self.near)
        return ~locked | has(passed, plan.opens)

    def _giving(self) -> Iterator[tuple[Bools, tuple[str, ...]]]:
        """The sources that reach the top for `T.edit`, with where, and their roles."""
        near = near_to(self.sheet, self.who) if self.near is None else self.near
        column = self.parts.actions.index("edit")
        for source in self.who.sources:
            given = reaching(self.sheet, source, near)
            if given is not None:
                top = without(given, self.sheet.in_force(source.subjects, Effect.STOP))
                yield has(top, column), source.roles

    def _any(self, found: list[Bools]) -> Bools:
        some: Bools = np.logical_or.reduce([np.full(self.length, self.may_all), *found])
        return some


def _minds(rule: FieldRule, who: Holding) -> bool:
    """Whether a row of the holder's in a field's table says more of what they wrote themselves."""
    rows = (rule.table.get(role, frozenset()) for source in who.sources for role in source.roles)
    return any(not row.isdisjoint({"see-own", "change-own"}) for row in rows)
