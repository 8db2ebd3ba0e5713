"""Whom the questions of expectations mean (§8), looked up in one policy.

people = Audience(policy)
people.asked({"holders_of": "writer"}, at)      # ["ada", "ben"]
"""

from collections.abc import Mapping
from datetime import datetime
from operator import is_
from typing import Any

from gonfalon.core.document.requests import RANGES
from gonfalon.core.document.scopes import plain_scope
from gonfalon.core.model.policy import Assignment, Policy
from gonfalon.core.model.question import HypotheticalSubject, Who

Request = Mapping[str, Any]


def range_of(question: Request) -> str | None:
    """The key by which a question ranges over accounts, if it does."""
    return next((key for key in RANGES if question.get(key) is not None), None)


def named_in(question: Request) -> Who:
    """The account that a question names, or the made-up holder of roles."""
    if question.get("roles") is not None:
        roles = question["roles"]
        return HypotheticalSubject(
            tuple(role for role in roles if isinstance(role, str)),
            bool(question.get("own")),
            tuple((said["role"], plain_scope(said.get("scope") or {})) for said in roles if not isinstance(said, str)),
            tuple(sorted(set(question.get("groups") or ()))),
        )
    account: str | None = question.get("account")
    return account


class Audience:
    """Active accounts by the groups they are in and the roles they hold."""

    def __init__(self, policy: Policy) -> None:
        self._of = policy.accounts, policy.groups, policy.assignments, policy.roles
        self._active = {a.id: a for a in policy.accounts.values() if a.state == "active"}
        self._members: dict[str, set[str]] = {}
        for account in self._active.values():
            for group in policy.all_groups(account):
                self._members.setdefault(group, set()).add(account.id)
        self._roles = {key: policy.role_chain(key) for key in policy.roles}
        self._given: dict[str, list[Assignment]] = {}
        for a in policy.assignments.values():
            self._given.setdefault(a.role, []).append(a)

    def can_answer_for(self, policy: Policy) -> bool:
        """Whether another policy has the very same accounts, groups and assignments."""
        return all(map(is_, self._of, (policy.accounts, policy.groups, policy.assignments, policy.roles)))

    def asked(self, question: Request, at: datetime) -> list[Who]:
        """Everyone a question asks: accounts in the order of their ids, a visitor last."""
        named = range_of(question)
        if named is None:
            return [named_in(question)]
        meant = self.holders(question[named], at) if named.endswith("holders_of") else self.members(question[named])
        if not named.startswith("except"):
            return [*sorted(meant)]
        return [*sorted(a.id for a in self._active.values() if not a.keyholder and a.id not in meant), None]

    def members(self, group: str) -> set[str]:
        """Every active member of a group, through the groups beneath it too."""
        return self._members.get(group, set())

    def given(self, role: str) -> int:
        """How many accounts a role is given to, or a role that builds on it, about: some may be counted twice."""
        roles = [key for key in self._roles if role in self._roles[key]]
        receivers = [a.to for key in roles for a in self._given.get(key, ())]
        return sum(len(self.members(to.id)) if to.kind == "group" else 1 for to in receivers)

    def ever(self, question: Request) -> set[str] | None:
        """Every account that a question may ask at any time; None where it is all but some."""
        named = range_of(question)
        if named is None:
            account = question.get("account")
            return set() if account is None else {account}
        if named.startswith("except"):
            return None
        if named == "members_of":
            return self.members(question[named])
        receivers = [a.to for a in self._given.get(question[named], ())]
        return set().union(*(self.members(to.id) if to.kind == "group" else {to.id} for to in receivers))

    def holders(self, role: str, at: datetime) -> set[str]:
        """Every active account with an active assignment of a role, through a group too."""
        held: set[str] = set()
        for a in self._given.get(role, ()):
            if a.period.active(at):
                held |= self.members(a.to.id) if a.to.kind == "group" else {a.to.id} & self._active.keys()
        return held
