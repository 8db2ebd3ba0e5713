"""What staged changes would do, told by account, role and node; and the risks they bring."""

from threading import Event, Thread

import pytest

from gonfalon.access import change_sets
from gonfalon.access.risks import risks_of
from gonfalon.access.sight import UNBOUND
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.verify import preview
from tests.api.changes.test_change_sets import EDIT, GIVE
from tests.api.support import apply, ok, refused, stage

PUBLISH = EDIT | {"capability": "berth.publish", "says": "own"}
REMOVE = EDIT | {"capability": "event.remove", "says": None}


def accounts(asking):
    return ok(asking.get("change-set/impact/accounts"))


def test_it_is_told_by_role_too(odile):
    stage(odile, PUBLISH)
    impact = ok(odile.get("change-set/impact"))
    assert {"role": "tenant-editor", "gain": impact["gain"], "lose": 0} in impact["roles"]


def test_each_account_is_named_with_what_turns_and_where(odile):
    stage(odile, PUBLISH)
    told = accounts(odile)
    assert len(told) == ok(odile.get("change-set/impact"))["gain"]
    [turn] = next(one for one in told if one["account"] == "ines")["turns"]
    assert (turn["key"], turn["words"], turn["gained"], turn["lost"]) == ("publish", "publish pages", 1, 0)
    nodes = ok(odile.get("change-set/impact/nodes", key="publish", account="ines"))
    assert (nodes["lost"], [n["title"] for n in nodes["gained"]]) == ([], ["Pier 3, Sail loft"])


def test_those_who_lose_come_first(odile):
    stage(odile, PUBLISH, REMOVE)
    lost = [sum(turn["lost"] for turn in one["turns"]) for one in accounts(odile)]
    assert lost[0] > 0
    assert lost == sorted(lost, reverse=True)


def test_what_turns_is_told_for_all_together_too(odile):
    stage(odile, PUBLISH, EDIT | {"capability": "locks.open", "says": "yes"})
    impact = ok(odile.get("change-set/impact"))
    turns = {turn["key"]: turn for turn in impact["turns"]}
    publish = turns["publish"]
    assert (publish["words"], publish["lose"], publish["most_lost"]) == ("publish pages", 0, 0)
    assert 0 < publish["gain"] <= impact["gain"]
    told = {one["account"]: one["turns"] for one in accounts(odile)}
    gained = [turn["gained"] for turns in told.values() for turn in turns if turn["key"] == "publish"]
    assert (len(gained), max(gained)) == (publish["gain"], publish["most_gained"])


def test_what_most_lose_comes_first_and_parts_of_pages_last(odile):
    stage(odile, PUBLISH, REMOVE, EDIT)
    turns = ok(odile.get("change-set/impact"))["turns"]
    order = [(" " in turn["key"], -turn["lose"], -turn["gain"]) for turn in turns]
    assert len(set(order)) > 2
    assert order == sorted(order)


def test_the_pages_where_something_turns_for_anybody(odile):
    stage(odile, PUBLISH)
    pages = ok(odile.get("change-set/impact/pages", key="publish"))
    loft = {"title": "Pier 3, Sail loft", "gain": 1, "lose": 0, "visitors_gain": False, "visitors_lose": False}
    assert loft in pages
    assert [page["gain"] for page in pages] == sorted((page["gain"] for page in pages), reverse=True)
    each = [turn["gained"] for one in accounts(odile) for turn in one["turns"] if turn["key"] == "publish"]
    assert sum(page["gain"] for page in pages) == sum(each)
    first = odile.get("change-set/impact/pages", key="publish", limit=1)
    assert (ok(first), first["Total-Count"]) == (pages[:1], str(len(pages)))
    for key in ("remove", "desk.open", "see-field berth.dues", ""):
        refused(odile.get("change-set/impact/pages", key=key), "not-found", 404)


