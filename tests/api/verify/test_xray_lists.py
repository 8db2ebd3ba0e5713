"""The X-ray of lists: what one has oneself and they do not, with the question that tells why, and nothing more."""

import pytest

from gonfalon.content.models import Removed
from tests.api.support import Asking, ok, refused


def rows(asking: Asking, of: str) -> dict[str, str]:
    return {row["name"]: row["reason"] for row in ok(asking.get("xray/rows", of=of))}


@pytest.fixture
def as_ines(odile):
    tag = odile.get("desk/pages/winter-rates")["ETag"]
    ok(odile.post("desk/pages/winter-rates/remove", **{"If-Match": tag}), 204)
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    return odile


def test_what_waits_for_others(as_ines):
    waits = {row["title"] for row in ok(Asking("odile").get("desk/waiting"))}
    theirs = {row["title"] for row in ok(as_ines.get("desk/waiting"))}
    assert rows(as_ines, "waiting").keys() == waits - theirs != set()
    for row in ok(as_ines.get("xray/rows", of="waiting")):
        assert not ok(as_ines.get("why", **row["asked"]))["allow"]


def test_what_is_in_the_bin(as_ines):
    assert rows(as_ines, "bin").keys() == {row["title"] for row in ok(Asking("odile").get("desk/bin"))} != set()
    Removed.objects.all().delete()
    assert rows(as_ines, "bin") == {}


def test_whose_profile_is_closed(as_ines):
    mine = {row["name"] for row in ok(Asking("odile").get("desk/people"))}
    missing = rows(as_ines, "people")
    assert "Ines Marrow" not in missing
    assert missing.keys() <= mine
    assert len(missing) == len(mine) - 1


def test_nobody_is_told_of_what_they_do_not_have_themselves(ask):
    bashir = ask("bashir")
    mine = {row["title"] for row in ok(bashir.get("desk/waiting"))}
    ok(bashir.post("stand-in", {"account": "tomasz"}), 204)
    assert rows(bashir, "waiting").keys() <= mine
    assert rows(bashir, "people").keys() <= {row["name"] for row in ok(ask("bashir").get("desk/people"))}


def test_places_that_are_closed(as_ines):
    told = ok(as_ines.get("xray/places"))
    assert {"Define", "Assign", "Limit", "Verify", "Ledger"} <= {row["name"] for row in told}
    assert "Desk" not in {row["name"] for row in told}
    assert {row["reason"] for row in told} == {"not-granted"}


def test_what_cannot_be_read_is_said_and_without_standing_in_there_is_none(as_ines):
    refused(as_ines.get("xray/rows", of="nothing"), "invalid", 422)
    refused(Asking("odile").get("xray/rows", of="bin"), "not-standing-in", 409)
