"""What changes would do, staged or only proposed, worked out once for as long as nothing changes.

preview = as_staged(viewpoint)          # or as_proposed(viewpoint, operations)
preview.touched.gain                   # everyone who would gain something
preview.changed.deltas["ada"]          # what changes for an account
"""

import json
from collections import OrderedDict
from collections.abc import Callable, Container
from dataclasses import replace
from datetime import datetime
from threading import Lock
from typing import Generic, NamedTuple, TypeVar

from django.db import connection

from gonfalon.access.change_sets import Data, read, staged_data, with_operations
from gonfalon.access.sight import Sight
from gonfalon.core import Engine
from gonfalon.core.diff.affected_accounts import AffectedAccounts, affected_accounts
from gonfalon.core.diff.impact import Impact, impact
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, own

T = TypeVar("T")

_MOST_KEPT = 8


class Once(Generic[T]):
    """What is worked out when it is first asked for: whoever asks meanwhile waits for it, and for nothing else."""

    def __init__(self, work: Callable[[], T]) -> None:
        self._work, self._lock, self._done = work, Lock(), list[T]()

    def __call__(self) -> T:
        with self._lock:
            if not self._done:
                self._done.append(self._work())
            return self._done[0]


class Preview:
    """The site as it would be, and what differs from how it is: for everybody, or for some alone.

    Of what is staged or proposed, whoever is invited counts as if they had come.
    """

    def __init__(self, before: Engine, after: Engine, at: datetime, only: Container[str | None] | None = None) -> None:
        self.before, self.after, self.at = before, after, at
        self._changed = Once(lambda: impact(before, after, at, only=only))
        self._touched = Once(lambda: affected_accounts(before, after, at, only))

    def stands_at(self, at: datetime) -> bool:
        """Whether nothing given has begun or ended since, on either side."""
        return all(side.policy.gives_the_same(self.at, at) for side in (self.before, self.after))

    @property
    def changed(self) -> Impact:
        """What changes for everyone, and how much."""
        return self._changed()

    @property
    def touched(self) -> AffectedAccounts:
        """For whom anything changes: known much sooner than how much."""
        return self._touched()


class Key(NamedTuple):
    """On which versions of policy and content, and with which operations: whoever asks, that comes to the same."""

    database: str
    versions: tuple[int, int]
    operations: str


_kept: OrderedDict[Key, Preview] = OrderedDict()


def as_staged(viewpoint: Viewpoint) -> Preview:
    """The site with all of one's staged changes that still can be applied."""
    return _with(viewpoint, staged_data(viewpoint.account or "", viewpoint.snapshot.policy))


def as_proposed(viewpoint: Viewpoint, proposed: list[Data], sight: Sight | None = None) -> Preview:
    """The site with operations that are not staged, read as somebody with a sight would.

    Without one, as whoever asks. Raises ValidationError when one of them cannot be read.
    """
    return _with(viewpoint, read(proposed, viewpoint.snapshot.policy, sight or viewpoint.sight))


def _with(viewpoint: Viewpoint, operations: list[Data]) -> Preview:
    """Kept by process: what was told of a proposal is known once it is staged.

    With staged changes tried out, nothing is kept: they have no version. Nor in a unit that may raise one.
    """
    versions = viewpoint.snapshot.version, viewpoint.nodes.version
    key = Key(str(connection.settings_dict["NAME"]), versions, json.dumps(operations, sort_keys=True))
    in_force = viewpoint.proposed is None and own(POLICY) is None  # else it may be rolled back
    kept = _kept.get(key) if in_force else None
    if kept is None or not kept.stands_at(viewpoint.at):
        before = _all_come(viewpoint.engine)
        kept = Preview(before, _all_come(_after(before, viewpoint, operations)), viewpoint.at)
    if in_force:
        _keep(key, kept)
    return kept


def _after(before: Engine, viewpoint: Viewpoint, operations: list[Data]) -> Engine:
    """An engine of its policy with some operations, which may change whose nodes are whose."""
    if not operations:
        return before
    policy = with_operations(operations, replace(before.policy, tree=viewpoint.nodes.tree))
    return before.changed(policy, policy.tree)


def _all_come(engine: Engine) -> Engine:
    """With everybody active who is invited: what they hold is theirs as soon as they have chosen a password."""
    accounts = engine.policy.accounts
    come = {id: replace(a, state="active") for id, a in accounts.items() if a.state == "invited"}
    if not come:
        return engine
    return engine.changed(replace(engine.policy, accounts={**accounts, **come}), engine.tree)


def _keep(key: Key, preview: Preview) -> None:
    """Keep it as the last asked for: what was on other versions is never asked for again."""
    for other in list(_kept):
        if (other.database, other.versions) != (key.database, key.versions):
            _kept.pop(other, None)
    _kept.pop(key, None)
    _kept[key] = preview
    while len(_kept) > _MOST_KEPT:
        _kept.popitem(last=False)
