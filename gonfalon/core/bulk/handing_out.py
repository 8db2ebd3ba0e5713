"""Handing out: who may give which role to whom, and never more than they have (§9).

    handing_out = HandingOut(impersonation, after)
    given = Assignment("new", "writer", Subject.account("ben"), Scope(branches=frozenset({"n2"})))
    handing_out.reason(Question("ada", "hand-out", given=given))      # Reason.NOT_DELEGATED

Exact, about every node, profile, site and part that there is, as standing in is.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, datetime

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.impersonation import Comparison, Excess, Impersonation, alone
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.decide.evaluate import Trail
from gonfalon.core.decide.grants import GrantSource, SubjectGrants, gives
from gonfalon.core.model.bits import Bits, Bools
from gonfalon.core.model.policy import ALWAYS, Assignment, Delegation, Policy, Scope, Subject
from gonfalon.core.model.question import Question, TrailStep, Who
from gonfalon.core.model.vocabulary import ASSIGN, Extent, Reason

After = Callable[[Policy], Impersonation]
"""Makes the comparison under another policy, over the same tree."""


class HandingOut:
    """Decides about giving roles, under one policy and over one tree."""

    def __init__(self, now: Impersonation, after: After) -> None:
        self.now, self._after = now, after
        self.policy, self.tree = now.policy, now.tree

    def reason(self, q: Question, trail: Trail = None) -> Reason:
        """The answer to a question of handing out. KeyError for an unknown account or role."""
        at, given = q.at or datetime.now(UTC), q.given
        assert given is not None
        mine = self.now.surveyor.grants.of(q.who, at)
        if not mine.active:
            return Reason.INACTIVE
        if mine.keyholder or self.assigns(q.who, at):
            return Reason.ALLOWED
        if given.to == Subject.account(q.who if isinstance(q.who, str) else ""):
            return _told(trail, Reason.NOT_DELEGATED)
        if not any(self.fits(d, mine, given, at) for d in self.policy.delegations.values()):
            return _told(trail, Reason.NOT_DELEGATED)
        if next(self.missing(mine, given), None) or next(self.excess(q.who, given, at), None):
            return _told(trail, Reason.BEYOND)
        return Reason.ALLOWED

    def assigns(self, who: Who, at: datetime) -> bool:
        """Whether somebody may give anything, and needs no delegation."""
        if ASSIGN not in self.policy.capabilities:
            return False
        return self.now.evaluator.reason(Question(who, ASSIGN, at=at)) is Reason.ALLOWED

    def delegated(self, who: Who, at: datetime) -> list[Delegation]:
        """The delegations that somebody has at a time."""
        mine = self.now.surveyor.grants.of(who, at)
        return [d for d in self.policy.delegations.values() if self._has(d, mine, at)]

    def fits(self, delegation: Delegation, mine: SubjectGrants, given: Assignment, at: datetime) -> bool:
        """Whether a delegation that somebody has lets them give something to whom it would be given to."""
        ends = given.period.ends
        return (
            self._has(delegation, mine, at)
            and given.role in delegation.roles
            and self.receives(delegation, given.to.id)
            and (delegation.ends is None or (ends is not None and ends <= delegation.ends))
            and given.scope.within(delegation.scope, self._path)
        )

    def receives(self, delegation: Delegation, account: str) -> bool:
        """Whether an account is among those whom a delegation lets something be given to."""
        group = delegation.receivers
        return group is None or group in self.policy.all_groups(self.policy.accounts[account])

    def missing(self, mine: SubjectGrants, given: Assignment) -> Iterator[str]:
        """The capabilities that a role gives and that are not given to somebody as far, wherever it would hold."""
        for capability, said in self.now.surveyor.grants.statements(given.role).items():
            if not gives(said.says):
                continue
            needed = Extent.OWN if capability.endswith(".create") else said.extent
            if not any(self._as_far(source, capability, needed, given.scope) for source in mine.sources):
                yield capability

    def excess(self, actor: Who, given: Assignment, at: datetime) -> Iterator[Excess]:
        """What an account could do once an assignment had begun, not before, and somebody may not do now."""
        begun = replace(given, period=ALWAYS)
        after = self._after(replace(self.policy, assignments={**self.policy.assignments, given.id: begun}))
        return _WouldGain(self.now, after, alone(actor), given.to.id, at).excess()

    def _has(self, delegation: Delegation, mine: SubjectGrants, at: datetime) -> bool:
        if delegation.ends is not None and at >= delegation.ends:
            return False
        if delegation.to.kind == "role":
            return any(source.role == delegation.to.id for source in mine.sources)
        return delegation.to in mine.subjects

    def _as_far(self, source: GrantSource, capability: str, needed: Extent, scope: Scope) -> bool:
        said = source.statements.get(capability)
        return said is not None and said.extent >= needed and scope.within(source.scope, self._path)

    def _path(self, branch: str) -> tuple[str, ...]:
        return self.tree.path(branch) if branch in self.tree else (branch,)


class _WouldGain(Comparison):
    """What an account would gain, beside what somebody else may do now."""

    def __init__(self, now: Impersonation, after: Impersonation, actor: Who, subject: Who, at: datetime) -> None:
        super().__init__(now, actor, subject, at)
        self.after = after
        self.would_hold = [after.surveyor.grants.of(subject, at)]

    def over_copies(self) -> "_WouldGain | None":
        copies, after = self.over.copies, self.after.copies
        return _WouldGain(copies, after, self.actor, self.subject, self.at) if copies and after else None

    def both_on_nodes(self, actions: tuple[str, ...]) -> tuple[Bits, Bits]:
        mine, before = super().both_on_nodes(actions)
        [then] = allowed(BatchEvaluator.of(self.after.surveyor.whole(actions), self.would_hold))
        return mine, then & ~before

    def both_of_parts(self, piece: int) -> Iterator[tuple[str, tuple[Bools, Bools]]]:
        parts = self.after.parts[piece]
        then = parts.answers(parts.evaluator(self.would_hold))
        for name, (mine, before) in super().both_of_parts(piece):
            [after] = then[name]
            yield name, (mine, after & ~before)

    def theirs(self, question: Question) -> bool:
        return self.after.evaluator.reason(question) is Reason.ALLOWED and not super().theirs(question)


def _told(trail: Trail, reason: Reason) -> Reason:
    if trail is not None:
        trail.append(TrailStep(str(reason), None, False))
    return reason
