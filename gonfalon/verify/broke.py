"""What broke an expectation: the last change of the policy before which it held, over the pages as they are now.

what_broke(row, viewpoint)              # when that was made; None where no change that is known did
"""

from collections.abc import Callable
from datetime import datetime

from gonfalon.access.policy_changes import latest_changes
from gonfalon.core.checks.expectations import prove
from gonfalon.core.document.entries import taken_back
from gonfalon.verify.expectations import as_asked
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint

LOOKED_AT = 2_000
"""So many changes are looked back over."""


def what_broke(row: Expectation, viewpoint: Viewpoint) -> datetime | None:
    """When the change was made that broke what breaks; None where it was pages or time, or nobody knows any more.

    One query, and the policy taken back for two changes in every power of two of them.
    """
    rows = latest_changes(LOOKED_AT)
    policy, engine, asked = viewpoint.snapshot.policy, viewpoint.engine, as_asked(row)

    def held_before(i: int) -> bool:
        changes = [change for some in rows[: i + 1] for change in some.backwards()]
        before = engine.changed(taken_back(policy, changes))
        return prove(before, [asked], viewpoint.at)[0].holds

    found = _first(len(rows), held_before)
    return None if found is None else rows[found].at


def _first(count: int, held_before: Callable[[int], bool]) -> int | None:
    """The first of some changes, the last one first, before which it held; as far apart as there are more of them."""
    low, step, high = -1, 1, None
    while high is None and low + 1 < count:
        i = min(low + step, count - 1)
        if held_before(i):
            high = i
        else:
            low, step = i, step * 2
    while high is not None and high - low > 1:
        middle = (low + high) // 2
        if held_before(middle):
            high = middle
        else:
            low = middle
    return high
