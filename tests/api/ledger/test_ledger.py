"""The ledger: complete, in order, and never altered."""

import pytest

from gonfalon.content.models import Site
from gonfalon.ledger.models import By, Entry, record
from tests.api.support import apply, ok


def test_an_entry_is_never_changed_or_removed():
    entry = record(By("odile"), "page.saved", title="something")
    entry.summary = "Did nothing"
    with pytest.raises(TypeError):
        entry.save()
    with pytest.raises(TypeError):
        entry.delete()


def test_it_lists_who_for_whom_when_and_what(odile):
    record(By("odile", "ines"), "page.saved", title="a page", changes=[{"what": "Title", "was": "A", "now": "B"}])
    entry = ok(odile.get("ledger"))["entries"][0]
    assert (entry["actor"], entry["standing_for"]) == ("Odile Varga", "Ines Marrow")
    assert entry["changes"] == [{"what": "Title", "was": "A", "now": "B"}]


def test_it_comes_in_pages_newest_first(odile):
    for n in range(60):
        record(By("odile"), "page.saved", title=f"page {n}")
    first = ok(odile.get("ledger"))
    assert first["entries"][0]["summary"] == "Saved page 59"
    assert len(first["entries"]) == 50
    read, before = first["entries"], first["before"]
    while before is not None:
        page = ok(odile.get("ledger", before=before))
        read, before = [*read, *page["entries"]], page["before"]
    assert [entry["number"] for entry in read] == list(Entry.objects.values_list("number", flat=True))


def test_it_is_found_by_words_and_kind(odile):
    record(By("odile"), "page.saved", title="Midsummer rates")
    record(By("odile"), "role.made", name="Midsummer guard")
    assert len(ok(odile.get("ledger", search="midsummer"))["entries"]) == 2
    assert [e["kind"] for e in ok(odile.get("ledger", search="midsummer", kind="role"))["entries"]] == ["role.made"]


def test_it_tells_nothing_the_rules_keep_from_its_reader(ask, odile):
    """A steward reads the ledger, but neither the harbour office nor the annual dues."""
    office, loft = "desk/pages/min-2026-10", "desk/pages/p3-sail-loft"
    ok(odile.patch(office, {"title": "Secret minutes"}, **{"If-Match": '"1"'}))
    ok(odile.patch(loft, {"values": {"dues": 9999, "telephone": "1"}}, **{"If-Match": '"1"'}))
    assert b"9999" in odile.get("ledger").content
    read = ask("ludo").get("ledger")
    loft_entry, office_entry = read.data_read["entries"][:2]
    assert [c["what"] for c in loft_entry["changes"]] == ["Telephone"]
    assert (office_entry["summary"], office_entry["changes"]) == ("Something out of your sight was changed", [])
    assert b"9999" not in read.content
    assert b"Secret" not in read.content
    assert ok(ask("ludo").get("ledger", search="Secret"))["entries"] == []
    assert len(ok(odile.get("ledger", search="Secret"))["entries"]) == 1


def test_what_lies_in_the_bin_is_told_as_far_as_if_it_stood_there(ask, odile):
    office = "desk/pages/min-2026-10"
    ok(odile.patch(office, {"title": "Secret minutes"}, **{"If-Match": '"1"'}))
    ok(odile.patch("desk/pages/p3-sail-loft", {"values": {"dues": 9999}}, **{"If-Match": '"1"'}))
    for page in ("minutes", "pier-3-branch"):
        ok(odile.post(f"desk/pages/{page}/remove", **{"If-Match": '"1"'}), 204)
    read = ask("ludo").get("ledger")
    assert b"Secret" not in read.content
    assert b"Minutes of October" not in read.content
    assert b"9999" not in read.content
    assert [e["summary"] for e in read.data_read["entries"][:2]] == [
        "Removed Pier 3",
        "Something out of your sight was changed",
    ]
    assert b"Secret" in odile.get("ledger").content


def test_what_is_emptied_for_good_is_told_to_keyholders_alone(ask, odile):
    ok(odile.post("desk/pages/p3-sail-loft/remove", **{"If-Match": '"1"'}), 204)
    Site.objects.update(bin_days=0)
    assert odile.delete("desk/bin/p3-sail-loft").status_code == 204
    assert "Pier 3, Sail loft" in odile.get("ledger").content.decode()
    assert "Pier 3, Sail loft" not in ask("ludo").get("ledger").content.decode()


