"""Walk lists: ticked by doing it in a rehearsal, by anyone, and true as long as a fresh try would give the same."""

from random import Random
from typing import Any

import pytest

from gonfalon.access.models import GivenWalk
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.core import Question
from gonfalon.core.checks.tries import of_holder
from gonfalon.core.checks.walk import Item, walk
from gonfalon.core.model.vocabulary import ACTIONS
from gonfalon.mail.models import Letter
from gonfalon.verify.models import WalkList, WalkTick
from gonfalon.verify.walks.pages import Pages
from gonfalon.viewpoint.viewpoint import viewpoint
from tests.api.support import Asking, apply, ok, refused

LIST = "walk-lists/walk-tenant-editor"
LOFT = "desk/pages/p3-sail-loft"
EDITED = "edit their own berth pages"
PUBLISHED = "publish pictures, documents, berth pages, events or articles"
PUBLISHES = {"role": "tenant-editor", "capability": "berth.publish", "says": "own", "kind": "set-answer"}


@pytest.fixture(autouse=True)
def nothing_tried(harbour):
    WalkTick.objects.all().delete()


@pytest.fixture(autouse=True)
def no_hurry(monkeypatch):
    """A slow machine says nothing about what is done."""
    monkeypatch.setattr("gonfalon.api.rehearsing.AT_MOST", 60.0)


def rehearse(asking: Asking, **whom: Any) -> Asking:
    ok(asking.post("stand-in", {**(whom or {"roles": ["tenant-editor"], "own": True}), "mode": "rehearse"}), 204)
    return asking


def step_out(asking: Asking) -> None:
    ok(asking.delete("stand-in"), 204)


def entries(asking: Asking, **query: str) -> dict[str, dict[str, Any]]:
    return {entry["words"]: entry for entry in ok(asking.get(LIST, **query))["entries"]}


def ticked(asking: Asking) -> dict[str, str]:
    return {words: e["state"] for words, e in entries(asking).items() if e["state"] != "open"}


def save(asking: Asking, **changes: Any) -> Any:
    return asking.patch(LOFT, changes, **{"If-Match": asking.get(LOFT)["ETag"]})


def attempt(asking: Asking, sent: dict[str, Any]) -> Any:
    path = sent["path"].removeprefix("/api/")
    if sent["method"] == "GET":
        return asking.get(path)
    tag = asking.get("/".join(path.split("/")[:3])).get("ETag", "")
    return getattr(asking, sent["method"].lower())(path, sent["body"], **{"If-Match": tag})


# -- lists ---------------------------------------------------------------------------------------


def test_whoever_keeps_expectations_is_told_how_much_of_each_role_is_proved(odile):
    rows = {row["role"]["key"]: row for row in ok(odile.get("walk-lists"))}
    assert "everyone" not in rows
    assert (rows["tenant-editor"]["id"], rows["tenant-editor"]["proved"]) == ("walk-tenant-editor", 0)
    assert rows["tenant-editor"]["items"] == len(ok(odile.get(LIST))["entries"]) > 40
    assert (rows["pilot"]["id"], rows["pilot"]["items"]) == (None, 0)


def test_a_list_is_made_from_the_board_and_made_anew_when_that_changes(odile):
    made = ok(odile.post("walk-lists", {"role": "pilot"}), 201)
    here = viewpoint("odile", now())
    assert {e["key"] for e in made["entries"]} == {item.key for item in walk("pilot", here.engine, here.at)}
    ok(odile.post("walk-lists", {"role": "pilot"}))
    assert WalkList.objects.filter(role="pilot").count() == 1
    assert ok(odile.get(LIST))["news"] == {"more": 0, "gone": 0}
    apply(odile, PUBLISHES)
    news = ok(odile.get(LIST))["news"]
    assert news["more"] > 0
    assert news["gone"] > 0
    assert ok(odile.post("walk-lists", {"role": "tenant-editor"}))["news"] == {"more": 0, "gone": 0}
    assert "publish their own berth pages" in entries(odile)


