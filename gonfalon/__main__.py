"""The `gonfalon` command: the core's, and what needs the installation's database."""

import os
import sys
from typing import Any

import django
from django.core.exceptions import ImproperlyConfigured
from django.core.management import CommandError, call_command

from gonfalon.core.cli import main as cli


def main(arguments: list[str] | None = None) -> int:
    return cli.main(arguments, more=_of_the_installation)


def _of_the_installation(commands: Any) -> None:
    for name, command, help in (
        ("export", "export_policy", "write the running installation's policy as a document"),
        ("import", "import_policy", "make the running installation's policy what a document says"),
    ):
        parser = commands.add_parser(name, help=help)
        parser.add_argument("file", metavar="FILE", nargs="?" if name == "export" else None, default="-")
        if name == "import":
            parser.add_argument("--by", metavar="ADDRESS", required=True, help="e-mail address of whoever imports it")
        parser.set_defaults(run=_manage, command=command, by=None)


def _manage(asked: Any) -> int:
    """Run a management command; the installation is the one that the GONFALON_ settings name."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gonfalon.server.settings")
    try:
        django.setup()
        call_command(asked.command, asked.file, **({} if asked.by is None else {"by": asked.by}))
    except (CommandError, ImproperlyConfigured) as error:
        print(f"gonfalon: {error}", file=sys.stderr)
        return cli.UNABLE
    return cli.FINE


if __name__ == "__main__":
    sys.exit(main())
