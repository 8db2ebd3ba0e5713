"""Taking people on: by invitation or with a password shown once, in one step; links work once and end."""

from datetime import timedelta

import pytest
from django.core import mail

from gonfalon.access.snapshot import current
from gonfalon.accounts import passwords
from gonfalon.accounts.models import Account, Ticket
from gonfalon.accounts.tickets import issue
from gonfalon.clock import now
from gonfalon.ledger.models import Entry
from gonfalon.mail.models import Letter
from tests.api.support import PASSWORD, Asking, apply, ok, refused
from tests.api.worker import link_in, work

GOOD = "copper kettle drifting north"
NEW = {"name": "Ada Sund", "email": "ada@post.example"}
ADA = {"people": [NEW], "how": "invite", "message": "See you on Monday."}


def taking_on(**changed) -> dict:
    return ADA | {"people": [NEW | changed]}


def invited(odile) -> tuple[str, str]:
    """An invited account, and the secret of its link."""
    [made] = ok(odile.post("accounts", ADA), 201)["people"]
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
    [made] = ok(odile.post("accounts", ADA | {"how": "password"}), 201)["people"]
    assert len(made["password"]) > 20
    asking = Asking(None)
    ok(asking.post("session", {"email": "ADA@post.example", "password": made["password"]}))
    assert not Letter.objects.exists()


def test_the_letter_can_be_looked_at_first_and_nothing_is_sent(odile):
    letter = ok(odile.post("accounts/letter", {"name": "Ada Sund", "message": ADA["message"]}))
    assert letter["subject"] == "Odile Varga invites you"
    assert "See you on Monday." in letter["text"]
    assert not Letter.objects.exists()
    assert not Account.objects.filter(email=NEW["email"]).exists()


def test_an_address_is_had_once_and_a_plus_tag_is_explained(odile):
    problem = refused(odile.post("accounts", taking_on(email="INES@sailloft.example")), "invalid", 422)
    assert problem["errors"][0] == {"pointer": "/people/0/email", "message": "Another account has this address."}
    assert ok(odile.post("accounts/address", {"email": "ines@sailloft.example"})) == {"taken": True, "shares": False}
    assert ok(odile.post("accounts/address", {"email": "ines+2@sailloft.example"})) == {"taken": False, "shares": True}
    assert ok(odile.post("accounts/address", {"email": "inesx@sailloft.example"})) == {"taken": False, "shares": False}


