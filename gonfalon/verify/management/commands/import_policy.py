"""`manage.py import_policy FILE`: make the installation's policy what a document says (§8)."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from gonfalon.core.document.errors import PolicyError
from gonfalon.core.document.jsonl import read_policy
from gonfalon.ledger.models import By
from gonfalon.verify.documents import install


class Command(BaseCommand):
    help = "Make the installation's policy what a document says, all of it or nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, file: Path, **options: Any) -> None:
        try:
            entry = install(read_policy(file), By(None, None))
        except OSError as error:
            raise CommandError(str(error)) from None
        except PolicyError as error:
            raise CommandError("\n".join(f"error {fault}" for fault in error.faults)) from None
        self.stdout.write(f"Imported; it is entry {entry.number} of the ledger.")
