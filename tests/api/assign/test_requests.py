"""Asking where one was refused; the inbox with the smallest changes; granting for a time, and declining."""

from django.core import mail

from gonfalon.access.models import DirectGrant
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from gonfalon.verify.models import AccessRequest
from tests.api.support import ok, refused
from tests.api.worker import work

FEES = {"action": "edit", "node": "fees", "word": "For the new rates."}


def asked(asking, **changed):
    return ok(asking.post("requests", FEES | changed), 201)


def may(account, action="edit", node="fees"):
    engine = engine_over(content(), current())
    return engine.decide(Question(account, action, engine.tree.target(node), now())).allow


def test_whoever_is_refused_asks_and_asking_twice_is_one_request(ines):
    first = asked(ines)
    assert (first["what"], first["who"], first["state"]) == ("edit “Fees and dues”", "Ines Marrow", "open")
    again = asked(ines, word="Please.")
    assert again["id"] == first["id"]
    assert AccessRequest.objects.get(pk=first["id"]).word == "Please."


def test_there_is_nothing_to_ask_for_where_one_may_already(ines):
    refused(ines.post("requests", {"action": "edit", "node": "p3-sail-loft"}), "conflict", 409)


def test_a_page_one_does_not_know_of_cannot_be_asked_for(ines):
    hidden, made_up = (ines.post("requests", {"action": "edit", "node": node}) for node in ("min-2026-10", "nowhere"))
    assert hidden.content == made_up.content
    refused(hidden, "not-found", 404)


def test_what_cannot_be_asked_names_the_field(ines):
    for wrong, at in (({"action": "fly"}, "/action"), ({"field": "nothing"}, "/field")):
        problem = refused(ines.post("requests", FEES | wrong), "invalid", 422)
        assert problem["errors"][0]["pointer"] == at


def test_the_inbox_shows_the_smallest_changes_and_what_else_each_gives(odile, ines):
    id = asked(ines)["id"]
    [row] = [r for r in ok(odile.get("requests")) if r["id"] == id]
    assert row["word"] == "For the new rates."
    page = ok(odile.get(f"requests/{id}"))
    best = page["ways"][0]
    assert best["sentence"].startswith("Let Ines Marrow alone edit sections")
    assert (best["allowed"], best["timed"]) == (True, True)
    gives = ok(odile.post("change-set/preview", {"operations": best["operations"]}))
    assert gives["gain"] == 1
    assert gives["turns"]


def granted(odile, id, **more):
    ways = ok(odile.get(f"requests/{id}"))["ways"]
    way = next(one for one in ways if one["timed"])
    return odile.post(f"requests/{id}/grant", {"operations": way["operations"], **more})


def test_it_is_granted_for_a_time_in_one_step_and_both_are_told(odile, ines):
    id = asked(ines)["id"]
    assert not may("ines")
    ok(granted(odile, id, until="2099-01-01T12:00:00Z"), 204)
    assert may("ines")
    given = DirectGrant.objects.order_by("-given_at").first()
    assert (given.account_id, given.ends.isoformat()) == ("ines", "2099-01-01T12:00:00+00:00")
    [own] = [r for r in ok(ines.get("me/requests")) if r["id"] == id]
    assert (own["state"], own["until"]) == ("granted", "2099-01-01T12:00:00Z")
    work()
    assert mail.outbox[-1].to == ["ines@sailloft.example"]
    assert "edit “Fees and dues”" in mail.outbox[-1].body
    assert mail.outbox[-1].body.strip().endswith("/desk/fees"), "it leads to the page that it is about"
    refused(odile.post(f"requests/{id}/decline", {}), "conflict", 409)


def test_it_is_declined_with_a_word(odile, ines):
    id = asked(ines)["id"]
    ok(odile.post(f"requests/{id}/decline", {"word": "Ask the duty editor."}), 204)
    [own] = [r for r in ok(ines.get("me/requests")) if r["id"] == id]
    assert (own["state"], own["answer"]) == ("declined", "Ask the duty editor.")
    assert not may("ines")
    assert asked(ines)["id"] != id  # a new request: that one is decided


def test_what_reads_otherwise_by_now_is_not_made(odile, ines):
    id = asked(ines)["id"]
    other = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}}
    refused(odile.post(f"requests/{id}/grant", {"operations": [other]}), "conflict", 409)
    refused(odile.post(f"requests/{id}/grant", {"operations": []}), "invalid", 422)
    assert AccessRequest.objects.get(pk=id).state == "open"


def test_what_granting_would_break_is_said_before(odile, ines):
    """Ines is expected not to edit the fees."""
    expected = {"account": "ines", "action": "edit", "node": "fees", "expect": "deny", "note": ""}
    ok(odile.post("expectations", expected), 201)
    id = asked(ines)["id"]
    [best, *_] = ok(odile.get(f"requests/{id}"))["ways"]
    told = ok(odile.post("change-set/preview/touched", {"operations": best["operations"]}))
    assert any("Ines Marrow may not edit" in sentence for sentence in told["breaks"]), told["breaks"]
    assert told["gain"] == 1
    entry = odile.post(f"requests/{id}/grant", {"operations": best["operations"]})
    ok(entry, 204)
    assert may("ines")


def test_granting_asks_for_the_duty_of_what_it_changes(odile, ines, lone):
    id = asked(ines)["id"]
    limiting = lone("limits.set", "roster.see", "section.see")
    told = next(way for way in ok(limiting.get(f"requests/{id}"))["ways"] if way["timed"])
    assert not told["allowed"]
    refused(limiting.post(f"requests/{id}/grant", {"operations": told["operations"]}), "not-granted")
    assert not may("ines")


def test_only_those_who_decide_read_the_inbox_and_people_are_named_to_those_who_may_know_them(ines, lone):
    id = asked(ines)["id"]
    refused(ines.get("requests"), "not-granted")
    [told] = [r for r in ok(lone("limits.set").get("requests")) if r["id"] == id]
    assert (told["who"], told["account"], told["word"]) == ("somebody", None, "")
    refused(lone("limits.set").get(f"requests/{id}"), "not-found", 404)


def test_the_desk_can_be_asked_for_by_somebody_who_enters_it_not(odile, ask):
    [visitor, *_] = ok(odile.get("accounts", show="visitors", state="active"))["results"]
    request = ok(ask(visitor["id"]).post("requests", {"action": "desk.open"}), 201)
    assert request["what"] == "open the desk"
    assert ok(odile.get(f"requests/{request['id']}"))["ways"]


def test_nobody_piles_up_requests_without_end(ines):
    for n in range(30):
        AccessRequest.objects.create(account_id="ines", question={"action": "edit"}, open_key=f"k{n}")
    refused(ines.post("requests", FEES), "conflict", 409)
