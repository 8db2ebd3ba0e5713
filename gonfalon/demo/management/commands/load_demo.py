"""`manage.py load_demo`: fill an empty database with Skerrow Harbour."""

import os
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from gonfalon.clock import now
from gonfalon.demo.builder import load


class Command(BaseCommand):
    help = "Fill an empty database with Skerrow Harbour. Everyone's password is GONFALON_DEMO_PASSWORD."

    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("GONFALON_DEMO_PASSWORD")
        if not password:
            raise CommandError("Set GONFALON_DEMO_PASSWORD, the password all demo accounts will have.")
        if load(password, now()):
            self.stdout.write("Skerrow Harbour is built.")
