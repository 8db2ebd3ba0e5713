"""Reach, membership and state of accounts (§1). No row: not confined, no member."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names
from gonfalon.access.entries.base import AT_ONCE, Cell, Cells, Data
from gonfalon.accounts.models import Account, Membership
from gonfalon.accounts.sessions import end_sessions
from gonfalon.accounts.tickets import void
from gonfalon.clock import now
from gonfalon.ledger.models import By


class Reaches(Cells[frozenset[str]]):
    mapping, model, key, columns = "accounts", rows.Reach, ("account_id", "tree"), ("branches",)

    def value(self, account: str, tree: str, branches: Iterable[str]) -> tuple[Cell, frozenset[str]]:
        return (account, tree), frozenset(branches)

    def said(self, entry: tuple[Cell, frozenset[str]]) -> Mapping[str, Any]:
        (account, tree), branches = entry
        return {"account_id": account, "tree": tree, "branches": sorted(branches)}

    def what(self, said: Data, names: Names) -> str:
        return f"{names.account(said['account'])}: reach in {said['tree']}"

    def heard(self, value: Sequence[str] | None, said: Data, names: Names) -> str:
        return "not confined" if value is None else f"confined to {names.nodes(value) or 'nothing'}"


class Memberships(Cells[str]):
    mapping, model, key, columns = "accounts", Membership, ("account_id", "group_id"), ()

    def value(self, account: str, group: str) -> tuple[Cell, str]:
        return (account, group), "member"

    def said(self, entry: tuple[Cell, str]) -> Mapping[str, Any]:
        (account, group), _ = entry
        return {"account_id": account, "group_id": group}

    def put(self, entries: Iterable[tuple[Cell, str]], by: By, *, keeps_maker: bool = False) -> None:
        members = (Membership(**self.said(entry)) for entry in entries)
        Membership.objects.bulk_create(members, ignore_conflicts=True, batch_size=AT_ONCE)

    def what(self, said: Data, names: Names) -> str:
        return f"{names.account(said['account'])} in {names.group(said['group'])}"

    def heard(self, value: Any, said: Data, names: Names) -> str:
        return "a member" if value else "no member"


class States(Cells[str]):
    """Every account has one. Whoever is disabled is signed out everywhere, and stays so when enabled again."""

    mapping, model, key, columns = "accounts", Account, ("id",), ("state",)

    def value(self, account: str, state: str) -> tuple[Cell, str]:
        return (account,), state

    def put(self, entries: Iterable[tuple[Cell, str]], by: By, *, keeps_maker: bool = False) -> None:
        into: dict[str, list[str]] = {}
        for (account,), state in entries:
            into.setdefault(state, []).append(account)
        for state, accounts in into.items():
            Account.objects.filter(pk__in=accounts).update(state=state)
            if state == Account.State.DISABLED:
                Account.objects.filter(pk__in=accounts).update(disabled_at=now())
                end_sessions(*accounts)
                void(*accounts)

    def drop(self, keys: Iterable[Cell]) -> None:
        raise TypeError("An account always has a state")

    def what(self, said: Data, names: Names) -> str:
        return names.account(said["account"])

    def heard(self, value: str, said: Data, names: Names) -> str:
        return value