def test_where_a_page_stood_is_not_told_to_whom_that_is_hidden(lone, odile):
    ok(odile.post("desk/pages/min-2026-10/move", {"to": "events"}, **{"If-Match": '"1"'}))
    told = lone("ledger.read").get("ledger").data_read["entries"][0]
    assert (told["kind"], told["changes"]) == ("page.moved", [])


def test_a_retired_field_tells_nothing_of_what_it_held(ask, odile):
    ok(odile.patch("desk/pages/p3-sail-loft", {"values": {"dues": 9999}}, **{"If-Match": '"1"'}))
    ok(odile.patch("kinds/berth/fields/dues", {"retired": True}, **{"If-Match": '"1"'}))
    assert b"9999" not in ask("ludo").get("ledger").content


def test_it_names_no_page_out_of_its_readers_sight_whatever_was_done_about_it(ask, odile):
    """Limits, scopes and expectations are told by the page they are about; its id may speak, too."""
    stop = {"node": "min-2026-10", "to": {"kind": "role", "id": "pilot"}, "effect": "stop", "actions": ["edit"]}
    scope = {"branches": ["min-2026-10"]}
    apply(odile, {"kind": "set-limit", "applies": "branch", **stop})
    apply(odile, {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "edda"}, "scope": scope})
    minutes = {"account": "ines", "action": "see", "node": "min-2026-10", "expect": "deny"}
    ok(odile.delete(f"expectations/{ok(odile.post('expectations', minutes), 201)['id']}"), 204)
    ok(odile.patch("desk/pages/min-2026-10", {"title": "Secret minutes"}, **{"If-Match": '"1"'}))

    told = odile.get("ledger").data_read["entries"][:5]
    titles = ("Minutes of October", "Secret minutes")  # sentences are made when they are read
    assert all(any(title in f"{e['summary']} {e['changes']}" for title in titles) for e in told)
    assert all(e["changes"] for e in told)
    read = ask("ludo").get("ledger")
    assert {e["summary"] for e in read.data_read["entries"][:5]} == {"Something out of your sight was changed"}
    assert [e["changes"] for e in read.data_read["entries"][:5]] == [[]] * 5
    for word in (b"Minutes of October", b"Secret", b"min-2026-10"):
        assert word not in read.content
    assert ok(ask("ludo").get("ledger", search="Minutes of October"))["entries"] == []


def test_a_search_tells_not_even_that_there_is_more(ask, odile):
    for _ in range(60):
        record(By("odile"), "page.saved", about=("node", "min-2026-10"), title="Secret minutes")
    record(By("odile"), "page.saved", about=("node", "p3-sail-loft"), title="Secret recipe")
    assert ok(odile.get("ledger", search="Secret"))["before"] is not None
    found = ok(ask("ludo").get("ledger", search="Secret"))
    assert ([e["summary"] for e in found["entries"]], found["before"]) == (["Saved Secret recipe"], None)


def test_what_else_was_changed_with_something_out_of_sight_is_told(ask, odile):
    stop = {"to": {"kind": "role", "id": "pilot"}, "effect": "stop", "actions": ["edit"], "applies": "branch"}
    apply(odile, *({"kind": "set-limit", "node": node, **stop} for node in ("min-2026-10", "fees")))
    [entry, *_] = ok(ask("ludo").get("ledger"))["entries"]
    assert [c["what"] for c in entry["changes"]] == ["Limit on Fees and dues"]


def test_an_entry_tells_only_what_was_what_it_was_and_is(odile):
    ok(odile.patch("desk/pages/p3-sail-loft", {"values": {"telephone": "1"}}, **{"If-Match": '"1"'}))
    [entry, *_] = ok(odile.get("ledger"))["entries"]
    assert {key for change in entry["changes"] for key in change} == {"what", "was", "now"}


def test_a_page_costs_the_same_however_long(odile, django_assert_num_queries):
    for n in range(30):
        record(By("odile" if n % 2 else "ines"), "page.saved", title=f"page {n}")
    odile.get("ledger")
    with django_assert_num_queries(6):
        odile.get("ledger")
    assert Entry.objects.count() > 30
