"""Asking the API as somebody, and what came of it."""

import json
import time
from typing import Any

from django.conf import settings
from django.test import Client

from gonfalon.access import snapshot, uses
from gonfalon.accounts.models import Account
from gonfalon.accounts.sessions import begin_session
from gonfalon.content import nodes
from gonfalon.ledger.models import Entry
from gonfalon.verify import expectation_cache, preview
from gonfalon.verify.ledger_words import changes_of_entries

PASSWORD = "slack water at noon"


class Asking:
    """A client that is signed in, speaks JSON, and gives back what came."""

    def __init__(self, account: str | None) -> None:
        self.client = Client(SERVER_NAME=settings.HOST)
        if account:
            row = Account.objects.get(pk=account)
            session = self.client.session
            session["sign_in"] = begin_session(row, "192.0.2.1", "test")
            session["password_proof"] = row.get_session_auth_hash()
            session.save()

    def get(self, path: str, **query: Any) -> Any:
        return self._read(self.client.get(f"/api/{path}", query))

    def post(self, path: str, data: Any = None, **headers: str) -> Any:
        return self._send("post", path, data, headers)

    def patch(self, path: str, data: Any, **headers: str) -> Any:
        return self._send("patch", path, data, headers)

    def put(self, path: str, data: Any, **headers: str) -> Any:
        return self._send("put", path, data, headers)

    def delete(self, path: str) -> Any:
        return self._read(self.client.delete(f"/api/{path}"))

    def _send(self, method: str, path: str, data: Any, headers: dict[str, str]) -> Any:
        send = getattr(self.client, method)
        if isinstance(data, str):
            return self._read(send(f"/api/{path}", data, content_type="text/plain", headers=headers))
        return self._read(
            send(f"/api/{path}", json.dumps(data or {}), content_type="application/json", headers=headers)
        )

    @staticmethod
    def _read(response: Any) -> Any:
        is_json = "json" in response.headers.get("Content-Type", "")
        response.data_read = json.loads(response.content) if response.content and is_json else None
        return response


def ok(response: Any, status: int = 200) -> Any:
    """What came, when it is what was hoped for."""
    assert response.status_code == status, response.content
    return response.data_read


def refused(response: Any, reason: str, status: int = 403) -> dict[str, Any]:
    """The problem that came, with this reason."""
    assert response.status_code == status, response.content
    assert response["Content-Type"] == "application/problem+json"
    assert response.data_read["reason"] == reason
    return response.data_read


def told(entry: Entry) -> list[Any]:
    """What an entry changed, as it is told when it is read."""
    return list(changes_of_entries([entry], snapshot.current().catalogue)[entry.number])


def in_tree(asking: Asking, tree: str = "content", of: str = "desk", **query: str) -> dict[str, Any]:
    """Every row of a tree by its id, opened from the top down: of the desk, or of `limits` with marks."""
    rows: dict[str, Any] = {}
    ahead = ok(asking.get(f"{of}/children", tree=tree, **query))
    while ahead:
        row = ahead.pop(0)
        rows[row["id"]] = row
        if row["branch"]:
            ahead = ok(asking.get(f"{of}/children/{row['id']}", **query)) + ahead
    return rows


def stage(asking: Asking, *operations: dict[str, Any]) -> Any:
    return ok(asking.post("change-set/operations", {"operations": list(operations)}))


def apply(asking: Asking, *operations: dict[str, Any]) -> Any:
    stage(asking, *operations)
    return ok(asking.post("change-set/apply"))


def forget() -> None:
    """What a process keeps from one request to the next is gone, and no minute ends in the middle of a test."""
    for kept in (snapshot._kept, nodes._kept, nodes._engines, preview._kept, expectation_cache._kept):
        kept.clear()
    uses._gathered.clear()
    uses._written_at = time.monotonic()
