"""Expectations: questions with the answer they should have, asked of many people and nodes at once (§8).

e = Expectation("e1", Range(holders_of="tenant"), "publish", branch="moorings", expect=False)
result = prove(surveyor, [e], at)[0]
result.holds, result.asked, result.against
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from gonfalon.core.policy import Policy
from gonfalon.core.question import Question, Who
from gonfalon.core.survey import CODE, REASONS, Surveyor
from gonfalon.core.vocabulary import PART_ACTIONS, Kind, Reason


@dataclass(frozen=True, slots=True)
class Range:
    """Who is asked: one account, a visitor (nothing named), or everyone a role or group tells apart.

    `holders_of` is every active account with an active assignment of the role; the `except_` forms are
    all other active accounts but keyholders, and visitors.
    """

    account: str | None = None
    holders_of: str | None = None
    members_of: str | None = None
    except_holders_of: str | None = None
    except_members_of: str | None = None


@dataclass(frozen=True, slots=True)
class Expectation:
    """A question and its expected answer. A node, or a branch (narrowed to `types`), or neither (sitewide)."""

    id: str
    who: Range
    action: str
    node: str | None = None
    branch: str | None = None
    types: frozenset[str] | None = None
    field: str | None = None
    expect: bool = True


@dataclass(frozen=True, slots=True)
class Against:
    """One answer that is not the expected one."""

    who: Who
    node: str | None
    reason: Reason


@dataclass(frozen=True, slots=True)
class Result:
    """How an expectation stands: how many questions it asked and the first answer against it, if any."""

    expectation: Expectation
    asked: int
    failed: int
    against: Against | None

    @property
    def holds(self) -> bool:
        return self.failed == 0


def prove(survey: Surveyor, expectations: Iterable[Expectation], at: datetime) -> list[Result]:
    """Ask every expectation. Nodes that are no longer there are asked of no more."""
    return [_ask(survey, expectation, at) for expectation in expectations]


def people(policy: Policy, who: Range, at: datetime) -> list[Who]:
    """Everyone a range means, accounts in the policy's order, a visitor last."""
    if who.holders_of is not None:
        return [*sorted(_holders(policy, who.holders_of, at))]
    if who.members_of is not None:
        return [*sorted(_members(policy, who.members_of))]
    if who.except_holders_of is not None:
        return _others(policy, _holders(policy, who.except_holders_of, at))
    if who.except_members_of is not None:
        return _others(policy, _members(policy, who.except_members_of))
    return [who.account]


def _members(policy: Policy, group: str) -> set[str]:
    return {a.id for a in policy.accounts.values() if a.state == "active" and group in policy.all_groups(a)}


def _holders(policy: Policy, role: str, at: datetime) -> set[str]:
    given = [a.to for a in policy.assignments.values() if a.role == role and a.period.active(at)]
    accounts = {to.id for to in given if to.kind == "account"}
    groups = {to.id for to in given if to.kind == "group"}
    return {
        a.id
        for a in policy.accounts.values()
        if a.state == "active" and (a.id in accounts or not groups.isdisjoint(policy.all_groups(a)))
    }


def _others(policy: Policy, left_out: set[str]) -> list[Who]:
    others = [
        a.id for a in policy.accounts.values() if a.state == "active" and not a.keyholder and a.id not in left_out
    ]
    return [*others, None]


def _nodes(survey: Surveyor, e: Expectation) -> list[str]:
    tree = survey.tree
    if e.branch is not None:
        found = tree.nodes[tree.branch(e.branch)] if e.branch in tree else []
        return [n.id for n in found if e.types is None or n.type in e.types]
    return [e.node] if e.node is not None and e.node in tree else []


def _ask(survey: Surveyor, e: Expectation, at: datetime) -> Result:
    who = people(survey.policy, e.who, at)
    if "." in e.action and survey.policy.kind(e.action) in (Kind.OPENING, Kind.SITEWIDE):
        return _each(survey, e, [(w, None) for w in who], at)
    nodes = _nodes(survey, e)
    if e.action in PART_ACTIONS:
        return _each(survey, e, [(w, n) for w in who for n in nodes], at)
    if not nodes:
        return Result(e, 0, 0, None)
    rows = [survey.tree.index[n] for n in nodes]
    failed, against = 0, None
    for w in who:
        codes = survey.reasons(w, [e.action], at)[rows, 0]
        wrong = ((codes == CODE[Reason.ALLOWED]) != e.expect).nonzero()[0]
        failed += len(wrong)
        if against is None and len(wrong):
            first = int(wrong[0])
            against = Against(w, nodes[first], REASONS[int(codes[first])])
    return Result(e, len(who) * len(nodes), failed, against)


def _each(survey: Surveyor, e: Expectation, asked: Sequence[tuple[Who, str | None]], at: datetime) -> Result:
    failed, against = 0, None
    for who, node in asked:
        target = survey.tree.target(node) if node is not None else None
        answer = survey.engine.decide(Question(who, e.action, target, at, field=e.field))
        if answer.allow != e.expect:
            failed += 1
            against = against or Against(who, node, answer.reason)
    return Result(e, len(asked), failed, against)
