"""One's own account: changed as far as one may, the password, and where one is signed in."""

import pyotp
from django.core import mail

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account, SignIn
from tests.api.support import PASSWORD, Asking, apply, ok, refused
from tests.api.worker import link_in, work

GOOD = "copper kettle drifting north"


def test_one_reads_and_changes_who_one_is(odile):
    me = odile.get("me")
    assert ok(me)["email"] == "odile@skerrow.example"
    changed = odile.patch("me", {"name": "Odile  Varga-Lund", "language": "da"}, **{"If-Match": me["ETag"]})
    assert (ok(changed)["name"], ok(changed)["language"]) == ("Odile Varga-Lund", "da")
    refused(odile.patch("me", {"name": "Other"}, **{"If-Match": me["ETag"]}), "changed-meanwhile", 412)
    refused(odile.patch("me", {"name": "Other"}), "precondition-required", 428)


def test_ones_own_profile_asks_the_rules(ines):
    Answer.objects.filter(role="signed-in", capability="account.edit").delete()
    raise_version()
    me = ines.get("me")
    assert ines.patch("me", {"name": "Queen Ines"}, **{"If-Match": me["ETag"]}).status_code == 403
    assert Account.objects.get(pk="ines").name == "Ines Marrow"


def test_a_new_address_counts_once_it_is_confirmed_there(odile):
    me = odile.get("me")
    ok(odile.patch("me", {"email": "odile@post.example"}, **{"If-Match": me["ETag"]}))
    assert Account.objects.get(pk="odile").email == "odile@skerrow.example"
    work()
    assert [letter.to for letter in mail.outbox] == [["odile@post.example"], ["odile@skerrow.example"]]
    assert "odile@post.example" in mail.outbox[-1].body
    ok(Asking(None).post("welcome/use", {"secret": link_in(mail.outbox[0])}))
    assert Account.objects.get(pk="odile").email == "odile@post.example"


def address_asked(asking, account="ines"):
    """The link by which the new address of somebody would be confirmed."""
    tag = asking.get(f"accounts/{account}")["ETag"]
    ok(asking.patch(f"accounts/{account}", {"email": "new@post.example"}, **{"If-Match": tag}))
    work()
    return link_in(next(letter for letter in reversed(mail.outbox) if letter.to == ["new@post.example"]))


def is_over(secret):
    refused(Asking(None).post("welcome/use", {"secret": secret}), "link-over", 410)
    assert not Account.objects.filter(email="new@post.example").exists()


def test_a_new_address_is_not_confirmed_once_whoever_asked_may_not_answer_for_the_account(lone, odile):
    warden = ("account.edit", "account.see", "roster.see", "accounts.invite")
    Account.objects.create(id="rook", name="Rook", email="rook@skerrow.example", state="active")
    raise_version()
    secret = address_asked(lone(*warden), "rook")
    apply(odile, {"kind": "give-role", "role": "tenant-editor", "to": {"kind": "account", "id": "rook"}})
    is_over(secret)


def test_nor_once_whoever_asked_is_disabled(lone, odile):
    Account.objects.create(id="rook", name="Rook", email="rook@skerrow.example", state="active")
    raise_version()
    asking = lone("account.edit", "account.see", "roster.see", "accounts.invite")
    secret = address_asked(asking, "rook")
    apply(odile, {"kind": "set-state", "account": ok(asking.get("session"))["actor"]["id"], "state": "disabled"})
    is_over(secret)


def test_nor_once_the_keyholder_who_asked_is_disabled(odile):
    secret = address_asked(odile)
    Account.objects.filter(pk="odile").update(state="disabled")
    raise_version()
    is_over(secret)


def test_a_link_to_a_new_address_ends_with_a_second_factor_of_ones_own(odile, ines):
    secret = address_asked(odile)
    begun = ok(ines.post("me/factors/begun"))
    added = ok(ines.post("me/factors", {"name": "Telephone", "code": pyotp.TOTP(begun["secret"]).now()}))
    is_over(secret)
    secret = address_asked(odile)
    ok(ines.delete(f"me/factors/{added['factors'][0]['id']}"))
    is_over(secret)


def test_a_link_to_a_new_address_ends_with_another_password(odile, ines):
    secret = address_asked(odile)
    ok(ines.post("me/password", {"current": PASSWORD, "password": GOOD}), 204)
    is_over(secret)


def test_a_link_to_a_new_address_ends_with_being_disabled(odile):
    secret = address_asked(odile)
    apply(odile, {"kind": "set-state", "account": "ines", "state": "disabled"})
    apply(odile, {"kind": "set-state", "account": "ines", "state": "active"})
    is_over(secret)


def test_a_link_to_a_new_address_ends_with_the_second_factor(odile):
    secret = address_asked(odile)
    ok(odile.delete("accounts/ines/factors"), 204)
    is_over(secret)


