"""Asking somebody to try what a role can do: told by mail, with a link to the list, where they sign in as themselves.

give(walk_list, account, "Before we open in spring.", by, "Tenant editor")
take_back(walk_list, "ines", by, "Tenant editor")           # whether it was given to them
"""

from django.conf import settings

from gonfalon.access.models import GivenWalk
from gonfalon.accounts.models import Account
from gonfalon.accounts.names import names_of
from gonfalon.clock import now
from gonfalon.ledger.models import By, record
from gonfalon.mail.outbox import post
from gonfalon.verify.models import WalkList


def give(row: WalkList, account: Account, word: str, by: By, name: str) -> None:
    """Give a list to somebody, who is told; once more with another word where they have it."""
    GivenWalk.objects.update_or_create(
        role=row.role, account=account, defaults={"word": word, "given_by": by.actor, "given_at": now()}
    )
    asker = names_of([by.actor]).get(by.actor, "The people who run the site") if by.actor else ""
    said = f":\n\n{word}" if word else "."
    text = (
        f"Hello {account.name},\n\n{asker} asks you to try what {name} can do{said}\n\n"
        "Sign in as yourself. You try it in a rehearsal: whatever you do there, nothing of it is kept.\n\n"
        f"{settings.ADDRESS}/walk/{row.id}\n"
    )
    post(account.email, f"Please try: {name}", text)
    record(by, "walk-list.given", about=("account", account.id), name=name, to=account.name)


def take_back(row: WalkList, account: str, by: By, name: str) -> bool:
    """Ask somebody no more; whether they were asked."""
    given = GivenWalk.objects.filter(role=row.role, account=account).select_related("account").first()
    if given is None:
        return False
    given.delete()
    record(by, "walk-list.taken-back", about=("account", account), name=name, to=given.account.name)
    return True
