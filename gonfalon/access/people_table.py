"""A table of people brought in: read, planned row by row, and only then done.

    plan = read_table(text, role_map={"Editor": "duty-editor"})
    plan.faults            # [Fault(line=3, column="email", message="…")]
    bring_in(plan, by, owner, invited=False)

What is there already is only added to: groups and roles that a row does not name stay. The same table twice changes
nothing.
"""

import csv
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from io import StringIO
from typing import Any

from django.core.exceptions import ValidationError
from django.core.validators import validate_email

from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.models import Role
from gonfalon.access.people import invite_some
from gonfalon.access.roles import fold
from gonfalon.access.sight import UNBOUND
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account, Group
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, unit

MOST_ROWS = 10_000
INVITED_AT_ONCE = 100
COLUMNS = ("name", "email", "language", "groups", "roles")
_BETWEEN = "|"
LONGEST = {"name": 120, "email": 254, "language": 10}


@dataclass(frozen=True, slots=True)
class Fault:
    """Something in a table that cannot be: its line (the head is line 1), its column, and why."""

    line: int
    column: str
    message: str


@dataclass(frozen=True, slots=True)
class Row:
    """One person: who is new, and which groups and roles they would get."""

    line: int
    name: str
    email: str
    language: str
    account: str | None
    groups: tuple[str, ...]
    roles: tuple[str, ...]

    @property
    def outcome(self) -> str:
        """`new`, `changed` or `same`."""
        return "new" if self.account is None else "changed" if self.groups or self.roles else "same"


@dataclass(slots=True)
class Plan:
    """What a table would do."""

    rows: list[Row] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)
    unmapped: dict[str, int] = field(default_factory=dict)
    """Words in the column of roles that are no role here, and how often each comes."""


class _Known:
    """What there is already, by the words a table may use for it."""

    def __init__(self, policy: Policy) -> None:
        self.policy = policy
        self.accounts = {e.lower(): id for id, e in Account.objects.values_list("id", "email")}
        self.groups = _by_word(Group.objects.values_list("key", "name"))
        roles = [(key, name) for key, name in Role.objects.values_list("key", "name") if key not in policy.baseline]
        self.roles = _by_word(roles)
        self.held = {(a.to.id, a.role) for a in policy.assignments.values() if a.to.kind == "account"}


def _by_word(things: Any) -> dict[str, str]:
    return {word.casefold(): key for key, name in things for word in (name, key)}


def read_table(text: str, role_map: Mapping[str, str]) -> Plan:
    """What a table would do. Commas or semicolons stand between cells; a byte order mark is passed over."""
    plan, known = Plan(), _Known(current().policy)
    try:
        lines = list(csv.reader(StringIO(text.removeprefix("\ufeff"), newline=""), delimiter=_delimiter(text)))
    except csv.Error as error:
        plan.faults.append(Fault(1, "", f"This is no table: {error}."))
        return plan
    if not lines:
        plan.faults.append(Fault(1, "", "The table is empty."))
        return plan
    head = [fold(cell).casefold() for cell in lines[0]]
    for column in ("name", "email"):
        if column not in head:
            plan.faults.append(Fault(1, column, f"There is no column “{column}”."))
    if len(lines) - 1 > MOST_ROWS:
        plan.faults.append(Fault(MOST_ROWS + 2, "", f"A table holds at most {MOST_ROWS} people."))
    if plan.faults:
        return plan
    seen: dict[str, int] = {}
    for number, cells in enumerate(lines[1:], 2):
        if any(cell.strip() for cell in cells):
            row = dict(zip(head, cells, strict=False))
            faults = list(_read_row(number, row, known, role_map, seen, plan))
            plan.faults += faults
    return plan


def _delimiter(text: str) -> str:
    first = text.partition("\n")[0]
    return ";" if first.count(";") > first.count(",") else ","


