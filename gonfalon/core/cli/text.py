"""A trail in plain words, for the command line (§6). The ids are those of the policy."""

from collections.abc import Iterator

from gonfalon.core.checks.suggestions import Advice
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.question import Decision, Finding, TrailStep
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.operations import (
    DropLimit,
    GiveCapability,
    GiveRole,
    OpenLock,
    Operation,
    SetAnswer,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetReach,
)

_STEPS = {
    "active": "the account",
    "keyholder": "keyholder",
    "bars": "bars",
    "grants": "grants",
    "own-limits": "own limits",
    "locks": "locks",
    "field": "the field's rule",
    "component": "components",
    "facet": "facets",
    "beyond": "standing in",
}
_RUNG = {
    Reason.NOT_GRANTED: "does not give it",
    Reason.OUT_OF_SCOPE: "gives it, but not here",
    Reason.OUT_OF_EXTENT: "gives it, but not on what this author wrote",
    Reason.STOPPED: "gives it, but is stopped",
    Reason.ALLOWED: "gives it",
    Reason.BARRED: "bars it",
}


def explained(decision: Decision) -> Iterator[str]:
    """The answer, then each step with what it found, one line each."""
    yield f"{'yes' if decision.allow else 'no'}: {decision.reason}"
    for step in decision.trail:
        yield _step(step)
        for finding in step.findings:
            yield f"    {_finding(finding)}"


def advised(advice: Advice) -> Iterator[str]:
    """What would turn a no, one line each, with what else it would turn."""
    if advice.bars:
        yield "  nothing but lifting what bars it would turn this"
    for change in advice.changes:
        deltas = change.impact
        affected = deltas.gain | deltas.lose
        accounts = len(affected - {None})
        who = f"{accounts} {'account' if accounts == 1 else 'accounts'}{' and visitors' if None in affected else ''}"
        also = f"{who}, +{deltas.gained} -{deltas.lost} answers"
        yield f"  {', and '.join(_operation(op) for op in change.operations)} ({also})"


def _operation(operation: Operation) -> str:
    match operation:
        case GiveRole(given):
            where = "; ".join(f"{name} {', '.join(ids)}" for name, ids in write_scope(given.scope).items())
            return f"give role {given.role} to {given.to.kind} {given.to.id}, {where or 'everywhere'}"
        case GiveCapability(given):
            where = "; ".join(f"{name} {', '.join(ids)}" for name, ids in write_scope(given.scope).items())
            return f"give {given.capability} ({given.says}) to {given.to.kind} {given.to.id}, {where or 'everywhere'}"
        case SetComponents(role, components):
            return f"let role {role} insert {', '.join(sorted(components or ()))}"
        case SetFacets(role, component, facets):
            return f"let role {role} change {', '.join(sorted(facets or ()))} of {component}"
        case SetAnswer(role, capability, says):
            return f"let role {role} say {says} about {capability}"
        case SetLimit(limit):
            return f"{limit.effect} at {limit.node} for {limit.to.kind} {limit.to.id}"
        case DropLimit(id):
            return f"drop limit {id}"
        case SetReach(account, tree, branches):
            return f"let {account} reach {', '.join(sorted(branches or ()))} in {tree}"
        case OpenLock(id):
            return f"open lock {id}"
        case SetFieldRule(type, field, _):
            return f"widen the rule of {type}.{field}"
    raise TypeError(f"{operation} is not advised")


def _step(step: TrailStep) -> str:
    about = f" for {step.capability}" if step.capability else ""
    if step.step == "keyholder":
        return "  keyholder: may do everything"
    return f"  {_STEPS.get(step.step, step.step)}{about}: {'passed' if step.passed else 'failed'}"


def _finding(f: Finding) -> str:
    limits = f" by limit {', '.join(f.limits)}" if f.limits else ""
    if f.what == "source":
        through = f" through group {f.group}" if f.group else ""
        said = f" ({f.says}{f', said by {f.said_by}' if f.said_by not in (None, f.role) else ''})" if f.says else ""
        name = f"role {f.role}, {f.id}" if f.role and f.role != f.id else f"role {f.role}" if f.role else f.id
        return f"{name}{through}{said} {_RUNG.get(f.reason, '') if f.reason else ''}{limits}".rstrip()
    if f.what in ("bar", "own-limit"):
        return f"{f.what.replace('-', ' ')} on {f.id}{limits}"
    if f.what == "reach":
        return f"outside the reach of {f.id}"
    return f"{f.what} {f.id}{f' closed to role {f.role}' if f.role else ''}"
