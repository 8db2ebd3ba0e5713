"""`manage.py first_link`: a link that makes whoever opens it the first keyholder; nothing where there is one."""

from typing import Any

from django.core.management.base import BaseCommand

from gonfalon.access.first_keyholder import first_link


class Command(BaseCommand):
    help = (
        "Print a link that works once, for a day, and makes whoever opens it the keyholder; nothing where there is one."
    )

    def handle(self, *args: Any, **options: Any) -> None:
        link = first_link()
        if link is not None:
            self.stdout.write(link)
