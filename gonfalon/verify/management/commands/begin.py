"""`manage.py begin NAME`: make the first site, as the page for beginning does."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from gonfalon.ledger.models import By
from gonfalon.verify.beginning import HasBegun, begin


class Command(BaseCommand):
    help = "Make the first site with a home page, say what visitors see of it, and make the starter roles."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--signed-in-only", action="store_true", help="visitors see nothing")
        parser.add_argument("--no-starters", action="store_true", help="begin without roles")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            site = begin(
                options["name"],
                By(None),
                visitors=not options["signed_in_only"],
                starters=not options["no_starters"],
            )
        except HasBegun:
            raise CommandError("There is a site already.") from None
        self.stdout.write(f"{site.name} is at /site/{site.key}/ .")
