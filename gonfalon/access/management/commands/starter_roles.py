"""Make the roles a new site may begin with."""

from typing import Any

from django.core.management.base import BaseCommand

from gonfalon.access.starters import make_starters
from gonfalon.ledger.models import By


class Command(BaseCommand):
    help = "Make the starter roles that are not there yet. Nobody holds them until you give them."

    def handle(self, *args: Any, **options: Any) -> None:
        made = make_starters(By(None))
        self.stdout.write(f"Made {', '.join(made)}." if made else "All starter roles are there already.")
