"""The start of the desk tells each what is theirs to do, and nothing of what they may not know."""

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


def test_a_page_no_longer_in_sight_is_not_told(odile, ask):
    assert "crab-race" in ids(ok(ask("aiko").get("start"))["drafts"])
    stop = {"kind": "set-limit", "node": "season-events", "to": {"kind": "account", "id": "aiko"}, "effect": "stop"}
    apply(odile, stop | {"applies": "branch", "actions": ["see"]})
    assert not ok(ask("aiko").get("start"))["drafts"]


def test_whoever_has_no_desk_has_no_start(ask):
    refused(ask("marit").get("start"), "not-granted")


def test_a_role_says_what_its_holders_see_and_in_which_order(odile, ask):
    usual = ok(ask("aiko").get("start"))["parts"]
    assert (usual[0], len(usual)) == ("waits", 7)
    seen = {"If-Match": odile.get("roles/season-intern")["ETag"]}
    ok(odile.patch("roles/season-intern", {"start": ["drafts", "came_back"]}, **seen))
    assert ok(ask("aiko").get("start"))["parts"] == ["drafts", "came_back"]
    assert ok(ask("tomasz").get("start"))["parts"] == usual
    seen = {"If-Match": odile.get("roles/season-intern")["ETag"]}
    assert odile.patch("roles/season-intern", {"start": ["weather"]}, **seen).status_code == 422
    ok(odile.patch("roles/season-intern", {"start": None}, **seen))
    assert ok(ask("aiko").get("start"))["parts"] == usual
