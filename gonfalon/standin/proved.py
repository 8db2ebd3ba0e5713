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

from gonfalon.core.asking import Result
from gonfalon.core.expectations import prove
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

    def is_all_there_is(self) -> bool:
        """Whether none was recorded or dropped since. One query."""
        there = Expectation.objects.aggregate(count=Count("pk"), last=Max("pk"))
        last = max((row.pk for row in self.rows), default=None)
        return (there["count"], there["last"]) == (len(self.rows), last)


_kept: OrderedDict[Hashable, Proved] = OrderedDict()


def how_they_stand(presence: Presence, *, anew: bool = False) -> Proved:
    """Ask every expectation, or give what was answered within the last minute under the same policy and content.

    With `anew` all are asked in any case. One query, two where expectations were recorded or dropped since.
    """
    key = (str(connection.settings_dict["NAME"]), presence.snapshot.version, presence.nodes.version)
    kept = _kept.get(key)
    stale = kept is None or anew or presence.at - kept.at > _FRESH or presence.snapshot is not presence.in_force
    if kept is None or stale or not kept.is_all_there_is():
        rows = list(Expectation.objects.all())
        results = prove(presence.survey.engine, [as_asked(row) for row in rows], presence.at)
        kept = _kept[key] = Proved(rows, results, presence.at)
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return kept
