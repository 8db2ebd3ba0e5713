"""Taking one's own account away: name and address go, and what was done under it stays as somebody's.

    take_own_away(account, by)

The account itself stays, disabled, since the ledger and pages refer to it (§1). Nothing else rewrites entries of the
ledger: who it was is taken out of those about the account or by it; what was done, and when, is left as it was.
"""

import re
from functools import partial
from typing import Any

from django.db.models import Q

from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Factor, KeptView
from gonfalon.accounts.sessions import end_sessions
from gonfalon.accounts.tickets import void
from gonfalon.clock import now
from gonfalon.ledger.models import By, Entry, record
from gonfalon.mail.models import Letter
from gonfalon.work import POLICY, after_commit, unit

NOBODY = "Somebody"


@unit(POLICY)
def take_own_away(account: Account, by: By) -> None:
    """Let an account go, as whoever it is asks for. Nobody signs in with it any more."""
    name, email = account.name, account.email
    record(by, "account.taken-away", about=("account", account.id))
    _take_out(account.id, name, email)
    Letter.objects.filter(to__iexact=email).delete()
    Factor.objects.filter(account=account).delete()
    KeptView.objects.filter(owner=account).delete()
    if portrait := account.portrait.name:
        storage = account.portrait.storage
        after_commit(partial(storage.delete, portrait))
    account.name, account.email = NOBODY, f"{account.id}@gone.invalid"
    account.profile, account.portrait, account.language = {}, "", "en"
    account.state, account.disabled_at = Account.State.DISABLED, now()
    account.version += 1
    account.set_unusable_password()
    account.save()
    end_sessions(account.id)
    void(account.id)
    raise_version()


def _take_out(account: str, name: str, email: str) -> None:
    """Take a name and an address out of the entries about an account, and of those that it wrote or that name it."""
    own = Q(about_kind="account", about_id=account) | Q(actor=account)
    if not Account.objects.filter(name__iexact=name).exclude(pk=account).exists():  # else it may be the other's
        own |= Q(summary__contains=name)
    rows = list(Entry.objects.filter(own))
    named = re.compile(rf"(?<!\w)(?:{re.escape(name)}|{re.escape(email)})(?!\w)", re.IGNORECASE)
    for row in rows:
        row.summary = _without(row.summary, named)
        row.changes = _without(row.changes, named)
        row.data = _without(row.data, named)
    Entry.objects.bulk_update(rows, ["summary", "changes", "data"], batch_size=500)


def _without(told: Any, named: re.Pattern[str]) -> Any:
    """What is told, a text or texts in lists and by key, without a name."""
    if isinstance(told, str):
        return named.sub(NOBODY, told)
    if isinstance(told, dict):
        return {key: _without(value, named) for key, value in told.items()}
    return [_without(one, named) for one in told] if isinstance(told, list) else told