@pytest.mark.parametrize("says", ["barred", None, "team"])
def test_who_gains_and_loses_is_told_by_itself_too(odile, says):
    asked = {"operations": [EDIT | {"role": "everyone", "capability": "event.see", "says": says}]}
    previewed, sooner = (ok(odile.post(f"change-set/preview{path}", asked)) for path in ("", "/touched"))
    assert sooner == {key: previewed[key] for key in sooner}
    stage(odile, *asked["operations"], PUBLISH)
    impact, touched = ok(odile.get("change-set/impact")), ok(odile.get("change-set/touched"))
    people = sooner.keys() - {"breaks"}
    assert {key: impact[key] for key in people} == {key: touched[key] for key in people}
    assert touched["lose"] > 0
    assert "Ines Marrow may not publish Pier 3, Sail loft" in touched["breaks"]


def test_what_was_told_of_a_proposal_is_known_once_it_is_staged(odile):
    told = ok(odile.post("change-set/preview/touched", {"operations": [PUBLISH]}))
    [proposed] = preview._kept.values()
    stage(odile, PUBLISH)
    assert told.items() <= ok(odile.get("change-set/touched")).items()
    assert [*preview._kept.values()] == [proposed]


def test_nobody_waits_for_what_somebody_else_asked_about(monkeypatch):
    begun, finish = Event(), Event()

    def slow_for(before, after, at, only=None):
        if after == "slow":
            begun.set()
            finish.wait(5)
        return after

    monkeypatch.setattr(preview, "impact", slow_for)
    slow, other = (preview.Preview("as it is", after, now()) for after in ("slow", "other"))
    asking = Thread(target=lambda: slow.changed)
    asking.start()
    assert begun.wait(30)
    assert other.changed == "other"
    assert asking.is_alive(), "it was told while the slow one was still worked out"
    finish.set()
    asking.join()
    assert slow.changed == "slow"


def test_with_staged_changes_tried_out_it_rests_on_what_is_staged_just_then(ask, odile):
    given = [EDIT | {"capability": capability, "says": "yes"} for capability in ("roles.define", "roster.see")]
    apply(odile, *given)
    stage(ask("ines"), PUBLISH)
    stage(odile, PUBLISH)
    trying = ask("odile")
    ok(trying.post("stand-in", {"account": "ines", "staged": True}), 204)
    assert ok(trying.get("change-set/touched"))["gain"] == 0
    ok(odile.delete("change-set"))
    assert ok(trying.get("change-set/touched"))["gain"] > 0


def test_visitors_are_told_apart_from_accounts(odile):
    stage(odile, EDIT | {"role": "everyone", "capability": "event.see", "says": None})
    impact = ok(odile.get("change-set/impact"))
    told = [one["account"] for one in accounts(odile)]
    assert None in told
    assert (impact["lose"], impact["visitors_lose"], impact["visitors_gain"]) == (len(told) - 1, True, False)
    see = next(turn for turn in impact["turns"] if turn["key"] == "see")
    assert (see["lose"], see["visitors_lose"]) == (sum(who is not None for who in told), True)
    page, *_ = ok(odile.get("change-set/impact/pages", key="see"))
    assert (page["lose"], page["visitors_lose"]) == (see["lose"], True)


def test_what_turns_is_read_anew_when_something_else_is_staged(odile):
    stage(odile, PUBLISH)
    before = accounts(odile)
    stage(odile, PUBLISH | {"says": None})
    assert before != []
    assert accounts(odile) == []


def test_nodes_of_what_does_not_turn_cannot_be_listed(odile):
    stage(odile, PUBLISH, EDIT | {"capability": "desk.open", "says": None})
    refused(odile.get("change-set/impact/nodes", key="remove", account="ines"), "not-found", 404)
    refused(odile.get("change-set/impact/nodes", key="desk.open", account="ines"), "not-found", 404)
    refused(odile.get("change-set/impact/nodes", key="publish", account="nobody"), "not-found", 404)


def test_only_whoever_stages_is_told(ask):
    refused(ask("ines").get("change-set/impact"), "not-granted")
    for list in ("accounts", "nodes", "pages"):
        refused(ask("ines").get(f"change-set/impact/{list}"), "not-granted")


