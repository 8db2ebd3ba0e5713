"""New accounts, and letters to those who have one: invitations, links for a new password or another address.

make_account("Ada", "ada@skerrow.example", by)
invite(account, by, "Come aboard.")
"""

from django.conf import settings
from django.db import IntegrityError
from django_tasks import task

from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Ticket
from gonfalon.accounts.sessions import end_sessions
from gonfalon.accounts.tickets import LASTS, issue, void, waiting_address
from gonfalon.ledger.models import By, Change, record
from gonfalon.mail.outbox import post
from gonfalon.work import POLICY, locked, unit

LINK = "…"
"""Stands for the link while a letter is only looked at."""


class AddressTaken(Exception):
    """Another account has this address."""


@unit(POLICY)
def make_account(name: str, email: str, by: By, *, language: str = "en", password: str | None = None) -> Account:
    """A new account that holds nothing, and is disabled until it is taken on. Raises AddressTaken."""
    if Account.objects.filter(email__iexact=email).exists():
        raise AddressTaken(email)
    account = Account(name=name, email=email, language=language, state=Account.State.DISABLED)
    account.set_password(password)
    account.password_given = password is not None
    try:
        account.save(force_insert=True)
    except IntegrityError:
        raise AddressTaken(email) from None
    raise_version()
    record(by, "account.made", about=("account", account.id), name=name)
    return account


@unit(POLICY.shared)
def invite(account: Account, by: By, message: str = "") -> None:
    """Send an invitation, which lasts for two weeks; links sent before are worth nothing any more."""
    secret = issue(account, Ticket.Purpose.INVITATION, made_by=by.actor)
    host = Account.objects.get(pk=by.actor).name if by.actor else "The people who run the site"
    post(account.email, *invitation(account.name, host, message, link(secret)))
    record(by, "account.invited", about=("account", account.id), name=account.name)


@task
@unit(POLICY.shared)
def invite_some(accounts: list[str], by: str | None) -> None:
    """Invite those of some accounts who have not come yet, for somebody."""
    for account in Account.objects.filter(pk__in=accounts, state=Account.State.INVITED):
        invite(account, By(by))


def invitation(name: str, host: str, message: str, link: str = LINK) -> tuple[str, str]:
    """Subject and text of an invitation."""
    days = LASTS[Ticket.Purpose.INVITATION].days
    own = f"{message.strip()}\n\n" if message.strip() else ""
    text = (
        f"Hello {name},\n\n{host} has made an account for you.\n\n{own}"
        f"Choose a password here, within {days} days:\n{link}\n\n"
        "The link works once. If you do not know what this is about, leave it alone: nothing happens.\n"
    )
    return f"{host} invites you", text


@unit(POLICY.shared)
def send_reset(account: Account, by: By | None = None) -> None:
    """Send a link for a new password, asked for by the account itself or by somebody else."""
    secret = issue(account, Ticket.Purpose.PASSWORD, made_by=by.actor if by else None)
    hours = LASTS[Ticket.Purpose.PASSWORD].seconds // 3600
    text = (
        f"Hello {account.name},\n\nChoose a new password here, within {hours} hours:\n{link(secret)}\n\n"
        "The link works once. If you did not ask for it, leave it alone: your password stays as it is.\n"
    )
    post(account.email, "A new password", text)
    record(by or By(None), "account.reset-sent", about=("account", account.id), name=account.name)


@unit(POLICY.shared)
def send_confirmation(account: Account, email: str, by: By, *, taken: bool = False) -> None:
    """Ask at a new address whether it is to be the account's; until it is confirmed nothing changes.

    Where it is `taken`, that is told there and nowhere else: whoever asks learns nothing of other accounts.
    """
    secret = issue(account, Ticket.Purpose.EMAIL, email=email, made_by=by.actor)
    days = LASTS[Ticket.Purpose.EMAIL].days
    text = (
        f"Hello {account.name},\n\nThis address is to be the one you sign in with. "
        f"Confirm it here, within {days} days:\n{link(secret)}\n\nUntil then {account.email} stays.\n"
    )
    if taken:
        text = (
            f"Hello,\n\n{account.name} asked to sign in with this address, "
            "which another account signs in with already. Nothing changes, and nobody was told. "
            "If that was you, change the address of the other account first.\n"
        )
    post(email, "Somebody asked for your address" if taken else "Confirm your new address", text)
    asked = Account.objects.get(pk=by.actor).name if by.actor not in (None, account.id) else "You"
    told = (
        f"Hello {account.name},\n\n{asked} asked for another address to sign in with: {email}. "
        "Once it is confirmed there, this address counts no more.\n\n"
        "If that is not right, choose another password: then the new address cannot be confirmed any more.\n"
    )
    post(account.email, "Another address was asked for", told)
    change = Change(what="address", was=account.email, now=f"{email}, once it is confirmed")
    record(by, "account.address-asked", about=("account", account.id), changes=[change], name=account.name)


def let_address_go(account: Account, by: By) -> bool:
    """Let a new address that waits to be confirmed go; whether there was one."""
    waiting = waiting_address(account)
    if waiting is None:
        return False
    waiting.delete()
    change = Change(what="address", was=waiting.email, now=None)
    record(by, "account.address-let-go", about=("account", account.id), changes=[change], name=account.name)
    return True


def link(secret: str) -> str:
    """The address of the page where a link from a mail is used; its secret is in no server's log."""
    return f"{settings.ADDRESS}/welcome#{secret}"


def shares_mailbox(email: str, but: str | None = None) -> Account | None:
    """Another account whose mail arrives in the same mailbox, told by the address without its plus-tag."""
    mailbox, _, domain = email.rpartition("@")
    base = mailbox.partition("+")[0]
    others = Account.objects.filter(email__iendswith=f"@{domain}", email__istartswith=base).exclude(pk=but)
    return next((a for a in others if a.email.rpartition("@")[0].partition("+")[0].lower() == base.lower()), None)


@task
@unit(POLICY.shared)
def forgotten(email: str) -> None:
    """Send a link for a new password to whoever asked for one, if there is such an account.

    The worker does it, so that neither the answer nor the time it takes tells whether there is.
    """
    account = Account.objects.filter(email__iexact=email, state=Account.State.ACTIVE).first()
    if account is not None:
        send_reset(account)


@unit(POLICY)
def take_up(ticket: Ticket, password: str) -> Account:
    """Let whoever followed an invitation, or a link for a new password, choose it: all other sessions end."""
    account = locked(Account.objects).get(pk=ticket.account_id)
    if account.state == Account.State.INVITED:
        account.state = Account.State.ACTIVE
        raise_version()
    account.set_password(password)
    account.password_given = False
    account.save(update_fields=["state", "password", "password_given"])
    end_sessions(account.id)
    void(account.id)
    record(By(account.id), "account.password-chosen", about=("account", account.id), name=account.name)
    return account


@unit(POLICY)
def confirm_address(ticket: Ticket) -> Account:
    """Make the address that a link was sent to the account's own. Raises AddressTaken."""
    account = locked(Account.objects).get(pk=ticket.account_id)
    if Account.objects.filter(email__iexact=ticket.email).exclude(pk=account.pk).exists():
        raise AddressTaken(ticket.email)
    change = Change(what="address", was=account.email, now=ticket.email)
    account.email, account.version = ticket.email, account.version + 1
    account.save(update_fields=["email", "version"])
    void(account.id)
    by, about = By(account.id), ("account", account.id)
    record(by, "account.changed", about=about, changes=[change], way="address", name=account.name)
    return account
