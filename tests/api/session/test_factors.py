"""A second factor: set up, asked for when signing in, shown again before the riskiest acts, and taken away."""

from datetime import timedelta

import pyotp
import pytest
from django.core import mail

from gonfalon.accounts import factors
from gonfalon.accounts.models import Account, Factor, SignIn
from gonfalon.clock import now
from tests.api.support import PASSWORD, Asking, ok, refused
from tests.api.worker import work

SIGN_IN = {"email": "ines@sailloft.example", "password": PASSWORD}


def enrol(asking: Asking) -> tuple[str, list[str]]:
    """Set up codes; the secret, and the codes for when it is lost."""
    begun = ok(asking.post("me/factors/begun"))
    assert begun["address"].startswith("otpauth://totp/")
    assert begun["picture"].startswith("data:image/svg+xml")
    added = ok(asking.post("me/factors", {"name": "Telephone", "code": pyotp.TOTP(begun["secret"]).now()}))
    return begun["secret"], added["codes"]


def code_after(secret: str, steps: int = 1) -> str:
    """The code of a later half minute: that of now was used when it was set up."""
    return pyotp.TOTP(secret).at(int(now().timestamp()) + 30 * steps)


def test_a_code_is_asked_for_once_it_is_set_up(ines):
    secret, codes = enrol(ines)
    assert len(codes) == len(set(codes)) == 10
    other = Asking(None)
    half_way = ok(other.post("session", SIGN_IN))
    assert half_way["actor"] is None
    assert half_way["factors"] == ["code", "recovery"]
    assert ok(other.get("session"))["actor"] is None
    refused(other.get("me"), "not-signed-in", 401)
    assert ok(other.post("session/factor", {"code": code_after(secret)}))["actor"]["id"] == "ines"
    assert ok(other.get("me"))["name"] == "Ines Marrow"


