"""`manage.py sweep_files`: take away files that no row names, once a day by whatever runs things here.

A file is written before the unit it belongs to is kept: where a machine went down in between, it is left behind.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from django.core.files.storage import Storage, default_storage
from django.core.management.base import BaseCommand

from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content.models import Node, Rendition
from gonfalon.work import read_together

FOLDERS = ("portraits", "files", "sizes")
WAIT = timedelta(hours=1)
"""What is younger may belong to a unit that is under way."""


class Command(BaseCommand):
    help = "Take away files that nothing here names. Run it once a day."

    def handle(self, *args: Any, **options: Any) -> None:
        gone = list(lost_files(default_storage, now() - WAIT))
        for name in gone:
            default_storage.delete(name)
        self.stdout.write(f"{len(gone)} taken away.")


def lost_files(storage: Storage, before: datetime) -> Iterator[str]:
    """The names of files older than a moment that no row names. Three queries."""
    there = [name for folder in FOLDERS for name in _files(storage, folder) if storage.get_modified_time(name) < before]
    with read_together():
        named = set(Account.objects.exclude(portrait="").values_list("portrait", flat=True))
        named |= set(Rendition.objects.values_list("file", flat=True))
        named |= set(Node.everywhere.exclude(file=None).values_list("file", flat=True))
    yield from (name for name in there if name not in named)


def _files(storage: Storage, folder: str) -> Iterator[str]:
    if not storage.exists(folder):
        return
    folders, files = storage.listdir(folder)
    yield from (f"{folder}/{name}" for name in files)
    for inner in folders:
        yield from _files(storage, f"{folder}/{inner}")
