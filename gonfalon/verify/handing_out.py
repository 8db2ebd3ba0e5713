"""Handing out under a delegation: whether one may, what is missing where one may not, and doing it (§9).

hand_out(viewpoint, Assignment(new_id(), "tenant-editor", Subject.account("noor"), scope, period), by)
"""

from dataclasses import replace
from typing import Any

from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.describe import Names, where_words
from gonfalon.access.sight import Sight
from gonfalon.accounts.names import names_of
from gonfalon.core import Engine
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, Delegation
from gonfalon.core.model.vocabulary import Reason
from gonfalon.ledger.models import By, Entry
from gonfalon.verify.excess import beyond_words
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY, unit

MOST_TOLD = 3


class MayNotHandOut(Exception):
    """The rules say no: the reason of the decision, and what is missing in words."""

    def __init__(self, reason: Reason, why: str) -> None:
        super().__init__(why)
        self.reason, self.why = reason, why


def delegations_of(viewpoint: Viewpoint) -> list[Delegation]:
    """The delegations that whoever asks has now."""
    return viewpoint.engine.handing_out.delegated(viewpoint.subject, viewpoint.at)


def receivers_of(delegations: list[Delegation], viewpoint: Viewpoint) -> set[str]:
    """The accounts that something may be given to under some delegations; whoever asks is left out."""
    handing_out, accounts = viewpoint.engine.handing_out, viewpoint.snapshot.policy.accounts.values()
    return {
        a.id
        for a in accounts
        if a.id != viewpoint.account
        and a.state != "disabled"
        and any(handing_out.receives(d, a.id) for d in delegations)
    }


@unit(POLICY, NODES.shared)
def hand_out(viewpoint: Viewpoint, given: Assignment, by: By) -> Entry:
    """Give a role. Raises MayNotHandOut."""
    _require(viewpoint, viewpoint.engine, given)
    return _apply(viewpoint, by, given, giving(given))


def require_handing_out(viewpoint: Viewpoint, given: Assignment) -> None:
    """Raise MayNotHandOut unless whoever asks may give it."""
    _require(viewpoint, viewpoint.engine, given)


def giving(given: Assignment) -> dict[str, Any]:
    """The operation that gives it."""
    return {"kind": "give-role", **_data(given)}


@unit(POLICY, NODES.shared)
def change_handed_out(viewpoint: Viewpoint, was: Assignment, now: Assignment, by: By) -> Entry:
    """Give what was given otherwise: one could give it anew, as it is and as it would be. Raises MayNotHandOut."""
    without = _without(viewpoint, was)
    _require(viewpoint, without, was)
    _require(viewpoint, without, now)
    held = {key: value for key, value in _data(now).items() if key in ("scope", "starts", "ends")}
    return _apply(viewpoint, by, now, {"kind": "change-role", "assignment": was.id, **held})


@unit(POLICY, NODES.shared)
def take_back(viewpoint: Viewpoint, was: Assignment, by: By) -> Entry:
    """End what was given. Raises MayNotHandOut."""
    _require(viewpoint, _without(viewpoint, was), was)
    return _apply(viewpoint, by, was, {"kind": "take-role", "assignment": was.id})


def _without(viewpoint: Viewpoint, given: Assignment) -> Engine:
    """An engine over all nodes, as if something had not been given."""
    policy = viewpoint.snapshot.policy
    others = {id: a for id, a in policy.assignments.items() if id != given.id}
    return viewpoint.engine.changed(replace(policy, assignments=others))


def _data(given: Assignment) -> dict[str, Any]:
    return {
        "role": given.role,
        "to": given.to._asdict(),
        "scope": write_scope(given.scope),
        "starts": given.period.starts,
        "ends": given.period.ends,
    }


def _apply(viewpoint: Viewpoint, by: By, given: Assignment, operation: dict[str, Any]) -> Entry:
    sight = Sight(viewpoint.sight.nodes, {given.to.id})
    return apply_at_once(viewpoint.account or "", [operation], by, sight)


def _require(viewpoint: Viewpoint, engine: Engine, given: Assignment) -> None:
    answer = engine.may_hand_out(viewpoint.account or "", given, viewpoint.at)
    if not answer.allow:
        raise MayNotHandOut(answer.reason, _missing(answer.reason, viewpoint, engine, given))


def _missing(reason: Reason, viewpoint: Viewpoint, engine: Engine, given: Assignment) -> str:
    names = Names([], viewpoint.sight, viewpoint.catalogue)
    role, who = names.roles.get(given.role, given.role), names_of([given.to.id]).get(given.to.id, "somebody")
    if reason is Reason.BEYOND:
        return _too_much(viewpoint, engine, given, role)
    if reason is not Reason.NOT_DELEGATED:
        return "Your account is not active."
    if given.to.id == viewpoint.account:
        return "Nobody gives a role to themselves."
    handing_out = engine.handing_out
    fitting = [d for d in handing_out.delegated(viewpoint.subject, viewpoint.at) if given.role in d.roles]
    if not fitting:
        return f"No delegation lets you give {role}."
    receiving = [d for d in fitting if handing_out.receives(d, given.to.id)]
    if not receiving:
        groups = ", ".join(sorted({names.group(d.receivers) for d in fitting if d.receivers}))
        return f"You may give {role} to members of {groups} only, and {who} is not one."
    ends = given.period.ends
    lasting = [d for d in receiving if d.ends is None or (ends is not None and ends <= d.ends)]
    if not lasting:
        until = max(d.ends for d in receiving if d.ends)
        return f"You may give {role} until {until:%-d %B %Y} only; say an end that is no later."
    places = "; or ".join(_where(d, viewpoint) for d in lasting)
    return f"You may give {role} only {places}."


def _where(delegation: Delegation, viewpoint: Viewpoint) -> str:
    scope = write_scope(delegation.scope)
    return where_words(scope, Names([scope], viewpoint.sight, viewpoint.catalogue))


def _too_much(viewpoint: Viewpoint, engine: Engine, given: Assignment, role: str) -> str:
    mine = engine.grants.of(viewpoint.subject, viewpoint.at)
    missing = [viewpoint.catalogue.phrase(c) for c in engine.handing_out.missing(mine, given)][:MOST_TOLD]
    if missing:
        return f"{role} gives more than you have there: {', '.join(missing)}."
    excess = engine.handing_out.excess(viewpoint.subject, given, viewpoint.at)
    return beyond_words(excess, viewpoint, "With it they could")