def _read_row(
    line: int, row: dict[str, str], known: _Known, role_map: Mapping[str, str], seen: dict[str, int], plan: Plan
) -> Iterator[Fault]:
    cells = {column: row.get(column, "")[: 2 * longest] for column, longest in LONGEST.items()}
    name, email, language = (fold(cells[column]) for column in ("name", "email", "language"))
    faults = []
    for column, value in (("name", name), ("email", email), ("language", language)):
        if len(value) > LONGEST[column]:
            faults.append(Fault(line, column, f"This is longer than {LONGEST[column]} characters."))
    if language and not (len(language) == 2 and language.isascii() and language.isalpha()):
        faults.append(Fault(line, "language", "A language is written with two letters, such as “en”."))
    if not name:
        faults.append(Fault(line, "name", "A name is missing."))
    try:
        validate_email(email)
    except ValidationError:
        faults.append(
            Fault(line, "email", f"“{email}” is not an e-mail address." if email else "An address is missing.")
        )
    if not email.isascii():
        faults.append(Fault(line, "email", "Write an address in plain letters; a name in others begins with xn--."))
    if (earlier := seen.setdefault(email.lower(), line)) != line:
        faults.append(Fault(line, "email", f"This address stands in line {earlier} already."))
    account = known.accounts.get(email.lower())
    groups = []
    for word in _words(row.get("groups", "")):
        if (key := known.groups.get(word.casefold())) is None:
            faults.append(Fault(line, "groups", f"There is no group “{word}”."))
        elif account is None or key not in known.policy.accounts[account].groups:
            groups.append(key)
    roles = []
    for word in _words(row.get("roles", "")):
        key = role_map[word] if word in role_map else known.roles.get(word.casefold())
        if key is None:
            plan.unmapped[word] = plan.unmapped.get(word, 0) + 1
        elif key and key not in known.policy.roles.keys() - set(known.policy.baseline):
            faults.append(Fault(line, "roles", f"There is no role “{key}”."))
        elif key and (account, key) not in known.held:
            roles.append(key)
    if not faults:
        said = tuple(dict.fromkeys(groups)), tuple(dict.fromkeys(roles))
        plan.rows.append(Row(line, name, email, language or "en", account, *said))
    yield from faults


def _words(cell: str) -> list[str]:
    return [word for part in cell.split(_BETWEEN) if (word := fold(part))]


def given_to_known(plan: Plan) -> list[dict[str, Any]]:
    """What a plan would give to accounts that there are already: those that are new come in with nothing."""
    return _giving(plan, {})


def _giving(plan: Plan, ids: Mapping[str, str]) -> list[dict[str, Any]]:
    """What is given to whom, as operations: those of one kind after another, since they are written together."""
    joining: list[dict[str, Any]] = []
    giving: list[dict[str, Any]] = []
    for row in plan.rows:
        id = row.account or ids.get(row.email)
        if id is not None:
            to = {"kind": "account", "id": id}
            joining += [{"kind": "set-member", "account": id, "group": key, "member": True} for key in row.groups]
            giving += [{"kind": "give-role", "role": key, "to": to, "scope": {}} for key in row.roles]
    return [*joining, *giving]


@unit(POLICY)
def bring_in(plan: Plan, by: By, owner: str, *, invited: bool) -> int:
    """Do what a plan without faults says, as one: the number of new accounts. Roles hold everywhere.

    Those who are `invited` are by the worker: thousands of letters take long, and nobody else waits for them.
    """
    new = []
    for row in plan.rows:
        if row.account is None:
            account = Account(name=row.name, email=row.email, language=row.language, state=Account.State.INVITED)
            account.set_unusable_password()
            new.append(account)
    Account.objects.bulk_create(new)
    raise_version()
    operations = _giving(plan, {account.email: account.id for account in new})
    if operations:
        apply_at_once(owner, operations, by, UNBOUND)
    if invited:
        for first in range(0, len(new), INVITED_AT_ONCE):
            invite_some.enqueue([account.id for account in new[first : first + INVITED_AT_ONCE]], by.actor)
    record(by, "account.brought-in", about=("accounts", "table"), made=len(new), people=len(plan.rows))
    return len(new)
