"""Signing in with e-mail and password, and slowing down those who guess.

    account_for("ada@skerrow.example", "…", client="192.0.2.7")

Wrong guesses are counted for an address and a client together, for a client whatever the address, and for an address
whatever the client. After some that are free each further one doubles the wait. Nobody is kept out by what others
guess: from a client where they have signed in before only the first count says how long they wait. Addresses nobody has
are counted alike, so that no answer, nor the time it takes, tells whether there is an account.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from hashlib import sha256

from django.contrib.auth.hashers import check_password, is_password_usable, make_password
from django.db.models import F

from gonfalon.accounts.models import Account, Guesses, KnownClient, SignIn
from gonfalon.clock import now
from gonfalon.work import apart, locked

FORGET_AFTER = timedelta(hours=1)
"""Without a further guess a count is forgotten."""
KNOWN_FOR = timedelta(days=90)
"""So long after signing in there a client is known."""


class TooManyGuesses(Exception):
    """Further guesses must wait `seconds`."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"Wait {seconds} seconds")
        self.seconds = seconds


@dataclass(frozen=True, slots=True)
class Count:
    """One count of wrong guesses: whose it is, how many are free, and the longest wait."""

    key: str
    free: int
    longest: timedelta = FORGET_AFTER

    def wait_after(self, guesses: int) -> timedelta:
        """How long whoever made so many wrong guesses waits after the last one.

        >>> [Count("", 5).wait_after(n).seconds for n in (4, 5, 6, 7, 40)]
        [0, 2, 4, 8, 3600]
        """
        if guesses < self.free:
            return timedelta(0)
        return min(timedelta(seconds=2 ** min(guesses - self.free + 1, 20)), self.longest)


def account_for(email: str, password: str, client: str) -> Account | None:
    """The active account with this address and password, or None. Raises TooManyGuesses.

    A guess is counted before it is checked, so that many at once do not slip through, and no lock is held meanwhile.
    """
    account = Account.objects.filter(email__iexact=email.strip()).first()
    counts = _counts(account.id if account else email.strip().lower(), client)
    known = account is not None and _knows(account, client)
    counts = counts[:2] if known else counts
    _count(counts, binding=1 if known else len(counts))
    usable = account is not None and is_password_usable(account.password)
    if account is None or not usable:
        make_password(password)  # costs the time a real check does
        return None
    if not check_password(password, account.password) or not account.is_active:
        return None
    _succeeded(account, client, counts)
    return account


def _counts(whose: str, client: str) -> list[Count]:
    def key(*parts: str) -> str:
        return sha256("\0".join(parts).encode()).hexdigest()

    return [
        Count(key("both", whose, client), free=5),
        Count(key("client", client), free=30),
        Count(key("address", whose), free=50, longest=timedelta(minutes=15)),
    ]


def _knows(account: Account, client: str) -> bool:
    return KnownClient.objects.filter(account=account, client=client, last_at__gt=now() - KNOWN_FOR).exists()


def _count(counts: list[Count], binding: int | None = None) -> None:
    """Count one more guess, whatever comes of it. Raises TooManyGuesses, and counts nothing, where one has to wait.

    The first `binding` of the counts say how long, all of them unless it is said.
    """
    wait = apart(lambda: _counted(counts, binding))
    if wait > timedelta(0):
        raise TooManyGuesses(int(wait.total_seconds()) + 1)


def _counted(counts: list[Count], binding: int | None) -> timedelta:
    """How long one has to wait; where that is nothing, the guess is counted."""
    at, guesses = now(), Guesses.objects
    guesses.bulk_create([Guesses(key=count.key, last_at=at) for count in counts], ignore_conflicts=True)
    rows = {row.key: row for row in locked(guesses).filter(key__in=[c.key for c in counts])}
    wait = timedelta(0)
    for row in rows.values():
        if at - row.last_at > FORGET_AFTER:
            row.count = 0
    for count in counts[:binding]:
        row = rows[count.key]
        wait = max(wait, row.last_at + count.wait_after(row.count) - at if row.count else timedelta(0))
    if wait <= timedelta(0):
        for row in rows.values():
            row.count, row.last_at = row.count + 1, at
        guesses.bulk_update(rows.values(), ["count", "last_at"])
    return max(wait, timedelta(0))


def _succeeded(account: Account, client: str, counts: list[Count]) -> None:
    """It was no guess: take it back, know the client from now on, and let old rows go."""
    at = now()
    apart(lambda: _taken_back(counts))
    KnownClient.objects.update_or_create(account=account, client=client, defaults={"last_at": at})
    forget(at)


def _taken_back(counts: list[Count]) -> None:
    guesses, (both, *others) = Guesses.objects, (count.key for count in counts)
    guesses.filter(key=both).delete()
    guesses.filter(key__in=others, count__gt=0).update(count=F("count") - 1)
    guesses.filter(last_at__lt=now() - FORGET_AFTER).delete()


def forget(at: datetime) -> None:
    """Drop clients that are not known any more, and sessions of long ago."""
    KnownClient.objects.filter(last_at__lt=at - KNOWN_FOR).delete()
    SignIn.objects.filter(used_at__lt=at - KNOWN_FOR).delete()


class Guess:
    """A second factor that is given for an account by a client, counted before it is checked. Raises TooManyGuesses."""

    def __init__(self, account: Account, client: str) -> None:
        keys = (sha256(f"factor\0{account.id}\0{part}".encode()).hexdigest() for part in (client, ""))
        self._counts = [Count(next(keys), free=5), Count(next(keys), free=20, longest=timedelta(minutes=15))]
        _count(self._counts)

    def was_right(self) -> None:
        """Take it back: it was no guess."""
        keys = [count.key for count in self._counts]
        apart(lambda: Guesses.objects.filter(key__in=keys).delete())


def count_letter(to: str, by: str) -> None:
    """Count a letter that one account lets be sent to an address. Raises TooManyGuesses, with how long to wait."""
    digests = (sha256(f"letter\0{part}".encode()).hexdigest() for part in (f"{to.lower()}\0{by}", by))
    _count([Count(key, free) for key, free in zip(digests, (5, 20), strict=True)])


def count_forgotten(email: str, client: str) -> None:
    """Count somebody who asks for a new password for an address. Raises TooManyGuesses."""
    digests = (sha256(f"forgotten\0{part}".encode()).hexdigest() for part in (f"{email.lower()}\0{client}", client))
    _count([Count(key, free) for key, free in zip(digests, (5, 30), strict=True)])
