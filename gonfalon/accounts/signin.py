"""Signing in with e-mail and password, and slowing down those who guess.

Five wrong guesses for one address are free; each further one doubles the wait, up to an hour.
The count is forgotten after an hour without a guess, or on signing in. Addresses nobody has
are counted alike, so the answer does not tell whether an account exists.
"""

from datetime import datetime, timedelta

from django.contrib.auth.hashers import check_password, make_password
from django.db import transaction

from gonfalon.accounts.models import Account, Guesses
from gonfalon.clock import now

FREE_GUESSES = 5
FORGET_AFTER = timedelta(hours=1)


class TooManyGuesses(Exception):
    """Further guesses must wait `seconds`."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"Wait {seconds} seconds")
        self.seconds = seconds


@transaction.atomic
def account_for(email: str, password: str) -> Account | None:
    """The active account with this address and password, or None. Raises TooManyGuesses."""
    key = email.strip().lower()[:254]
    guesses, _ = Guesses.objects.select_for_update().get_or_create(email=key, defaults={"last_at": now()})
    _wait(guesses, now())
    account = Account.objects.filter(email__iexact=key).first()
    if account is None:
        make_password(password)  # costs the time a real check would
    elif check_password(password, account.password) and account.is_active:
        guesses.delete()
        return account
    guesses.count += 1
    guesses.last_at = now()
    guesses.save()
    return None


def _wait(guesses: Guesses, at: datetime) -> None:
    if at - guesses.last_at > FORGET_AFTER:
        guesses.count = 0
    if guesses.count < FREE_GUESSES:
        return
    pause = min(timedelta(seconds=2 ** (guesses.count - FREE_GUESSES + 1)), FORGET_AFTER)
    left = guesses.last_at + pause - at
    if left > timedelta(0):
        raise TooManyGuesses(int(left.total_seconds()) + 1)
