"""What is asked about one policy, and what is compiled to answer it (§4, §5, §7, §9).

    engine = Engine(policy, tree)
    engine.decide(Question("ada", "edit", tree.target("n2"))).reason

Cost: the first question about an account compiles its sources; a later one takes no more than a
look at each of them and at the limits between the target and the root.
"""

from collections.abc import Callable, Container, Iterator, Mapping, Sequence
from datetime import datetime
from functools import cached_property
from typing import Any, Protocol, TypeVar

import numpy as np

from gonfalon.core.bulk.handing_out import HandingOut
from gonfalon.core.bulk.impersonation import Excess, Impersonation
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.decide.common_requests import CommonRequests
from gonfalon.core.decide.evaluate import Evaluator
from gonfalon.core.decide.grants import SubjectGrantsCache
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.document.requests import read_question
from gonfalon.core.model.bits import Bools
from gonfalon.core.model.policy import Assignment, Policy
from gonfalon.core.model.question import Decision, Question, TrailStep, Who
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import HAND_OUT_ACTION, STAND_IN_ACTION, Reason


class Derived(Protocol):
    """Something worked out from a policy alone, which may serve for another that came from it."""

    def can_answer_for(self, policy: Policy) -> bool:
        """Whether it would come out the same for another policy."""


D = TypeVar("D", bound=Derived)
_PLAIN_ANSWERS = {reason: Decision(reason) for reason in Reason}


