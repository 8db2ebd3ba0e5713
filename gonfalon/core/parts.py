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
from gonfalon.core.planes import MOST_ACTIONS, Bools
from gonfalon.core.policy import OPEN_FIELD, FieldRule, Policy
from gonfalon.core.survey import Surveyor, has, near_to, reaching, without
from gonfalon.core.vocabulary import FIELDS_PRIVATE, PROFILE, Effect

_MOST_TYPES = MOST_ACTIONS - 3


class Restricted(NamedTuple):
    """The parts that policies restrict: fields, components, and facets of components."""

    fields: frozenset[tuple[str, str]]
    components: frozenset[str]
    facets: frozenset[tuple[str, str]]

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
        return cls(frozenset(fields), frozenset(components), frozenset(facets))

    def split(self) -> "Iterator[Restricted]":
        """The same in pieces that each name no more types than one plan has room for."""
        types = sorted({type for type, _ in self.fields})
        for first in range(0, max(len(types), 1), _MOST_TYPES):
            some = types[first : first + _MOST_TYPES]
            fields = frozenset(key for key in self.fields if key[0] in some)
            yield Restricted(fields, *((frozenset(), frozenset()) if first else (self.components, self.facets)))

    @property
    def any(self) -> bool:
        return bool(self.fields or self.components or self.facets)


class Parts:
    """Answers about restricted parts of the nodes at some ascending positions, under one policy."""

    def __init__(self, survey: Surveyor, restricted: Restricted, positions: NDArray[np.intp]) -> None:
        self.survey, self.policy, self.restricted = survey, survey.policy, restricted
        types = sorted({type for type, _ in restricted.fields})
        self.actions = ("see", "edit", FIELDS_PRIVATE, *(f"create:{type}" for type in types))
        self.sheet = survey.sheet(survey.plan(self.actions, alone=True), positions)

    def footing(self, who: Holding) -> Hashable:
        """What `answers` rests on, as `Surveyor.footing`."""
        by_role = {role for key in self.restricted.fields for role in self._rule(key).table}
        told = {key for key, role in self.policy.roles.items() if role.components is not None or role.facets}
        spoken = frozenset((s.scope, s.said, r) for s in who.sources for r in s.roles if r in by_role or r in told)
        wrote = who.account is not None and self.sheet.wrote(who.account)
        own = who.account.id if who.account and wrote and self.restricted.fields else None
        return self.survey.footing(self.sheet, who), spoken, own

    def answers(self, who: Holding) -> dict[str, Bools]:
        """`[positions]` yes or no for each restricted part, by its action and name."""
        may = dict(zip(self.actions, self.sheet.plan.unpacked(self.survey.bits(self.sheet, who)).T, strict=True))
        passes = who.keyholder and who.active
        answers: dict[str, Bools] = {}
        for key in sorted(self.restricted.fields):
            name, rule = ".".join(key), self._rule(key)
            of_type = self._of_type(key[0])
            for verb, whole in (("see", may["see"] & of_type), ("change", may["edit"] & of_type)):
                closed = self._locked(key, who) if verb == "change" and not passes else False
                passed = passes or (self._passes(rule, verb, who, may[FIELDS_PRIVATE], None) & ~np.bool_(closed))
                answers[f"{verb}-field {name}"] = whole & passed
            filled = passes or self._passes(rule, "fill", who, may[FIELDS_PRIVATE], key[0])
            answers[f"fill-field {name}"] = may[f"create:{key[0]}"] & filled
        if not (self.restricted.components or self.restricted.facets):
            return answers
        giving = list(self._giving(who))
        for component in sorted(self.restricted.components):
            allowed = [top for top, roles in giving if allows_component(self.policy, roles, component)]
            answers[f"insert-component {component}"] = may["edit"] & (passes or _any(allowed, self.sheet.length))
        for component, facet in sorted(self.restricted.facets):
            allowed = [top for top, roles in giving if allows_facet(self.policy, roles, component, facet)]
            answers[f"change-facet {component}.{facet}"] = may["edit"] & (passes or _any(allowed, self.sheet.length))
        return answers

    def _rule(self, key: tuple[str, str]) -> FieldRule:
        return self.policy.fields.get(key, OPEN_FIELD)

    def _of_type(self, type: str) -> Bools:
        names = np.repeat([name == type for name in self.sheet.tree.type_names], 2)
        of_type: Bools = names[self.sheet.kinds]
        return of_type

    def _passes(self, rule: FieldRule, verb: str, who: Holding, private: Bools, new: str | None) -> Bools:
        """Where a field rule lets a verb pass; `new` is the type of a node about to be made there."""
        everywhere = np.ones(self.sheet.length, dtype=bool)
        if rule.mode == "open" or (rule.mode == "author" and verb == "fill"):
            return everywhere
        own = self._own(who)
        if rule.mode == "author":
            return own | private
        passes = ~everywhere
        for source in who.sources:
            marks = frozenset(mark for role in source.roles for mark in rule.table.get(role, ()))
            if verb == "fill":
                here = everywhere if "fill" in marks else ~everywhere
            elif f"{verb}-all" in marks:
                here = everywhere
            else:
                here = own if f"{verb}-own" in marks else ~everywhere
            if here.any():
                column = self.actions.index("see" if new is None else f"create:{new}")
                covers = self.sheet.covers(source.scope)
                passes |= here if covers is None else here & has(covers, column)
        return passes

    def _own(self, who: Holding) -> Bools:
        if who.own:
            return np.ones(self.sheet.length, dtype=bool)
        own = self.sheet.by(who.account, team=False) if who.account else None
        return np.zeros(self.sheet.length, dtype=bool) if own is None else own != 0

    def _locked(self, key: tuple[str, str], who: Holding) -> Bools:
        """Where a lock on the field closes it to somebody."""
        nodes = {k.node for k in self.policy.locks.values() if k.field == key[1]}
        locked = np.zeros(self.sheet.length, dtype=bool)
        tree, positions = self.sheet.tree, self._positions
        for node in nodes:
            if node in tree:
                locked |= positions == tree.index[node]
        plan = self.sheet.plan
        if plan.opens is None or not locked.any():
            return locked
        passed = self.survey.granted(self.sheet, who)
        return locked & ~has(passed, plan.opens)

    @cached_property
    def _positions(self) -> NDArray[np.intp]:
        if self.sheet.positions is None:
            return np.arange(self.sheet.length)
        return self.sheet.positions

    def _giving(self, who: Holding) -> Iterable[tuple[Bools, tuple[str, ...]]]:
        """The sources that reach the top for `T.edit`, with where, and their roles."""
        near = near_to(self.sheet, who)
        column = self.actions.index("edit")
        for source in who.sources:
            given = reaching(self.sheet, source, near)
            if given is not None:
                top = without(given, self.sheet.in_force(source.subjects, Effect.STOP))
                yield has(top, column), source.roles


def _any(found: list[Bools], length: int) -> Bools:
    some: Bools = np.logical_or.reduce([np.zeros(length, dtype=bool), *found])
    return some
