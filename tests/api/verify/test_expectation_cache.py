"""How all expectations stand: kept while nothing changes, and after a change asked only as far as it reaches."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from gonfalon.content.nodes import content
from gonfalon.ledger.models import By
from gonfalon.verify import expectation_cache, preview
from gonfalon.verify.documents import install, whole_policy
from gonfalon.viewpoint import session
from tests.api.changes.test_change_sets import EDIT, GIVE, STOP
from tests.api.desk.test_pages import LOFT, tag
from tests.api.support import apply, ok, stage

SEEN_BY_NOBODY = EDIT | {"role": "everyone", "capability": "notice.see", "says": None}
NO_BAR = EDIT | {"capability": "notice.remove", "says": None}


def last():
    [kept] = expectation_cache._kept.values()
    return kept


def test_they_are_not_asked_again_while_nothing_changes(odile):
    ok(odile.get("crossbar"))
    first = last()
    ok(odile.get("crossbar"))
    assert last() is first


@pytest.mark.parametrize("change", [EDIT, GIVE, STOP, SEEN_BY_NOBODY, NO_BAR])
def test_after_a_change_they_stand_as_if_all_were_asked(odile, change):
    ok(odile.get("crossbar"))
    apply(odile, change)
    told = ok(odile.get("crossbar")), last().results
    expectation_cache._kept.clear()
    assert (ok(odile.get("crossbar")), last().results) == told


ENDS = datetime(2099, 6, 1, tzinfo=UTC)
MOMENT = timedelta(microseconds=1)


def test_they_stand_until_something_given_begins_or_ends(odile, monkeypatch):
    apply(odile, GIVE)
    monkeypatch.setattr(session, "now", lambda: ENDS - 2 * MOMENT)
    ok(odile.get("crossbar"))
    first = last()
    for at, stands in ((ENDS - MOMENT, True), (ENDS, False)):
        monkeypatch.setattr(session, "now", lambda at=at: at)
        ok(odile.get("crossbar"))
        assert (last() is first) == stands


def test_so_does_what_is_staged(odile, monkeypatch):
    monkeypatch.setattr(session, "now", lambda: ENDS - 2 * MOMENT)
    stage(odile, GIVE)
    assert ok(odile.get("change-set/touched"))["gain"] == 1
    [kept] = preview._kept.values()
    for at, gain in ((ENDS - MOMENT, 1), (ENDS, 0)):
        monkeypatch.setattr(session, "now", lambda at=at: at)
        assert ok(odile.get("change-set/touched"))["gain"] == gain
        assert (kept in preview._kept.values()) == (gain == 1)


def test_some_fail_that_held(odile):
    before = ok(odile.get("crossbar"))["holding"]
    apply(odile, EDIT | {"capability": "berth.publish", "says": "own"})
    assert ok(odile.get("crossbar"))["holding"] == before - 2


def test_what_a_change_cannot_touch_is_not_asked(odile):
    ok(odile.get("crossbar"))
    first = last()
    apply(odile, EDIT)
    ok(odile.get("crossbar"))
    assert last() is not first
    assert any(was is now for was, now in zip(first.results, last().results, strict=True))


def test_one_that_was_recorded_meanwhile_is_asked_too(odile):
    ok(odile.get("crossbar"))
    asked = {"account": "ines", "action": "see", "node": "p3-sail-loft", "expect": "allow"}
    ok(odile.post("expectations", asked), 201)
    apply(odile, EDIT)
    assert ok(odile.get("crossbar"))["expectations"] == len(last().rows) == 13


def test_one_recorded_in_the_place_of_one_dropped_is_asked(odile):
    asked = {"account": "ines", "action": "see", "node": "p3-sail-loft"}
    dropped = ok(odile.post("expectations", asked | {"expect": "deny"}), 201)["id"]
    holding = ok(odile.get("crossbar"))["holding"]
    ok(odile.delete(f"expectations/{dropped}"), 204)
    ok(odile.post("expectations", asked | {"expect": "allow"}), 201)
    assert ok(odile.get("crossbar"))["holding"] == holding + 1


def test_one_said_otherwise_by_a_document_is_asked(odile):
    holding = ok(odile.get("crossbar"))["holding"]
    policy = whole_policy()
    id, first = next((id, e) for id, e in policy.expectations.items() if e.expect == "allow")
    install(replace(policy, expectations={**policy.expectations, id: replace(first, expect="deny")}), By("odile"))
    assert ok(odile.get("crossbar"))["holding"] == holding - 1


def test_what_is_written_on_a_page_changes_none_of_them(odile, ines):
    ok(odile.get("crossbar"))
    first = last(), content()
    ok(ines.patch(LOFT, {"values": {"telephone": "0550 014 999"}}, **tag(ines)))
    ok(odile.get("crossbar"))
    assert (last(), content()) == first


def test_another_title_is_told_and_nothing_asked_again(odile):
    ok(odile.get("crossbar"))
    first, before = last(), content()
    ok(odile.patch(LOFT, {"title": "Sail loft, Pier 3"}, **tag(odile)))
    ok(odile.get("crossbar"))
    assert content().titles["p3-sail-loft"] == "Sail loft, Pier 3"
    assert (last(), content().tree) == (first, before.tree)
    assert content().tree is before.tree


def test_after_a_page_is_retired_they_stand_as_if_all_were_asked(odile):
    for expect in ("allow", "deny"):
        asked = {"account": None, "action": "see", "node": "p3-sail-loft", "expect": expect}
        ok(odile.post("expectations", asked), 201)
    before = ok(odile.get("crossbar"))
    first = last()
    ok(odile.post(f"{LOFT}/retire", **tag(odile)))
    told = ok(odile.get("crossbar")), last().results
    assert last().engine.tree is not first.engine.tree
    assert any(was is now for was, now in zip(first.results, told[1], strict=True)), "what rests on other pages"
    assert [was.holds for was in first.results] != [now.holds for now in told[1]]
    assert told[0]["expectations"] == before["expectations"]
    expectation_cache._kept.clear()
    assert (ok(odile.get("crossbar")), last().results) == told
