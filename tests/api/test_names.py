"""Names and addresses of mail: what cannot be read, is too long, or reads like another one is refused by its field."""

import pytest

from tests.api.support import Asking, ok, refused

MAKING = {
    "account": ("accounts/letter", {}),
    "role": ("roles", {}),
    "group": ("groups", {}),
    "kind": ("kinds", {"plural": "knots", "under": ["section"]}),
    "markup": ("markup-sets", {"elements": {"b": []}, "schemes": []}),
    "topic": ("topics", {}),
}
UNREADABLE = {
    "nothing visible": "\N{ZERO WIDTH SPACE}\N{SOFT HYPHEN}",
    "long once it is folded": "\N{ARABIC LIGATURE SALLALLAHOU ALAYHE WASALLAM}" * 60,
    "long before it is": "\N{ZERO WIDTH SPACE}" * 500 + "Ada",
    "very long": "\N{ARABIC LIGATURE SALLALLAHOU ALAYHE WASALLAM}" * 200_000,
}


@pytest.mark.parametrize("name", UNREADABLE.values(), ids=UNREADABLE)
@pytest.mark.parametrize("thing", MAKING)
def test_a_name_that_cannot_be_read_is_refused(odile, thing, name):
    address, more = MAKING[thing]
    problem = refused(odile.post(address, {**more, "name": name}), "invalid", 422)
    assert [error["pointer"] for error in problem["errors"]] == ["/name"]


@pytest.mark.parametrize("thing", MAKING)
def test_a_name_that_can_be_is_taken_folded(odile, thing):
    address, more = MAKING[thing]
    made = odile.post(address, {**more, "name": "  Knots \N{ZERO WIDTH SPACE} and  bends "})
    if thing == "account":
        assert "Hello Knots and bends," in ok(made)["text"]
        return
    ok(made, 201)
    found = ok(odile.get("find", words="Knots and bends")) if thing == "role" else ok(odile.get(address))
    assert "'Knots and bends'" in str(found)


LONG = f"ada@{'.'.join(['skerrow' * 8] * 6)}.example"


@pytest.mark.parametrize("email", [LONG, "ada@skérrow.example", "ada@skerrow", "ada", ""])
def test_an_address_that_would_not_do_is_refused(odile, ines, email):
    me, account = ines.get("me"), odile.get("accounts/ines")
    taken = refused(odile.post("accounts", {"people": [{"name": "Ada", "email": email}]}), "invalid", 422)
    assert [error["pointer"] for error in taken["errors"]] == ["/people/0/email"]
    for answer in (
        odile.post("accounts/address", {"email": email}),
        odile.patch("accounts/ines", {"email": email}, **{"If-Match": account["ETag"]}),
        ines.patch("me", {"email": email}, **{"If-Match": me["ETag"]}),
    ):
        problem = refused(answer, "invalid", 422)
        assert [error["pointer"] for error in problem["errors"]] == ["/email"]


def test_nobody_signs_in_or_is_written_to_by_a_longer_one():
    asking = Asking(None)
    refused(asking.post("session", {"email": LONG, "password": "x"}), "invalid", 422)
    refused(asking.post("session/forgotten", {"email": LONG}), "invalid", 422)


def test_accounts_that_came_in_are_told_apart_by_plain_letters(odile):
    table = "name,email\nAda,ada@skerrow.example\nAdá,ada@skérrow.example\n"
    faults = ok(odile.post("accounts/import", {"text": table}))["faults"]
    assert [(fault["line"], fault["column"]) for fault in faults] == [(3, "email")]
