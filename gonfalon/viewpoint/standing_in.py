"""A stand-in under way: whose eyes they are, in which mode, until when, and where to go back to.

StandingIn("ben", until, "/verify").data()                  # as the browser's session keeps it
StandingIn(HypotheticalSubject(("writer",)), until, "/verify", made_up=new_id())
"""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from django.utils.dateparse import parse_datetime

from gonfalon.access.entries import read_scope
from gonfalon.core import HypotheticalSubject
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import Who

Mode = Literal["look", "rehearse"]


@dataclass(frozen=True, slots=True)
class StandingIn:
    """For whom, until when, and where to go back to."""

    who: Who
    """An account, None for a visitor, or a made-up holder of roles."""
    until: datetime
    came_from: str
    staged: bool = False
    """Whether decisions are made as they would be with what the actor has staged."""
    at: datetime | None = None
    """At which moment: one to come under what is in force, one that is past under what was then; None is now."""
    made_up: str = ""
    """Under which account something is a made-up holder's."""
    rehearsal: str = ""
    """The rehearsal that is under way; without one, one only looks."""

    @classmethod
    def read(cls, data: dict[str, Any] | None) -> "StandingIn | None":
        """A stand-in as `data` wrote it; None where there is none."""
        until = parse_datetime(data["until"]) if data else None
        if not data or until is None:
            return None
        at = parse_datetime(data.get("at") or "")
        more = {key: data[key] for key in ("made_up", "rehearsal") if key in data}
        return cls(_read_who(data), until, data["came_from"], data.get("staged", False), at, **more)

    def data(self) -> dict[str, Any]:
        """As JSON."""
        return {
            **_written_who(self.who),
            "until": self.until.isoformat(),
            "came_from": self.came_from,
            "staged": self.staged,
            "at": self.at.isoformat() if self.at else None,
            "made_up": self.made_up,
            "rehearsal": self.rehearsal,
        }

    @property
    def mode(self) -> Mode:
        """Whether one only looks, or rehearses."""
        return "rehearse" if self.rehearsal else "look"

    @property
    def account(self) -> str | None:
        """Under which account something is theirs; None for a visitor."""
        return self.made_up if isinstance(self.who, HypotheticalSubject) else self.who

    def known_in(self, policy: Policy) -> bool:
        """Whether a policy knows whoever these eyes are: the account, or the roles and groups."""
        who = self.who
        if isinstance(who, HypotheticalSubject):
            held = {*who.roles, *(role for role, _ in who.scoped)}
            return held <= policy.roles.keys() and set(who.groups) <= policy.groups.keys()
        return who is None or who in policy.accounts


def _written_who(who: Who) -> dict[str, Any]:
    if not isinstance(who, HypotheticalSubject):
        return {"account": who}
    return {
        "roles": list(who.roles),
        "scoped": [[role, write_scope(scope)] for role, scope in who.scoped],
        "groups": list(who.groups),
        "own": who.as_author,
    }


def _read_who(data: dict[str, Any]) -> Who:
    if "roles" not in data:
        account: str | None = data["account"]
        return account
    scoped = tuple((role, read_scope(scope)) for role, scope in data["scoped"])
    return HypotheticalSubject(tuple(data["roles"]), data["own"], scoped, tuple(data["groups"]))