class Engine:
    """Answers questions about one policy. Keeps what it compiles; safe to share between threads."""

    def __init__(self, policy: Policy, tree: Tree | None = None, previous: "Engine | None" = None) -> None:
        """`tree` holds the nodes where they are kept apart from the policy; see `changed` for `previous`."""
        self.policy = policy
        self.tree = policy.tree if tree is None else tree
        self.grants: SubjectGrantsCache = SubjectGrantsCache(policy, None if previous is None else previous.grants)
        known = None if previous is None else previous.limits
        same_limits = (
            previous is not None and previous.policy.limits is policy.limits and previous.tree.same_places(self.tree)
        )
        self.limits: LimitIndex = (
            known if known and same_limits else LimitIndex(policy.limits.values(), self.tree, previous=known)
        )
        self._derived: dict[Callable[[Policy], Any], Any] = {}
        self.evaluator = Evaluator(policy, self.tree, self.grants, self.limits)
        self._requests = CommonRequests(self.evaluator)

    def changed(self, policy: Policy, tree: Tree | None = None) -> "Engine":
        """An engine of a policy that came from this one, over the same tree or one with the same places.

        Everything compiled takes over from its predecessor what both policies have the same, told by the identity of
        their parts. There is one way to do so: each part is made with `previous=`, looks things up there as they are
        asked for, and after `detach` no more. Engines may be asked by other threads meanwhile: what is shared is never
        changed, only added to.
        """
        engine = Engine(policy, self.tree if tree is None else tree, previous=self)
        engine.surveyor = engine._surveyor(previous=self.surveyor)
        engine._derived = {make: made for make, made in self._derived.items() if made.can_answer_for(policy)}
        return engine

    def detach(self) -> None:
        """Drop the references to the previous engine's parts, so that memory stays bounded."""
        self.grants.detach()
        self.limits.detach()
        self.surveyor.policy_index.detach()

    def decide(self, asked: Question | Mapping[str, Any], *, trail: bool = False) -> Decision:
        """Answer one question, or a request as §8 writes it. With `trail`, every step taken is told (§6).

        `remove` and `move` of a node ask the same of every node beneath it, which the engine's tree
        must then hold, else this raises NotInTree. Raises Unreadable for a request that cannot be asked,
        KeyError for a question that names an unknown account or role.
        """
        if trail:
            question = asked if isinstance(asked, Question) else read_question(asked, self.policy, self.tree)
            steps: list[TrailStep] = []
            return Decision(self._reason(question, steps), tuple(steps))
        if isinstance(asked, Question):
            return _PLAIN_ANSWERS[self._reason(asked)]
        reason = self._requests.reason(asked)
        if reason is None:
            reason = self._reason(read_question(asked, self.policy, self.tree))
        return _PLAIN_ANSWERS[reason]

    def _reason(self, q: Question, trail: list[TrailStep] | None = None) -> Reason:
        if q.action == STAND_IN_ACTION:
            return self.impersonation.reason(q, trail)
        if q.action == HAND_OUT_ACTION:
            return self.handing_out.reason(q, trail)
        return self.evaluator.reason(q, trail)

    def survey(
        self, accounts: Sequence[Who], nodes: Sequence[str] | None, actions: Sequence[str], at: datetime
    ) -> Bools:
        """`[accounts, nodes, actions]` yes or no, the same answers as `decide`.

        `None` is a visitor; nodes None are the whole tree in its order; `create` is asked as `create:T`,
        without topics. KeyError for an account or node that there is not.
        """
        return self.surveyor.allowed(accounts, nodes, actions, at)

    def derived(self, make: Callable[[Policy], D]) -> D:
        """What `make` works out from the policy: once, and kept, also over changes that it does not mind."""
        if make not in self._derived:
            self._derived[make] = make(self.policy)
        made: D = self._derived[make]
        return made

    @cached_property
    def surveyor(self) -> Surveyor:
        """Answers for the whole tree at once."""
        return self._surveyor()

    def _surveyor(self, previous: Surveyor | None = None) -> Surveyor:
        return Surveyor(self.policy, self.tree, self.grants, self.limits, previous)

    @cached_property
    def impersonation(self) -> Impersonation:
        """Answers about standing in, over all nodes of the tree."""
        return Impersonation(self.evaluator, self.surveyor)

    @property
    def copies(self) -> Surveyor:
        """Answers about working copies for the whole tree at once: of what is public, as of drafts (§4)."""
        found = self.impersonation.copies
        return found.surveyor if found else self.surveyor

    @cached_property
    def handing_out(self) -> HandingOut:
        """Answers about giving roles, over all nodes of the tree."""
        return HandingOut(self.impersonation, lambda policy: self.changed(policy).impersonation)

    def may_hand_out(self, actor: str, given: Assignment, at: datetime, *, trail: bool = False) -> Decision:
        """Whether `actor` may give a role to an account, as far as the nodes of this engine's tree go (§9)."""
        return self.decide(Question(actor, HAND_OUT_ACTION, at=at, given=given), trail=trail)

    def may_stand_in(self, actor: str, subject: Who, at: datetime, *, trail: bool = False) -> Decision:
        """Whether `actor` may stand in for `subject`, as far as the nodes of this engine's tree go (§7)."""
        return self.decide(Question(actor, STAND_IN_ACTION, at=at, subject=subject), trail=trail)

    def may_stand_in_under(self, other: "Engine", actor: str, subject: Who, at: datetime, then: datetime) -> Decision:
        """The same, where `subject` is as under the policy of another engine over the same tree, then (§7)."""
        return _PLAIN_ANSWERS[self.impersonation.reason_under(other.impersonation, actor, subject, at, then)]

    def excess_under(self, other: "Engine", actor: str, subject: Who, at: datetime, then: datetime) -> Iterator[Excess]:
        """What `subject` may do under the policy of another engine, then, and `actor` may not."""
        return self.impersonation.excess_under(other.impersonation, actor, subject, at, then)

    def within(
        self, other: "Engine", actor: str, subject: Who, at: datetime, then: datetime, made: Container[str] = ()
    ) -> bool:
        """Whether `subject` may do nothing under another engine's policy, over its tree, that `actor` may not do here.

        What is asked after a step of a rehearsal (§7). Nobody is asked about nodes `made` there; about others that only
        that tree has, which came back into it, both are asked there.
        """
        if not self.impersonation.within(other.impersonation, actor, subject, at, then):
            return False
        back = np.array([n.id not in self.tree and n.id not in made for n in other.tree.nodes], dtype=bool)
        if not back.any() or self.grants.of(actor, at).keyholder:
            return True
        mine = Engine(self.policy, other.tree).impersonation
        return next(mine.brought_back(other.impersonation, actor, subject, at, then, back), None) is None

    def excess(self, actor: Who, subject: Who, at: datetime) -> Iterator[Excess]:
        """What `subject` may do and `actor` may not, of all that §7 lists."""
        return self.impersonation.excess(actor, subject, at)
