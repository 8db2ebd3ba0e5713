"""What matters of every account at a glance: what it holds, until when, whether it enters the desk, what is odd.

    roster = Roster(snapshot, at)
    list(roster.notes("ada", "active", last_seen))      # ["ends"]

Worked out from the policy in memory; kept with the engine for as long as the same is held.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from weakref import WeakKeyDictionary

from gonfalon.access.snapshot import Snapshot
from gonfalon.core import Engine, Question
from gonfalon.core.model.policy import Assignment, DirectGrant

SOON = timedelta(days=30)
LONG = timedelta(days=180)
ODD = frozenset({"never", "unseen", "holding", "nothing"})
"""Notes on accounts that are worth a look."""


@dataclass(frozen=True, slots=True)
class RoleHeld:
    """A role somebody holds, whether only somewhere in every way they hold it, and until when at the latest."""

    role: str
    somewhere: bool
    ends: datetime | None


class Roster:
    """The roster at a moment, under one policy."""

    def __init__(self, snapshot: Snapshot, at: datetime) -> None:
        self.at, self.policy = at, snapshot.policy
        self.holders = snapshot.holders(at)
        self.desk = _who_enters(snapshot.engine, at)
        self._direct: dict[str, list[DirectGrant]] = {}
        for grant in self.policy.direct_grants.values():
            if grant.period.active(at):
                receivers = [grant.to.id] if grant.to.kind == "account" else self.holders.members.get(grant.to.id, [])
                for account in receivers:
                    self._direct.setdefault(account, []).append(grant)

    def roles(self, account: str) -> list[RoleHeld]:
        """The roles an account holds, each once."""
        ways: dict[str, list[Assignment]] = {}
        for held in self.holders.by_account.get(account, ()):
            ways.setdefault(held.role, []).append(held.assignment)
        return [
            RoleHeld(role, all(not a.scope.unrestricted for a in every), _latest(a.period.ends for a in every))
            for role, every in ways.items()
        ]

    def ends(self, account: str) -> datetime | None:
        """When the first of what an account holds comes to its end."""
        held = [h.assignment for h in self.holders.by_account.get(account, ())]
        given: list[Assignment | DirectGrant] = [*held, *self._direct.get(account, ())]
        return min((g.period.ends for g in given if g.period.ends), default=None)

    def notes(self, account: str, state: str, seen: datetime | None) -> Iterator[str]:
        """What is to be known of an account at a glance: invited, holding (though disabled), visitor, never (seen),
        unseen (for long), nothing (held), ends (soon).
        """
        holds = bool(self.holders.by_account.get(account)) or account in self._direct
        keyholder = self.policy.accounts[account].keyholder
        if state == "invited":
            yield "invited"
        if state == "disabled":
            if holds:
                yield "holding"
            return
        if account not in self.desk and state == "active":
            yield "visitor"
        elif state == "active" and seen is None:
            yield "never"
        elif state == "active" and seen is not None and self.at - seen > LONG:
            yield "unseen"
        if state == "active" and account in self.desk and not holds and not keyholder:
            yield "nothing"
        ends = self.ends(account)
        if ends is not None and ends - self.at <= SOON:
            yield "ends"


_Kept = tuple[datetime, frozenset[str]]
_entering: WeakKeyDictionary[Engine, _Kept] = WeakKeyDictionary()


def _who_enters(engine: Engine, at: datetime) -> frozenset[str]:
    """The accounts that may open the desk, or could once they are active; asked once while the same is held."""
    kept = _entering.get(engine)
    if kept is None or not engine.policy.gives_the_same(kept[0], at):
        accounts = engine.policy.accounts
        awake = {id: a if a.state == "active" else replace(a, state="active") for id, a in accounts.items()}
        asked = engine.changed(replace(engine.policy, accounts=awake))
        may = (id for id in accounts if asked.decide(Question(id, "desk.open", at=at)).allow)
        kept = _entering[engine] = at, frozenset(may)
    return kept[1]


def _latest(ends: Iterator[datetime | None]) -> datetime | None:
    every = list(ends)
    return None if None in every else max(end for end in every if end is not None)