def test_nobody_gets_an_address_that_another_one_has(odile):
    me = odile.get("me")
    problem = refused(odile.patch("me", {"email": "INES@sailloft.example"}, **{"If-Match": me["ETag"]}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/email"


def test_whoever_may_change_profiles_cannot_take_over_somebody_who_may_more(lone):
    asking = lone("account.edit", "account.see", "roster.see")
    for account in ("odile", "ludo"):
        tag = asking.get(f"accounts/{account}")["ETag"]
        refused(asking.patch(f"accounts/{account}", {"email": "mine@evil.example"}, **{"If-Match": tag}), "beyond")
    work()
    assert mail.outbox == []


def test_neither_can_they_take_over_somebody_who_may_more_once_they_are_active(lone):
    asking = lone("account.edit", "account.see", "roster.see", "accounts.invite", "accounts.disable")
    Account.objects.filter(pk="ludo").update(state="invited")
    Account.objects.filter(pk="bashir").update(state="disabled")
    raise_version()
    for account in ("ludo", "bashir"):
        tag = asking.get(f"accounts/{account}")["ETag"]
        refused(asking.patch(f"accounts/{account}", {"email": "mine@evil.example"}, **{"If-Match": tag}), "beyond")


def test_another_password_ends_all_other_sessions(ask):
    here, there = ask("ines"), ask("ines")
    ok(here.post("me/password", {"current": PASSWORD, "password": GOOD}), 204)
    ok(here.get("me"))
    refused(there.get("me"), "not-signed-in", 401)
    ok(Asking(None).post("session", {"email": "ines@sailloft.example", "password": GOOD}))


def test_a_wrong_or_weak_password_changes_nothing(ines):
    problem = refused(ines.post("me/password", {"current": "nonsense", "password": GOOD}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/current"
    problem = refused(ines.post("me/password", {"current": PASSWORD, "password": "sailloft1"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/password"


def test_ones_sessions_are_listed_and_ended(ask):
    here, there = ask("ines"), ask("ines")
    rows = ok(here.get("me/sessions"))
    assert [row["here"] for row in rows].count(True) == 1
    [other] = [row["id"] for row in rows if not row["here"]]
    ok(here.delete(f"me/sessions/{other}"), 204)
    refused(there.get("me"), "not-signed-in", 401)
    refused(here.delete(f"me/sessions/{other}"), "not-found", 404)


def test_nobody_ends_the_sessions_of_others(ask):
    ines, ludo = ask("ines"), ask("ludo")
    theirs = SignIn.objects.get(account="ludo").id
    refused(ines.delete(f"me/sessions/{theirs}"), "not-found", 404)
    ok(ludo.get("me"))


def test_all_others_end_at_once(ask):
    here, there, elsewhere = ask("ines"), ask("ines"), ask("ines")
    ok(here.delete("me/sessions"), 204)
    for other in (there, elsewhere):
        refused(other.get("me"), "not-signed-in", 401)
    assert len(ok(here.get("me/sessions"))) == 1


def test_the_device_is_told_in_words(ask):
    agent = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"
    asking = Asking(None)
    sent = asking.client.post(
        "/api/session",
        {"email": "ines@sailloft.example", "password": PASSWORD},
        content_type="application/json",
        headers={"User-Agent": agent},
    )
    assert sent.status_code == 200
    assert ok(asking.get("me/sessions"))[0]["device"] == "Firefox on Linux"


def test_standing_in_one_sees_nothing_of_it(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    refused(odile.get("me"), "look-only")
    refused(odile.get("me/sessions"), "look-only")


class TestAnAddressThatWaits:
    def asked(self, asking, email="ines@post.example"):
        return asking.patch("me", {"email": email}, **{"If-Match": asking.get("me")["ETag"]})

    def test_is_shown_to_its_owner_and_taken_back(self, ines):
        told = ok(self.asked(ines))
        assert told["new_address"] == {"email": "ines@post.example", "asked_by": None}
        work()
        secret = link_in(mail.outbox[0])
        ok(ines.delete("me/new-address"), 204)
        assert ok(ines.get("me"))["new_address"] is None
        refused(Asking(None).post("welcome/use", {"secret": secret}), "link-over", 410)
        refused(ines.delete("me/new-address"), "not-found", 404)

    def test_tells_who_asked_for_it_and_they_may_take_it_back_too(self, odile, ines):
        address_asked(odile)
        assert ok(ines.get("me"))["new_address"] == {"email": "new@post.example", "asked_by": "Odile Varga"}
        assert ok(odile.get("accounts/ines"))["new_address"] == "new@post.example"
        ok(odile.delete("accounts/ines/new-address"), 204)
        assert ok(ines.get("me"))["new_address"] is None
        refused(ines.delete("accounts/ines/new-address"), "not-granted")

    def test_that_another_has_is_told_to_its_owner_alone(self, ines, odile):
        free, taken = (self.asked(ines, email) for email in ("free@post.example", "halla@skerrow.example"))
        told = [ok(answer) for answer in (free, taken)]
        assert [one.pop("new_address")["email"] for one in told] == ["free@post.example", "halla@skerrow.example"]
        assert told[0] == told[1]
        work()
        [letter] = [letter for letter in mail.outbox if letter.to == ["halla@skerrow.example"]]
        assert "another account signs in with already" in letter.body
        assert "welcome#" not in letter.body
        problem = refused(self.asked(odile, "halla@skerrow.example"), "invalid", 422)  # she may invite people
        assert problem["errors"] == [{"pointer": "/email", "message": "Another account has this address."}]

    def test_letters_are_not_sent_without_end(self, ines):
        answers = [self.asked(ines).status_code for _ in range(9)]
        assert answers[:5] == [200] * 5
        assert answers[6:] == [429] * 3
        others = [self.asked(ines, f"other-{n}@post.example").status_code for n in range(30)]
        assert 0 < others.count(200) < 20