def test_risks_newly_given_are_listed_with_their_reason(odile):
    stage(odile, EDIT | {"capability": "roles.define", "says": "yes"})
    [risk] = ok(odile.get("change-set/touched"))["risks"]
    assert (risk["role"], risk["what"]) == ("tenant-editor", "define roles")
    assert "widen" in risk["why"]
    stage(odile, EDIT | {"capability": "roles.assign", "says": "yes"})
    told = [risk["what"] for risk in ok(odile.get("change-set/touched"))["risks"]]
    assert told == [
        "define roles",
        "give roles to accounts and groups",
        "define roles and give roles to accounts and groups",
    ]


def test_what_everybody_would_be_given_is_a_risk_but_for_reading(odile):
    everyone, signed = EDIT | {"role": "everyone"}, EDIT | {"role": "signed-in"}
    stage(
        odile,
        everyone | {"capability": "event.edit", "says": "all"},
        everyone | {"capability": "notice.edit", "says": "own"},
        everyone | {"capability": "desk.open", "says": "yes"},
        signed | {"capability": "event.see", "says": "all"},
        signed | {"capability": "account.edit", "says": "all"},
    )
    told = [(risk["role"], risk["what"], risk["why"]) for risk in ok(odile.get("change-set/touched"))["risks"]]
    assert sorted(told) == [
        ("everyone", "edit events, notices to mariners", "Everybody has this, signed in or not."),
        ("everyone", "open the desk", "Everybody has this, signed in or not."),
        ("signed-in", "edit profiles", "Everybody who signs in has this."),
    ]


def test_giving_a_role_brings_no_risk_to_the_role(odile):
    stage(odile, GIVE)
    assert ok(odile.get("change-set/touched"))["risks"] == []
    assert [r.what for r in risks_of("tenant-editor", RoleResolver(current().policy), current().catalogue)] == []


def test_parts_of_pages_are_told_in_words_too(odile):
    facets = {"kind": "set-facets", "role": "tenant-editor", "component": "button", "facets": []}
    stage(odile, facets, {"kind": "set-components", "role": "tenant-editor", "components": ["text"]})
    words = {turn["key"]: turn["words"] for one in accounts(odile) for turn in one["turns"]}
    assert words["change-facet button.links"] == "change links of button"
    assert words["insert-component picture"] == "insert picture"


def test_profiles_and_fields_are_told_in_words_too(odile):
    hidden = {"kind": "set-field-rule", "type": "event", "field": "starts", "mode": "table", "table": {}}
    stage(odile, hidden, EDIT | {"role": "signed-in", "capability": "account.see", "says": "all"})
    words = {turn["key"]: turn["words"] for one in accounts(odile) for turn in one["turns"]}
    assert words["see-field event.starts"].startswith("see ")
    assert words["see-field event.starts"].endswith(" of events")
    assert words["see account"] == "see profiles"


def test_people_and_pages_are_named_only_to_whoever_may_know_of_them(odile, ask):
    for duty in ("roles.define", "limits.set"):
        stage(odile, {"kind": "set-answer", "role": "signed-in", "capability": duty, "says": "yes"})
    ok(odile.post("change-set/apply"))
    ines = ask("ines")
    hidden = {"kind": "set-limit", "node": "min-2026-10", "to": {"kind": "role", "id": "duty-editor"}}
    hidden |= {"effect": "stop", "applies": "node", "actions": ["edit"]}
    refused(ines.post("change-set/operations", {"operations": [hidden]}), "invalid", 422)
    change_sets.stage("ines", [hidden], current().policy, UNBOUND)  # as if it had been in sight then
    told = ok(ines.get("change-set"))
    assert [op["what"] for op in told["operations"]] == ["Limit on a page out of sight"]
    assert told["operations"][0]["data"]["node"] is None
    impact = ok(ines.get("change-set/impact"))
    assert (impact["gain"], impact["lose"], impact["turns"], impact["roles"]) == (None, None, [], [])
    refused(ines.get("change-set/impact/accounts"), "not-granted")
    refused(ines.get("change-set/impact/nodes", key="edit", account="ines"), "not-granted")
    refused(ines.get("change-set/impact/pages", key="edit"), "not-granted")
