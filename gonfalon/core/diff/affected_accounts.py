"""Which accounts a difference affects: who gains and who loses anything at all, not how much of it (§4, §5).

    affected = affected_accounts(before, after, at)
    affected.gain, affected.lose          # accounts, None a visitor: the same as those of an impact

Whoever is known to gain, or to lose, is not asked about anything else that could only tell so again.
"""

from collections.abc import Container, Iterable
from dataclasses import dataclass, fields, replace
from datetime import datetime
from operator import attrgetter

from gonfalon.core.diff.account_diff import AccountDiff
from gonfalon.core.diff.counts import Deltas
from gonfalon.core.diff.may_change import MayChange
from gonfalon.core.diff.planner import SAMPLES, Comparison, Part
from gonfalon.core.diff.subtree_diff import SubtreeDiff
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import OPEN_FIELD, FieldRule, Policy, Subject
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import Effect

_SEVERAL = 4
"""From so many accounts on, they are asked at a few nodes first."""


@dataclass(frozen=True)
class AffectedAccounts:
    """Those who gain something and those who lose something; None is a visitor.

    `may_change` tells what can change for them.
    """

    gain: frozenset[Who]
    lose: frozenset[Who]
    may_change: MayChange
    before: Engine
    after: Engine
    at: datetime


def affected_accounts(
    before: Engine, after: Engine, at: datetime, only: Container[str | None] | None = None
) -> AffectedAccounts:
    """Compare two policies for every account and visitors, until it is known of each whether they gain and lose.

    With `only`, for those alone.
    """
    compare = Comparison(before, after, at, only)
    known = _Known(before, after)
    parts = sorted(map(compare.leading, compare.parts), key=attrgetter("of_branches"))
    for part in parts if compare.same_tree else ():
        for size in SAMPLES:
            if len(who := known.unknown(part.who)) >= _SEVERAL:
                known.ask(part, compare.diffs(part.of(who), sampled=size))
    for id in known.unknown(compare.affected):
        if turns := compare.plain(id):
            known.add(id, turns)
    for part in parts:
        if who := known.unknown(part.who):
            known.ask(part, compare.diffs(part.of(who), soonest=True))
    turning = known.gain | known.lose
    return AffectedAccounts(
        frozenset(known.gain), frozenset(known.lose), compare.may_change(turning), before, after, at
    )


class _Known:
    """Who is known to gain and to lose. Where more is given and nothing else changes, nobody can lose (§4)."""

    def __init__(self, before: Engine, after: Engine) -> None:
        self.gain, self.lose = set[str | None](), set[str | None]()
        turning = (self.gain, not _gives_all_of(before, after)), (self.lose, not _gives_all_of(after, before))
        self._open = [some for some, can_turn in turning if can_turn]

    def unknown(self, who: Iterable[str | None]) -> list[str | None]:
        """Those of some accounts for whom more questions could still tell something new."""
        if not self._open:
            return []
        enough = set.intersection(*self._open)
        return [id for id in who if id not in enough]

    def ask(self, part: Part, diffs: Iterable[AccountDiff | SubtreeDiff]) -> None:
        for asker in diffs:
            asked = self.unknown(part.who)
            if not asked:
                return
            found = asker.turns(asked, anything=True) if isinstance(asker, SubtreeDiff) else asker.turns(asked)
            for id, turns in found.items():
                self.add(id, turns)

    def add(self, id: str | None, turns: Deltas) -> None:
        for gained, lost in turns.values():
            if gained:
                self.gain.add(id)
            if lost:
                self.lose.add(id)


def _gives_all_of(most: Engine, least: Engine) -> bool:
    """Whether one policy gives all that another gives, and bars no more, as far as a look at its parts tells."""
    others = {part.name for part in fields(Policy)} - {"roles", "fields", "tree", "expectations", *_LOOKED_AT}
    same = most.tree is least.tree and all(getattr(most.policy, o) is getattr(least.policy, o) for o in others)
    roles, rules = most.policy.roles, most.policy.fields
    if not same or roles.keys() != least.policy.roles.keys():
        return False
    if not (_assigns_all_of(most, least.policy) and _awake_as_all_of(most.policy, least.policy)):
        return False
    ruled = {*rules, *least.policy.fields} if rules is not least.policy.fields else ()
    passed = (_passes_all_of(rules.get(key, OPEN_FIELD), least.policy.fields.get(key, OPEN_FIELD)) for key in ruled)
    return all(passed) and all(_says_all_of(most, least, key) for key in roles)


_LOOKED_AT = ("assignments", "accounts")
"""Parts of which one may hold more than the other."""


def _assigns_all_of(most: Engine, least: Policy) -> bool:
    """Whether the assignments of one policy are those of another and more, none of which bars anything."""
    assignments = most.policy.assignments
    if assignments is least.assignments:
        return True
    if any(assignments.get(id) != a for id, a in least.assignments.items()):
        return False
    more = {a.role for id, a in assignments.items() if id not in least.assignments}
    barring = {limit.to for limit in most.policy.limits.values() if limit.effect is Effect.BAR}
    return not any(
        most.grants.resolved(role).barred
        or not barring.isdisjoint(Subject.role(key) for key in most.policy.role_chain(role))
        for role in more
    )


def _awake_as_all_of(most: Policy, least: Policy) -> bool:
    """Whether accounts differ in nothing but the state of some that are not active in the other policy."""
    if most.accounts is least.accounts:
        return True
    pairs = ((account, least.accounts.get(id)) for id, account in most.accounts.items())
    return most.accounts.keys() == least.accounts.keys() and all(
        one is other or (other is not None and other.state != "active" and replace(other, state=one.state) == one)
        for one, other in pairs
    )


def _passes_all_of(most: FieldRule, least: FieldRule) -> bool:
    if most.mode == "table" and least.mode == "table":
        return all(marks <= most.table.get(role, frozenset()) for role, marks in least.table.items())
    return most.mode in ("open", least.mode)


def _says_all_of(most: Engine, least: Engine, role: str) -> bool:
    one, other = most.policy.roles[role], least.policy.roles[role]
    if (one.builds_on, one.components, one.facets) != (other.builds_on, other.components, other.facets):
        return False
    more, less = most.grants.resolved(role), least.grants.resolved(role)
    given = (more.extents.get(capability, 0) >= extent for capability, extent in less.extents.items())
    return more is less or (more.barred <= less.barred and all(given))
