"""How all expectations stand, asked once for as long as nothing changes.

    proved = how_they_stand(viewpoint)
    proved.results                        # one for each of proved.rows

Asking thousands takes a second or two; the crossbar of every place tells how many hold. After a change of access, or of
a page's state, only those are asked that it can touch.
"""

from dataclasses import dataclass
from datetime import datetime

from django.db import connection
from django.db.models import Count, Max

from gonfalon.core import Engine
from gonfalon.core.checks.expectations import prove, proved_again
from gonfalon.core.checks.runner import Result
from gonfalon.verify.expectations import as_asked
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, own


@dataclass(frozen=True, slots=True)
class Proved:
    """Every expectation with its result, at a time."""

    rows: list[Expectation]
    results: list[Result]
    at: datetime
    engine: Engine

    def is_all_there_is(self) -> bool:
        """Whether none was recorded, said otherwise or dropped since. One query."""
        there = Expectation.objects.aggregate(count=Count("pk"), last=Max("recorded_at"))
        last = max((row.recorded_at for row in self.rows), default=None)
        return (there["count"], there["last"]) == (len(self.rows), last)


_kept: dict[str, Proved] = {}
"""By database, how they stood last."""


def how_they_stand(viewpoint: Viewpoint, *, anew: bool = False) -> Proved:
    """Ask every expectation, or give what was answered before, while nothing given has begun or ended since.

    After a change of policy or of a page's state, or with staged changes tried out, those are asked that the difference
    can touch; `anew` all of them in any case. One query, two where expectations were recorded or dropped since.
    """
    database, engine = str(connection.settings_dict["NAME"]), viewpoint.engine
    kept = _kept.get(database)
    if anew or kept is None or not _still_stands(kept, viewpoint):
        rows = list(Expectation.objects.all())
        results = prove(engine, [as_asked(row) for row in rows], viewpoint.at)
        kept = Proved(rows, results, viewpoint.at, engine)
    elif kept.engine is not engine:
        results = proved_again(kept.results, kept.engine, engine, viewpoint.at)
        kept = Proved(kept.rows, results, viewpoint.at, engine)
    if viewpoint.proposed is None and own(POLICY) is None:  # else it may be rolled back
        _kept[database] = kept
    return kept


def _still_stands(kept: Proved, viewpoint: Viewpoint) -> bool:
    """Whether it is about the same places, nothing given has begun or ended, and it is all that is expected."""
    engine = kept.engine
    if not engine.tree.same_places(viewpoint.engine.tree) or not engine.policy.gives_the_same(kept.at, viewpoint.at):
        return False
    return kept.is_all_there_is()
