"""One sitting: saves of one page that follow each other by the same hand, and make one version and one entry.

last = going_on(page.versions.first(), by)      # the version that the next save of a sitting only fills anew
"""

from datetime import timedelta
from typing import TypeVar

from gonfalon.clock import now
from gonfalon.content.models import CopyVersion, Version
from gonfalon.ledger.models import By

PAUSE = timedelta(minutes=30)
"""Whoever saves nothing for so long begins another sitting."""
V = TypeVar("V", Version, CopyVersion)


def going_on(last: V | None, by: By) -> V | None:
    """The last version, where it is of a sitting that a save by somebody goes on with; else None."""
    if last is None or not last.sitting or by.standing_for is not None:
        return None
    return last if last.by == by.actor and now() - last.at < PAUSE else None
