"""What one's staged changes would do, worked out once for as long as nothing changes.

would_be = as_staged(presence)
would_be.touched.gain                   # everyone who would gain something
would_be.changed.turned["ada"]          # what turns for an account
"""

from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import NamedTuple

from django.db import connection

from gonfalon.access.change_sets import staged_rows, with_staged
from gonfalon.core.impact import Impact, impact
from gonfalon.core.survey import Surveyor
from gonfalon.core.whom import Whom, whom
from gonfalon.server.presence import Presence

_MOST_KEPT = 8


@dataclass(frozen=True)
class WouldBe:
    """The site as it would be, and what differs from how it is: each worked out when it is first asked for."""

    before: Surveyor
    after: Surveyor
    at: datetime

    def stands_at(self, at: datetime) -> bool:
        """Whether nothing given has begun or ended since, on either side."""
        return all(side.policy.gives_the_same(self.at, at) for side in (self.before, self.after))

    @cached_property
    def changed(self) -> Impact:
        """What turns for everyone, and how much of it."""
        return impact(self.before, self.after, self.at)

    @cached_property
    def touched(self) -> Whom:
        """For whom anything turns: much sooner told than how much."""
        return whom(self.before, self.after, self.at)


class Key(NamedTuple):
    """For whom, on which versions of policy and content, and with what staged."""

    database: str
    owner: str
    versions: tuple[int, int]
    staged: tuple[tuple[int, str], ...]


_kept: OrderedDict[Key, WouldBe] = OrderedDict()


def as_staged(presence: Presence) -> WouldBe:
    """The site with one's staged changes. Kept by process, for versions and what is staged."""
    owner = presence.who or ""
    rows = staged_rows(owner)
    staged = tuple((row.pk, str(row.was)) for row in rows)
    versions = presence.snapshot.version, presence.nodes.version
    key = Key(str(connection.settings_dict["NAME"]), owner, versions, staged)
    kept = _kept.get(key)
    if kept is None or not kept.stands_at(presence.at):
        policy = with_staged(rows, presence.snapshot.policy)
        unchanged = policy is presence.snapshot.policy
        before = presence.survey
        after = before if unchanged else before.engine.changed(policy).surveyor
        kept = WouldBe(before, after, presence.at)
        _keep(key, kept)
    return kept


def _keep(key: Key, would_be: WouldBe) -> None:
    """Keep it with what else is staged on these versions: what was on others is never asked for again."""
    for other in list(_kept):
        if (other.database, other.versions) != (key.database, key.versions):
            _kept.pop(other, None)
    _kept[key] = would_be
    while len(_kept) > _MOST_KEPT:
        _kept.popitem(last=False)
