"""Files that are left behind are taken away, those that something names stay, and so do those just written."""

import os
from datetime import timedelta
from io import StringIO
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import call_command

from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content.models import Node


def left(name: str, hours: int) -> str:
    kept = default_storage.save(name, ContentFile(b"x"))
    then = (now() - timedelta(hours=hours)).timestamp()
    os.utime(default_storage.path(kept), (then, then))
    return kept


def test_what_nothing_names_is_taken_away():
    old, young, worn = left("portraits/lost.webp", 30), left("files/new.pdf", 0), left("portraits/worn.webp", 30)
    Account.objects.filter(pk="ines").update(portrait=worn)
    named = [str(row.file.name) for row in Node.everywhere.exclude(file=None)[:5]]
    for name in named:
        then = (now() - timedelta(days=3)).timestamp()
        os.utime(default_storage.path(name), (then, then))
    told = StringIO()
    call_command("sweep_files", stdout=told)
    assert told.getvalue() == "1 taken away.\n"
    assert not Path(default_storage.path(old)).exists()
    assert all(Path(default_storage.path(name)).exists() for name in (young, worn, *named))
    default_storage.delete(young)
    default_storage.delete(worn)
