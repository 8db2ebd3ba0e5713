"""Who can do something, and who almost can and what stops them: at one place, or over a branch (§4, §5).

    found = who_can(engine, Question(None, "edit", tree.target("fees"), at))
    found.can                     # ["ada", "ben"], keyholders left out
    found.almost                  # {"cy": Reason.STOPPED}
    who_can_beneath(engine, "moorings", "edit", at)     # {"ada": Amount(can=3, of=7)}

Cost: one decision an account; over a branch one answer for each account and node, at most MOST_ANSWERS.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import NamedTuple

from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import Finding, Question
from gonfalon.core.model.vocabulary import PART_ACTIONS, Reason

MOST_ANSWERS = 20_000_000
MOST_PARTS = 200_000
"""Of parts of pages, which are asked one by one."""

NEAREST = (
    *(Reason.LOCKED, Reason.FIELD, Reason.COMPONENT, Reason.FACET, Reason.LIVE, Reason.OUT_OF_REACH),
    *(Reason.STOPPED, Reason.BARRED, Reason.OUT_OF_EXTENT, Reason.OUT_OF_SCOPE),
)
"""Why somebody almost can, who is given it: the nearest to a yes first."""


class TooMany(Exception):
    """A branch and the accounts come to more answers than are worked out at once."""


@dataclass(frozen=True, slots=True)
class Found:
    """Those who can, and those who are given it somewhere, or somehow, with what stops them here."""

    can: list[str]
    almost: dict[str, Reason]


class Amount(NamedTuple):
    """At how many of the pages asked about."""

    can: int
    of: int


def active_accounts(policy: Policy) -> list[str]:
    """Those whom the rules decide about: active, and no keyholders, who may do everything."""
    return [a.id for a in policy.accounts.values() if a.state == "active" and not a.keyholder]


def who_can(engine: Engine, question: Question) -> Found:
    """Everybody's answer to one question, whoever it names."""
    can, almost = [], {}
    for account in active_accounts(engine.policy):
        reason = engine.decide(replace(question, who=account)).reason
        if reason is Reason.ALLOWED:
            can.append(account)
        elif reason in NEAREST:
            almost[account] = reason
    return Found(can, dict(sorted(almost.items(), key=lambda of: NEAREST.index(of[1]))))


def who_can_beneath(
    engine: Engine, branch: str, question: Question, at: datetime, types: Sequence[str] | None = None
) -> dict[str, Amount]:
    """At how many nodes of a branch each can who can anywhere in it; of some types, where those are named.

    The question names an action and a part of a page, not where. Raises TooMany.
    """
    tree = engine.tree
    nodes = [n for n in tree.nodes[tree.branch(branch)] if types is None or n.type in types]
    if question.field is not None:
        nodes = [n for n in nodes if question.field in engine.policy.types[n.type].fields]
    accounts = active_accounts(engine.policy)
    part = question.action in PART_ACTIONS
    if len(accounts) * len(nodes) > (MOST_PARTS if part else MOST_ANSWERS):
        raise TooMany
    if part:
        counts = [
            sum(engine.decide(replace(question, who=who, target=tree.target(n.id), at=at)).allow for n in nodes)
            for who in accounts
        ]
    else:
        ids = [n.id for n in nodes]
        counts = engine.survey(accounts, ids, [question.action], at)[:, :, 0].sum(axis=1).tolist()
    return {who: Amount(count, len(nodes)) for who, count in zip(accounts, counts, strict=True) if count}


def through(engine: Engine, question: Question, *, anywhere: bool = False) -> list[Finding]:
    """The sources that give somebody what is asked: those at the top of the first capability (§4 step 4).

    With `anywhere` those that give it somewhere else, too.
    """
    trail = engine.decide(question, trail=True).trail
    steps = [step for step in trail if step.step == "grants"]
    wanted = {*NEAREST, Reason.ALLOWED} if anywhere else {Reason.ALLOWED}
    return [f for f in steps[0].findings if f.reason in wanted] if steps else []


def stops(engine: Engine, question: Question) -> list[Finding]:
    """What stood in the way last of somebody who almost can."""
    trail = engine.decide(question, trail=True).trail
    return list(trail[-1].findings) if trail and not trail[-1].passed else []
