"""Guessing passwords: it becomes slow, for the one who guesses and not for whom they guess at."""

from datetime import timedelta

import pytest
from django.test import RequestFactory

from gonfalon.accounts import signin
from gonfalon.accounts.client import client_of
from gonfalon.accounts.models import Account, Guesses, KnownClient
from gonfalon.accounts.signin import Count, TooManyGuesses, account_for
from gonfalon.clock import now
from tests.api.support import PASSWORD

INES = "ines@sailloft.example"
HERE, THERE = "192.0.2.7", "198.51.100.9"


@pytest.fixture
def clock(monkeypatch):
    """The time as signing in sees it; `clock.on(...)` moves it."""

    class Clock:
        at = now()

        def on(self, **by):
            self.at += timedelta(**by)

    clock = Clock()
    monkeypatch.setattr(signin, "now", lambda: clock.at)
    return clock


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    """Passwords compared as they are: it is counted here, not hashed."""
    monkeypatch.setattr(signin, "check_password", lambda given, _: given == PASSWORD)
    monkeypatch.setattr(signin, "make_password", lambda _: None)


def guess(email=INES, client=HERE, times=1):
    for _ in range(times):
        assert account_for(email, "guess", client) is None


def wait(email=INES, client=HERE, password="guess"):
    """How long one would have to wait, 0 when not at all."""
    try:
        account_for(email, password, client)
    except TooManyGuesses as too_many:
        return too_many.seconds
    return 0


def test_after_five_guesses_each_further_one_doubles_the_wait(clock):
    guess(times=5)
    waits = []
    while len(waits) < 14:
        waits.append(wait())
        clock.on(seconds=waits[-1])
        guess()
    assert waits == [3, 5, 9, 17, 33, 65, 129, 257, 513, 1025, 2049, 3601, 0, 0], "an hour later it is forgotten"


def test_right_or_wrong_one_waits_and_a_moment_too_soon_is_too_soon(clock):
    guess(times=5)
    assert wait(password=PASSWORD) == 3
    clock.on(seconds=1.9)
    assert wait(password=PASSWORD) == 1
    clock.on(seconds=0.2)
    assert account_for(INES, PASSWORD, HERE).id == "ines"


def test_waiting_is_not_counted_and_an_hour_forgets(clock):
    guess(times=5)
    for _ in range(20):
        assert wait() == 3
    clock.on(hours=1, seconds=1)
    guess(times=5)


def test_signing_in_begins_anew(clock):
    guess(times=4)
    assert account_for(INES, PASSWORD, HERE)
    guess(times=5)
    assert wait() == 3


def test_guesses_at_one_address_do_not_slow_another_from_elsewhere(clock):
    guess(times=5)
    assert wait("odile@skerrow.example", THERE) == 0


def test_one_client_is_slowed_whatever_addresses_it_tries(clock):
    for n in range(30):
        guess(f"somebody-{n}@skerrow.example")
    assert wait("odile@skerrow.example", password=PASSWORD) == 3
    assert wait("odile@skerrow.example", THERE, PASSWORD) == 0


def test_a_client_that_guesses_at_others_keeps_nobody_out_who_has_signed_in_there(clock):
    assert account_for(INES, PASSWORD, HERE)
    for n in range(30):
        guess(f"somebody-{n}@skerrow.example")
    assert wait("odile@skerrow.example", password=PASSWORD) == 3
    assert account_for(INES, PASSWORD, HERE), "known here"
    guess(times=5)
    assert wait() == 3, "guesses at her are slowed all the same"


def test_guesses_at_somebody_known_there_count_for_the_client(clock):
    assert account_for(INES, PASSWORD, HERE)
    for n in range(26):
        guess(f"somebody-{n}@skerrow.example")
    guess(times=4)
    assert wait("odile@skerrow.example", password=PASSWORD) == 3


