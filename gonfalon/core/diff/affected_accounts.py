"""Which accounts a difference affects: who gains and who loses anything at all, not how much of it (§4, §5).

    affected = affected_accounts(before, after, at)
    affected.gain, affected.lose          # accounts, None a visitor: the same as those of an impact

Whoever is known to gain, or to lose, is not asked about anything else that could only tell so again.
"""

from collections.abc import Iterable
from dataclasses import dataclass, fields
from datetime import datetime
from operator import attrgetter

from gonfalon.core.diff.account_diff import AccountDiff
from gonfalon.core.diff.counts import Deltas
from gonfalon.core.diff.may_change import MayChange
from gonfalon.core.diff.planner import Comparison, Part
from gonfalon.core.diff.subtree_diff import SubtreeDiff
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import OPEN_FIELD, FieldRule, Policy
from gonfalon.core.model.question import Who


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


def affected_accounts(before: Engine, after: Engine, at: datetime) -> AffectedAccounts:
    """Compare two policies for every account and visitors, until it is known of each whether they gain and lose."""
    compare = Comparison(before, after, at)
    known = _Known(before, after)
    for id in compare.affected:
        if turns := compare.plain(id):
            known.add(id, turns)
    for part in sorted(map(compare.leading, compare.parts), key=attrgetter("of_branches")):
        if part.of_branches and part.of_many and compare.same_tree:
            known.ask(part, compare.diffs(part, sampled=True))
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
    """Whether roles and field rules of one policy give all that those of another give, and bar no more; else equal."""
    others = {part.name for part in fields(Policy)} - {"roles", "fields", "tree", "expectations"}
    same = most.tree is least.tree and all(getattr(most.policy, o) is getattr(least.policy, o) for o in others)
    roles, rules = most.policy.roles, most.policy.fields
    if not same or roles.keys() != least.policy.roles.keys():
        return False
    ruled = {*rules, *least.policy.fields} if rules is not least.policy.fields else ()
    passed = (_passes_all_of(rules.get(key, OPEN_FIELD), least.policy.fields.get(key, OPEN_FIELD)) for key in ruled)
    return all(passed) and all(_says_all_of(most, least, key) for key in roles)


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
