"""Standing in for someone: only for those who may do nothing that one may not do oneself (§7).

    impersonation = Impersonation(evaluator, surveyor)
    impersonation.reason(Question("ada", "stand-in", subject="ben"))      # Reason.BEYOND
    [excess.question.action for excess in impersonation.excess("ada", "ben", at)]      # ["see"]
    impersonation.reason_under(staged, "ada", "ben", at, then)      # Ben as he would be then, Ada as she is

It is exact, about every node, profile, site and part that there is. The cost is a few operations on arrays of one
integer a node, and none a second time while both hold the same.
"""

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from functools import cached_property
from itertools import chain
from typing import NamedTuple, TypeVar

import numpy as np

from gonfalon.core.bulk.columns import MOST_ACTIONS
from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.parts import Parts, Restricted
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.decide.evaluate import Evaluator, Trail
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.model.bits import Bits, Bools, Ints, has
from gonfalon.core.model.policy import Account
from gonfalon.core.model.question import HypotheticalSubject, Question, TrailStep, Who
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import ACTIONS, PROFILE, STAND_IN, Kind, Reason

Rows = TypeVar("Rows", Bits, Bools)
_OF_A_COPY = ("see", "edit")
"""What can be asked of a working copy that is not asked of the node (§4)."""


class Excess(NamedTuple):
    """Something that one may do and another may not: a question with two answers.

    Where it is about nodes, `positions` are their places in the tree, ascending, and the question asks about the first.
    """

    question: Question
    positions: Ints | None = None


