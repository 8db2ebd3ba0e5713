"""From a yes to a no: the changes that end an answer and take least else (§4).

    endings(engine, Question("ada", "edit", tree.target("fees"), at))
    # [(SetLimit(Limit("advised", "fees", ada, STOP, "node", {"edit"})),), (TakeRole("a1"),), ...]

Each is tried by deciding again under it. A keyholder's yes, and a yes of nobody in particular that no limit reaches,
ends by none of them.
"""

from collections.abc import Iterator

from gonfalon.core.checks.ranking import Way, reach_of
from gonfalon.core.checks.turning import fresh, limited_action
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.question import Finding, Question
from gonfalon.core.model.vocabulary import WITHHELD, Effect, Reason
from gonfalon.core.operations import (
    Operation,
    SetAnswer,
    SetLimit,
    SetMember,
    TakeCapability,
    TakeRole,
    apply,
)


def endings(engine: Engine, question: Question) -> list[Way]:
    """The changes that turn a yes, those that are about fewest others first; none for a no."""
    decision = engine.decide(question, trail=True)
    if not decision.allow:
        return []
    rests = [f for step in decision.trail if step.step == "grants" for f in step.findings if f.reason is Reason.ALLOWED]
    capabilities = [step.capability or "" for step in decision.trail if step.step == "grants"]
    found = []
    for way in _candidates(engine, question, rests, capabilities):
        if way and not engine.changed(apply(engine.policy, way)).decide(question).allow:
            found.append(way)
    return sorted(found, key=lambda way: reach_of(way, engine))


def _candidates(engine: Engine, question: Question, rests: list[Finding], capabilities: list[str]) -> Iterator[Way]:
    yield _stop_here(engine, question)
    if isinstance(question.who, str):
        yield _taken(engine, question.who, rests)
    for capability in dict.fromkeys(capabilities):
        roles = {
            f.said_by or f.role for f in rests if f.role is not None and capability in engine.grants.statements(f.role)
        }
        for role in sorted(role for role in roles if role is not None):
            yield (SetAnswer(role, capability, WITHHELD),)


def _stop_here(engine: Engine, question: Question) -> Way:
    """A stop on this place alone, for whoever is asked about; for a visitor, for everybody."""
    target, who, policy = question.target, question.who, engine.policy
    if target is None or not target.path:
        return ()
    if who is None and policy.everyone is not None:
        to = Subject.role(policy.everyone)
    elif isinstance(who, str):
        to = Subject.account(who)
    else:
        return ()
    applies = "beneath" if target.id is None else "node"
    actions = frozenset({limited_action(question)})
    return (SetLimit(Limit(fresh(policy), target.path[-1], to, Effect.STOP, applies, actions)),)  # type: ignore[arg-type]


def _taken(engine: Engine, who: str, rests: list[Finding]) -> Way:
    """All that gives it taken from somebody: what is given to them, and the groups through which it is."""
    policy, way = engine.policy, dict[tuple[str, ...], Operation]()
    account = policy.accounts[who]
    for f in rests:
        given = policy.assignments.get(f.id) or policy.direct_grants.get(f.id)
        if given is None:
            return ()  # the baseline gives it
        if given.to.kind == "account":
            one: Operation = TakeRole(f.id) if f.id in policy.assignments else TakeCapability(f.id)
            way[one.part] = one
            continue
        for group in account.groups:
            if given.to.id in policy.group_chain(group):
                leave = SetMember(who, group, False)
                way[leave.part] = leave
    return tuple(way.values())
