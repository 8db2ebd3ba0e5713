"""Signing in and out, slowing down guesses, and what ends a session."""

from datetime import timedelta

import pytest
from django.conf import settings
from django.test import Client

from gonfalon.accounts.models import Account, SignIn
from gonfalon.accounts.sessions import open_sessions
from gonfalon.clock import now
from gonfalon.ledger.models import Entry
from tests.api.support import PASSWORD, ok, refused


def sign_in(asking, email="ines@sailloft.example", password=PASSWORD):
    return asking.post("session", {"email": email, "password": password})


def test_signing_in_tells_who_one_is_and_what_is_open(ask):
    session = ok(sign_in(ask()))
    assert session["actor"]["name"] == "Ines Marrow"
    assert session["places"] == ["desk"]
    assert {role["key"] for role in session["actor"]["roles"]} == {"tenant-editor", "regatta-crew"}
    assert session["standing_in"] is None


def test_the_keyholder_finds_every_place_open(ask):
    session = ok(sign_in(ask(), "odile@skerrow.example"))
    assert session["places"] == ["define", "assign", "limit", "verify", "desk", "ledger"]


def test_the_cookie_is_out_of_reach_for_scripts(ask):
    cookie = sign_in(ask()).cookies["sessionid"]
    assert cookie["httponly"]
    assert cookie["samesite"] == "Lax"


def test_a_wrong_password_and_an_unknown_address_answer_alike(ask):
    wrong = refused(sign_in(ask(), password="no"), "sign-in-failed")
    unknown = refused(sign_in(ask(), email="nobody@skerrow.example"), "sign-in-failed")
    assert wrong == unknown


@pytest.mark.parametrize("email", ["agnes@skerrow.example", "dagny@regatta.example"])
def test_only_active_accounts_sign_in(ask, email):
    refused(sign_in(ask(), email), "sign-in-failed")


def test_an_address_that_is_none_is_named(ask):
    problem = refused(sign_in(ask(), email="ines"), "invalid", 422)
    assert problem["errors"] == [{"pointer": "/email", "message": "This is not an e-mail address."}]


def test_it_is_another_session_than_before(ask):
    visitor = ask()
    visitor.client.get("/api/session")
    session = visitor.client.session
    session["left_by_somebody"] = "x"
    session.save()
    before = session.session_key
    ok(sign_in(visitor))
    assert visitor.client.session.session_key != before
    assert "left_by_somebody" not in visitor.client.session


def test_standing_in_does_not_outlive_signing_in_again(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    refused(sign_in(odile, "odile@skerrow.example"), "look-only")
    ok(odile.delete("session"), 204)
    session = ok(sign_in(odile, "odile@skerrow.example"))
    assert session["standing_in"] is None


def test_passwords_are_kept_by_argon2():
    assert Account.objects.get(pk="ines").password.startswith("argon2")


def test_a_request_without_the_token_is_refused():
    client = Client(enforce_csrf_checks=True)
    response = client.post("/api/session", {"email": "a@b.example", "password": "x"}, content_type="application/json")
    assert response.status_code == 403
    assert response.json()["reason"] == "csrf"
    client.get("/api/session")
    token = client.cookies["csrftoken"].value
    response = client.post(
        "/api/session",
        {"email": "ines@sailloft.example", "password": PASSWORD},
        content_type="application/json",
        headers={"X-CSRFToken": token},
    )
    assert response.status_code == 200


def test_signing_out_ends_the_session(ines):
    ok(ines.delete("session"), 204)
    assert ok(ines.get("session"))["actor"] is None


@pytest.mark.parametrize("change", [{"state": "disabled"}, {"password": "argon2$another"}])
def test_disabling_or_a_new_password_ends_open_sessions_at_once(ines, change):
    assert ok(ines.get("session"))["actor"]
    Account.objects.filter(pk="ines").update(**change)
    assert ok(ines.get("session"))["actor"] is None
    refused(ines.get("desk/children"), "not-signed-in", 401)


def test_signing_in_is_in_the_ledger(ask):
    sign_in(ask())
    assert Entry.objects.first().kind == "account.signed-in"


def test_pages_carry_the_headers_that_keep_them_to_themselves(ask):
    response = ask().client.get("/site/harbour/")
    policy = response["Content-Security-Policy"]
    assert "script-src 'self';" in policy
    assert "frame-ancestors 'none'" in policy
    assert response["X-Frame-Options"] == "DENY"
    assert response["X-Content-Type-Options"] == "nosniff"
    assert response["Referrer-Policy"] == "same-origin"


def test_sessions_that_are_over_are_in_no_list(ines):
    ok(ines.get("me"))
    lasts = timedelta(seconds=settings.SESSION_COOKIE_AGE)
    over = [
        {"used_at": now() - lasts - timedelta(seconds=1)},
        {"began_at": now() - timedelta(hours=25)},
        {"ended_at": now()},
    ]
    for said in over:
        SignIn.objects.create(account_id="ines", agent="Elsewhere", **said)
    there = SignIn.objects.create(account_id="ines", agent="Elsewhere")
    told = {row["id"] for row in ok(ines.get("me/sessions"))}
    assert there.id in told
    assert len(told) == 2


def test_a_session_ends_after_a_day_however_busy(ines):
    ok(ines.get("me"))
    SignIn.objects.filter(account="ines").update(began_at=now() - timedelta(hours=23, minutes=59))
    assert ok(ines.get("me/sessions"))
    SignIn.objects.filter(account="ines").update(began_at=now() - timedelta(hours=24, minutes=1))
    refused(ines.get("me"), "not-signed-in", 401)
    assert list(open_sessions("ines")) == []
