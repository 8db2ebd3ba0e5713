"""`manage.py keyholder ADDRESS --name NAME`: make a keyholder, to begin with or when all are locked out."""

import sys
from getpass import getpass
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, unit

LONGEST_LINE = 1_000
"""Characters of a password."""


class Command(BaseCommand):
    help = (
        "Mark an account as keyholder, active; make it when nobody has the address. The password of a new one, or with "
        "--new-password of one that there is, is asked for twice, or read as a line from standard input."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("address")
        parser.add_argument("--name", default="Keyholder")
        parser.add_argument("--new-password", action="store_true", help="give the account another password")

    def handle(self, *args: Any, **options: Any) -> None:
        address = options["address"].strip().lower()
        there = Account.objects.filter(email__iexact=address).exists()
        password = _password() if options["new_password"] or not there else None
        account = _make(address, options["name"], password)
        self.stdout.write(f"{account.name} ({account.email}) is a keyholder.")


@unit(POLICY)
def _make(address: str, name: str, password: str | None) -> Account:
    account = Account.objects.filter(email__iexact=address).first() or Account(email=address, name=name)
    if password is not None:
        try:
            validate_password(password, account)
        except ValidationError as weak:
            raise CommandError(" ".join(weak.messages)) from None
        account.set_password(password)
    account.keyholder, account.state = True, Account.State.ACTIVE
    account.save()
    raise_version()
    record(By(None), "account.keyholder", about=("account", account.id), name=account.name)
    return account


def _password() -> str:
    """What is typed twice alike, or, without a terminal, the first line of what comes in. Raises CommandError."""
    if sys.stdin.isatty():
        password = getpass("A password: ")
        if password != getpass("Once more: "):
            raise CommandError("The two are not the same. Nothing was changed.")
        return password
    line = sys.stdin.readline(LONGEST_LINE).rstrip("\r\n")
    if not line:
        raise CommandError("There is no terminal to ask at: send the password as a line on standard input.")
    return line
