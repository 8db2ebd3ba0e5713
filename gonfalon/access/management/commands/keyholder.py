"""`manage.py keyholder ADDRESS --name NAME`: make a keyholder, to begin with or when all are locked out."""

from getpass import getpass
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, unit


class Command(BaseCommand):
    help = "Mark an account as keyholder, active; make it, asking for a password, when nobody has the address."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("address")
        parser.add_argument("--name", default="Keyholder")

    @unit(POLICY)
    def handle(self, *args: Any, **options: Any) -> None:
        address = options["address"].strip().lower()
        account = Account.objects.filter(email__iexact=address).first()
        if account is None:
            account = Account(email=address, name=options["name"])
            password = getpass("A password: ")
            try:
                validate_password(password, account)
            except ValidationError as weak:
                raise CommandError(" ".join(weak.messages)) from None
            account.set_password(password)
        account.keyholder, account.state = True, Account.State.ACTIVE
        account.save()
        raise_version()
        record(By(None), "account.keyholder", about=("account", account.id), name=account.name)
        self.stdout.write(f"{account.name} ({account.email}) is a keyholder.")
