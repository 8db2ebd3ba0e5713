"""Whose pages are whose: one page is handed on, or all that somebody wrote is handed over.

hand_on_page(page, halla, by)
{"kind": "hand-over", "account": "renzo", "to": {"kind": "account", "id": "halla"}}      # an operation of a change set
"""

from collections.abc import Iterator, Sequence
from typing import Any

from django.db.models import QuerySet
from rest_framework import serializers

from gonfalon.access.describe import Names
from gonfalon.access.operations import OperationKind
from gonfalon.access.operations.base import Data, Reader, Subject, known
from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.content.nodes import raise_version
from gonfalon.core import operations
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, unit

_AT_ONCE = 1_000


class _HandOver(Reader):
    account = serializers.CharField()
    to = Subject()

    def validate_account(self, id: str) -> str:
        return known(id, self.policy.accounts if id in self.sight.people else (), "account")

    def validate_to(self, to: Data) -> Data:
        if to["kind"] != "account":
            raise serializers.ValidationError({"kind": "Only an account can be the author of pages."})
        return self.known_subject(to)

    def validate(self, data: Data) -> Data:
        if data["to"]["id"] == data["account"]:
            raise serializers.ValidationError({"to": "Choose somebody else."})
        return data


class HandOver(OperationKind):
    """All that somebody wrote is handed over to somebody else, and as long as it is theirs it can be taken back."""

    duty = "roles.assign"
    reader = _HandOver
    staged = False

    def complete(self, data: Data) -> Data:
        """With the nodes that are handed over: those they are the author of now."""
        wrote = Node.objects.filter(author=data["account"]).order_by("pk").values_list("pk", flat=True)
        return {**data, "nodes": list(wrote)}

    def operation(self, data: Data) -> operations.HandOver:
        return operations.HandOver(data["account"], data["to"]["id"], frozenset(data["nodes"]))

    def write_all(self, every: Sequence[Data], by: By) -> None:
        for data in every:
            for rows in _rows(data["nodes"]):
                rows.filter(author=data["account"]).update(author=data["to"]["id"])
        raise_version()

    def told(self, data: Data, was: Any, names: Names) -> Change:
        count = len(data["nodes"])
        what = f"Author of {count} {'page' if count == 1 else 'pages'}"
        return Change(what=what, was=names.account(data["account"]), now=names.account(data["to"]["id"]))

    def reverse(self, data: Data, was: Any) -> Data:
        back = {"kind": "account", "id": data["account"]}
        return {**data, "account": data["to"]["id"], "to": back}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if not {data["account"], data["to"]["id"]} <= policy.accounts.keys():
            return "the account is no longer there"
        handed = any(rows.exclude(author=data["account"]).exists() for rows in _rows(data["nodes"]))
        return "some of it was handed on since" if handed else None


def _rows(nodes: Sequence[str]) -> Iterator[QuerySet[Node]]:
    for first in range(0, len(nodes), _AT_ONCE):
        yield Node.everywhere.filter(pk__in=nodes[first : first + _AT_ONCE])


@unit(NODES)
def hand_on_page(row: Node, to: Account, by: By) -> None:
    """Make somebody the author of one page."""
    was = row.author.name if row.author else None
    row.author, row.version = to, row.version + 1
    row.save(update_fields=["author", "version"])
    raise_version()
    changes = [Change(what="author", was=was, now=to.name)]
    record(by, "page.handed-on", about=("node", row.id), changes=changes, title=row.title, to=to.name)
