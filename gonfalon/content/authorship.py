"""Handing on what somebody wrote.

hand_on("renzo", "halla", by)              # how many pages and media are Halla's now
hand_on_page(page, halla, by)
"""

from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.content.nodes import raise_version
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, unit


@unit(NODES)
def hand_on(account: str, to: str, by: By) -> int:
    """Make somebody the author of all that another one wrote; how many nodes that are. Four queries."""
    handed = Node.objects.filter(author_id=account).update(author_id=to)
    if handed:
        raise_version()
        names = dict(Account.objects.filter(pk__in=[account, to]).values_list("id", "name"))
        way, about = "one" if handed == 1 else "", ("account", account)
        record(by, "account.handed-on", about=about, way=way, pages=handed, name=names[account], to=names[to])
    return handed


@unit(NODES)
def hand_on_page(row: Node, to: Account, by: By) -> None:
    """Make somebody the author of one page."""
    was = row.author.name if row.author else None
    row.author, row.version = to, row.version + 1
    row.save(update_fields=["author", "version"])
    raise_version()
    changes = [Change(what="author", was=was, now=to.name)]
    record(by, "page.handed-on", about=("node", row.id), changes=changes, title=row.title, to=to.name)
