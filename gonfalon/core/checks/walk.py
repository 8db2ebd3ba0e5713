"""What a role is to be tried on: what its holders may do, and what must be refused to them (§2, §4, §5).

    items = walk("tenant-editor", engine, at)           # [Item("edit", True, ("berth",), own=True), ...]
    outcome(item, tries)                                # True: as it says; False: otherwise; None: it was not tried

Items come from its board: of every kind that it gives something about, each action as the holder of this role and
nothing else may do it where no limit narrows it; from the limits that reach such a holder; from the rules of fields;
and from its lists of components. What is refused of several kinds is one thing to try, on any of them.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from datetime import datetime
from hashlib import sha256
from itertools import product
from typing import NamedTuple

from gonfalon.core.checks.tries import Again, of_holder
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.decide.outcome import Outcomes, baseline_of
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import OPEN_FIELD, Limit
from gonfalon.core.model.question import Decision, Question
from gonfalon.core.model.tree import EMPTY_TREE, Target
from gonfalon.core.model.vocabulary import ACTIONS, PROFILE, VERBS, Effect, Reason

MOST = 200
"""Items of one list."""
_MOST_LIMITS, _MOST_PLACES = 40, 60
"""Limits that are looked at, and nodes of each."""


class Item(NamedTuple):
    """One thing to try, on a page of any of its `types`, and of any of its `components`; it may name none.

    `public` is of pages and `own` whether whoever tries it wrote them, None where that does not matter; `limit` the
    limit that makes the answer what it is.
    """

    action: str
    expect: bool
    types: tuple[str, ...] = ()
    public: bool | None = None
    own: bool | None = None
    field: str | None = None
    components: tuple[str, ...] = ()
    facet: str | None = None
    limit: str | None = None

    @property
    def key(self) -> str:
        """The same for the same thing to try, whatever is expected of it: short, and nothing to be read in it."""
        return sha256(repr(self._replace(expect=True)).encode()).hexdigest()[:16]


def walk(role: str, engine: Engine, at: datetime) -> list[Item]:
    """What there is to try, the kinds in their order; MOST at most. KeyError for a role that there is not."""
    maker = _Maker(role, engine, at)
    items = [*maker.duties(), *maker.of_kinds(), *maker.fields(), *maker.components(), *maker.limits()]
    return items[:MOST]


def outcome(item: Item, tries: Iterable[Again]) -> bool | None:
    """Whether what was tried went as an item says, each time it was; None where nothing of it fits."""
    fitting = [one.decision.allow is item.expect for one in tries if fits(item, one)]
    return all(fitting) if fitting else None


def fits(item: Item, tried: Again) -> bool:
    """Whether something that was tried is what an item asks for. What a limit refuses fits the item of that alone."""
    question, target = tried.question, tried.question.target
    if question.action != item.action or not _same_part(item, question):
        return False
    by_limits = limits_of(tried.decision)
    if (item.limit is None and by_limits) or (item.limit is not None and not _by_limit(item, tried, by_limits)):
        return False
    if target is None:
        return True
    return (
        (not item.types or target.type in item.types)
        and item.public in (None, target.state == "published")
        and item.own in (None, tried.own)
    )


def _by_limit(item: Item, tried: Again, refusing: frozenset[str]) -> bool:
    """Whether a try is about a limit: refused for it, or, where that lets something be again, within its reach."""
    limit, target = tried.limits.get(item.limit or ""), tried.question.target
    if limit is None or target is None or not covers(limit, target.path):
        return False
    return limit.id in refusing or (limit.effect is Effect.LIFT and item.expect)


def limits_of(decision: Decision) -> frozenset[str]:
    """The limits for which something is refused."""
    if decision.allow:
        return frozenset()
    return frozenset(id for step in decision.trail if not step.passed for f in step.findings for id in f.limits)


def covers(limit: Limit, path: Sequence[str]) -> bool:
    """Whether a limit applies to the node at the end of a path."""
    if limit.node not in path:
        return False
    return limit.applies == "branch" or (limit.applies == "node") == (path[-1] == limit.node)


def _same_part(item: Item, question: Question) -> bool:
    return (
        item.field == question.field
        and item.facet == question.facet
        and (question.component in item.components if item.components else question.component is None)
    )


class _Maker:
    def __init__(self, role: str, engine: Engine, at: datetime) -> None:
        self.role, self.engine, self.policy, self.at = role, engine, engine.policy, at
        self._outcomes = Outcomes(RoleResolver(self.policy), role)
        self._board = Engine(replace(self.policy, limits={}, locks={}), EMPTY_TREE)
        self._holders = {own: of_holder(role, own=own) for own in (True, False)}
        self.kinds = [
            type.key
            for type in self.policy.types.values()
            if type.key != PROFILE and any(self._gives(f"{type.key}.{verb}") for verb in VERBS)
        ]

    def duties(self) -> Iterator[Item]:
        """Duties that the role gives, and those that it says somewhere are not given."""
        for key in (*self.policy.plain, *self.policy.placed):
            if self._gives(key):
                yield Item(key, expect=True)
            elif any(key in self.policy.roles[role].grants for role in self.policy.role_chain(self.role)):
                yield Item(key, expect=self._outcomes.of(key).given)

    def of_kinds(self) -> Iterator[Item]:
        """Every action on what the role gives something about, as its board says it; of what is not seen, only that."""
        refused: dict[tuple[str, bool | None, bool | None], list[str]] = {}
        for type, action in product(self.kinds, ACTIONS):
            for yes, public, own in self._of_kind(type, action):
                if yes:
                    yield Item(action, yes, (type,), public, own)
                else:
                    refused.setdefault((action, public, own), []).append(type)
        for (action, public, own), types in refused.items():
            yield Item(action, False, tuple(types), public, own)

    def _of_kind(self, type: str, action: str) -> Iterator[tuple[bool, bool | None, bool | None]]:
        if action == "create":
            yield self._may(type, action, own=False, state=None), None, None
            return
        states = {True: "published", False: "draft"}
        yield from _shortest(
            {
                (public, own): self._may(type, action, own=own, state=state)
                for (public, state), own in product(states.items(), (True, False))
                if action == "see" or self._may(type, "see", own=own, state=state)
            }
        )

    def fields(self) -> Iterator[Item]:
        """The fields with a rule of their own: seen, changed, filled."""
        for (type, field), rule in self.policy.fields.items():
            if type not in self.kinds or rule.mode == "open" or rule == OPEN_FIELD:
                continue
            for action, first in (("see-field", "see"), ("change-field", "edit")):
                answers = {
                    own: self._may(type, action, own=own, state=state, field=field)
                    for own in (True, False)
                    for state in [self._where(type, first, own=own)]
                    if state is not None
                }
                if len(set(answers.values())) == 1 and len(answers) == 2:
                    yield Item(action, answers[True], (type,), field=field)
                else:
                    yield from (Item(action, yes, (type,), own=own, field=field) for own, yes in answers.items())
            if self._may(type, "create", own=False, state=None):
                yes = self._may(type, "fill-field", own=False, state=None, field=field)
                yield Item("fill-field", yes, (type,), field=field)

    def components(self) -> Iterator[Item]:
        """What may be put into pages, and which sides of it may be changed, unless all of it may."""
        ways = ((type, own, self._where(type, "edit", own=own)) for type, own in product(self.kinds, (True, False)))
        kind, wrote, in_state = next((way for way in ways if way[2]), ("", False, None))
        if in_state is None:
            return

        def may(action: str, **part: str) -> bool:
            return self._may(kind, action, own=wrote, state=in_state, **part)

        asked: dict[tuple[str, str | None], dict[str, bool]] = {}
        for key, facets in self.policy.components.items():
            asked.setdefault(("insert-component", None), {})[key] = may("insert-component", component=key)
            for side in facets:
                asked.setdefault(("change-facet", side), {})[key] = may("change-facet", component=key, facet=side)
        for (action, facet), answers in asked.items():
            for yes in (True, False) if not all(answers.values()) else ():
                if some := tuple(key for key, answer in answers.items() if answer is yes):
                    yield Item(action, yes, components=some, facet=facet)

    def limits(self) -> Iterator[Item]:
        """What limits refuse that the board gives, and what they let be again."""
        mine = {*self.policy.role_chain(self.role), *baseline_of(self.policy, self.role)}
        reaching = [limit for limit in self.policy.limits.values() if limit.to.kind == "role" and limit.to.id in mine]
        for limit in reaching[:_MOST_LIMITS]:
            lifted = limit.effect is Effect.LIFT
            without = self._without(limit) if lifted else self.engine
            for action in (a for a in ACTIONS if a != "create" and limit.matches(a)):
                if any(self._turned(limit, action, target, without) for target in self._places(limit)):
                    yield Item(action, expect=lifted, limit=limit.id)

    def _turned(self, limit: Limit, action: str, target: Target, without: Engine) -> bool:
        """Whether it is this limit that makes an answer what it is."""
        question = Question(self._holders[True], action, replace(target, leaf=True), self.at)
        if limit.effect is Effect.LIFT:
            refused = without.decide(question).reason is Reason.STOPPED
            return refused and self.engine.decide(question).allow
        return limit.id in limits_of(self.engine.decide(question, trail=True))

    def _without(self, limit: Limit) -> Engine:
        limits = {id: other for id, other in self.policy.limits.items() if id != limit.id}
        return Engine(replace(self.policy, limits=limits), self.engine.tree)

    def _places(self, limit: Limit) -> list[Target]:
        """Nodes that a limit applies to, of each kind and state one."""
        tree = self.engine.tree
        if limit.node not in tree:
            return []
        found: dict[tuple[str, bool], Target] = {}
        for node in tree.nodes[tree.branch(limit.node)]:
            sort = (node.type, node.state == "published")
            if sort not in found and node.type in self.kinds and len(found) < _MOST_PLACES:
                target = tree.target(node.id)
                if covers(limit, target.path):
                    found[sort] = target
        return list(found.values())

    def _gives(self, capability: str) -> bool:
        found = self._outcomes.of(capability)
        return found.given and found.source != "baseline"

    def _where(self, type: str, action: str, *, own: bool) -> str | None:
        """A state in which pages of a kind pass an action."""
        return next((s for s in ("published", "draft") if self._may(type, action, own=own, state=s)), None)

    def _may(self, type: str, action: str, *, own: bool, state: str | None, **part: str) -> bool:
        """What the board says where nothing narrows it: of a page in a state, or with None of one about to be made."""
        tree = self.policy.types[type].tree
        id = "somewhere" if state is not None else None
        target = Target(id, ("somewhere",), type, tree, None, None, state, frozenset(), True)
        return self._board.decide(Question(self._holders[own], action, target, self.at, **part)).allow  # type: ignore[arg-type]


def _shortest(answers: dict[tuple[bool, bool], bool]) -> Iterator[tuple[bool, bool | None, bool | None]]:
    """Answers by `public` and `own`, those together that do not differ: each with what it holds of."""
    both = (True, False)

    def of(public: bool | None, own: bool | None) -> set[bool]:
        return {yes for (p, o), yes in answers.items() if public in (None, p) and own in (None, o)}

    if len(of(None, None)) <= 1:
        yield from ((yes, None, None) for yes in of(None, None))
    elif all(len(of(None, own)) <= 1 for own in both):
        yield from ((yes, None, own) for own in both for yes in of(None, own))
    else:
        for public in both:
            if len(of(public, True)) == len(of(public, False)) and len(of(public, None)) == 1:
                yield from ((yes, public, None) for yes in of(public, None))
            else:
                yield from ((yes, public, own) for own in both for yes in of(public, own))
