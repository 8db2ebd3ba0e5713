#!/usr/bin/env python
"""Django's management commands. The environment it needs is listed in docs/running.md."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gonfalon.server.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
