"""How all expectations stand, asked once for as long as nothing changes.

    proved = how_they_stand(presence)
    proved.results                        # one for each of proved.rows

Asking thousands takes a second or two; the crossbar of every place tells how many hold.
"""

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import connection
from django.db.models import Count, Max

from gonfalon.core.expectations import Result, prove
from gonfalon.server.presence import Presence
from gonfalon.standin.expectations import as_asked
from gonfalon.standin.models import Expectation

_MOST_KEPT = 4
_FRESH = timedelta(minutes=1)
"""Something given may begin or end at any time, so that nothing is kept longer."""


@dataclass(frozen=True, slots=True)
class Proved:
    """Every expectation with its result, at a time."""

    rows: list[Expectation]
    results: list[Result]
    at: datetime


_kept: OrderedDict[Hashable, Proved] = OrderedDict()


def how_they_stand(presence: Presence, *, anew: bool = False) -> Proved:
    """Ask every expectation, or give what was answered within the last minute under the same policy and content.

    With `anew` all are asked in any case. Two queries, one where the answers are kept.
    """
    there = Expectation.objects.aggregate(count=Count("pk"), last=Max("pk"))
    versions = presence.snapshot.version, presence.nodes.version
    key = (str(connection.settings_dict["NAME"]), versions, there["count"], there["last"])
    kept = _kept.get(key)
    if kept is None or anew or presence.at - kept.at > _FRESH or presence.snapshot is not presence.in_force:
        rows = list(Expectation.objects.all())
        results = prove(presence.survey.engine, [as_asked(row) for row in rows], presence.at)
        kept = _kept[key] = Proved(rows, results, presence.at)
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return kept
