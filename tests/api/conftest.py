"""The harbour on real MariaDB, loaded once; every test runs in a transaction that is rolled back."""

from collections.abc import Callable, Iterator

import pytest

from gonfalon.access.models import (
    Answer,
    Assignment,
    ChangeSet,
    Delegation,
    DirectGrant,
    FieldRule,
    Limit,
    Lock,
    Review,
    Role,
)
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, Group
from gonfalon.clock import now
from gonfalon.content.models import Node, Site, Topic
from gonfalon.core.model.vocabulary import SECTIONS
from gonfalon.demo.builder import load
from gonfalon.verify.models import AccessRequest, Expectation
from tests.api.support import PASSWORD, Asking, forget


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker, tmp_path_factory):
    from django.conf import settings

    settings.MEDIA_ROOT = str(tmp_path_factory.mktemp("media"))
    with django_db_blocker.unblock():
        load(PASSWORD, now())


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Both connections are rolled back: what is written whatever becomes of a request, too."""
    for item in items:
        item.add_marker(pytest.mark.django_db(databases=["default", "apart"]))


@pytest.fixture(autouse=True)
def harbour(db) -> Iterator[None]:
    """A version number means something else after a rollback, so nothing kept by version outlives a test."""
    yield
    forget()


@pytest.fixture
def nothing_here(harbour):
    """The installation without anything that a document would have to name."""
    Node.objects.all().delete()
    for model in (
        AccessRequest,
        Review,
        ChangeSet,
        Assignment,
        Delegation,
        DirectGrant,
        Limit,
        FieldRule,
        Lock,
        Expectation,
    ):
        model.objects.all().delete()
    for model, above in ((Role, "builds_on"), (Group, "parent")):
        model.objects.update(**{above: None})
        model.objects.all().delete()
    for model in (Account, Site, Topic):
        model.objects.all().delete()


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


@pytest.fixture
def lone(ask, odile):
    """`lone("roster.see")` asks as somebody who has that duty and nothing else but what everyone has.

    Whoever has the desk has all of its sections but media.
    """
    Account.objects.create(id="lone", name="Lone Reader", email="lone@skerrow.example", password="x")
    Role.objects.create(key="lone", name="Lone", colour="azure", pattern="plain", position=99)
    Assignment.objects.create(id="lone", role_id="lone", account_id="lone", scope={})

    def asking(*duties: str) -> Asking:
        said = {*duties, *((set(SECTIONS) - {"media.open"}) if "desk.open" in duties else ())}
        Answer.objects.filter(role="lone").delete()
        Answer.objects.bulk_create(Answer(role_id="lone", capability=duty, says="yes") for duty in said)
        raise_version()
        return ask("lone")

    return asking
