"""From a no to a yes, for whoever may know of it: each change as it would be staged, and in a sentence.

    turns(question, viewpoint)      # [Turn(operations=[{"kind": "give-capability", …}], sentence="Let Ines Marrow …")]

What names a page or a person that the reader may not know of is left out.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from rest_framework.serializers import ValidationError

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.change_sets import read
from gonfalon.access.describe import Names, where_words
from gonfalon.access.operations.as_data import as_data
from gonfalon.access.sight import Sight
from gonfalon.core import Policy, Question
from gonfalon.core import operations as core
from gonfalon.core.checks.ending import endings
from gonfalon.core.checks.ranking import Way
from gonfalon.core.checks.turning import ways
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import OPEN_FIELD, Limit
from gonfalon.core.model.vocabulary import ACTIONS, WITHHELD, Effect
from gonfalon.viewpoint.viewpoint import Viewpoint

Data = dict[str, Any]
FAR = {"own": "that they wrote", "team": "that their team wrote", "all": "", "yes": ""}


@dataclass(frozen=True, slots=True)
class Turn:
    """One way to a yes: its operations as they are sent, a sentence, and the role that it is about, if it is."""

    operations: list[Data]
    sentence: str
    role: str | None
    way: Way

    @property
    def timed(self) -> bool:
        """Whether it can be given for a time: all that it gives is given anew."""
        return all(
            data["kind"] in ("give-role", "give-capability") and data.get("id") is None for data in self.operations
        )


def turns(question: Question, viewpoint: Viewpoint, sight: Sight) -> list[Turn]:
    """The smallest changes that would turn the answer, told to whoever has some sight.

    Those that reach least for others come first. Seven queries.
    """
    return _told(ways(viewpoint.engine, replace(question, at=viewpoint.at)), viewpoint, sight)


def ending(question: Question, viewpoint: Viewpoint, sight: Sight) -> list[Turn]:
    """The changes that would end a yes, those that are about fewest others first. Seven queries."""
    return _told(endings(viewpoint.engine, replace(question, at=viewpoint.at)), viewpoint, sight)


def _told(every: list[Way], viewpoint: Viewpoint, sight: Sight) -> list[Turn]:
    policy = viewpoint.snapshot.policy
    found: list[tuple[Way, list[Data]]] = []
    for way in every:
        data = [as_data(operation) for operation in way]
        try:
            read(data, policy, sight)
        except ValidationError:
            continue
        found.append((way, data))
    limits = [{"node": k.node, "to": k.to._asdict()} for way, _ in found for k in _limits_of(way, policy)]
    locks = [{"node": k.node} for way, _ in found for k in _locks_of(way, policy)]
    given = [{"to": a.to._asdict(), "scope": write_scope(a.scope)} for way, _ in found for a in _given_of(way)]
    given += [{"to": g.to._asdict()} for way, _ in found for g in _taken_by(way, policy)]
    told = [*(one for _, data in found for one in data), *limits, *locks, *given]
    words = _Words(policy, Names(told, sight, viewpoint.catalogue), viewpoint.catalogue)
    return [Turn(data, words.sentence(way), _role_of(way), way) for way, data in found]


class _Words:
    def __init__(self, policy: Policy, names: Names, catalogue: Catalogue) -> None:
        self.policy, self.names, self.catalogue = policy, names, catalogue

    def sentence(self, way: Way) -> str:
        """All of a way, as one sentence."""
        whole = ", and ".join(self._joined(way))
        return f"{whole[:1].upper()}{whole[1:]}."

    def _joined(self, way: Way) -> Iterator[str]:
        """What each operation does; what one person is given, or what one role says, in one go."""
        given = [one.grant for one in way if isinstance(one, core.GiveCapability)]
        said = [one for one in way if isinstance(one, core.SetAnswer) and one.says != WITHHELD]
        if given:
            phrases = " and ".join(self._phrase(d.capability, d.says) for d in given)
            where = where_words(write_scope(given[0].scope), self.names)
            yield f"let {self.names.subject(given[0].to._asdict())} alone {phrases} {where}"
        if said:
            phrases = " and ".join(self._phrase(a.capability, a.says or "") for a in said)
            yield f"let every {self.names.role(said[0].role)} {phrases}"
        told = {*map(id, said)}
        rest = (one for one in way if not isinstance(one, core.GiveCapability) and id(one) not in told)
        yield from map(self._one, rest)

    def _phrase(self, capability: str, says: str) -> str:
        return f"{self.catalogue.phrase(capability)} {FAR.get(says, says)}".strip()

    def _one(self, operation: core.Operation) -> str:
        names = self.names
        match operation:
            case core.GiveRole(given):
                where = where_words(write_scope(given.scope), names)
                whom = names.subject(given.to._asdict())
                if given.id in self.policy.assignments:
                    return f"let {whom} hold {names.role(given.role)} {where}"
                return f"give {whom} {names.role(given.role)} {where}"
            case core.TakeRole(id):
                given = self.policy.assignments[id]
                return f"take {names.role(given.role)} from {names.subject(given.to._asdict())}"
            case core.TakeCapability(id):
                direct = self.policy.direct_grants[id]
                phrase = self.catalogue.phrase(direct.capability)
                return f"no longer let {names.subject(direct.to._asdict())} alone {phrase}"
            case core.SetMember(account, group, _):
                return f"take {names.account(account)} out of {names.group(group)}"
            case core.SetAnswer(role, capability, _):
                return f"let no {names.role(role)} {self.catalogue.phrase(capability)}"
            case core.SetComponents(role, components):
                more = self._more(components, self.policy.roles[role].components)
                listed = ", ".join(f"a {self.catalogue.component_name(key).lower()}" for key in more)
                return f"let every {names.role(role)} insert {listed}"
            case core.SetFacets(role, component, facets):
                more = self._more(facets, self.policy.roles[role].facets.get(component))
                part = self.catalogue.component_name(component).lower()
                return f"let every {names.role(role)} change the {', '.join(more)} of a {part}"
            case core.SetLimit(limit):
                return self._limit(limit)
            case core.DropLimit(id):
                return f"drop the limit {self._on(self.policy.limits[id])}"
            case core.SetReach(account, tree, branches):
                more = self._more(branches, self.policy.accounts[account].reach.get(tree))
                return f"let {names.account(account)} reach {names.nodes(more)} too"
            case core.OpenLock(id):
                lock = self.policy.locks[id]
                return f"open the lock on {names.part(lock.field, lock.component)}{names.node(lock.node)}"
            case core.SetFieldRule(type, field, rule):
                was = self.policy.fields.get((type, field), OPEN_FIELD).table
                [(role, marks)] = [(role, marks) for role, marks in rule.table.items() if marks != was.get(role)]
                [mark] = self._more(marks, was.get(role))
                verb, _, own = mark.partition("-")
                name = self.catalogue.type(type).field_name(field).lower()
                on = "what they wrote" if own == "own" else self.catalogue.type(type).plural
                return f"let every {names.role(role)} {verb} {name} on {on}"
        raise TypeError(f"{operation} is not worked out")

    def _limit(self, limit: Limit) -> str:
        actions = self._actions(limit)
        if limit.effect is Effect.LIFT:
            far = {"node": "", "beneath": "beneath ", "branch": ""}[limit.applies]
            node, whom = self.names.node(limit.node), self.names.subject(limit.to._asdict())
            return f"lift what stops {actions} {far}on {node} for {whom}"
        if limit.id in self.policy.limits:
            was = self.policy.limits[limit.id]
            if limit.actions == was.actions:
                return f"keep the limit {self._on(was)} to what is beneath"
            gone = self._actions(replace(was, actions=_every(was, self.policy) - _every(limit, self.policy)))
            return f"take {gone} out of the limit {self._on(was)}"
        if limit.applies == "node" or limit.actions == {"create"}:
            beneath = "beneath " if limit.applies == "beneath" else ""
            return (
                f"stop {actions} {beneath}on {self.names.node(limit.node)} for {self.names.subject(limit.to._asdict())}"
            )
        return f"go on stopping {actions} beneath {self.names.node(limit.node)}"

    def _on(self, limit: Limit) -> str:
        return f"on {self.names.node(limit.node)} for {self.names.subject(limit.to._asdict())}"

    def _actions(self, limit: Limit) -> str:
        actions = sorted(limit.actions or ())
        named = [self.catalogue.action(a).replace(" this", "") for a in actions]
        return ", ".join(named) if limit.actions is not None else "everything"

    @staticmethod
    def _more(now: Iterable[str] | None, was: Iterable[str] | None) -> list[str]:
        return sorted(set(now or ()) - set(was or ()))


def _every(limit: Limit, policy: Policy) -> frozenset[str]:
    return frozenset((*ACTIONS, *policy.placed)) if limit.actions is None else limit.actions


def _limits_of(way: Way, policy: Policy) -> Iterator[Limit]:
    for one in way:
        if isinstance(one, core.SetLimit):
            yield one.limit
        elif isinstance(one, core.DropLimit):
            yield policy.limits[one.id]


def _taken_by(way: Way, policy: Policy) -> Iterator[Any]:
    for one in way:
        if isinstance(one, core.TakeRole):
            yield policy.assignments[one.id]
        elif isinstance(one, core.TakeCapability):
            yield policy.direct_grants[one.id]


def _locks_of(way: Way, policy: Policy) -> Iterator[Any]:
    yield from (policy.locks[one.id] for one in way if isinstance(one, core.OpenLock))


def _given_of(way: Way) -> Iterator[Any]:
    for one in way:
        if isinstance(one, core.GiveRole):
            yield one.assignment
        elif isinstance(one, core.GiveCapability):
            yield one.grant


def _role_of(way: Way) -> str | None:
    """The role whose cloth stands beside it."""
    for one in way:
        if isinstance(one, core.GiveRole):
            return one.assignment.role
        if isinstance(one, core.SetAnswer | core.SetComponents | core.SetFacets):
            return one.role
    return None
