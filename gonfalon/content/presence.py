"""Who has a page open on the desk: noted as long as they do, and forgotten a moment after they left.

note("p3-sail-loft", "ines", working=False)
others("p3-sail-loft", "ines")                  # those beside her
"""

from datetime import timedelta
from functools import partial

from gonfalon.clock import now
from gonfalon.content.models import Present
from gonfalon.work import apart

EVERY = timedelta(seconds=20)
"""How often whoever is there says so."""
GONE = timedelta(seconds=50)
MOST = 20


def note(node: str, account: str, *, working: bool) -> None:
    """Note that somebody has a page, or its working copy, open. Three queries."""
    apart(partial(_note, node, account, working))


def others(node: str, account: str) -> list[Present]:
    """Who else has it open, those who came last first. One query."""
    there = Present.objects.filter(node=node, at__gt=now() - GONE).exclude(account=account)
    return list(there.order_by("-at", "account")[:MOST])


def _note(node: str, account: str, working: bool) -> None:
    at = now()
    Present.objects.update_or_create(node=node, account=account, defaults={"working": working, "at": at})
    Present.objects.filter(account=account, at__lt=at - GONE).delete()
