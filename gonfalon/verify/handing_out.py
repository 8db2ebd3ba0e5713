"""Handing out under a delegation: whether one may, what is missing where one may not, and doing it (§9).

hand_out(presence, Assignment(new_id(), "tenant-editor", Subject.account("noor"), scope, period))
"""

from dataclasses import replace
from typing import Any

from gonfalon.access import describe
from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.describe import capability_words
from gonfalon.access.sight import Sight
from gonfalon.accounts.names import names_of
from gonfalon.core import Engine
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, Delegation
from gonfalon.core.model.vocabulary import Reason
from gonfalon.ledger.models import Entry
from gonfalon.verify.excess import beyond_words
from gonfalon.verify.presence import Presence
from gonfalon.work import NODES, POLICY, unit

MOST_TOLD = 3


class MayNotHandOut(Exception):
    """The rules say no: the reason of the decision, and what is missing in words."""

    def __init__(self, reason: Reason, why: str) -> None:
        super().__init__(why)
        self.reason, self.why = reason, why


def delegations_of(presence: Presence) -> list[Delegation]:
    """The delegations that whoever asks has now."""
    return presence.engine.handing_out.delegated(presence.who, presence.at)


def receivers_of(delegations: list[Delegation], presence: Presence) -> set[str]:
    """The accounts that something may be given to under some delegations; whoever asks is left out."""
    handing_out, accounts = presence.engine.handing_out, presence.snapshot.policy.accounts.values()
    return {
        a.id
        for a in accounts
        if a.id != presence.who and a.state != "disabled" and any(handing_out.receives(d, a.id) for d in delegations)
    }


@unit(POLICY, NODES.shared)
def hand_out(presence: Presence, given: Assignment) -> Entry:
    """Give a role. Raises MayNotHandOut."""
    _hold(presence)
    _require(presence, presence.engine, given)
    return _apply(presence, given, {"kind": "give-role", **_data(given)})


@unit(POLICY, NODES.shared)
def change_handed_out(presence: Presence, was: Assignment, now: Assignment) -> Entry:
    """Give what was given otherwise: one could give it anew, as it is and as it would be. Raises MayNotHandOut."""
    _hold(presence)
    without = _without(presence, was)
    _require(presence, without, was)
    _require(presence, without, now)
    held = {key: value for key, value in _data(now).items() if key in ("scope", "starts", "ends")}
    return _apply(presence, now, {"kind": "change-role", "assignment": was.id, **held})


@unit(POLICY, NODES.shared)
def take_back(presence: Presence, was: Assignment) -> Entry:
    """End what was given. Raises MayNotHandOut."""
    _hold(presence)
    _require(presence, _without(presence, was), was)
    return _apply(presence, was, {"kind": "take-role", "assignment": was.id})


def _hold(presence: Presence) -> None:
    """Let nobody change access until this is done, and decide under what holds now."""
    presence.afresh()


def _without(presence: Presence, given: Assignment) -> Engine:
    """An engine over all nodes, as if something had not been given."""
    policy = presence.snapshot.policy
    others = {id: a for id, a in policy.assignments.items() if id != given.id}
    return presence.engine.changed(replace(policy, assignments=others))


def _data(given: Assignment) -> dict[str, Any]:
    return {
        "role": given.role,
        "to": given.to._asdict(),
        "scope": write_scope(given.scope),
        "starts": given.period.starts,
        "ends": given.period.ends,
    }


def _apply(presence: Presence, given: Assignment, operation: dict[str, Any]) -> Entry:
    sight = Sight(presence.sight.nodes, {given.to.id})
    return apply_at_once(presence.who or "", [operation], presence.by, sight)


def _require(presence: Presence, engine: Engine, given: Assignment) -> None:
    answer = engine.may_hand_out(presence.who or "", given, presence.at)
    if not answer.allow:
        raise MayNotHandOut(answer.reason, _missing(answer.reason, presence, engine, given))


def _missing(reason: Reason, presence: Presence, engine: Engine, given: Assignment) -> str:
    names = describe.Names([], presence.sight)
    role, who = names.roles.get(given.role, given.role), names_of([given.to.id]).get(given.to.id, "somebody")
    if reason is Reason.BEYOND:
        return _too_much(presence, engine, given, role)
    if reason is not Reason.NOT_DELEGATED:
        return "Your account is not active."
    if given.to.id == presence.who:
        return "Nobody gives a role to themselves."
    handing_out = engine.handing_out
    fitting = [d for d in handing_out.delegated(presence.who, presence.at) if given.role in d.roles]
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
    places = "; or ".join(_where(d, presence) for d in lasting)
    return f"You may give {role} only {places}."


def _where(delegation: Delegation, presence: Presence) -> str:
    scope = write_scope(delegation.scope)
    return describe.where_words(scope, describe.Names([scope], presence.sight))


def _too_much(presence: Presence, engine: Engine, given: Assignment, role: str) -> str:
    mine = engine.grants.of(presence.who, presence.at)
    missing = [capability_words(c) for c in engine.handing_out.missing(mine, given)][:MOST_TOLD]
    if missing:
        return f"{role} gives more than you have there: {', '.join(missing)}."
    excess = engine.handing_out.excess(presence.who, given, presence.at)
    return beyond_words(excess, presence, "With it they could")