def test_many_clients_are_slowed_at_one_address_but_never_for_long(clock):
    for n in range(50):
        guess(client=f"203.0.113.{n}")
    waits = []
    for n in range(12):
        waits.append(wait(client=f"198.51.100.{n}"))
        clock.on(seconds=waits[-1])
        guess(client=f"198.51.100.{n}")
    assert waits == [3, 5, 9, 17, 33, 65, 129, 257, 513, 901, 901, 901]


def test_nobody_is_kept_out_by_others_where_they_have_signed_in_before(clock):
    assert account_for(INES, PASSWORD, HERE)
    for n in range(60):
        if wait(client=f"203.0.113.{n}"):
            break
    assert wait(client=THERE, password=PASSWORD) > 0
    assert account_for(INES, PASSWORD, HERE), "known here"
    clock.on(days=91)
    for n in range(50):
        guess(client=f"203.0.113.{n}")
    assert wait(password=PASSWORD) > 0, "known no more"


def test_an_address_written_otherwise_is_the_same_address(clock):
    for email in (INES, INES.upper(), f" {INES} ", "inés@sailloft.example", INES):
        guess(email)
    assert wait() == 3


def test_addresses_nobody_has_are_slowed_alike(clock):
    guess("nobody@skerrow.example", times=5)
    assert wait("nobody@skerrow.example") == 3


@pytest.mark.parametrize("change", [{"state": "disabled"}, {"state": "invited"}, {"password": "!unusable"}])
def test_who_cannot_sign_in_is_counted_and_told_alike(clock, change):
    Account.objects.filter(pk="ines").update(**change)
    assert account_for(INES, PASSWORD if "password" not in change else "guess", HERE) is None
    assert sorted(Guesses.objects.values_list("count", flat=True)) == [1, 1, 1]


def test_old_rows_go(clock):
    guess(client=THERE)
    assert account_for("odile@skerrow.example", PASSWORD, THERE)
    clock.on(days=91)
    assert account_for(INES, PASSWORD, HERE)
    assert not Guesses.objects.filter(last_at__lt=clock.at - timedelta(hours=1)).exists()
    assert list(KnownClient.objects.values_list("account", "client")) == [("ines", HERE)]


def test_every_count_is_of_its_own():
    assert [Count("", free, timedelta(seconds=8)).wait_after(free + 9).seconds for free in (0, 5)] == [8, 8]
    keys = [count.key for whose in "ab" for client in "xy" for count in signin._counts(whose, client)]
    assert len(set(keys)) == 4 + 2 + 2


def test_the_api_tells_how_long_and_for_whom_it_counts(ask, monkeypatch):
    def sign_in(password, sender):
        body = {"email": INES, "password": password}
        return ask().client.post("/api/session", body, content_type="application/json", REMOTE_ADDR=sender)

    for _ in range(5):
        assert sign_in("guess", HERE).json()["reason"] == "sign-in-failed"
    slowed = sign_in(PASSWORD, HERE)
    assert (slowed.status_code, slowed.json()["reason"]) == (429, "throttled")
    assert int(slowed["Retry-After"]) >= 1
    assert sign_in(PASSWORD, THERE).status_code == 200


@pytest.mark.parametrize(
    ("proxies", "named", "client"),
    [
        (0, "", "10.0.0.1"),
        (0, "192.0.2.7", "10.0.0.1"),
        (1, "192.0.2.7", "192.0.2.7"),
        (1, "6.6.6.6, 192.0.2.7", "192.0.2.7"),
        (2, "6.6.6.6, 192.0.2.7, 10.0.0.2", "192.0.2.7"),
        (2, "192.0.2.7", "192.0.2.7"),
        (1, "", "10.0.0.1"),
        (1, "no address", "10.0.0.1"),
        (1, "2001:db8:1:2:3:4:5:6", "2001:db8:1:2::/64"),
    ],
)
def test_the_client_is_the_one_that_trusted_proxies_name(settings, proxies, named, client):
    settings.PROXIES = proxies
    headers = {"X-Forwarded-For": named} if named else {}
    assert client_of(RequestFactory().get("/", headers=headers, REMOTE_ADDR="10.0.0.1")) == client
