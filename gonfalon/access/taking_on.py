"""Taking people on in one step: their accounts, groups and roles, and a letter to each (§1, §3).

    giving = Giving(groups=["pilots"], roles=[{"role": "pilot", "scope": {}}])
    taken = take_on([Newcomer("Ada", "ada@skerrow.example")], giving, by, owner, sight)
    taken.entry                     # one change set that takes all of it back

An account is made disabled; that it may come is an operation of the change set, beside what it is given. So whoever
undoes the change set before somebody has come takes them off again.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from rest_framework.exceptions import ValidationError

from gonfalon.access.change_sets import Data, apply_at_once, read, with_operations
from gonfalon.access.people import AddressTaken, invite, make_account
from gonfalon.access.sight import EVERYTHING, Sight
from gonfalon.accounts.models import Account
from gonfalon.accounts.passwords import made_up
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By, Entry
from gonfalon.work import POLICY, unit

NEWCOMER = "a newcomer"
"""Stands for whoever is taken on, before there is an account; no account has such an id."""


@dataclass(frozen=True, slots=True)
class Newcomer:
    """Somebody to be taken on."""

    name: str
    email: str


@dataclass(frozen=True, slots=True)
class Giving:
    """What each of them is given: groups by key, and roles, each with its scope, beginning and end."""

    groups: Sequence[str] = ()
    roles: Sequence[Data] = ()

    def to(self, account: str) -> list[Data]:
        """As operations."""
        to = {"kind": "account", "id": account}
        joining = [{"kind": "set-member", "account": account, "group": key, "member": True} for key in self.groups]
        return [*joining, *({"kind": "give-role", "to": to, **role} for role in self.roles)]


@dataclass(frozen=True, slots=True)
class Taken:
    """Accounts in the order of the newcomers, the password of each where one was made up, and the ledger's entry."""

    accounts: list[tuple[Account, str | None]]
    entry: Entry


class TakenAddress(Exception):
    """The address of a newcomer, by place, is another account's."""

    def __init__(self, place: int) -> None:
        super().__init__(f"newcomer {place}")
        self.place = place


@unit(POLICY)
def take_on(
    newcomers: Sequence[Newcomer],
    giving: Giving,
    by: By,
    owner: str,
    sight: Sight,
    *,
    language: str = "en",
    with_passwords: bool = False,
    message: str = "",
) -> Taken:
    """Take people on, each invited by mail or with a password made up. Raises TakenAddress, ValidationError.

    A role names only nodes in `sight`.
    """
    made: list[tuple[Account, str | None]] = []
    for place, newcomer in enumerate(newcomers):
        password = made_up() if with_passwords else None
        try:
            account = make_account(newcomer.name, newcomer.email, by, language=language, password=password)
        except AddressTaken:
            raise TakenAddress(place) from None
        made.append((account, password))
    coming = [{"kind": "set-state", "account": account.id, "state": "active"} for account, _ in made]
    given = [operation for account, _ in made for operation in giving.to(account.id)]
    given.sort(key=lambda operation: operation["kind"] == "give-role")  # those of one kind are written together
    entry = apply_at_once(owner, [*coming, *given], by, Sight(sight.nodes, EVERYTHING))
    for account, password in made:
        account.refresh_from_db(fields=["state"])
        if password is None:
            invite(account, by, message)
    return Taken(made, entry)


def as_newcomer(giving: Giving, policy: Policy, sight: Sight) -> tuple[Policy, Policy]:
    """A policy with a made-up active account that holds nothing, and the same where it is given this: each of many
    would be able to do the same. Raises ValidationError that names the group or the role of the giving.
    """
    before = replace(policy, accounts={**policy.accounts, NEWCOMER: core.Account(NEWCOMER)})
    seen = Sight(sight.nodes, EVERYTHING)
    for part, every, of in (
        ("groups", giving.groups, lambda key: Giving(groups=[key])),
        ("roles", giving.roles, lambda role: Giving(roles=[role])),
    ):
        for place, one in enumerate(every):
            _readable(of(one).to(NEWCOMER), before, seen, part, place)
    return before, with_operations(read(giving.to(NEWCOMER), before, seen), before)


def _readable(operations: list[Data], policy: Policy, sight: Sight, part: str, place: int) -> None:
    try:
        read(operations, policy, sight)
    except ValidationError as error:
        detail: Any = error.detail
        if part == "groups" and isinstance(detail, dict):
            detail = detail.get("group", detail)
        raise ValidationError({part: {place: detail}}) from None
