"""New accounts: by invitation or with a password shown once; links work once and end."""

from datetime import timedelta

import pytest
from django.core import mail

from gonfalon.access.snapshot import current
from gonfalon.accounts import passwords
from gonfalon.accounts.models import Account, Ticket
from gonfalon.clock import now
from gonfalon.ledger.models import Entry
from gonfalon.mail.models import Letter
from tests.api.support import PASSWORD, Asking, ok, refused
from tests.api.worker import link_in, work

GOOD = "copper kettle drifting north"
ADA = {"name": "Ada Sund", "email": "ada@post.example", "how": "invite", "message": "See you on Monday."}


def invited(odile) -> tuple[str, str]:
    """An invited account, and the secret of its link."""
    made = ok(odile.post("accounts", ADA), 201)
    work()
    return made["id"], link_in(mail.outbox[-1])


def test_an_invitation_is_sent_used_once_and_signs_in(odile):
    id, secret = invited(odile)
    assert "See you on Monday." in mail.outbox[-1].body
    assert current().policy.accounts[id].state == "invited"
    ada = Asking(None)
    told = ok(ada.post("welcome", {"secret": secret}))
    assert (told["purpose"], told["name"], told["email"]) == ("invitation", "Ada Sund", "ada@post.example")
    session = ok(ada.post("welcome/use", {"secret": secret, "password": GOOD}))
    assert session["actor"]["id"] == id
    assert current().policy.accounts[id].state == "active"
    refused(Asking(None).post("welcome/use", {"secret": secret, "password": GOOD}), "link-over", 410)


