"""Handing on what somebody wrote.

hand_on("renzo", "halla", by)      # how many pages and media are Halla's now
"""

from django.db import transaction

from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.content.nodes import raise_version
from gonfalon.ledger.models import By, record


@transaction.atomic
def hand_on(account: str, to: str, by: By) -> int:
    """Make somebody the author of all that another one wrote; how many nodes that are. Four queries."""
    handed = Node.objects.filter(author_id=account).update(author_id=to)
    if handed:
        raise_version()
        names = dict(Account.objects.filter(pk__in=[account, to]).values_list("id", "name"))
        pages = "1 page" if handed == 1 else f"{handed} pages"
        summary = f"Handed {pages} of {names[account]} on to {names[to]}"
        record(by, "account.handed-on", summary, about=("account", account))
    return handed
