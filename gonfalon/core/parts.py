"""Fields, components and facets over many nodes at once, with the same answers as `decide` (§5).

    parts = Parts(surveyor, policies, positions)
    parts.answers([holding])["see-field berth.dues"]      # [1, positions] booleans

Only what some rule or role restricts is a part here: the rest goes as `see`, `edit` and `create` go.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from functools import cached_property, partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.crowd import footing, granted, has, may, minds_author, reached
from gonfalon.core.ground import Rows
from gonfalon.core.holding import Holding, allows_component, allows_facet
from gonfalon.core.plan import MOST_ACTIONS, Bools
from gonfalon.core.policy import OPEN_FIELD, FieldRule, Policy
from gonfalon.core.survey import Surveyor
from gonfalon.core.vocabulary import FIELDS_PRIVATE, PROFILE, Extent


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

    @property
    def actions(self) -> tuple[str, ...]:
        """What one piece, as `apart` makes them, asks about the nodes."""
        if self.filled:
            return tuple(f"create:{type}" for type in sorted({type for type, _ in self.filled}))
        return ("see", "edit", FIELDS_PRIVATE) if self.fields else ("edit",)

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
        self.actions = restricted.actions
        self.sheet = survey.sheet(survey.plan(self.actions, alone=True), positions)
        self._types: dict[str, Bools] = {}

    def footing(self, who: Holding) -> Hashable:
        """What `answers` rests on for a stranger, as `crowd.footing`."""
        telling = [source for source in who.sources if not self._telling.isdisjoint(source.roles)]
        spoken = frozenset((s.scope, key) for s in telling for key in s.roles if key in self._telling)
        giving = None
        if self.restricted.components or self.restricted.facets:
            giving = frozenset(
                (None if self._telling.isdisjoint(source.roles) else source.said, alike.number)
                for source in who.sources
                if (alike := self.sheet.alike(source)) is not None
            )
        return footing(self.sheet, who), spoken, giving

    def minds_author(self, who: Holding) -> bool:
        """Whether it can count for somebody's answers here who wrote a node."""
        rules = [self.rule(key) for key in self.restricted.fields]
        if any(rule.mode == "author" or (rule.mode == "table" and _minds(rule, who)) for rule in rules):
            return True
        return minds_author(self.sheet, who)

    def answers(self, holders: Sequence[Holding], near: Extent | None = None) -> dict[str, Bools]:
        """`[holders, positions]` yes or no for each restricted part, by its action and name; see `crowd.may`."""
        return dict(_Asked(self, holders, near).answers())

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
    """The answers to some holders, at some rows."""

    def __init__(self, parts: Parts, holders: Sequence[Holding], near: Extent | None) -> None:
        self.parts, self.holders, self.near = parts, holders, near
        self.sheet, self.policy = parts.sheet, parts.policy
        bits = may(self.sheet, holders, near)
        self.shape = bits.shape
        self.may = {action: has(bits, i) for i, action in enumerate(parts.actions)}
        self.may_all = np.array([who.keyholder and who.active for who in holders], dtype=bool)[:, None]

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
        giving, edit = [list(self._giving(who)) for who in self.holders], self.may["edit"]

        def among(allows: Callable[[tuple[str, ...]], bool]) -> Bools:
            answer: Bools = np.broadcast_to(self.may_all, self.shape).copy()
            for row, tops in zip(answer, giving, strict=True):
                for top, roles in tops:
                    if allows(roles):
                        row |= top
            return edit & answer

        for component in sorted(self.parts.restricted.components):
            yield f"insert-component {component}", among(partial(allows_component, self.policy, component=component))
        for component, facet in sorted(self.parts.restricted.facets):
            allows = partial(allows_facet, self.policy, component=component, facet=facet)
            yield f"change-facet {component}.{facet}", among(allows)

    def _passes(self, key: tuple[str, str], verb: str) -> Bools:
        """Where a field's rule lets a verb pass."""
        rule = self.parts.rule(key)
        if rule.mode == "open" or (rule.mode == "author" and verb == "fill"):
            return np.ones(self.shape, dtype=bool)
        passes: Bools = np.broadcast_to(self.may_all, self.shape).copy()
        if rule.mode == "author":
            passes |= self.may[FIELDS_PRIVATE]
        column = self.parts.actions.index(f"create:{key[0]}" if verb == "fill" else "see")
        for row, who in zip(passes, self.holders, strict=True):
            if rule.mode == "author":
                row[self._own(who)] = True
            else:
                self._by_table(row, who, rule, verb, column)
        return passes

    def _by_table(self, row: Bools, who: Holding, rule: FieldRule, verb: str, column: int) -> None:
        for source in who.sources:
            if rule.table.keys().isdisjoint(source.roles):
                continue
            marks = frozenset(mark for role in source.roles for mark in rule.table.get(role, ()))
            cover = self.sheet.covers(source.scope)
            if cover is None:
                continue
            if not marks.isdisjoint({verb, f"{verb}-all"}):
                row[cover.rows] |= True if cover.mask is None else has(cover.mask, column)
            elif f"{verb}-own" in marks:
                here = np.zeros(self.shape[1], dtype=bool)
                here[self._own(who)] = True
                row |= here & has(self.sheet.within(source.scope, self.sheet.all), column)

    def _own(self, who: Holding) -> slice | Rows:
        """The rows that the holder wrote, or is supposed to have written."""
        if who.own or self.near is Extent.OWN:
            return self.sheet.everything
        if who.account is None or self.near is not None:
            return slice(0, 0)
        return self.sheet.rows_by(who.account)

    def _unlocked(self, field: str) -> Bools:
        """Where no lock closes the field to the holder."""
        locked, plan = self.parts.locked(field), self.sheet.plan
        if locked is None or plan.opens is None:
            return np.ones(self.shape, dtype=bool)
        return ~locked | has(granted(self.sheet, self.holders, self.near), plan.opens)

    def _giving(self, who: Holding) -> Iterator[tuple[Bools, tuple[str, ...]]]:
        """The sources that reach the top for `T.edit`, with where, and their roles."""
        column = self.parts.actions.index("edit")
        for source in who.sources:
            given = reached(self.sheet, who, source, self.near)
            if given is not None:
                yield has(given, column), source.roles


def _minds(rule: FieldRule, who: Holding) -> bool:
    """Whether a row of the holder's in a field's table says more of what they wrote themselves."""
    rows = (rule.table.get(role, frozenset()) for source in who.sources for role in source.roles)
    return any(not row.isdisjoint({"see-own", "change-own"}) for row in rows)
