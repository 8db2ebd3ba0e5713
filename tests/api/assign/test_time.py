"""What begins and ends: to the moment, in every process, whatever the time zone and the clocks."""

from datetime import UTC, datetime, timedelta

import pytest

from gonfalon.access.models import Assignment
from gonfalon.access.snapshot import raise_version
from gonfalon.viewpoint import session
from tests.api.support import Asking, apply, ok

NOON = datetime(2031, 6, 1, 12, tzinfo=UTC)
TICK = timedelta(microseconds=1)


@pytest.fixture
def clock(monkeypatch):
    """Sets the time by which requests are answered."""

    def at(time: datetime) -> None:
        monkeypatch.setattr(session, "now", lambda: time)

    return at


def give_desk(**period) -> Asking:
    """Somebody who enters the desk by one role alone, for a while."""
    Assignment.objects.create(id="for-a-while", role_id="notice-writer", account_id="marit", **period)
    raise_version()
    return Asking("marit")


def enters(asking: Asking) -> bool:
    return "desk" in ok(asking.get("session"))["places"]


def test_what_ends_at_noon_gives_until_noon_and_not_after(clock):
    marit = give_desk(ends=NOON)
    for time, opens in ((NOON - TICK, True), (NOON, False), (NOON + TICK, False), (NOON - TICK, True)):
        clock(time)
        assert enters(marit) is opens, time


def test_what_begins_at_noon_gives_from_noon_on(clock):
    marit = give_desk(starts=NOON)
    for time, opens in ((NOON - TICK, False), (NOON, True)):
        clock(time)
        assert enters(marit) is opens, time


def test_the_roster_and_the_account_follow_the_clock_too(clock, odile):
    give_desk(ends=NOON)
    for time, holds in ((NOON - TICK, True), (NOON, False)):
        clock(time)
        [row] = [r for r in ok(odile.get("accounts", search="marit"))["results"] if r["id"] == "marit"]
        assert bool(row["roles"]) is holds
        [given] = [g for g in ok(odile.get("accounts/marit"))["given"] if g["id"] == "for-a-while"]
        assert given["active"] is holds


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("2031-06-01T14:00:00+02:00", NOON),
        ("2031-06-01T00:00:00-12:00", NOON),
        ("2031-10-26T02:30:00+02:00", datetime(2031, 10, 26, 0, 30, tzinfo=UTC)),
        ("2031-10-26T02:30:00+01:00", datetime(2031, 10, 26, 1, 30, tzinfo=UTC)),
        ("2032-02-29T23:59:59.999999Z", datetime(2032, 2, 29, 23, 59, 59, 999999, tzinfo=UTC)),
    ],
    ids=["summer time", "far west", "an hour that comes twice, first", "the same, second", "a leap day"],
)
def test_a_time_means_one_moment_wherever_it_is_said(odile, clock, said, meant):
    to = {"kind": "account", "id": "marit"}
    apply(odile, {"kind": "give-role", "role": "notice-writer", "to": to, "scope": {}, "ends": said})
    assert Assignment.objects.get(account="marit", role="notice-writer").ends == meant
    marit = Asking("marit")
    for time, opens in ((meant - TICK, True), (meant, False)):
        clock(time)
        assert enters(marit) is opens
