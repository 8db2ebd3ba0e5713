"""Whoever opens the link that is printed on the first start becomes the keyholder, once."""

from datetime import timedelta

import pytest
from django.core.management import call_command

from gonfalon.access.first_keyholder import first_link
from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account, Ticket
from gonfalon.clock import now
from gonfalon.ledger.models import Entry
from tests.api.support import Asking, ok, refused

GOOD = "copper kettle drifting north"
ADA = {"name": "Ada Sund", "email": "ada@slack.example", "password": GOOD}


@pytest.fixture
def secret(db, capsys) -> str:
    """Of the link, where nobody is a keyholder yet."""
    Account.objects.update(keyholder=False)
    call_command("first_link")
    return capsys.readouterr().out.strip().partition("#")[2]


def use(secret: str, **said):
    return Asking(None).post("welcome/use", {"secret": secret, **ADA, **said})


def test_whoever_opens_it_says_who_they_are_and_is_the_keyholder(secret):
    told = ok(Asking(None).post("welcome", {"secret": secret}))
    assert told["purpose"] == "first"
    session = ok(use(secret))
    account = current().policy.accounts[session["actor"]["id"]]
    assert (account.keyholder, account.state) == (True, "active")
    assert Account.objects.get(pk=account.id).email == "ada@slack.example"
    assert Entry.objects.filter(kind="account.keyholder", actor=account.id).count() == 1
    ok(Asking(None).post("session", {"email": "ada@slack.example", "password": GOOD}))
    refused(use(secret), "link-over", 410)
    assert first_link() is None


@pytest.mark.parametrize(
    ("said", "pointer"),
    [({"name": None}, "/name"), ({"name": " "}, "/name"), ({"email": "no"}, "/email"),
     ({"password": "12"}, "/password"), ({"email": "INES@sailloft.example"}, "/email")],
)  # fmt: skip
def test_what_is_wrong_is_named_and_the_link_goes_on(secret, said, pointer):
    assert refused(use(secret, **said), "invalid", 422)["errors"][0]["pointer"] == pointer
    ok(use(secret))


def test_another_one_makes_the_first_worth_nothing(secret):
    assert first_link() is not None
    refused(use(secret), "link-over", 410)
    assert Account.objects.filter(keyholder=True).count() == 1


def test_it_ends_after_a_day_and_where_somebody_is_a_keyholder_meanwhile(secret):
    Account.objects.filter(pk="ines").update(keyholder=True)
    refused(use(secret), "link-over", 410)
    Account.objects.filter(pk="ines").update(keyholder=False)
    Ticket.objects.update(ends_at=now() - timedelta(seconds=1))
    refused(use(secret), "link-over", 410)


def test_where_there_is_one_nothing_is_printed(capsys, odile):
    call_command("first_link")
    assert capsys.readouterr().out == ""
