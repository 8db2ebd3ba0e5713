"""Links: an invitation, a new password, a new address, and the first keyholder’s. Each works once, and ends.

secret = issue(account, Ticket.Purpose.PASSWORD)
ticket = valid(secret)                  # what it is for, or None
ticket = redeem(secret)                 # the same, used up: inside the transaction of what it does
"""

from datetime import timedelta
from hashlib import sha256

from django.db.models import QuerySet

from gonfalon.accounts.models import Account, Ticket
from gonfalon.clock import new_secret, now
from gonfalon.work import locked

LASTS = {
    Ticket.Purpose.INVITATION: timedelta(days=14),
    Ticket.Purpose.PASSWORD: timedelta(hours=2),
    Ticket.Purpose.EMAIL: timedelta(days=2),
    Ticket.Purpose.FIRST: timedelta(days=1),
}


def issue(account: Account, purpose: Ticket.Purpose, *, email: str = "", made_by: str | None = None) -> str:
    """The secret of a new link; earlier ones for the same are worth nothing any more."""
    Ticket.objects.filter(account=account, purpose=purpose, used_at=None).delete()
    secret = new_secret()
    Ticket.objects.create(
        digest=_digest(secret),
        purpose=purpose,
        account=account,
        email=email,
        made_by=made_by,
        ends_at=now() + LASTS[purpose],
    )
    return secret


def void(*accounts: str) -> None:
    """Make all links of accounts worth nothing.

    Whatever changes how somebody signs in does: a password, an address, a second factor, being disabled.
    """
    Ticket.objects.filter(account__in=accounts, used_at=None).delete()


def valid(secret: str) -> Ticket | None:
    """What a link is for, where it still is for anything."""
    return _open().filter(digest=_digest(secret)).first()


def waiting_address(account: Account) -> Ticket | None:
    """The link by which a new address of an account is confirmed, where one waits. One query."""
    return _open().filter(account=account, purpose=Ticket.Purpose.EMAIL).first()


def redeem(secret: str) -> Ticket | None:
    """Use a link up; None where somebody did, or it has ended. Belongs in the transaction of what it does."""
    ticket = locked(_open()).filter(digest=_digest(secret)).first()
    if ticket is not None:
        ticket.used_at = now()
        ticket.save(update_fields=["used_at"])
    return ticket


def _open() -> QuerySet[Ticket]:
    alive = Ticket.objects.select_related("account").exclude(account__state=Account.State.DISABLED)
    return alive.filter(used_at=None, ends_at__gt=now())


def _digest(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()
