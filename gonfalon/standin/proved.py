"""How all expectations stand, asked once for as long as nothing changes.

    proved = how_they_stand(presence)
    proved.results                        # one for each of proved.rows

Asking thousands takes a second or two; the crossbar of every place tells how many hold. After a change of access only
those are asked that it can touch.
"""

from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import connection
from django.db.models import Count, Max

from gonfalon.core.asking import Result
from gonfalon.core.expectations import prove, proved_again
from gonfalon.core.survey import Surveyor
from gonfalon.server.presence import Presence
from gonfalon.standin.expectations import as_asked
from gonfalon.standin.models import Expectation

_MOST_KEPT = 2
_FRESH = timedelta(minutes=1)
"""Something given may begin or end at any time, so that nothing is kept longer."""


@dataclass(frozen=True, slots=True)
class Proved:
    """Every expectation with its result, at a time."""

    rows: list[Expectation]
    results: list[Result]
    at: datetime
    survey: Surveyor

    def is_all_there_is(self) -> bool:
        """Whether none was recorded or dropped since. One query."""
        there = Expectation.objects.aggregate(count=Count("pk"), last=Max("pk"))
        last = max((row.pk for row in self.rows), default=None)
        return (there["count"], there["last"]) == (len(self.rows), last)


_kept: OrderedDict[tuple[str, int, int], Proved] = OrderedDict()


def how_they_stand(presence: Presence, *, anew: bool = False) -> Proved:
    """Ask every expectation, or give what was answered within the last minute under the same policy and content.

    After a change of policy, or with staged changes tried out, those are asked that the difference can touch; `anew`
    all of them in any case. One query, two where expectations were recorded or dropped since.
    """
    key = (str(connection.settings_dict["NAME"]), presence.snapshot.version, presence.nodes.version)
    kept = None if anew else _last_kept(key, presence.at)
    if kept is None:
        rows = list(Expectation.objects.all())
        results = prove(presence.survey.engine, [as_asked(row) for row in rows], presence.at)
        kept = Proved(rows, results, presence.at, presence.survey)
    elif kept.survey is not presence.survey:
        results = proved_again(kept.results, kept.survey.engine, presence.survey.engine, presence.at)
        kept = Proved(kept.rows, results, kept.at, presence.survey)
    if presence.snapshot is presence.in_force:
        _kept[key] = kept
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return kept


def _last_kept(key: tuple[str, int, int], at: datetime) -> Proved | None:
    """What was answered last of all there is, under this policy or another, about the same content."""
    database, _, content = key
    alike = [proved for (where, _, what), proved in list(_kept.items()) if (where, what) == (database, content)]
    kept = _kept.get(key) or (alike[-1] if alike else None)
    return kept if kept and at - kept.at <= _FRESH and kept.is_all_there_is() else None