def test_a_weak_password_is_refused_and_the_link_goes_on(odile):
    _, secret = invited(odile)
    ada = Asking(None)
    problem = refused(ada.post("welcome/use", {"secret": secret, "password": "password12"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/password"
    ok(ada.post("welcome/use", {"secret": secret, "password": GOOD}))


def test_a_link_ends(odile):
    _, secret = invited(odile)
    Ticket.objects.update(ends_at=now() - timedelta(seconds=1))
    refused(Asking(None).post("welcome", {"secret": secret}), "link-over", 410)


def test_inviting_again_makes_the_first_link_worth_nothing(odile):
    id, first = invited(odile)
    ok(odile.post(f"accounts/{id}/invitation", {"message": "Once more."}), 204)
    work()
    refused(Asking(None).post("welcome", {"secret": first}), "link-over", 410)
    ok(Asking(None).post("welcome", {"secret": link_in(mail.outbox[-1])}))


def test_disabling_makes_links_worth_nothing(odile):
    id, secret = invited(odile)
    ok(odile.post(f"accounts/{id}/disable", {}))
    refused(Asking(None).post("welcome", {"secret": secret}), "link-over", 410)


def test_a_made_up_password_is_shown_once_and_works(odile):
    made = ok(odile.post("accounts", ADA | {"how": "password"}), 201)
    assert len(made["password"]) > 20
    asking = Asking(None)
    ok(asking.post("session", {"email": "ADA@post.example", "password": made["password"]}))
    assert not Letter.objects.exists()


def test_the_letter_can_be_looked_at_first_and_nothing_is_sent(odile):
    letter = ok(odile.post("accounts/letter", ADA))
    assert letter["subject"] == "Odile Varga invites you"
    assert "See you on Monday." in letter["text"]
    assert not Letter.objects.exists()
    assert not Account.objects.filter(email=ADA["email"]).exists()


def test_an_address_is_had_once_and_a_plus_tag_is_explained(odile):
    problem = refused(odile.post("accounts", ADA | {"email": "INES@sailloft.example"}), "invalid", 422)
    assert problem["errors"][0] == {"pointer": "/email", "message": "Another account has this address."}
    assert ok(odile.post("accounts/address", {"email": "ines@sailloft.example"})) == {"taken": True, "shares": False}
    assert ok(odile.post("accounts/address", {"email": "ines+2@sailloft.example"})) == {"taken": False, "shares": True}
    assert ok(odile.post("accounts/address", {"email": "inesx@sailloft.example"})) == {"taken": False, "shares": False}


@pytest.mark.parametrize(
    ("changed", "at"),
    [({"name": " "}, "/name"), ({"name": "\u200b"}, "/name"), ({"email": "nonsense"}, "/email"),
     ({"language": "xx"}, "/language"), ({"message": "x" * 2001}, "/message")],
)  # fmt: skip
def test_what_cannot_be_made_names_the_field(odile, changed, at):
    problem = refused(odile.post("accounts", ADA | changed), "invalid", 422)
    assert problem["errors"][0]["pointer"] == at


def test_a_forgotten_password_is_chosen_anew_and_ends_all_sessions(odile, ask):
    ines = ask("ines")
    ok(ines.get("me"))
    ok(Asking(None).post("session/forgotten", {"email": "ines@sailloft.example"}), 204)
    work()
    [letter] = mail.outbox
    assert letter.to == ["ines@sailloft.example"]
    asking = Asking(None)
    ok(asking.post("welcome/use", {"secret": link_in(letter), "password": GOOD}))
    refused(ines.get("me"), "not-signed-in", 401)
    refused(Asking(None).post("session", {"email": "ines@sailloft.example", "password": PASSWORD}), "sign-in-failed")


def test_asking_about_an_address_nobody_has_answers_the_same_and_sends_nothing():
    ok(Asking(None).post("session/forgotten", {"email": "nobody@nowhere.example"}), 204)
    work()
    assert mail.outbox == []


def test_asking_again_and_again_is_slowed_down():
    asking = Asking(None)
    answers = [asking.post("session/forgotten", {"email": "ines@sailloft.example"}).status_code for _ in range(7)]
    assert answers[0] == 204
    assert answers[-1] == 429


def test_an_administrator_sends_a_link_for_a_new_password_to_the_account_itself(odile):
    ok(odile.post("accounts/ines/password-reset"), 204)
    work()
    assert mail.outbox[-1].to == ["ines@sailloft.example"]
    refused(odile.post("accounts/agnes/password-reset"), "conflict", 409)


def test_why_a_password_is_refused_is_told_while_it_is_typed():
    asking = Asking("ines")
    assert ok(asking.post("welcome/password", {"password": "harbour12345"}))["reasons"]
    assert ok(asking.post("welcome/password", {"password": GOOD})) == {"reasons": []}
    assert ok(asking.post("welcome/password", {"password": "x" * 900}))["reasons"] is not None
    assert ok(asking.post("welcome/password", {"password": ""}))["reasons"] != []


def test_only_whoever_chooses_a_password_asks_whether_one_is_good():
    asking = Asking(None)
    refused(asking.post("welcome/password", {"password": GOOD}), "link-over", 410)
    refused(asking.post("welcome/password", {"password": GOOD, "secret": "made up"}), "link-over", 410)


def test_no_more_of_a_password_is_judged_than_its_beginning(monkeypatch):
    judged = []
    monkeypatch.setattr(passwords, "zxcvbn", lambda text, **_: judged.append(text) or {"score": 4})
    assert passwords.trouble("4@8({[<3" * 40, None) == []
    assert [len(text) for text in judged] == [24]


def test_only_whoever_makes_accounts_makes_them(ask):
    for who in ("ines", "bashir"):
        assert ask(who).post("accounts", ADA).status_code == 403
    assert Asking(None).post("accounts", ADA).status_code == 401


def test_choosing_a_password_is_told_by_the_ledger(odile):
    id, secret = invited(odile)
    ok(Asking(None).post("welcome/use", {"secret": secret, "password": GOOD}))
    assert Entry.objects.filter(kind="account.password-chosen", actor=id).count() == 1


class TestAPasswordThatSomebodyElseMade:
    def made(self, odile):
        made = ok(odile.post("accounts", ADA | {"how": "password"}), 201)
        ada = Asking(None)
        ok(ada.post("session", {"email": ADA["email"], "password": made["password"]}))
        return ada, made

    def test_is_changed_at_the_first_sign_in(self, odile):
        ada, made = self.made(odile)
        session = ok(ada.get("session"))
        assert session["actor"] is None
        assert session["arriving"]["password"] is True
        refused(ada.get("crossbar"), "not-signed-in", 401)
        own = {"current": made["password"]}
        problem = refused(ada.post("me/password", own | {"password": made["password"]}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/password"
        ok(ada.post("me/password", own | {"password": GOOD}), 204)
        assert ok(ada.get("session"))["actor"]["id"] == made["id"]
        other = Asking(None)
        assert ok(other.post("session", {"email": ADA["email"], "password": GOOD}))["arriving"] is None

    def test_so_it_is_by_a_link(self, odile):
        ada, made = self.made(odile)
        ok(odile.post(f"accounts/{made['id']}/password-reset"), 204)
        work()
        session = ok(ada.post("welcome/use", {"secret": link_in(mail.outbox[-1]), "password": GOOD}))
        assert (session["arriving"], session["actor"]["id"]) == (None, made["id"])
