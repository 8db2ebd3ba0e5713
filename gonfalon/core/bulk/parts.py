"""Fields, components and facets over many nodes at once, with the same answers as `decide` (§5).

    parts = Parts.at(surveyor, restricted, positions)
    parts.answers(parts.evaluator([holding]))["see-field berth.dues"]      # [1, positions] booleans

Only what some rule or role restricts is a part here: the rest goes as `see`, `edit` and `create` go.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from functools import cached_property, partial
from typing import NamedTuple

import numpy as np

from gonfalon.core.bulk.columns import MOST_ACTIONS
from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.node_batch import NodeBatch
from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.decide.grants import SubjectGrants, allows_component, allows_facet
from gonfalon.core.model.bits import Bools, Ints, has
from gonfalon.core.model.policy import OPEN_FIELD, FieldRule, Policy
from gonfalon.core.model.vocabulary import FIELDS_PRIVATE, PROFILE


class Restricted(NamedTuple):
    """Parts that policies restrict: fields seen and changed, fields filled, components, facets of components."""

    fields: frozenset[tuple[str, str]] = frozenset()
    filled: frozenset[tuple[str, str]] = frozenset()
    components: frozenset[str] = frozenset()
    facets: frozenset[tuple[str, str]] = frozenset()

    @classmethod
    def by(cls, policies: Iterable[Policy]) -> "Restricted":
        """What any of some policies restricts."""
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

    def pieces(self) -> "Iterator[Restricted]":
        """The same in pieces that ask about different actions, each small enough for one columns."""
        if self.fields:
            yield Restricted(fields=self.fields)
        types = sorted({type for type, _ in self.filled})
        for first in range(0, len(types), MOST_ACTIONS):
            some = types[first : first + MOST_ACTIONS]
            yield Restricted(filled=frozenset(key for key in self.filled if key[0] in some))
        if self.components or self.facets:
            yield Restricted(components=self.components, facets=self.facets)


class Parts:
    """Answers about one piece of restricted parts, at the nodes of a batch, under one policy."""

    def __init__(self, policy: Policy, restricted: Restricted, batch: NodeBatch) -> None:
        self.policy, self.restricted, self.batch = policy, restricted, batch
        self.actions = restricted.actions
        self._types: dict[str, Bools] = {}

    @classmethod
    def at(cls, survey: Surveyor, restricted: Restricted, positions: Ints) -> "Parts":
        """The same at some ascending positions of the tree."""
        return cls(survey.policy, restricted, survey.batch(survey.columns(restricted.actions, alone=True), positions))

    def evaluator(self, holders: Sequence[SubjectGrants]) -> BatchEvaluator:
        """Holders on these nodes, for `answers`."""
        return BatchEvaluator.of(self.batch, holders)

    def equivalence_keys(self, evaluator: BatchEvaluator) -> list[Hashable]:
        """What `answers` rests on for a stranger, as `BatchEvaluator.equivalence keys`."""
        source_index, telling = self.batch.policy_index.source_index, self._telling
        speaking = np.array([not telling.isdisjoint(said.roles) for said in source_index.tables.every], dtype=bool)
        pieces = None
        if self.restricted.components or self.restricted.facets:
            said = source_index.grant_rows[evaluator.grants[evaluator.counting], SourceColumn.STATEMENTS]
            pieces = np.where(speaking[said], said + 1, 0)[evaluator.grant]
        spoken = self._spoken(evaluator, speaking)
        return list(zip(evaluator.equivalence_keys(pieces), spoken, strict=True))

    def _spoken(self, evaluator: BatchEvaluator, speaking: Bools) -> list[frozenset[int]]:
        """By holder the grants of roles that what is asked here depends on by name, wherever they cover something."""
        subjects = evaluator.subjects
        grant_rows = self.batch.policy_index.source_index.grant_rows[subjects.numbers]
        first, last = (self.batch.rows_from(grant_rows[:, edge]) for edge in (SourceColumn.START, SourceColumn.END))
        minded = (speaking[grant_rows[:, SourceColumn.STATEMENTS]] & (first < last)).nonzero()[0]
        spoken: list[list[int]] = [[] for _ in range(len(subjects))]
        for i, number in zip(subjects.holder[minded].tolist(), subjects.numbers[minded].tolist(), strict=True):
            spoken[i].append(number)
        return [frozenset(numbers) for numbers in spoken]

    def depends_on_author(self, evaluator: BatchEvaluator) -> Bools:
        """`[holders]` whether it can count for their answers here who wrote a node."""
        rules = [self.rule(key) for key in self.restricted.fields]
        if any(rule.mode == "author" for rule in rules):
            return np.ones(len(evaluator.subjects), dtype=bool)
        tables = [rule for rule in rules if rule.mode == "table"]
        depending = [any(_minds(rule, who) for rule in tables) for who in evaluator.holders]
        either: Bools = evaluator.depends_on_author() | np.array(depending, dtype=bool)
        return either

    def answers(self, evaluator: BatchEvaluator, relation: AuthorRelation | None = None) -> dict[str, Bools]:
        """`[holders, positions]` yes or no for each restricted part, by its action and name."""
        return dict(_Asked(self, evaluator, relation).answers())

    def rule(self, key: tuple[str, str]) -> FieldRule:
        """The rule of a field, by type and field; open where there is none."""
        return self.policy.fields.get(key, OPEN_FIELD)

    def of_type(self, type: str) -> Bools:
        """The positions with a node of a type."""
        if type not in self._types:
            names = np.repeat([name == type for name in self.batch.tree.type_names], 2)
            self._types[type] = names[self.batch.kinds]
        return self._types[type]

    def locked(self, field: str) -> Bools | None:
        """The positions with a lock on a field; None when there is none."""
        nodes = {k.node for k in self.policy.locks.values() if k.field == field}
        tree = self.batch.tree
        at = [tree.index[node] for node in nodes if node in tree]
        positions = np.arange(self.batch.length) if self.batch.positions is None else self.batch.positions
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

    def __init__(self, parts: Parts, evaluator: BatchEvaluator, relation: AuthorRelation | None) -> None:
        self.parts, self.evaluator, self.relation = parts, evaluator, relation
        self.batch, self.policy, self.holders = parts.batch, parts.policy, evaluator.holders
        bits = evaluator.alone(relation)
        self.shape = bits.shape
        self.may = {action: has(bits, i) for i, action in enumerate(parts.actions)}
        self.may_all = evaluator.subjects.unbound[:, None]

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
            yield "edit", self.may["edit"]
            yield from self._components()

    def _components(self) -> Iterator[tuple[str, Bools]]:
        evaluator, edit, source_index = self.evaluator, self.may["edit"], self.batch.policy_index.source_index
        said = source_index.grant_rows[evaluator.grants[evaluator.counting], SourceColumn.STATEMENTS][evaluator.grant]
        kept: dict[bytes, Bools] = {}
        saids, which = np.unique(said, return_inverse=True)

        def among(allows: Callable[[tuple[str, ...]], bool]) -> Bools:
            """Where a source whose role allows it reaches the top for editing."""
            allowing = np.array([allows(source_index.tables.every[number].roles) for number in saids], dtype=bool)
            key = allowing.tobytes()
            if key not in kept:
                given = has(evaluator.given(self.relation, allowing[which]), self.parts.actions.index("edit"))
                kept[key] = edit & (self.may_all | given)
            return kept[key]

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
        if rule.mode == "author":
            for row, who in zip(passes, self.holders, strict=True):
                row[self._own(who)] = True
        else:
            column = self.parts.actions.index(f"create:{key[0]}" if verb == "fill" else "see")
            self._by_table(passes, rule, verb, column)
        return passes

    def _by_table(self, passes: Bools, rule: FieldRule, verb: str, column: int) -> None:
        """Let pass what the rows of a table say of each holder's roles, within the scope each is given in."""
        evaluator, batch, source_index = self.evaluator, self.batch, self.batch.policy_index.source_index
        grant_rows = source_index.grant_rows[evaluator.subjects.numbers]
        saids, said = np.unique(grant_rows[:, SourceColumn.STATEMENTS], return_inverse=True)
        each = [_marks(rule, source_index.tables.every[number].roles) for number in saids.tolist()]
        anybodys = np.array([not marks.isdisjoint({verb, f"{verb}-all"}) for marks in each], dtype=bool)
        own = np.array([f"{verb}-own" in marks for marks in each], dtype=bool)
        some = (anybodys | own)[said].nonzero()[0]
        first, last = (batch.rows_from(grant_rows[some, edge]) for edge in (SourceColumn.START, SourceColumn.END))
        holder = evaluator.subjects.holder[some]
        filters = list(source_index.filters)
        pairs = zip(
            holder.tolist(),
            said[some].tolist(),
            grant_rows[some, SourceColumn.FILTER].tolist(),
            first,
            last,
            strict=True,
        )
        for i, number, within, start, end in pairs:
            here = np.zeros(batch.length, dtype=bool)
            here[batch.everything if anybodys[number] else self._own(self.holders[i])] = True
            mask = batch.mask(filters[within])
            passes[i, start:end] |= here[start:end] if mask is None else (here & has(mask, column))[start:end]

    def _own(self, who: SubjectGrants) -> slice | Ints:
        """The rows that the holder wrote, or is supposed to have written."""
        if who.as_author or self.relation is AuthorRelation.OWN:
            return self.batch.everything
        if who.account is None or self.relation is not None:
            return slice(0, 0)
        return self.batch.rows_by(who.account)

    def _unlocked(self, field: str) -> Bools:
        """Where no lock closes the field to the holder."""
        locked, columns = self.parts.locked(field), self.batch.columns
        if locked is None or columns.opens is None:
            return np.ones(self.shape, dtype=bool)
        return ~locked | has(self.evaluator.granted(self.relation), columns.opens)


def _marks(rule: FieldRule, roles: Iterable[str]) -> frozenset[str]:
    """What the rows of some roles in a field's table say."""
    return frozenset(mark for role in roles for mark in rule.table.get(role, ()))


def _minds(rule: FieldRule, who: SubjectGrants) -> bool:
    """Whether a row of the holder's in a field's table says more of what they wrote themselves."""
    rows = (rule.table.get(role, frozenset()) for source in who.sources for role in source.roles)
    return any(not row.isdisjoint({"see-own", "change-own"}) for row in rows)
