"""Who is signed in where: each signing in is a row, and whoever's row has ended is signed out everywhere at once.

id = begin_session(account, client="192.0.2.7", agent="…")
row = open_session(id)                  # with its account, or None
end_sessions(account.id)
"""

from datetime import datetime, timedelta

from django.conf import settings
from django.db.models import QuerySet

from gonfalon.accounts.models import Account, SignIn
from gonfalon.clock import now

NOTED_EVERY = timedelta(minutes=5)
"""The last use is written down at most so often."""


def begin_session(account: Account, client: str, agent: str, *, arrived: bool = True) -> str:
    """Note that somebody signed in; the id of that."""
    at = now()
    Account.objects.filter(pk=account.pk).update(last_seen=at)
    row = SignIn.objects.create(
        account=account, client=client, agent=agent[:300], began_at=at, used_at=at, arrived=arrived
    )
    return row.id


def open_session(id: str) -> SignIn | None:
    """A signing in with its active account, as long as it has not ended. One query, now and then two more."""
    at = now()
    row = SignIn.objects.select_related("account").filter(pk=id, ended_at=None, began_at__gt=_began_after()).first()
    if row is None or row.account.state != Account.State.ACTIVE:
        return None
    if at - row.used_at > NOTED_EVERY:
        SignIn.objects.filter(pk=id).update(used_at=at)
        Account.objects.filter(pk=row.account_id).update(last_seen=at)
    return row


def arrive_session(id: str) -> None:
    """Note that whoever is there now has all that was asked of them."""
    SignIn.objects.filter(pk=id).update(arrived=True)


def prove_session(id: str) -> None:
    """Note that whoever is there has just shown that it is them."""
    SignIn.objects.filter(pk=id).update(proved_at=now())


def open_sessions(account: str) -> QuerySet[SignIn]:
    """Where an account is signed in, the place used last first; what was not used for as long as one lasts is over."""
    lasts = timedelta(seconds=settings.SESSION_COOKIE_AGE)
    return SignIn.objects.filter(
        account_id=account, ended_at=None, used_at__gt=now() - lasts, began_at__gt=_began_after()
    )


def _began_after() -> datetime:
    """What began before is over, however busy whoever is there has been."""
    return now() - timedelta(hours=settings.SIGNED_IN_HOURS)


def end_sessions(*accounts: str, but: str | None = None) -> int:
    """Sign accounts out everywhere, or everywhere else; how many sessions that ended."""
    return SignIn.objects.filter(account_id__in=accounts, ended_at=None).exclude(pk=but).update(ended_at=now())


def end_session(account: str, id: str) -> bool:
    """End one session of an account; whether there was such a one."""
    return bool(SignIn.objects.filter(account_id=account, pk=id, ended_at=None).update(ended_at=now()))