class Impersonation:
    """Compares what two people may do, under one policy and over one tree."""

    def __init__(self, evaluator: Evaluator, surveyor: Surveyor) -> None:
        self.evaluator, self.surveyor = evaluator, surveyor
        self.policy, self.tree = evaluator.policy, surveyor.tree
        self._known: dict[tuple[SubjectGrants, SubjectGrants], bool] = {}

    def reason(self, q: Question, trail: Trail = None) -> Reason:
        """The answer to a question of standing in. KeyError for an unknown account or role."""
        at, actor = q.at or datetime.now(UTC), alone(q.who)
        reason = self.evaluator.reason(Question(actor, STAND_IN, at=at), trail)
        if reason is not Reason.ALLOWED:
            return reason
        mine, theirs = (self.surveyor.grants.of(who, at) for who in (actor, q.subject))
        if not theirs.active:
            return Reason.INACTIVE
        themselves = actor == q.subject and not isinstance(actor, HypotheticalSubject)
        if themselves or (not mine.keyholder and (theirs.keyholder or self._exceeds(actor, q.subject, at))):
            if trail is not None:
                trail.append(TrailStep("beyond", STAND_IN, False))
            return Reason.BEYOND
        return Reason.ALLOWED

    def reason_under(self, other: "Impersonation", actor: Who, subject: Who, at: datetime, then: datetime) -> Reason:
        """The same where the answers of `subject` are those under another policy, then, over the same tree (§7).

        Worked out anew each time. KeyError for an unknown account or role.
        """
        actor = alone(actor)
        reason = self.evaluator.reason(Question(actor, STAND_IN, at=at))
        if reason is not Reason.ALLOWED:
            return reason
        mine, theirs = self.surveyor.grants.of(actor, at), other.surveyor.grants.of(subject, then)
        if not theirs.active:
            return Reason.INACTIVE
        if actor == subject and not isinstance(actor, HypotheticalSubject):
            return Reason.BEYOND
        if mine.keyholder:
            return Reason.ALLOWED
        beyond = theirs.keyholder or next(self.excess_under(other, actor, subject, at, then), None) is not None
        return Reason.BEYOND if beyond else Reason.ALLOWED

    def within(self, other: "Impersonation", actor: Who, subject: Who, at: datetime, then: datetime) -> bool:
        """Whether `subject` may do nothing there that `actor` may not do here: after a step of a rehearsal (§7)."""
        mine, theirs = self.surveyor.grants.of(alone(actor), at), other.surveyor.grants.of(subject, then)
        if mine.keyholder or theirs.keyholder:
            return mine.keyholder
        return next(self.excess_under(other, actor, subject, at, then), None) is None

    def excess_under(
        self, other: "Impersonation", actor: Who, subject: Who, at: datetime, then: datetime
    ) -> Iterator[Excess]:
        """All that `subject` may do under another policy, then, and `actor` may not under this one.

        Of nodes, those that both have: nobody can be asked about what came to be there.
        """
        return ComparisonAcross(self, other, alone(actor), subject, at, then).excess()

    def brought_back(
        self, other: "Impersonation", actor: Who, subject: Who, at: datetime, then: datetime, nodes: Bools
    ) -> Iterator[Excess]:
        """The same over one tree, of some of its nodes alone: those that were in no tree before."""
        among = ComparisonAcross(self, other, alone(actor), subject, at, then, nodes)
        return chain(among.on_nodes(), among.of_parts())

    def excess(self, actor: Who, subject: Who, at: datetime) -> Iterator[Excess]:
        """All that `subject` may do at a time and `actor` may not, one for each action, part or duty."""
        return Comparison(self, alone(actor), subject, at).excess()

    def _exceeds(self, actor: Who, subject: Who, at: datetime) -> bool:
        """Whether `subject` may do anything that `actor` may not: kept for as long as both hold the same."""
        held = self.surveyor.grants.of(actor, at), self.surveyor.grants.of(subject, at)
        if held not in self._known:
            self._known[held] = next(self.excess(actor, subject, at), None) is not None
        return self._known[held]

    @cached_property
    def actions(self) -> list[tuple[str, ...]]:
        """All that can be asked of a node by itself, in pieces that are asked at once."""
        policy = self.policy
        every = [*(a for a in ACTIONS if a != "create"), *policy.placed]
        every += [f"create:{type}" for type in sorted(policy.node_types)]
        return [tuple(every[first : first + MOST_ACTIONS]) for first in range(0, len(every), MOST_ACTIONS)]

    @cached_property
    def copies(self) -> "Impersonation | None":
        """Compares what two may do with working copies: with what is public, as if it were a draft (§4).

        None where nothing is public.
        """
        public = {node.id: "draft" for node in self.tree.nodes if node.state == "published"}
        if not public:
            return None
        copies = Impersonation(self.evaluator, self.surveyor.over(self.tree.with_states(public)))
        copies.actions = [_OF_A_COPY]
        return copies

    @cached_property
    def parts(self) -> list[Parts]:
        """What the policy restricts of parts of nodes; all else goes as the node goes."""
        return self.parts_of(Restricted.by([self.policy]))

    def parts_of(self, restricted: Restricted) -> list[Parts]:
        """Parts of nodes, in pieces that are asked at once."""
        surveyor = self.surveyor
        return [
            Parts(self.policy, piece, surveyor.batch(surveyor.columns(piece.actions, alone=True), None))
            for piece in restricted.pieces()
        ]

    def in_tree_of(self, type: str) -> Bools:
        """`[nodes]` those beneath which a node of a type may stand: all of its tree."""
        tree = self.policy.types[type].tree
        return self.tree.having("tree", frozenset(() if tree is None else (tree,)))


