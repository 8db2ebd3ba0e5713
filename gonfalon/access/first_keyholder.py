"""The first keyholder of an installation: whoever opens the link that is printed when it is started.

    link = first_link()            # None where somebody is a keyholder already
    become_keyholder(ticket, "Ada", "ada@skerrow.example", password)

Until then there is an account for them that is invited, a keyholder, and without an address of its own.
"""

from django.db import IntegrityError

from gonfalon.access.people import AddressTaken, link
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Ticket
from gonfalon.accounts.tickets import issue, void
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, locked, unit

NOBODY_YET = "first@keyholder.invalid"


class SomebodyIs(Exception):
    """Somebody is a keyholder already: nobody becomes the first one any more."""


@unit(POLICY)
def first_link() -> str | None:
    """The address that makes whoever opens it the keyholder; those printed before are worth nothing any more."""
    if _somebody_is():
        return None
    account, made = Account.objects.get_or_create(
        email=NOBODY_YET, defaults={"name": "Keyholder", "keyholder": True, "state": Account.State.INVITED}
    )
    if made:
        account.set_unusable_password()
        account.save(update_fields=["password"])
        raise_version()
    return link(issue(account, Ticket.Purpose.FIRST))


@unit(POLICY)
def become_keyholder(ticket: Ticket, name: str, email: str, password: str) -> Account:
    """Let whoever followed the first link say who they are. Raises SomebodyIs, AddressTaken."""
    if _somebody_is():
        raise SomebodyIs
    account = locked(Account.objects).get(pk=ticket.account_id)
    if Account.objects.filter(email__iexact=email).exclude(pk=account.pk).exists():
        raise AddressTaken(email)
    account.name, account.email, account.state = name, email, Account.State.ACTIVE
    account.set_password(password)
    try:
        account.save()
    except IntegrityError:
        raise AddressTaken(email) from None
    void(account.id)
    raise_version()
    record(By(account.id), "account.keyholder", about=("account", account.id), name=account.name)
    return account


def _somebody_is() -> bool:
    return Account.objects.filter(keyholder=True, state=Account.State.ACTIVE).exists()
