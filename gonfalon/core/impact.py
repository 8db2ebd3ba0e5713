"""What differs between two policies over one tree, exactly: who gains and who loses (§4).

    changed = impact(before, after, at)
    changed.gain, changed.lose     # accounts
    changed.gained, changed.lost   # (account, node, action) answers

Accounts that are given other things under the two policies are surveyed under both, all of them when
limits, locks, people or groups differ; the cost is two surveys of each.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from gonfalon.core.engine import Engine
from gonfalon.core.policy import Policy
from gonfalon.core.question import Question, Who
from gonfalon.core.survey import CODE, Surveyor
from gonfalon.core.vocabulary import ACTIONS, Kind, Reason


@dataclass(frozen=True, slots=True)
class Impact:
    """Accounts (None is a visitor) that gain or lose, and how many answers turn each way."""

    gain: frozenset[Who]
    lose: frozenset[Who]
    gained: int
    lost: int


def impact(before: Surveyor, after: Surveyor, at: datetime) -> Impact:
    """Compare two surveyors of the same tree for every account, node, action and sitewide capability."""
    actions = _actions(before, after)
    plain = sorted(
        c
        for c in {*before.policy.capabilities, *after.policy.capabilities}
        if after.policy.kind(c) in (Kind.OPENING, Kind.SITEWIDE)
    )
    gain, lose, gained, lost = set(), set(), 0, 0
    everyone = _narrowed_otherwise(before.policy, after.policy)
    for who in (*after.policy.accounts, None):
        if not everyone and not _given_otherwise(before.engine, after.engine, who, at):
            continue
        allowed = CODE[Reason.ALLOWED]
        was = before.reasons(who, actions, at) == allowed
        now = after.reasons(who, actions, at) == allowed
        more, less = int((now & ~was).sum()), int((was & ~now).sum())
        for capability in plain:
            was_plain, now_plain = (_may(s.engine, who, capability, at) for s in (before, after))
            more += now_plain and not was_plain
            less += was_plain and not now_plain
        if more:
            gain.add(who)
        if less:
            lose.add(who)
        gained, lost = gained + more, lost + less
    return Impact(frozenset(gain), frozenset(lose), gained, lost)


def _narrowed_otherwise(before: Policy, after: Policy) -> bool:
    """Whether anything but what is given differs: limits, locks, people and groups may count for anyone."""
    return (before.limits, before.locks, before.accounts, before.groups) != (
        after.limits,
        after.locks,
        after.accounts,
        after.groups,
    )


def _given_otherwise(before: Engine, after: Engine, who: Who, at: datetime) -> bool:
    """Whether what is given to somebody differs in any source, its scope or its answers."""
    was, now = (
        [(s.id, s.scope, s.roles, s.groups, s.answers) for s in engine.holdings.of(who, at).sources]
        for engine in (before, after)
    )
    return was != now


def _may(engine: Engine, who: Who, capability: str, at: datetime) -> bool:
    return engine.decide(Question(who, capability, at=at)).allow


def _actions(before: Surveyor, after: Surveyor) -> Sequence[str]:
    types = {t.key for t in after.policy.types.values() if t.tree}
    placed = {c for s in (before, after) for c, kind in s.policy.capabilities.items() if kind is Kind.PLACED}
    return [*(a for a in ACTIONS if a != "create"), *(f"create:{t}" for t in sorted(types)), *sorted(placed)]
