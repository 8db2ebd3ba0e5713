"""`manage.py export_policy [FILE]`: the installation's policy as a document (§8)."""

import json
import sys
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from gonfalon.core.document.writer import write_policy
from gonfalon.verify.documents import whole_policy


class Command(BaseCommand):
    help = "Write the installation's policy as a document, to a file or to stdout."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", nargs="?", default="-")

    def handle(self, *args: Any, file: str, **options: Any) -> None:
        text = json.dumps(write_policy(whole_policy()), indent=1) + "\n"
        if file == "-":
            sys.stdout.write(text)
        else:
            Path(file).write_text(text, encoding="utf-8")
