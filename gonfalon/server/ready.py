"""Reading and compiling what every request asks, before a process says that it is ready.

    get_ready()

Of a large site that takes some seconds, which else whoever comes first would wait for. What cannot be read, because the
database is down or not migrated yet, is told where it is asked for.
"""

import logging

from django.db import DatabaseError

from gonfalon.clock import now
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.viewpoint.viewpoint import viewpoint
from gonfalon.work import read_together

_LOG = logging.getLogger(__name__)


def get_ready() -> None:
    """Keep the policy, the trees and how expectations stand, as a first request would."""
    try:
        with read_together():
            here = viewpoint(None, now())
            for part in (here.snapshot, here.in_sight, here.holders, how_they_stand(here)):
                _LOG.debug("ready: %s", type(part).__name__)
    except DatabaseError as error:
        _LOG.warning("Nothing could be read yet: %s", error)