def test_lists_are_of_roles_that_people_are_given(odile):
    for role in ("everyone", "no-such-role"):
        problem = refused(odile.post("walk-lists", {"role": role}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/role"


def test_a_list_that_is_taken_away_is_gone_for_everybody_with_its_ticks(odile, ask):
    save(rehearse(odile), title="Loft")
    step_out(odile)
    ok(odile.delete(LIST), 204)
    refused(odile.get(LIST), "not-found", 404)
    assert not GivenWalk.objects.filter(role="tenant-editor").exists()
    assert ok(ask("anouk").get("walk-lists")) == []
    assert not WalkTick.objects.exists()
    made = ok(odile.post("walk-lists", {"role": "tenant-editor"}), 201)
    assert made["proved"] == 0


def test_what_a_list_names_may_be_gone_by_now(odile):
    """A kind, a field, a component, a limit or a duty that there is no more: the list is told, and so are its ticks."""
    gone = [
        Item("edit", True, ("no-such-kind", "berth"), own=True),
        Item("create", False, ("no-such-kind",)),
        Item("fill-field", True, ("no-such-kind",), field="no-such-field"),
        Item("see-field", True, ("berth",), field="no-such-field"),
        Item("insert-component", False, components=("no-such-component",)),
        Item("change-facet", True, components=("no-such-component",), facet="no-such-facet"),
        Item("edit", False, limit="no-such-limit"),
        Item("markup.no-such-set", True),
        Item("no-such.duty", False),
    ]
    WalkList.objects.filter(pk="walk-tenant-editor").update(items=[list(item) for item in gone])
    asked = [[{"action": "edit", "node": "no-such-node"}, True, "allowed"]]
    tick = {"walk_list": "walk-tenant-editor", "as_said": True, "node": "no-such-node", "by": "nobody", "at": now()}
    WalkTick.objects.create(item=gone[0].key, asked=asked, **tick)
    told = ok(odile.get(LIST, node="p3-sail-loft"))
    assert [entry["state"] for entry in told["entries"]] == ["open"] * len(gone)
    assert told["news"]["gone"] == len(gone)
    assert ok(odile.get("walk-lists"))
    rehearse(odile)
    ok(save(odile, title="Loft"))
    assert ok(odile.get(LIST))["rehearsed"]


# -- ticks ---------------------------------------------------------------------------------------


def test_what_is_done_in_a_rehearsal_is_ticked_off_and_nothing_else_of_it_is_kept(odile):
    before = Node.objects.get(pk="p3-sail-loft").title
    ok(save(rehearse(odile), title="Loft"))
    refused(odile.post(f"{LOFT}/publish", **{"If-Match": odile.get(LOFT)["ETag"]}), "not-granted")
    step_out(odile)
    there = entries(odile)
    assert there[EDITED]["state"] == there[PUBLISHED]["state"] == "proved"
    assert there["see the annual dues of their own berth pages"]["state"] == "proved", "it was read"
    assert there[EDITED]["tick"]["page"] == {"id": "p3-sail-loft", "title": before}
    assert there[EDITED]["tick"]["by"] == "Odile Varga"
    assert Node.objects.get(pk="p3-sail-loft").title == before
    assert ok(odile.get(LIST))["proved"] == len(ticked(odile)) == WalkTick.objects.count()


def test_what_failed_or_was_only_looked_at_was_not_done(odile):
    rehearse(odile)
    assert odile.patch(LOFT, {"title": ""}, **{"If-Match": odile.get(LOFT)["ETag"]}).status_code == 422
    assert odile.patch(LOFT, {"title": "Loft"}, **{"If-Match": '"0"'}).status_code == 412
    ok(odile.get("desk/pages/open-day/remove"))
    told = ticked(odile)
    assert EDITED not in told
    assert "remove their own events" not in told
    ok(odile.post("desk/pages/open-day/remove", **{"If-Match": odile.get("desk/pages/open-day")["ETag"]}), 204)
    assert ticked(odile)["remove their own events"] == "proved"


def test_looking_only_and_what_is_staged_or_to_come_prove_nothing(odile):
    ok(odile.post("stand-in", {"roles": ["tenant-editor"], "own": True}), 204)
    ok(odile.get(LOFT))
    step_out(odile)
    ok(odile.post("stand-in", {"roles": ["tenant-editor"], "own": True, "mode": "rehearse", "staged": True}), 204)
    save(odile, title="Loft")
    step_out(odile)
    later = "2099-01-01T00:00:00Z"
    ok(odile.post("stand-in", {"roles": ["tenant-editor"], "own": True, "mode": "rehearse", "at": later}), 204)
    save(odile, title="Loft")
    step_out(odile)
    assert ticked(odile) == {}


def test_what_another_role_gives_proves_nothing_of_this_one(odile):
    give = {"kind": "give-role", "role": "site-steward", "to": {"kind": "account", "id": "ines"}, "scope": {}}
    apply(odile, {**give, "starts": None, "ends": None})
    refused(rehearse(odile).post(f"{LOFT}/publish", **{"If-Match": odile.get(LOFT)["ETag"]}), "not-granted")
    step_out(odile)
    [before] = [e["tick"] for words, e in entries(odile).items() if words == PUBLISHED]
    rehearse(odile, account="ines")
    ok(odile.post(f"{LOFT}/retire", **{"If-Match": odile.get(LOFT)["ETag"]}))
    ok(odile.post(f"{LOFT}/to-draft", **{"If-Match": odile.get(LOFT)["ETag"]}))
    ok(odile.post(f"{LOFT}/publish", **{"If-Match": odile.get(LOFT)["ETag"]}))
    assert entries(odile)[PUBLISHED]["tick"] == before, "what was proved of the role alone is as it was"


def test_what_is_locked_went_otherwise(odile):
    ok(odile.post("locks", {"node": "p3-sail-loft", "why": "the trust decides"}), 201)
    refused(save(rehearse(odile), title="Loft"), "locked")
    there = entries(odile)[EDITED]
    assert there["state"] == "otherwise"
    assert there["question"]["node"] == "p3-sail-loft"
    assert ok(odile.get("walk-lists"))[3]["otherwise"] == 1


def test_a_page_made_there_can_be_tried_on(odile):
    rehearse(odile)
    made = ok(odile.post("desk/pages", {"parent": "events", "type": "event", "title": "Mending day"}), 201)
    page = f"desk/pages/{made['id']}"
    ok(odile.patch(page, {"title": "Mending"}, **{"If-Match": odile.get(page)["ETag"]}))
    refused(odile.post(f"{page}/publish", **{"If-Match": odile.get(page)["ETag"]}), "not-granted")
    told = entries(odile)
    for words in ("create events", "edit their own events", PUBLISHED):
        assert told[words]["state"] == "proved", words
        assert told[words]["tick"]["page"] is None


def test_every_attempt_that_is_offered_is_refused_and_ticks_what_it_is_for(odile):
    tried = 0
    for own in (True, False):
        rehearse(odile, roles=["tenant-editor"], own=own)
        for words, entry in entries(odile).items():
            if entry["attempt"] and entry["own"] in (None, own):
                response = attempt(odile, entry["attempt"])
                assert response.status_code in (200, 403, 404), (words, response.content)
                assert entries(odile)[words]["state"] == "proved", words
                tried += 1
        step_out(odile)
    assert tried > 20


@pytest.mark.parametrize("first", [None, "harbour-office"])
@pytest.mark.parametrize("role", ["tenant-editor", "season-intern", "duty-editor", "picture-desk"])
def test_a_page_is_one_on_which_the_answer_is_what_the_list_says(harbour, role, first):
    """And one that they see, also where one is on another first: of what they do not see nothing else is asked."""
    here = viewpoint("odile", now())
    items = {item.key: item for item in walk(role, here.engine, here.at)}
    pages = Pages(role, here).of(list(items.values()), first)
    assert len(pages) > 15
    for key, page in pages.items():
        item, target = items[key], here.engine.tree.target(page)
        holder = of_holder(role, own=item.own is not False)
        if item.action != "see":
            assert here.engine.decide(Question(holder, "see", target, here.at)).allow, (item, page)
        if item.action in ACTIONS and item.action != "create":
            answer = here.engine.decide(Question(holder, item.action, target, here.at))
            assert answer.allow is item.expect, (item, page)


def test_the_page_that_one_is_on_comes_first(odile):
    assert entries(odile, node="p3-sea-school")[EDITED]["page"]["id"] == "p3-sea-school"
    assert entries(odile, node="no-such-page")[EDITED]["page"]["id"] == entries(odile)[EDITED]["page"]["id"]
    assert entries(odile, node="min-2026-10")[EDITED]["page"]["id"] != "min-2026-10"


# -- a tick stands while a fresh try would give it ------------------------------------------------


def test_a_tick_falls_with_the_answer_and_stands_again_with_it(odile):
    refused(rehearse(odile).post(f"{LOFT}/publish", **{"If-Match": odile.get(LOFT)["ETag"]}), "not-granted")
    step_out(odile)
    assert ticked(odile)[PUBLISHED] == "proved"
    apply(odile, PUBLISHES)
    assert PUBLISHED not in ticked(odile)
    apply(odile, {**PUBLISHES, "says": None})
    assert ticked(odile)[PUBLISHED] == "proved"


def test_a_tick_falls_with_its_page(odile):
    save(rehearse(odile), title="Loft")
    step_out(odile)
    ok(odile.post(f"{LOFT}/remove", **{"If-Match": odile.get(LOFT)["ETag"]}), 204)
    assert EDITED not in ticked(odile)


CHANGES = [
    PUBLISHES,
    {**PUBLISHES, "capability": "berth.edit", "says": None},
    {**PUBLISHES, "capability": "berth.edit", "says": "all"},
    {**PUBLISHES, "capability": "event.edit", "says": "barred"},
    {**PUBLISHES, "role": "everyone", "capability": "event.retire", "says": "all"},
    {"kind": "set-limit", "node": "pier-3", "to": {"kind": "role", "id": "tenant-editor"}, "effect": "stop",
     "applies": "branch", "actions": ["edit", "retire"]},
    {"kind": "set-limit", "node": "events", "to": {"kind": "role", "id": "everyone"}, "effect": "bar",
     "applies": "beneath", "actions": None},
    {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "open", "table": {}},
    {"kind": "set-components", "role": "tenant-editor", "components": ["heading"]},
]  # fmt: skip


def of_pages(asking: Asking, random: Random) -> None:
    page = f"desk/pages/{random.choice(['p3-sail-loft', 'open-day', 'lantern-night'])}"
    doing = random.choice(["retire", "to-draft", "publish", "lock", "move"])
    if doing == "lock":
        asking.post("locks", {"node": page.removeprefix("desk/pages/"), "why": "x"})
        return
    body = {"to": random.choice(["events", "pier-5", "home-harbour"])} if doing == "move" else None
    asking.post(f"{page}/{doing}", body, **{"If-Match": asking.get(page).get("ETag", "")})


TRIES = [
    ("patch", "desk/pages/p3-sail-loft", {"title": "Tried"}),
    ("patch", "desk/pages/open-day", {"title": "Tried"}),
    ("post", "desk/pages/p3-sail-loft/publish", None),
    ("post", "desk/pages/p3-sail-loft/retire", None),
    ("post", "desk/pages/open-day/retire", None),
    ("post", "desk/pages/open-day/remove", None),
    ("get", "desk/pages/p3-sail-loft", None),
    ("get", "desk/pages/open-day", None),
    ("get", "desk/pages/p3-sail-loft/versions", None),
    ("post", "desk/pages", {"parent": "events", "type": "event", "title": "Tried"}),
    ("post", "desk/pages", {"parent": "pier-3", "type": "berth", "title": "Tried"}),
    ("patch", "desk/pages/p3-sail-loft", {"values": {"dues": 77}}),
]


def do(asking: Asking, method: str, path: str, body: Any, *, own: bool) -> Any:
    rehearse(asking, roles=["tenant-editor"], own=own)
    if method == "get":
        response = asking.get(path)
    else:
        page = "/".join(path.split("/")[:3])
        response = getattr(asking, method)(path, body, **{"If-Match": asking.get(page).get("ETag", "")})
    step_out(asking)
    return response


@pytest.mark.parametrize("seed", range(3))
def test_no_tick_stands_that_a_fresh_try_would_not_give(odile, seed):
    """Whatever changes, trying the same anew on what there is then gives the same tick."""
    random = Random(seed)
    made: dict[tuple[str, bool], tuple[Any, ...]] = {}

    def try_it(*one: Any, own: bool) -> Any:
        before = set(WalkTick.objects.values_list("item", "as_said", "at"))
        response = do(odile, *one, own=own)
        for item, as_said, _ in set(WalkTick.objects.values_list("item", "as_said", "at")) - before:
            made[item, as_said] = (*one, own)
        return response

    for one, own in ((one, own) for one in TRIES for own in (True, False)):
        try_it(*one, own=own)
    compared = 0
    for _ in range(4):
        if random.random() < 0.6:
            apply(odile, random.choice(CHANGES))
        else:
            of_pages(odile, random)
        told = ok(odile.get(LIST))["entries"]
        words = {entry["key"]: entry["words"] for entry in told}
        for key, state in [(e["key"], e["state"]) for e in told if e["state"] != "open"]:
            as_said = state == "proved"
            *one, own = made[key, as_said]
            WalkTick.objects.filter(item=key).delete()
            response = try_it(*one, own=own)
            if response.status_code == 422:
                continue  # the page is not in a state any more in which this is done: the rules were not asked again
            assert WalkTick.objects.filter(item=key, as_said=as_said).exists(), (words[key], one, response.content)
            compared += 1
    assert compared > 20


# -- given to somebody ----------------------------------------------------------------------------


def test_whoever_was_given_a_list_is_told_of_it_alone(odile, ask, ines):
    anouk = ask("anouk")
    [row] = ok(anouk.get("walk-lists"))
    assert (row["id"], row["given"], row["rehearsed"]) == ("walk-tenant-editor", True, False)
    assert row["word"].startswith("Before the season")
    told = ok(anouk.get(LIST))
    assert (told["walkers"], told["news"]) == ([], None)
    refused(anouk.get("walk-lists/walk-season-intern"), "not-found", 404)
    assert ok(ines.get("walk-lists")) == []
    refused(ines.get(LIST), "not-found", 404)
    for asking in (anouk, ines):
        refused(asking.post("walk-lists", {"role": "pilot"}), "not-granted")
        refused(asking.post(f"{LIST}/given", {"account": "ines"}), "not-granted")
        refused(asking.delete(LIST), "not-granted")


def test_they_rehearse_as_themselves_and_as_nobody_else_and_what_they_do_counts(odile, ask):
    anouk = ask("anouk")
    refused(ask("samir").post("stand-in", {"account": "samir", "mode": "rehearse"}), "not-granted")
    for other in ({"account": "ines"}, {"account": None}, {"roles": ["tenant-editor"]}):
        assert anouk.post("stand-in", {**other, "mode": "rehearse"}).status_code in (403, 422), other
    assert anouk.post("stand-in", {"account": "anouk", "mode": "look"}).status_code == 403
    rehearse(anouk, account="anouk")
    assert ok(anouk.get("walk-lists"))[0]["rehearsed"]
    page = entries(anouk)[EDITED]["page"]["id"]
    assert Node.objects.get(pk=page).author_id == "anouk"
    path = f"desk/pages/{page}"
    ok(anouk.patch(path, {"title": "Rigging"}, **{"If-Match": anouk.get(path)["ETag"]}))
    assert entries(odile)[EDITED]["tick"]["by"] == "Anouk Petrie"


def test_asked_no_more_they_rehearse_no_more(odile, ask):
    anouk = rehearse(ask("anouk"), account="anouk")
    told = ok(odile.delete(f"{LIST}/given/anouk"))
    assert told["walkers"] == []
    refused(odile.delete(f"{LIST}/given/anouk"), "not-found", 404)
    assert ok(anouk.get("session"))["standing_in"] is None
    refused(anouk.post("stand-in", {"account": "anouk", "mode": "rehearse"}), "not-granted")


def test_giving_tells_them_by_mail_and_gives_them_nothing_else(odile, ines):
    before = ok(ines.get("session"))["duties"]
    told = ok(odile.post(f"{LIST}/given", {"account": "ines", "word": "  Please try. "}), 201)
    assert [walker["account"] for walker in told["walkers"]] == ["anouk", "ines"]
    letter = Letter.objects.get(to="ines@sailloft.example")
    assert f"/walk/{told['id']}" in letter.text
    assert "Please try." in letter.text
    assert ok(ines.get("session"))["duties"] == before
    ok(odile.post(f"{LIST}/given", {"account": "ines", "word": "Once more."}), 201)
    assert [row.word for row in GivenWalk.objects.filter(account="ines")] == ["Once more."]


@pytest.mark.parametrize(
    "body", [{"account": "no-such"}, {}, {"account": "piet"}, {"account": "ines", "word": "x" * 501}]
)
def test_whom_a_list_cannot_be_given_to_is_said(odile, body):
    problem = refused(odile.post(f"{LIST}/given", body), "invalid", 422)
    assert problem["errors"][0]["pointer"] in ("/account", "/word")


def test_pages_and_people_out_of_sight_are_not_named(odile, ask):
    anouk = ask("anouk")
    refused(rehearse(odile, roles=["tenant-editor"], own=True).get("desk/pages/harbour-office"), "not-found", 404)
    there = entries(anouk)
    assert "see anything in a page out of sight" in there
    assert there["see anything in a page out of sight"]["tick"] == {
        "page": {"id": "", "title": "a page out of sight"},
        "by": "somebody",
        "at": there["see anything in a page out of sight"]["tick"]["at"],
    }
    assert there["see anything in a page out of sight"]["page"] is None
    assert entries(odile)["see anything in Harbour office"]["state"] == "proved"
