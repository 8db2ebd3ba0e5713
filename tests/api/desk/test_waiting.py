"""What waits for whoever may publish it, and what changed on it since visitors last read it."""

from tests.api.support import ok

LOFT = "desk/pages/p3-sail-loft"
CINEMA = "desk/pages/quay-cinema"


def tag(asking, path):
    return {"If-Match": asking.get(path)["ETag"]}


def step(asking, path, step, body=None):
    return ok(asking.post(f"{path}/{step}", body, **tag(asking, path)))


def ids(asking):
    return [row["id"] for row in ok(asking.get("desk/waiting"))]


def test_who_waits_longest_comes_first_and_only_what_one_may_publish(ask):
    assert "quay-cinema" not in ids(ask("tomasz"))
    step(ask("ciaran"), CINEMA, "hand-in", {"note": "Please look."})
    assert ids(ask("tomasz"))[-1] == "quay-cinema"
    row = ok(ask("tomasz").get("desk/waiting"))[-1]
    assert (row["note"], row["handed_in_by"], row["was_public"]) == ("Please look.", "Ciaran Ubukata", False)
    assert row["above"] == ok(ask("tomasz").get(CINEMA))["above"]
    assert not ids(ask("aiko"))


def test_what_changed_since_it_was_public_is_told_over_several_saves(odile, ask):
    step(odile, LOFT, "retire")
    step(odile, LOFT, "to-draft")
    for telephone in ("0550 014 888", "0550 014 999"):
        ok(odile.patch(LOFT, {"values": {"telephone": telephone}}, **tag(odile, LOFT)))
    step(odile, LOFT, "hand-in")
    told = ok(odile.get(f"{LOFT}/since-public"))
    assert told["changes"] == [{"what": "Telephone", "was": "0550 014 320", "now": "0550 014 999"}]
    assert told["last_public"]
    assert [row["was_public"] for row in ok(odile.get("desk/waiting")) if row["id"] == "p3-sail-loft"] == [True]
    assert ask("ines").get(f"{LOFT}/since-public").status_code == 403


def test_of_what_never_was_public_all_is_new(ask):
    told = ok(ask("tomasz").get(f"{CINEMA}/since-public"))
    assert told["last_public"] is None
    assert {"Title", "Place"} <= {change["what"] for change in told["changes"]}
    assert all(change["was"] is None for change in told["changes"])


def test_a_field_out_of_sight_is_not_told_to_whoever_publishes(ask):
    whole = ok(ask("odile").get(f"{CINEMA}/since-public"))["changes"]
    assert "Budget" in {change["what"] for change in whole}
    seen = {field["name"] for field in ok(ask("tomasz").get(CINEMA))["fields"]}
    told = {change["what"] for change in ok(ask("tomasz").get(f"{CINEMA}/since-public"))["changes"]}
    assert ("Budget" in told) == ("Budget" in seen)
