"""A trail in words, with the roles whose cloths belong beside them.

    TrailSentences(policy, who, target, decision, sight, catalogue).steps()

Each step is a sentence and, where a role spoke, its key. The trail itself is data of the core (§6). What decides
may lie on a page that the reader may not see, above the one asked about or beneath it, or be somebody's whom they may
not know of: such a page and such a person are not named.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.describe import Names, capital, where_words
from gonfalon.access.models import Lock
from gonfalon.access.sight import HIDDEN_PERSON, Sight
from gonfalon.access.words import REASON_WORDS
from gonfalon.accounts.names import names_of
from gonfalon.core import Decision, Policy
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.question import Finding, TrailStep, Who
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import Reason


@dataclass(frozen=True, slots=True)
class Sentence:
    """One line of a trail: the role that spoke, if one did, and whether it spoke for a yes."""

    role: str | None
    text: str
    good: bool


class TrailSentences:
    """Puts one decision into words. A fixed number of queries for all names in it."""

    def __init__(
        self, policy: Policy, who: Who, target: Target | None, decision: Decision, sight: Sight, catalogue: Catalogue
    ) -> None:
        self.catalogue = catalogue
        self.policy, self.target, self.decision = policy, target, decision
        findings = [f for step in decision.trail for f in step.findings]
        limits = [policy.limits[id] for f in findings for id in f.limits if id in policy.limits]
        scopes = [a.scope for f in findings if (a := self._given(f))]
        locks = Lock.objects.filter(pk__in=[f.id for f in findings if f.what == "lock"])
        self.locks = {k.id: k for k in locks}
        account = policy.accounts.get(who) if isinstance(who, str) else None
        reach = [b for branches in account.reach.values() for b in branches] if account else []
        self.names = Names(
            [
                {
                    "ids": [
                        *(k.node for k in limits),
                        *(k.node for k in self.locks.values()),
                        *(k.to.id for k in limits),
                        *(b for s in scopes for b in s.branches or ()),
                        *reach,
                        who if isinstance(who, str) else "",
                    ]
                }
            ],
            sight,
            catalogue,
        )
        self.account = account
        self.who = self._named(who)
        keepers = {k.locked_by for k in self.locks.values()}
        known = [id for id in keepers if id is not None and id in sight.people]
        self.keepers = names_of(known) if known else {}

    def _named(self, who: Who) -> str:
        """Whom it is about, as the middle of a sentence has it."""
        if isinstance(who, str):
            return self.names.account(who)
        if who is None:
            return "a visitor"
        return f"a holder of {' and '.join(self.names.roles.get(role, role) for role in who.roles)}"

    @property
    def short(self) -> str:
        """The same as one calls somebody one works with: by the first name."""
        return self.who.split()[0] if self.account is not None else self.who

    def steps(self) -> list[Sentence]:
        """Every step that had something to say, then what it comes to."""
        said = [sentence for step in self.decision.trail for sentence in self._step(step)]
        reason = self.decision.reason
        if reason is Reason.NOT_GRANTED:
            said.append(Sentence(None, f"Nothing else gives it to {self.who}.", False))
        elif reason is Reason.ALLOWED and not any(s.good for s in said):
            said.append(Sentence(None, REASON_WORDS[reason], True))
        return said

    def _step(self, step: TrailStep) -> Iterator[Sentence]:
        if step.step == "active":
            yield Sentence(None, f"The account of {self.who} is not active.", False)
        elif step.step == "keyholder":
            yield Sentence(None, f"{capital(self.who)} is a keyholder, and a keyholder may do everything.", True)
        elif step.step == "bars":
            yield from (self._bar(f) for f in step.findings)
        elif step.step == "grants":
            yield from (self._climb(f, step.capability or "") for f in step.findings)
        elif step.step == "own-limits":
            yield from (self._own(f) for f in step.findings)
        elif step.step == "locks":
            yield from (self._lock(f) for f in step.findings)
        elif step.step == "field":
            yield from (self._field(f) for f in step.findings)
        else:
            yield from (self._closed(step, f) for f in step.findings)

    def _bar(self, f: Finding) -> Sentence:
        if f.what == "source":
            return Sentence(f.role, f"{self._name(f)} bars it, and a bar beats every grant.", False)
        on = self._places(f.limits)
        whom = self.names.roles.get(f.role or "") or self.names.groups.get(f.group or "") or self.who
        return Sentence(f.role, f"A limit on {on} bars it for {whom}.", False)

    def _climb(self, f: Finding, capability: str) -> Sentence:
        name, words = self._name(f), self.catalogue.phrase(capability)
        through = f" through {self.names.groups.get(f.group, f.group)}" if f.group else ""
        given = self._given(f)
        scope = where_words(write_scope(given.scope), self.names) if given else "everywhere"
        if f.reason is Reason.ALLOWED:
            by = "" if f.said_by in (None, f.role) else f", which it takes from {self.names.roles[f.said_by]}"
            return Sentence(f.role, f"{name}, held{through} {scope}, gives {words} ({f.says}){by}.", True)
        if f.reason is Reason.OUT_OF_SCOPE:
            return Sentence(f.role, f"{name} gives {words}, but is held{through} only {scope}.", False)
        if f.reason is Reason.OUT_OF_EXTENT:
            whose = "what one wrote oneself" if f.says == "own" else "what one's own team wrote"
            return Sentence(f.role, f"{name} gives {words}, but only {whose}.", False)
        if f.reason is Reason.STOPPED:
            return Sentence(f.role, f"{name} gives {words}, but a limit on {self._places(f.limits)} stops it.", False)
        said = "bars it, but not here" if f.says == "barred" else f"says {words} is withheld"
        return Sentence(f.role, f"{name} {said}.", False)

    def _own(self, f: Finding) -> Sentence:
        if f.what == "reach" and self.account and self.target:
            branches = self.account.reach.get(self.target.tree or "", frozenset())
            where = self.names.nodes(sorted(branches)) or "nothing"
            return Sentence(None, f"{capital(self.who)} is confined to {where}, and this lies outside.", False)
        return Sentence(None, f"A limit on {self._places(f.limits)} stops it for {self.who}.", False)

    def _lock(self, f: Finding) -> Sentence:
        lock = self.locks.get(f.id)
        if lock is None:
            return Sentence(None, "It is locked.", False)
        here = self.target is None or lock.node == self.target.id
        locked = f"{'It' if here else capital(self.names.node(lock.node))} is locked"
        if not self.names.shows(lock.node):
            return Sentence(None, f"{locked}.", False)
        why = f": {lock.why}" if lock.why else ""
        return Sentence(None, f"{locked} by {self.keepers.get(lock.locked_by or '', HIDDEN_PERSON)}{why}.", False)

    def _field(self, f: Finding) -> Sentence:
        type, _, field = f.id.partition(".")
        rule = self.policy.fields[(type, field)]
        name = self.catalogue.type(type).field_name(field)
        if rule.mode == "author":
            return Sentence(None, f"{name} is for its author alone.", False)
        named = ", ".join(self.names.roles.get(role, role) for role in sorted(rule.table)) or "no role"
        return Sentence(None, f"{name} is open to {named} only, each as far as its row says.", False)

    def _closed(self, step: TrailStep, f: Finding) -> Sentence:
        component, _, facet = f.id.partition(".")
        part = self.catalogue.component_name(component).lower()
        what = f"the {facet} of a {part}" if facet else f"a {part}"
        return Sentence(f.role, f"{self._name(f)} keeps {what} closed.", False)

    def _name(self, f: Finding) -> str:
        if f.role is None:
            return "A single capability"
        return self.names.roles.get(f.role, f.role)

    def _places(self, limits: Iterable[str]) -> str:
        nodes = dict.fromkeys(self.policy.limits[id].node for id in limits if id in self.policy.limits)
        return self.names.nodes(nodes) or "this"

    def _given(self, f: Finding) -> Any:
        return self.policy.assignments.get(f.id) or self.policy.direct_grants.get(f.id)
