"""Leaving: signed out at once, what stays behind handed on in one step, and nobody locked out for good."""

from gonfalon.access.models import Review, StagedOperation
from gonfalon.access.operations import KINDS
from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.content.nodes import content
from gonfalon.core.model.policy import Subject
from gonfalon.ledger.models import By, Entry
from gonfalon.verify.models import AccessRequest
from gonfalon.work import NODES, POLICY, unit
from tests.api.support import apply, ok, refused, told

GRETA = {"kind": "account", "id": "greta"}


def test_what_stays_behind_is_told_first(odile, ask):
    ask("nadia")
    left = ok(odile.get("accounts/ines/leaving"))
    assert left["wrote"] == Node.objects.filter(author="ines").count() > 0
    assert left["roles"] == 0
    assert ok(odile.get("accounts/nadia/leaving"))["roles"] == 1
    assert ok(odile.get("accounts/nadia/leaving"))["sessions"] == 1


def test_what_only_they_may_do_is_told(odile):
    left = ok(odile.get("accounts/ludo/leaving"))
    alone = list(left["duties"])
    assert all(isinstance(duty, str) for duty in alone)
    assert "Open the desk" not in alone  # others may, too


def test_disabling_signs_out_at_once_and_enabling_does_not_bring_that_back(odile, ask):
    ines = ask("ines")
    ok(ines.get("me"))
    ok(odile.post("accounts/ines/disable", {}))
    refused(ines.get("me"), "not-signed-in", 401)
    ok(odile.post("accounts/ines/enable"))
    assert Account.objects.get(pk="ines").state == "active"
    refused(ines.get("me"), "not-signed-in", 401)


def test_pages_and_roles_are_handed_on_in_the_same_step(odile):
    wrote = set(Node.objects.filter(author="aiko").values_list("pk", flat=True))
    given = [a for a in current().policy.assignments.values() if a.to == Subject.account("aiko")]
    ok(odile.post("accounts/aiko/disable", {"pages_to": "halla", "roles_to": "halla"}))
    assert wrote <= set(Node.objects.filter(author="halla").values_list("pk", flat=True))
    theirs = [a for a in current().policy.assignments.values() if a.to == Subject.account("halla")]
    for was in given:
        assert any((a.role, a.scope, a.period) == (was.role, was.scope, was.period) for a in theirs)
    assert Entry.objects.first().kind == "change-set.applied"
    assert {"what": f"Author of {len(wrote)} pages", "was": "Aiko Lindqvist", "now": "Halla Brink"} in told(
        Entry.objects.first()
    )


def test_it_is_undone_as_one(odile):
    ok(odile.post("accounts/aiko/disable", {"roles_to": "halla"}))
    [done] = list(Entry.objects.all()[:1])
    ok(odile.post(f"change-sets/{done.about_id}/undo"))
    assert current().policy.accounts["aiko"].state == "active"


def test_pages_go_back_with_it(odile):
    theirs = dict(Node.objects.filter(author__in=("aiko", "halla")).values_list("pk", "author"))
    ok(odile.post("accounts/aiko/disable", {"pages_to": "halla"}))
    [done] = list(Entry.objects.all()[:1])
    ok(odile.post(f"change-sets/{done.about_id}/undo"))
    assert dict(Node.objects.filter(author__in=("aiko", "halla")).values_list("pk", "author")) == theirs
    assert content().tree.by_author("aiko").size > 0
    [undone] = list(Entry.objects.all()[:1])
    ok(odile.post(f"change-sets/{undone.about_id}/undo"))
    assert not Node.objects.filter(author="aiko").exists()


def test_pages_that_were_handed_on_since_stay_where_they_are(odile):
    ok(odile.post("accounts/aiko/disable", {"pages_to": "halla"}))
    [done] = list(Entry.objects.all()[:1])
    page = next(iter(StagedOperation.objects.get(data__kind="hand-over").data["nodes"]))
    Node.objects.filter(pk=page).update(author="ines")
    problem = refused(odile.post(f"change-sets/{done.about_id}/undo"), "conflict", 409)
    assert problem["built_on"] == ["Author of 5 pages: some of it was handed on since"]
    assert Account.objects.get(pk="aiko").state == "disabled"


def test_rows_are_handed_over_as_the_rules_do_it_those_that_are_theirs_alone(odile):
    hers, his = Node.objects.filter(author="aiko").first(), Node.objects.filter(author="tomasz").first()
    data = {"kind": "hand-over", "account": "aiko", "to": GRETA, "nodes": [hers.pk, his.pk]}
    unit(POLICY, NODES)(KINDS["hand-over"].write_all)([data], By("odile"))
    assert [Node.objects.get(pk=row.pk).author_id for row in (hers, his)] == ["greta", "tomasz"]