class Comparison:
    """What one of two people may do at a time and the other may not, of all that §7 lists."""

    among: Bools | None = None
    """`[nodes]` the only ones that are asked about."""

    def __init__(self, over: Impersonation, actor: Who, subject: Who, at: datetime) -> None:
        self.over, self.actor, self.subject, self.at = over, actor, subject, at
        self.policy, self.tree = over.policy, over.tree
        self.held: list[SubjectGrants] = [over.surveyor.grants.of(who, at) for who in (actor, subject)]

    def excess(self) -> Iterator[Excess]:
        """All of it, one for each action, part or duty; of a working copy what is not told of nodes already."""
        yield from self.duties()
        told = set()
        for excess in chain(self.on_nodes(), self.of_parts()):
            told.add(_kind(excess))
            yield excess
        yield from self.of_profiles()
        yield from (excess for excess in self.of_copies() if _kind(excess) not in told)

    def of_copies(self) -> Iterator[Excess]:
        """Seeing and editing working copies of what is public, with their parts."""
        copies, tree, there = self.over_copies(), self.tree, self.published
        for excess in chain(copies.on_nodes(), copies.of_parts()) if copies else ():
            at = tree.kinds[:0] if excess.positions is None else excess.positions
            public = at[there[at]]
            if len(public) and excess.question.action != "fill-field":
                target = tree.target(tree.nodes[public[0]].id).working_copy()
                yield Excess(replace(excess.question, target=target), public)

    @property
    def actions(self) -> list[tuple[str, ...]]:
        """What is asked of nodes, in pieces that are asked at once."""
        return self.over.actions

    @property
    def published(self) -> Bools:
        """`[nodes]` which of them have something public, so that there may be a copy of it."""
        return self.tree.published

    def over_copies(self) -> "Comparison | None":
        """The same of working copies; None where there can be none."""
        copies = self.over.copies
        return Comparison(copies, self.actor, self.subject, self.at) if copies else None

    def duties(self) -> Iterator[Excess]:
        """Opening capabilities, and sitewide ones without a site and for each."""
        for capability in self.policy.plain:
            sitewide = self.policy.kind(capability) is Kind.SITEWIDE
            for site in (None, *sorted(self.policy.sites)) if sitewide else (None,):
                question = self._question(capability, site=site)
                if self._differ(question):
                    yield Excess(question)
                    break

    def of_profiles(self) -> Iterator[Excess]:
        """Actions on profiles, and their fields: one profile for each way to be near to the two."""
        known = self.policy.types.get(PROFILE)
        asked = [self._question(a) for a in (*ACTIONS, *self.policy.placed) if a != "create"]
        for field in known.fields if known else ():
            asked += [self._question(action, field=field) for action in ("see-field", "change-field")]
        people = self._unlike()
        for question in asked:
            every = (replace(question, target=profile(id)) for id in people)
            if differing := next(filter(self._differ, every), None):
                yield Excess(differing)

    def on_nodes(self) -> Iterator[Excess]:
        """Every action on every node, with all beneath it where the rules say so, and every `create`."""
        for actions in self.actions:
            mine, theirs = self.both_on_nodes(actions)
            beyond = theirs & ~mine
            for i, action in enumerate(actions if beyond.any() else ()):
                name, _, type = action.partition(":")
                yield from self._at(has(beyond, i), self._question(name), type)

    def of_parts(self) -> Iterator[Excess]:
        """Fields, components and facets that anything restricts."""
        for i in range(len(self.over.parts)):
            for name, (mine, theirs) in self.both_of_parts(i):
                yield from self.of_part(name, mine, theirs)

    def of_part(self, name: str, mine: Bools, theirs: Bools) -> Iterator[Excess]:
        """One part, by its action and name, of which the two may do something at some nodes."""
        action, _, what = name.partition(" ")
        if what:
            thing, _, part = what.partition(".")
            named = {"field": part} if "field" in action else {"component": thing, "facet": part or None}
            made = thing if action == "fill-field" else ""
            yield from self._at(theirs & ~mine, self._question(action, **named), made)

    def both_on_nodes(self, actions: tuple[str, ...]) -> tuple[Bits, Bits]:
        """What the one may do at each node, and the other, as bits of the actions."""
        mine, theirs = allowed(BatchEvaluator.of(self.over.surveyor.whole(actions), self.held))
        return mine, theirs

    def both_of_parts(self, piece: int) -> Iterator[tuple[str, tuple[Bools, Bools]]]:
        """The same of each part of one piece of what is restricted, by its action and name."""
        parts = self.over.parts[piece]
        for name, (mine, theirs) in parts.answers(parts.evaluator(self.held)).items():  # noqa: UP028, rows of an array
            yield name, (mine, theirs)

    def _at(self, rows: Bools, question: Question, made: str) -> Iterator[Excess]:
        """The nodes in some rows; where a node of a type is to be `made`, those beneath which it may stand."""
        rows = rows & self.over.in_tree_of(made) if made else rows
        positions = (rows if self.among is None else rows & self.among).nonzero()[0]
        if len(positions):
            target = self.tree.target(self.tree.nodes[positions[0]].id)
            yield Excess(replace(question, target=target.child(made) if made else target), positions)

    def _question(self, action: str, **more: str | None) -> Question:
        return Question(self.subject, action, at=self.at, **more)  # type: ignore[arg-type]

    def _differ(self, question: Question) -> bool:
        if not self.theirs(question):
            return False
        return self.over.evaluator.reason(replace(question, who=self.actor)) is not Reason.ALLOWED

    def theirs(self, question: Question) -> bool:
        """Whether a question about the other is one of those that count."""
        return self.over.evaluator.reason(question) is Reason.ALLOWED

    def _unlike(self) -> list[str]:
        """One account for each way to be near to the two: themselves, direct fellow members, others."""
        groups = [held.account.groups if held.account is not None else frozenset() for held in self.held]
        found: dict[tuple[object, ...], str] = {}
        for account in self.policy.accounts.values():
            near = (account.groups.isdisjoint(own) for own in groups)
            found.setdefault((account.id == self.actor, account.id == self.subject, *near), account.id)
        return list(found.values())