@pytest.mark.parametrize(
    ("changed", "at"),
    [({"people": [NEW | {"name": " "}]}, "/people/0/name"), ({"people": [NEW | {"name": "\u200b"}]}, "/people/0/name"),
     ({"people": [NEW, NEW | {"email": "nonsense"}]}, "/people/1/email"),
     ({"people": [NEW, NEW | {"email": "ADA@post.example"}]}, "/people/1/email"),
     ({"people": []}, "/people"), ({"people": [NEW] * 31}, "/people"), ({"people": 3}, "/people"),
     ({"language": "xx"}, "/language"), ({"message": "x" * 2001}, "/message"),
     ({"groups": ["pilots", "nobody"]}, "/groups/1"), ({"groups": ["pilots"] * 31}, "/groups"),
     ({"roles": [{"role": "nobody"}]}, "/roles/0/role"), ({"roles": [{"role": "visitor"}]}, "/roles/0/role"),
     ({"roles": [{"role": "pilot", "scope": {"branches": ["nowhere"]}}]}, "/roles/0/scope/branches"),
     ({"roles": [{"role": "pilot", "starts": "2027-02-01T00:00Z", "ends": "2027-01-01T00:00Z"}]}, "/roles/0/ends"),
     ({"roles": [{"role": "pilot", "ends": "soon"}]}, "/roles/0/ends"), ({"roles": [3]}, "/roles/0"),
     ({"roles": [{"role": "pilot", "to": {"kind": "account", "id": "ines"}}]}, "/roles/0/to")],
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


def test_with_a_new_password_links_for_anything_else_are_worth_nothing(odile):
    ines = Account.objects.get(pk="ines")
    others = [issue(ines, Ticket.Purpose.EMAIL, email="new@post.example"), issue(ines, Ticket.Purpose.INVITATION)]
    reset = issue(ines, Ticket.Purpose.PASSWORD)
    ok(Asking(None).post("welcome/use", {"secret": reset, "password": GOOD}))
    for secret in others:
        refused(Asking(None).post("welcome", {"secret": secret}), "link-over", 410)


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
        [made] = ok(odile.post("accounts", ADA | {"how": "password"}), 201)["people"]
        ada = Asking(None)
        ok(ada.post("session", {"email": NEW["email"], "password": made["password"]}))
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
        assert ok(other.post("session", {"email": NEW["email"], "password": GOOD}))["arriving"] is None

    def test_so_it_is_by_a_link(self, odile):
        ada, made = self.made(odile)
        ok(odile.post(f"accounts/{made['id']}/password-reset"), 204)
        work()
        session = ok(ada.post("welcome/use", {"secret": link_in(mail.outbox[-1]), "password": GOOD}))
        assert (session["arriving"], session["actor"]["id"]) == (None, made["id"])


class TestInOneStep:
    PILOT = {"role": "pilot", "scope": {"branches": ["notices"]}, "ends": "2099-06-01T00:00:00Z"}
    ALL = ADA | {
        "people": [NEW, {"name": "Bo Sund", "email": "bo@post.example"}],
        "groups": ["volunteers"],
        "roles": [PILOT],
    }

    def test_groups_and_roles_are_theirs_and_each_gets_one_letter(self, odile):
        ada, bo = (one["id"] for one in ok(odile.post("accounts", self.ALL), 201)["people"])
        work()
        policy = current().policy
        assert [policy.accounts[id].groups for id in (ada, bo)] == [{"volunteers"}] * 2
        given = {a.to.id: a for a in policy.assignments.values() if a.to.id in (ada, bo)}
        assert given.keys() == {ada, bo}
        assert {(a.role, a.scope.branches) for a in given.values()} == {("pilot", frozenset({"notices"}))}
        assert all(a.period.ends is not None for a in given.values())
        assert [letter.to for letter in mail.outbox] == [["ada@post.example"], ["bo@post.example"]]

    def test_undoing_it_before_they_come_takes_them_off_again(self, odile):
        taken = ok(odile.post("accounts", self.ALL), 201)
        work()
        ok(odile.post(f"change-sets/{taken['change_set']}/undo"))
        policy = current().policy
        for one in taken["people"]:
            assert policy.accounts[one["id"]].state == "disabled"
            assert policy.accounts[one["id"]].groups == frozenset()
        assert not any(a.to.id == taken["people"][0]["id"] for a in policy.assignments.values())
        refused(Asking(None).post("welcome", {"secret": link_in(mail.outbox[0])}), "link-over", 410)

    def test_once_somebody_has_come_it_is_not_undone(self, odile):
        taken = ok(odile.post("accounts", ADA), 201)
        work()
        ok(Asking(None).post("welcome/use", {"secret": link_in(mail.outbox[0]), "password": GOOD}))
        refused(odile.post(f"change-sets/{taken['change_set']}/undo"), "conflict", 409)

    def test_all_of_it_or_nothing(self, odile):
        taken = [*self.ALL["people"][:1], {"name": "Ines", "email": "ines@sailloft.example"}]
        problem = refused(odile.post("accounts", self.ALL | {"people": taken}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/people/1/email"
        assert not Account.objects.filter(email=NEW["email"]).exists()
        assert not Entry.objects.filter(kind="account.made").exists()

    def test_what_they_will_be_able_to_do_is_told_before(self, odile):
        told = ok(odile.post("accounts/foreseen", {"groups": ["volunteers"], "roles": [self.PILOT]}))
        assert (told["gain"], told["lose"]) == (1, 0)
        assert told["turns"]
        assert all(turn["gain"] == 1 for turn in told["turns"])
        nothing = ok(odile.post("accounts/foreseen", {}))
        assert (nothing["gain"], nothing["turns"], nothing["risks"]) == (0, [], [])
        assert ok(odile.post("accounts/foreseen", {"roles": [{"role": "harbour-lead"}]}))["risks"]

    def test_what_is_foreseen_is_what_it_comes_to(self, odile):
        """What is given to somebody who is invited is told as what it is once they come."""
        told = ok(odile.post("accounts/foreseen", {"roles": [self.PILOT]}))
        [ada] = ok(odile.post("accounts", ADA), 201)["people"]
        give = {"kind": "give-role", "to": {"kind": "account", "id": ada["id"]}, **self.PILOT}
        later = ok(odile.post("change-set/preview", {"operations": [give]}))
        assert {turn["key"] for turn in later["turns"]} == {turn["key"] for turn in told["turns"]}
        assert later["gain"] == 1

    @pytest.mark.parametrize("given", [{"groups": ["volunteers"]}, {"roles": [{"role": "pilot"}]}])
    def test_only_whoever_may_give_roles_gives_them(self, odile, ask, given):
        grant = {"kind": "give-capability", "capability": "accounts.invite", "says": "yes", "scope": {}}
        apply(odile, grant | {"to": {"kind": "account", "id": "bashir"}})
        bashir = ask("bashir")
        assert bashir.post("accounts", ADA | given).status_code == 403
        assert bashir.post("accounts/foreseen", given).status_code == 403
        ok(bashir.post("accounts", ADA), 201)