def test_whose_pages_are_whose_is_foreseen(odile):
    """Only what Greta's role gives as far as her own pages go, and so nothing before she has any."""
    apply(odile, {"kind": "give-capability", "capability": "event.retire", "says": "own", "to": GRETA})
    assert ok(odile.post("accounts/aiko/disable/foreseen", {}))["gain"] == 0
    told = ok(odile.post("accounts/aiko/disable/foreseen", {"pages_to": "greta"}))
    assert (told["gain"], told["lose"]) == (1, 1)


def test_what_it_would_break_is_said_before(odile):
    apply(odile, {"kind": "give-capability", "capability": "event.retire", "says": "own", "to": GRETA})
    page = Node.objects.filter(author="aiko", type="event").first()
    body = {"account": "greta", "action": "retire", "node": page.pk, "expect": "deny"}
    ok(odile.post("expectations", body), 201)
    alone, handing = ({}, {"pages_to": "greta"})
    alone, handed = (set(ok(odile.post("accounts/aiko/disable/foreseen", b))["breaks"]) for b in (alone, handing))
    assert alone < handed
    assert all("Greta Oyelaran" in broken for broken in handed - alone)


def test_handing_over_is_a_part_of_disabling_and_never_staged(odile):
    handing = {"kind": "hand-over", "account": "aiko", "to": GRETA}
    problem = refused(odile.post("change-set/operations", {"operations": [handing]}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/kind"


def test_the_last_active_keyholder_stays_itself_included(odile):
    problem = refused(odile.post("accounts/odile/disable", {}), "invalid", 422)
    assert "last active keyholder" in problem["errors"][0]["message"]
    assert Account.objects.get(pk="odile").state == "active"


def test_handing_on_is_for_those_who_give_roles(lone):
    disabling = lone("accounts.disable", "roster.see")
    refused(disabling.post("accounts/ines/disable", {"pages_to": "halla"}), "not-granted")
    ok(disabling.post("accounts/ines/disable", {}))


def test_it_is_handed_on_to_somebody_else_who_is_there(odile):
    for to in ("aiko", "agnes", "nobody"):
        problem = refused(odile.post("accounts/aiko/disable", {"pages_to": to}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/pages_to"
    assert Account.objects.get(pk="aiko").state == "active"


def test_reviews_that_wait_are_handed_on_and_requests_end(odile, ask):
    left = ok(odile.get("accounts/tomasz/leaving"))
    assert left["reviews"] == [Review.objects.get(pk="review-1").name]
    ok(odile.post("accounts/tomasz/disable", {"reviews_to": "signe"}))
    assert sorted(Review.objects.get(pk="review-1").reviewers) == ["halla", "signe"]
    [handed] = Entry.objects.filter(kind="review.handed-on")
    assert handed.summary == f"{left['reviews'][0]} is reviewed by Signe Ashdown in place of Tomasz Okafor"
    assert handed.actor == "odile"

    assert ok(odile.get("accounts/aiko/leaving"))["requests"] == 1
    ok(odile.post("accounts/aiko/disable", {}))
    closed = AccessRequest.objects.get(pk="request-1")
    assert (closed.state, closed.open_key, closed.decided_by) == ("declined", None, "odile")
    [declined] = Entry.objects.filter(kind="request.declined", about_id="request-1")
    assert declined.summary.startswith("Declined: Aiko Lindqvist asked to ")


def test_the_only_reviewer_stays_until_somebody_takes_over(odile):
    Review.objects.update(reviewers=["tomasz"])
    ok(odile.post("accounts/tomasz/disable", {}))
    assert Review.objects.get(pk="review-1").reviewers == ["tomasz"]


def test_what_they_hand_out_is_handed_on_with_their_roles(odile):
    delegation = {
        "kind": "put-delegation",
        "to": {"kind": "account", "id": "aiko"},
        "roles": ["pilot"],
        "receivers": "volunteers",
    }
    apply(odile, delegation)
    assert ok(odile.get("accounts/aiko/leaving"))["hands_out"] == 1
    ok(odile.post("accounts/aiko/disable", {"roles_to": "halla"}))
    [theirs] = [d for d in current().policy.delegations.values() if d.to == Subject.account("halla")]
    assert (theirs.roles, theirs.receivers) == ({"pilot"}, "volunteers")


def test_only_whoever_gives_roles_hands_anything_on(lone):
    asking = lone("accounts.disable", "roster.see")
    for key in ("pages_to", "roles_to", "reviews_to"):
        refused(asking.post("accounts/aiko/disable", {key: "halla"}), "not-granted")
    assert ok(asking.get("accounts/tomasz/leaving"))["reviews"] == []
