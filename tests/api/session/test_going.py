"""A registered visitor takes their own account away: name and address go, what they did stays as somebody's."""

import json

import pytest
from django.core.files.storage import default_storage

from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account, Factor, Ticket
from gonfalon.accounts.tickets import issue
from gonfalon.ledger.models import Entry
from gonfalon.mail.models import Letter
from gonfalon.mail.outbox import post
from tests.api.assign.test_portrait import picture, send
from tests.api.support import PASSWORD, Asking, ok, refused
from tests.api.writes import reads_only

VIGGO = "viggo@regatta.example"


@pytest.fixture
def viggo(odile) -> Asking:
    reads_only(odile)
    return Asking("viggo")


PILOT = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "viggo"}, "ends": "2020-01-01T00:00:00Z"}


def everything_told() -> str:
    """All that is kept of people, as text."""
    kept = [row for kind in (Account, Entry, Letter, Ticket) for row in kind.objects.values()]
    return json.dumps(kept, default=str, ensure_ascii=False).casefold()


def test_name_and_address_are_nowhere_any_more(viggo, odile):
    name = Account.objects.get(pk="viggo").name
    ok(odile.patch("accounts/viggo", {"language": "de"}, **{"If-Match": odile.get("accounts/viggo")["ETag"]}))
    issue(Account.objects.get(pk="viggo"), Ticket.Purpose.EMAIL, email=VIGGO)
    post(VIGGO, "Hello", f"Hello {name}")
    odile.post("change-set/operations", {"operations": [PILOT]})
    ok(odile.post("change-set/apply"))
    entries = list(Entry.objects.values_list("number", "kind", "at"))
    assert name.casefold() in everything_told()
    ok(viggo.post("me/gone", {"current": PASSWORD}), 204)
    assert name.casefold() not in everything_told()
    assert VIGGO not in everything_told()
    assert list(Entry.objects.values_list("number", "kind", "at"))[-len(entries) :] == entries
    assert current().policy.accounts["viggo"].state == "disabled"
    told = ok(odile.get("accounts/viggo"))["account"]
    assert (told["name"], told["email"]) == ("Somebody", "viggo@gone.invalid")


def test_nobody_signs_in_with_it_and_its_address_is_free(viggo, odile):
    ok(viggo.post("me/gone", {"current": PASSWORD}), 204)
    refused(viggo.get("me"), "not-signed-in", 401)
    refused(Asking(None).post("session", {"email": VIGGO, "password": PASSWORD}), "sign-in-failed")
    ok(odile.post("accounts", {"people": [{"name": "Another", "email": VIGGO}]}), 201)


def test_its_portrait_and_factors_go(viggo, django_capture_on_commit_callbacks):
    ok(send(viggo, picture(), "/api/accounts/viggo/portrait"))
    kept = Account.objects.get(pk="viggo").portrait.name
    Factor.objects.create(account_id="viggo", kind="code", name="Telephone", secret="A" * 32)
    with django_capture_on_commit_callbacks(execute=True):
        ok(viggo.post("me/gone", {"current": PASSWORD}), 204)
    assert not Factor.objects.filter(account="viggo").exists()
    assert not Account.objects.get(pk="viggo").portrait
    assert not default_storage.exists(kept)


def test_only_with_the_password_and_not_whoever_works_here(viggo, ask):
    problem = refused(viggo.post("me/gone", {"current": "not it"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/current"
    assert Account.objects.get(pk="viggo").email == VIGGO
    for who in ("ines", "odile"):
        refused(ask(who).post("me/gone", {"current": PASSWORD}), "works-here", 403)
        assert not ok(ask(who).get("me"))["may_go"]
    assert ok(viggo.get("me"))["may_go"]