class ComparisonAcross(Comparison):
    """What one may do at a time, beside what another may do under another policy, then.

    Over another tree, it is about the nodes that both have.
    """

    def __init__(
        self,
        over: Impersonation,
        other: Impersonation,
        actor: Who,
        subject: Who,
        at: datetime,
        then: datetime,
        among: Bools | None = None,
    ) -> None:
        self.over, self.actor, self.subject, self.at = over, actor, subject, then
        self.policy, self.tree, self.among = over.policy, over.tree, among
        self.other, self.now, self.then = other, at, then
        self.mine, self.their = over.surveyor.grants.of(actor, at), other.surveyor.grants.of(subject, then)
        self.held = [self.mine, self.their]
        self.restricted = Restricted.by([over.policy, other.policy])
        same = over.tree is other.tree or over.tree.same_places(other.tree)
        self._places = None if same else np.array([other.tree.index.get(node.id, -1) for node in over.tree.nodes])

    def there(self, rows: Rows) -> Rows:
        """`[nodes]` of the other tree, by the nodes of this one; nothing of those that it does not have."""
        if self._places is None:
            return rows
        found = rows[self._places] if len(rows) else np.zeros(len(self._places), dtype=rows.dtype)
        found[self._places < 0] = 0
        return found

    @property
    def published(self) -> Bools:
        return self.there(self.other.tree.published)

    def over_copies(self) -> "ComparisonAcross | None":
        copies, others = self.over.copies, self.other.copies
        if others is None:
            return None
        return ComparisonAcross(copies or self.over, others, self.actor, self.subject, self.now, self.then)

    @property
    def actions(self) -> list[tuple[str, ...]]:
        known = self.other.policy
        unknown = {f"create:{type}" for type in self.policy.node_types - known.node_types}
        unknown.update(set(self.policy.placed) - set(known.placed))
        every = self.over.actions
        return [tuple(a for a in some if a not in unknown) for some in every] if unknown else every

    def of_parts(self) -> Iterator[Excess]:
        mine, theirs = (side.parts_of(self.restricted) for side in (self.over, self.other))
        for ours, others in zip(mine, theirs, strict=True):
            then = others.answers(others.evaluator([self.their]))
            for name, [now] in ours.answers(ours.evaluator([self.mine])).items():
                yield from self.of_part(name, now, self.there(then[name][0]))

    def both_on_nodes(self, actions: tuple[str, ...]) -> tuple[Bits, Bits]:
        [mine] = allowed(BatchEvaluator.of(self.over.surveyor.whole(actions), [self.mine]))
        [theirs] = allowed(BatchEvaluator.of(self.other.surveyor.whole(actions), [self.their]))
        return mine, self.there(theirs)

    def theirs(self, question: Question) -> bool:
        return self.other.evaluator.reason(question) is Reason.ALLOWED

    def _differ(self, question: Question) -> bool:
        mine = replace(question, who=self.actor, at=self.now)
        return self.theirs(question) and self.over.evaluator.reason(mine) is not Reason.ALLOWED

    def _unlike(self) -> list[str]:
        found: dict[tuple[object, ...], str] = {}
        for id, then in self.other.policy.accounts.items():
            if id not in self.policy.accounts:
                continue
            near = (_fellow(self.mine, self.policy.accounts[id]), _fellow(self.their, then))
            found.setdefault((id == self.actor, id == self.subject, *near), id)
        return list(found.values())


def _kind(excess: Excess) -> tuple[str | None, ...]:
    """What it is about, wherever."""
    q = excess.question
    return q.action, q.field, q.component, q.facet


def _fellow(held: SubjectGrants, account: Account) -> bool:
    """Whether somebody and an account are direct members of one same group."""
    return held.account is not None and not held.account.groups.isdisjoint(account.groups)


def alone(actor: Who) -> Who:
    """Whoever would stand in; a made-up holder counts as nobody's author here (§8)."""
    return replace(actor, as_author=False) if isinstance(actor, HypotheticalSubject) else actor
