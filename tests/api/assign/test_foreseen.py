"""Nothing that changes access counts unproved: each tells who gains and loses, and what it would break, before."""

import pytest

from gonfalon.access.models import Assignment, ChangeSet, Review
from gonfalon.accounts.models import Account
from tests.api.assign.test_handing_out import GIVE, LETS
from tests.api.support import apply, ok, refused

SPRING = {"name": "Crew", "group": "volunteers", "reviewers": ["joost"], "due_at": "2099-01-01T00:00:00Z"}


def expect(odile, account, action, node, answer):
    said = {"account": account, "action": action, "node": node, "expect": answer}
    return ok(odile.post("expectations", said), 201)


def given(odile, account="ciaran", role="duty-editor"):
    apply(odile, {"kind": "give-role", "role": role, "to": {"kind": "account", "id": account}})
    return Assignment.objects.filter(account_id=account, role_id=role).latest("given_at").id


def test_disabling_tells_what_stops_being_possible(odile):
    expect(odile, "tomasz", "edit", "fees", "allow")
    told = ok(odile.post("accounts/tomasz/disable/foreseen", {}))
    assert (told["lose"], told["gain"]) == (1, 0)
    assert any("Tomasz Okafor may edit" in sentence for sentence in told["breaks"])
    assert Account.objects.get(pk="tomasz").state == "active"
    ok(odile.post("accounts/tomasz/disable", {}))
    applied = ChangeSet.objects.filter(state="applied").latest("ended_at")
    ok(odile.post(f"change-sets/{applied.id}/undo"))
    assert Account.objects.get(pk="tomasz").state == "active"


def test_handing_roles_over_counts_for_whoever_gets_them(odile):
    expect(odile, "ines", "publish", "fees", "deny")
    told = ok(odile.post("accounts/tomasz/disable/foreseen", {"roles_to": "ines"}))
    assert told["gain"] == 1
    assert any("Ines Marrow may not publish" in sentence for sentence in told["breaks"])
    problem = refused(odile.post("accounts/tomasz/disable/foreseen", {"roles_to": "tomasz"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/roles_to"


def test_a_list_tells_what_it_comes_to_for_those_who_are_here(odile):
    expect(odile, "ines", "publish", "fees", "deny")
    row = Account.objects.get(pk="ines")
    table = f"name,email,roles\n{row.name},{row.email},Duty editor\nAda Sund,ada@post.example,Duty editor\n"
    told = ok(odile.post("accounts/import", {"text": table}))["foreseen"]
    assert told["gain"] == 1
    assert any("Ines Marrow may not publish" in sentence for sentence in told["breaks"])
    assert ok(odile.post("accounts/import", {"text": table, "apply": True}))["foreseen"] is None
    assert Assignment.objects.filter(account_id="ines", role_id="duty-editor").exists()


def test_ending_something_in_a_review_tells_it(odile):
    id = given(odile)
    expect(odile, "ciaran", "publish", "fees", "allow")
    review = ok(odile.post("reviews", SPRING | {"group": None, "role": "duty-editor"}), 201)["id"]
    item = Review.objects.get(pk=review).items.get(assignment=id).id
    told = ok(odile.get(f"reviews/{review}/foreseen", item=item))
    assert told["lose"] == 1
    assert any("Ciaran Ubukata may publish" in sentence for sentence in told["breaks"])
    assert Assignment.objects.filter(pk=id).exists()


@pytest.mark.parametrize(("silent", "loses"), [("end", True), ("keep", False)])
def test_closing_a_review_tells_what_ends_with_it(odile, silent, loses):
    given(odile)
    review = ok(odile.post("reviews", SPRING | {"group": None, "role": "duty-editor", "silent": silent}), 201)["id"]
    assert bool(ok(odile.get(f"reviews/{review}/foreseen"))["lose"]) == loses


def test_more_than_is_foreseen_at_once_says_so(odile, monkeypatch):
    monkeypatch.setattr("gonfalon.api.assign.reviews.MOST_FORESEEN", 0)
    given(odile)
    review = ok(odile.post("reviews", SPRING | {"group": None, "role": "duty-editor", "silent": "end"}), 201)["id"]
    refused(odile.get(f"reviews/{review}/foreseen"), "conflict", 409)


def test_handing_out_tells_it_as_far_as_whoever_gives_may_know(odile, ask):
    apply(odile, LETS)
    expect(odile, "noor", "edit", "pier-3-branch", "deny")
    told = ok(ask("ines").post("handing-out/foreseen", GIVE))
    assert (told["gain"], told["breaks"]) == (None, None)
    assert not Assignment.objects.filter(account_id="noor", role_id="tenant-editor").exists()
    wider = refused(ask("ines").post("handing-out/foreseen", GIVE | {"scope": {}}), "not-delegated")
    assert "only on Pier 3" in wider["detail"]


def test_who_may_not_do_it_is_told_nothing(odile, lone, ask):
    refused(lone("roster.see").post("accounts/tomasz/disable/foreseen", {}), "not-granted")
    given(odile)
    review = ok(odile.post("reviews", SPRING | {"group": None, "role": "duty-editor"}), 201)["id"]
    refused(lone("roster.see").get(f"reviews/{review}/foreseen"), "not-found", 404)
    told = ok(ask("joost").get(f"reviews/{review}/foreseen"))
    assert (told["gain"], told["lose"]) == (None, None)
