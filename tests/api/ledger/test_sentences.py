"""What entries say is made when they are read, from what they keep: in one place, for whoever reads."""

import ast
import re
from pathlib import Path

import pytest

from gonfalon.access.keys import spend, was_called
from gonfalon.ledger.models import By, Entry, record
from gonfalon.ledger.sentences import SENTENCES, sentence
from gonfalon.verify.models import AccessRequest
from tests.api.support import apply, ok, stage

ROOT = Path(__file__).parents[3] / "gonfalon"
OWN = {"about", "changes", "data", "way", "words"}


def recorded():
    """Every entry that is recorded by its kind: the kind, and what is said of it."""
    for path in ROOT.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "record":
                [_, kind] = node.args
                words = {keyword.arg for keyword in node.keywords}
                if isinstance(kind, ast.Constant) and "words" not in words:
                    yield kind.value, words - OWN


@pytest.mark.parametrize(("kind", "said"), sorted((kind, tuple(sorted(said))) for kind, said in recorded()))
def test_each_kind_that_is_recorded_has_a_sentence_of_what_is_kept(kind, said):
    ways = [template for key, template in SENTENCES.items() if key.split("/")[0] == kind]
    assert ways
    for template in ways:
        if set(re.findall(r"{(\w+)}", template)) <= set(said):
            break
    else:
        pytest.fail(f"{kind} keeps {said}, too little for {ways}")


def test_a_name_is_never_read_as_a_part_of_a_sentence(odile):
    record(By("odile"), "role.made", name="{by.actor} {0}")
    [entry] = Entry.objects.filter(kind="role.made").order_by("-number")[:1]
    assert entry.summary == sentence("role.made", entry.data["said"]) == "Made the role {by.actor} {0}"
    assert ok(odile.get("ledger"))["entries"][0]["summary"] == entry.summary


def test_it_is_made_anew_for_whoever_reads(odile, monkeypatch):
    record(By("odile"), "role.made", name="Night crew")
    monkeypatch.setitem(SENTENCES, "role.made", "Die Rolle {name}")
    assert ok(odile.get("ledger"))["entries"][0]["summary"] == "Die Rolle Night crew"


def test_an_entry_from_before_data_was_kept_has_its_own_words(odile):
    Entry.objects.create(at="2026-10-01T00:00:00Z", kind="page.saved", summary="Saved as it was", changes=[
        {"what": "Title", "was": "A", "now": "B"}
    ])  # fmt: skip
    told = ok(odile.get("ledger"))["entries"][0]
    assert (told["summary"], told["changes"][0]["what"]) == ("Saved as it was", "Title")


def test_a_request_is_told_as_far_as_its_reader_sees(ask, odile, lone):
    question = {"action": "edit", "node": "min-2026-10"}
    row = AccessRequest.objects.create(account_id="halla", question=question, open_key="k")
    ok(odile.post(f"requests/{row.pk}/decline", {"word": "no"}), 204)
    [told, *_] = ok(odile.get("ledger"))["entries"]
    assert told["summary"] == "Declined: Halla Brink asked to edit “Minutes of October”"
    [read, *_] = ok(ask("ludo").get("ledger"))["entries"]
    assert read["summary"].endswith("asked to edit a page out of sight")
    assert ok(ask("ludo").get("ledger", search="Minutes of October"))["entries"] == []
    [read, *_] = ok(lone("ledger.read").get("ledger"))["entries"]
    assert read["summary"] == "Declined: Somebody asked to edit a page out of sight"


def test_what_is_gone_keeps_its_name(odile):
    """A role, a group or a topic that entries name is told by what it was called."""
    ok(odile.post("groups", {"name": "Ice watch"}), 201)
    apply(odile, {"kind": "set-member", "account": "ines", "group": "ice-watch", "member": True})
    stage(odile, *[{"kind": "set-member", "account": "ines", "group": "ice-watch", "member": False}])
    ok(odile.post("groups/ice-watch/ending"))
    ok(odile.post("change-set/apply"))
    entry = ok(odile.get("ledger"))["entries"][0]
    assert {"what": "The group Ice watch", "was": "at the top", "now": "ended"} in entry["changes"]
    assert {"what": "Ines Marrow in Ice watch", "was": "a member", "now": "no member"} in entry["changes"]


@pytest.mark.django_db
def test_what_was_dropped_twice_is_called_as_it_was_the_last_time():
    spend("role", {"ice-watch": "Ice watch"})
    spend("role", {"ice-watch": "Night watch"})
    assert was_called()["role", "ice-watch"] == "Night watch"