def test_no_code_works_twice_and_none_of_another_time(ines):
    secret, _ = enrol(ines)
    used = code_after(secret)
    first, second = Asking(None), Asking(None)
    ok(first.post("session", SIGN_IN))
    ok(second.post("session", SIGN_IN))
    ok(first.post("session/factor", {"code": used}))
    problem = refused(second.post("session/factor", {"code": used}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/code"
    refused(second.post("session/factor", {"code": code_after(secret, 3)}), "invalid", 422)
    refused(second.post("session/factor", {}), "invalid", 422)


@pytest.mark.parametrize("code", ["１２３４５６", "١٢٣٤٥٦", "№№№№№№", "🛟"])
def test_a_code_in_another_script_is_a_wrong_one(ines, code):
    enrol(ines)
    other = Asking(None)
    ok(other.post("session", SIGN_IN))
    refused(other.post("session/factor", {"code": code}), "invalid", 422)


def test_a_recovery_code_works_once(ines):
    _, codes = enrol(ines)
    for expected in ("ines", None):
        other = Asking(None)
        ok(other.post("session", SIGN_IN))
        answer = other.post("session/factor", {"recovery": f" {codes[3].upper()} "})
        if expected:
            assert ok(answer)["actor"]["id"] == expected
        else:
            refused(answer, "invalid", 422)
    assert ok(ines.get("me/factors"))["recovery_codes"] == 9
    assert set(ok(ines.post("me/factors/codes"))["codes"]).isdisjoint(codes)


def test_guessing_codes_is_slowed_down(ines):
    enrol(ines)
    other = Asking(None)
    ok(other.post("session", SIGN_IN))
    statuses = [other.post("session/factor", {"code": "000000"}).status_code for _ in range(7)]
    assert statuses[:5] == [422] * 5
    assert 429 in statuses[5:]


def test_half_way_ends_with_being_disabled_whatever_comes_after(ines, odile):
    secret, _ = enrol(ines)
    other = Asking(None)
    ok(other.post("session", SIGN_IN))
    ok(odile.post("accounts/ines/disable"))
    ok(odile.post("accounts/ines/enable"))
    refused(other.post("session/factor", {"code": code_after(secret)}), "sign-in-over", 410)
    ok(other.post("session", SIGN_IN))
    assert ok(other.post("session/factor", {"code": code_after(secret)}))["actor"]["id"] == "ines"


def test_half_way_ends_by_itself_and_with_the_password(ines, monkeypatch):
    secret, _ = enrol(ines)
    other = Asking(None)
    ok(other.post("session", SIGN_IN))
    row = Account.objects.get(pk="ines")
    row.set_password("another one altogether")
    row.save()
    refused(other.post("session/factor", {"code": code_after(secret)}), "sign-in-over", 410)
    refused(Asking(None).post("session/factor", {"code": code_after(secret)}), "sign-in-over", 410)


def test_a_second_factor_is_not_set_up_without_its_first_code(ines):
    ok(ines.post("me/factors/begun"))
    refused(ines.post("me/factors", {"name": "Telephone", "code": "123456"}), "invalid", 422)
    refused(ines.post("me/factors", {"name": "Key", "passkey": {"id": "made-up"}}), "invalid", 422)
    assert not Factor.objects.exists()
    assert ok(Asking(None).post("session", SIGN_IN))["actor"]["id"] == "ines"


def test_whoever_signed_in_long_ago_shows_again_that_it_is_them(ines):
    secret, _ = enrol(ines)
    factor = ok(ines.get("me/factors"))["factors"][0]["id"]
    SignIn.objects.filter(account="ines").update(proved_at=now() - timedelta(minutes=16))
    refused(ines.delete(f"me/factors/{factor}"), "prove-again")
    refused(ines.post("me/factors/begun"), "prove-again")
    refused(ines.post("me/factors/codes"), "prove-again")
    assert ok(ines.get("session/proof"))["kinds"] == ["code", "recovery"]
    refused(ines.post("session/proof", {"password": PASSWORD}), "invalid", 422)
    ok(ines.post("session/proof", {"code": code_after(secret)}), 204)
    ok(ines.delete(f"me/factors/{factor}"))
    assert ok(ines.get("session/proof"))["kinds"] == ["password"]
    assert not Account.objects.get(pk="ines").recovery_codes.exists()


def test_without_a_second_factor_it_is_the_password(odile):
    SignIn.objects.filter(account="odile").update(proved_at=now() - timedelta(minutes=16))
    tag = odile.get("me")["ETag"]
    ok(odile.patch("me", {"language": "da"}, **{"If-Match": tag}))
    tag = odile.get("me")["ETag"]
    refused(odile.patch("me", {"email": "o@new.example"}, **{"If-Match": tag}), "prove-again")
    refused(odile.post("session/proof", {"password": "wrong"}), "invalid", 422)
    ok(odile.post("session/proof", {"password": PASSWORD}), 204)
    ok(odile.patch("me", {"email": "o@new.example"}, **{"If-Match": tag}))


def test_nobody_touches_the_factor_of_somebody_else(ines, odile):
    enrol(ines)
    factor = ok(ines.get("me/factors"))["factors"][0]["id"]
    refused(odile.delete(f"me/factors/{factor}"), "not-found", 404)


def test_whoever_lost_it_is_helped_by_those_who_may_do_as_much(ines, odile, lone):
    enrol(ines)
    refused(lone("accounts.invite", "roster.see").delete("accounts/ines/factors"), "beyond")
    ok(odile.delete("accounts/ines/factors"), 204)
    work()
    assert mail.outbox[-1].to == ["ines@sailloft.example"]
    assert ok(Asking(None).post("session", SIGN_IN))["actor"]["id"] == "ines"


@pytest.mark.parametrize(
    ("host", "address", "can"),
    [
        ("localhost", "http://localhost:8000", True),
        ("harbour.example", "https://harbour.example", True),
        ("harbour.example", "http://harbour.example", False),
        ("127.0.0.1", "https://127.0.0.1", False),
        ("::1", "https://[::1]", False),
    ],
)
def test_passkeys_need_a_name_and_tls(settings, host, address, can):
    settings.HOST, settings.ADDRESS = host, address
    assert factors.can_have_passkeys() is can
