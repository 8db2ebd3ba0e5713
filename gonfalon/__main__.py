"""The `gonfalon` command: the core's, and what needs the installation's database."""

import sys
from typing import Any

from gonfalon.core import cli


def main() -> int:
    return cli.main(more=_of_the_installation)


def _of_the_installation(commands: Any) -> None:
    for name, command, help in (
        ("export", "export_policy", "write the running installation's policy as a document"),
        ("import", "import_policy", "make the running installation's policy what a document says"),
    ):
        parser = commands.add_parser(name, help=help)
        parser.add_argument("file", metavar="FILE", nargs="?" if name == "export" else None, default="-")
        parser.set_defaults(run=lambda asked, command=command: _manage(command, asked.file))


def _manage(command: str, file: str) -> int:
    """Run a management command; the installation is named by the GONFALON_ settings, as for serving."""
    import os

    from django.core.management import call_command

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gonfalon.server.settings")
    import django

    django.setup()
    call_command(command, file)
    return cli.FINE


if __name__ == "__main__":
    sys.exit(main())
