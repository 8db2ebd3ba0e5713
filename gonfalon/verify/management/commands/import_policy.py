"""`manage.py import_policy FILE --by ADDRESS`: make the installation's policy what a document says (§8)."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from gonfalon.accounts.models import Account
from gonfalon.core.document.errors import PolicyError
from gonfalon.core.document.jsonl import read_policy
from gonfalon.ledger.models import By
from gonfalon.verify.documents import install


class Command(BaseCommand):
    help = "Make the installation's policy what a document says, all of it or nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--by", required=True, help="the e-mail address of the active account that imports it")

    def handle(self, *args: Any, file: Path, by: str, **options: Any) -> None:
        author = Account.objects.filter(email__iexact=by, state=Account.State.ACTIVE).first()
        if author is None:
            raise CommandError(f"There is no active account with the address {by}.")
        try:
            entry = install(read_policy(file), By(author.id))
        except OSError as error:
            raise CommandError(str(error)) from None
        except PolicyError as error:
            raise CommandError("\n".join(f"error {fault}" for fault in error.faults)) from None
        told = "Nothing differs." if entry is None else f"Imported; it is entry {entry.number} of the ledger."
        self.stdout.write(told)
