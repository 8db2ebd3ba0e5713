"""The start of the desk tells each what is theirs to do, and nothing of what they may not know."""

from datetime import timedelta

from gonfalon.access.models import Assignment
from gonfalon.access.snapshot import raise_version
from gonfalon.clock import now
from gonfalon.ledger.models import By, record
from tests.api.support import apply, ok, refused

CINEMA = "desk/pages/quay-cinema"


def tag(asking, path=CINEMA):
    return {"If-Match": asking.get(path)["ETag"]}


def ids(rows):
    return {row["id"] for row in rows}


def test_what_waits_is_shown_to_whoever_may_publish_it(ask):
    assert {"n-regatta-course", "lantern-night"} <= ids(ok(ask("tomasz").get("start"))["waits"])
    assert not ok(ask("aiko").get("start"))["waits"]
    ok(ask("ciaran").post(f"{CINEMA}/hand-in", {"note": "Please look."}, **tag(ask("ciaran"))))
    [waits] = [row for row in ok(ask("tomasz").get("start"))["waits"] if row["id"] == "quay-cinema"]
    assert (waits["note"], waits["saved_by"]) == ("Please look.", "Ciaran Ubukata")


def test_what_came_back_is_no_draft_among_others(ask):
    ok(ask("ciaran").post(f"{CINEMA}/hand-in", **tag(ask("ciaran"))))
    ok(ask("tomasz").post(f"{CINEMA}/return", {"note": "When?"}, **tag(ask("tomasz"))))
    start = ok(ask("ciaran").get("start"))
    assert [(row["id"], row["note"]) for row in start["came_back"]] == [("quay-cinema", "When?")]
    assert "quay-cinema" not in ids(start["drafts"])
    assert "book-boat" in ids(start["drafts"])


def test_what_ends_soon_and_what_came_of_asking(odile, ask):
    start = ok(ask("aiko").get("start"))
    assert "season-intern" in {one["role"]["key"] for one in start["ends_soon"]}
    ok(ask("aiko").post("requests", {"action": "publish", "node": "kite-day"}), 201)
    [asked] = [one for one in ok(ask("aiko").get("start"))["asked"] if one["node"] == "kite-day"]
    assert asked["state"] == "open"
    assert asked["id"] in ids(ok(odile.get("start"))["asked_of_me"])
    assert not ok(ask("tomasz").get("start"))["asked_of_me"]


def test_what_has_ended_does_not_end_soon(odile, ask):
    apply(odile, {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "aiko"}, "scope": {}})
    held = Assignment.objects.filter(account="aiko", role="season-intern")
    for ends, shown in ((timedelta(days=29), True), (timedelta(days=31), False), (timedelta(seconds=-1), False)):
        held.update(ends=now() + ends)
        raise_version()
        told = {one["role"]["key"] for one in ok(ask("aiko").get("start"))["ends_soon"]}
        assert ("season-intern" in told) == shown, ends


def test_a_page_no_longer_in_sight_is_not_told(odile, ask):
    assert "kite-day" in ids(ok(ask("aiko").get("start"))["drafts"])
    stop = {"kind": "set-limit", "node": "season-events", "to": {"kind": "account", "id": "aiko"}, "effect": "stop"}
    apply(odile, stop | {"applies": "branch", "actions": ["see"]})
    assert not ok(ask("aiko").get("start"))["drafts"]


def test_whoever_has_no_desk_has_no_start(ask):
    refused(ask("marit").get("start"), "not-granted")


def test_a_role_says_what_its_holders_see_and_in_which_order(odile, ask):
    usual = ok(ask("aiko").get("start"))["parts"]
    assert (usual[0], len(usual)) == ("waits", 8)
    seen = {"If-Match": odile.get("roles/season-intern")["ETag"]}
    ok(odile.patch("roles/season-intern", {"start": ["drafts", "came_back"]}, **seen))
    assert ok(ask("aiko").get("start"))["parts"] == ["drafts", "came_back"]
    assert ok(ask("tomasz").get("start"))["parts"] == usual
    seen = {"If-Match": odile.get("roles/season-intern")["ETag"]}
    assert odile.patch("roles/season-intern", {"start": ["weather"]}, **seen).status_code == 422
    ok(odile.patch("roles/season-intern", {"start": None}, **seen))
    assert ok(ask("aiko").get("start"))["parts"] == usual


def test_what_others_did_of_late_around_ones_pages(odile, ask):
    late = ok(ask("aiko").get("start"))["of_late"]
    assert [(one["id"], one["who"], one["did"]) for one in late] == [
        ("swim", "Ciaran Ubukata", "saved"),
        ("crab-race", "Signe Ashdown", "returned"),
        ("shanty-choir", "Signe Ashdown", "published"),
    ]
    ok(odile.post("desk/pages/swim/move", {"before": "quay-cinema"}, **tag(odile, "desk/pages/swim")))
    ok(ask("aiko").patch("desk/pages/kite-day", {"title": "Day of kites"}, **tag(ask("aiko"), "desk/pages/kite-day")))
    [last, *_] = ok(ask("aiko").get("start"))["of_late"]
    assert (last["id"], last["who"], last["did"]) == ("swim", "Odile Varga", "moved")


def test_of_what_is_out_of_sight_or_was_done_in_anothers_name_it_tells_no_more_than_the_page(odile, ask):
    record(By("odile", standing_for="ciaran"), "page.saved", about=("node", "shanty-choir"), title="Shanty choir")
    [last, *_] = ok(ask("aiko").get("start"))["of_late"]
    assert (last["id"], last["title"], last["who"]) == ("shanty-choir", "Shanty choir", "Ciaran Ubukata")
    stop = {"kind": "set-limit", "node": "swim", "to": {"kind": "account", "id": "aiko"}, "effect": "stop"}
    apply(odile, stop | {"applies": "node", "actions": ["see"]})
    assert "swim" not in ids(ok(ask("aiko").get("start"))["of_late"])
