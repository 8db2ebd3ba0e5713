"""The harbour on real MariaDB, loaded once; every test runs in a transaction that is rolled back."""

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from django.test import Client

from gonfalon.access import snapshot
from gonfalon.access.models import Assignment, ChangeSet, DirectGrant, FieldRule, Limit, Lock, Role
from gonfalon.accounts.models import Account, Group
from gonfalon.clock import now
from gonfalon.content import nodes
from gonfalon.content.models import Node, Site, Topic
from gonfalon.demo.builder import load
from gonfalon.verify import expectation_cache, preview
from gonfalon.verify.models import Expectation

PASSWORD = "slack water at noon"


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker, tmp_path_factory):
    from django.conf import settings

    settings.MEDIA_ROOT = str(tmp_path_factory.mktemp("media"))
    with django_db_blocker.unblock():
        load(PASSWORD, now())


@pytest.fixture(autouse=True)
def harbour(db) -> Iterator[None]:
    """A version number means something else after a rollback, so nothing kept by version outlives a test."""
    yield
    for kept in (snapshot._kept, nodes._kept, nodes._engines, preview._kept, expectation_cache._kept):
        kept.clear()


@pytest.fixture
def nothing_here(harbour):
    """The installation without anything that a document would have to name."""
    Node.objects.all().delete()
    for model in (ChangeSet, Assignment, DirectGrant, Limit, FieldRule, Lock, Expectation):
        model.objects.all().delete()
    for model, above in ((Role, "builds_on"), (Group, "parent")):
        model.objects.update(**{above: None})
        model.objects.all().delete()
    for model in (Account, Site, Topic):
        model.objects.all().delete()


class Asking:
    """A client that is signed in, speaks JSON, and gives back what came."""

    def __init__(self, account: str | None) -> None:
        self.client = Client()
        if account:
            row = Account.objects.get(pk=account)
            session = self.client.session
            session["account"] = row.id
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
        return self._read(
            send(f"/api/{path}", json.dumps(data or {}), content_type="application/json", headers=headers)
        )

    @staticmethod
    def _read(response: Any) -> Any:
        response.data_read = json.loads(response.content) if response.content else None
        return response


@pytest.fixture
def ask() -> Callable[..., Asking]:
    """`ask("odile")` asks as Odile, `ask()` as a visitor."""
    return lambda account=None: Asking(account)


@pytest.fixture
def odile(ask) -> Asking:
    return ask("odile")


@pytest.fixture
def ines(ask) -> Asking:
    return ask("ines")


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


def stage(asking: Asking, *operations: dict[str, Any]) -> Any:
    return ok(asking.post("change-set/operations", {"operations": list(operations)}))


def apply(asking: Asking, *operations: dict[str, Any]) -> Any:
    stage(asking, *operations)
    return ok(asking.post("change-set/apply"))
