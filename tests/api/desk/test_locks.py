"""Locks where one works: who meets one sees whose it is and why; closing and opening, each undone as one."""

from gonfalon.access.models import ChangeSet, Lock
from tests.api.support import ok, refused, stage

LOFT = "p3-sail-loft"
SAIL = {"node": LOFT, "why": "Being counted."}


def page(asking, node=LOFT):
    return ok(asking.get(f"desk/pages/{node}"))


def test_a_page_is_locked_with_a_word_and_whoever_meets_it_sees_by_whom_and_why(odile, ines):
    made = ok(odile.post("locks", SAIL), 201)
    assert (made["what"], made["by"], made["why"], made["may_open"]) == (
        "Pier 3, Sail loft",
        "Odile Varga",
        "Being counted.",
        True,
    )
    met = page(ines)
    [lock] = [lock for lock in met["locks"] if lock["field"] is None and lock["component"] is None]
    assert (lock["by"], lock["why"], lock["may_open"]) == ("Odile Varga", "Being counted.", False)
    assert met["locked"]
    assert "edit" not in met["may"]
    ok(odile.delete(f"locks/{made['id']}"), 204)
    assert "edit" in page(ines)["may"]


def test_a_field_or_a_component_is_locked_by_itself(odile, ines):
    field = next(f["key"] for f in page(ines)["fields"] if f["may_change"])
    ok(odile.post("locks", SAIL | {"field": field}), 201)
    component = next(c for c in page(ines)["components"] if c["may_arrange"])
    ok(odile.post("locks", SAIL | {"component": component["id"]}), 201)
    met = page(ines)
    assert not next(f for f in met["fields"] if f["key"] == field)["may_change"]
    assert not next(c for c in met["components"] if c["id"] == component["id"])["may_arrange"]
    assert {(k["field"], k["component"]) for k in met["locks"]} >= {(field, None), (None, component["id"])}


def test_opening_is_undone_with_its_word(odile):
    made = ok(odile.post("locks", SAIL), 201)
    ok(odile.delete(f"locks/{made['id']}"), 204)
    opened = ChangeSet.objects.filter(state="applied").latest("ended_at")
    ok(odile.post(f"change-sets/{opened.id}/undo"))
    assert Lock.objects.get(pk=made["id"]).why == "Being counted."
    entry = ok(odile.get("ledger"))["entries"][0]
    assert "Lock on Pier 3, Sail loft" in str(entry)


def last_applied():
    return ChangeSet.objects.filter(state="applied").latest("ended_at")


def test_locking_is_undone_too_and_that_again(odile):
    made = ok(odile.post("locks", SAIL), 201)
    undone = ok(odile.post(f"change-sets/{last_applied().id}/undo"))
    assert not Lock.objects.filter(pk=made["id"]).exists()
    ok(odile.post(f"change-sets/{undone['id']}/undo"))
    assert Lock.objects.get(pk=made["id"]).why == "Being counted."


def test_a_lock_that_is_only_staged_is_opened_again(odile):
    staged = stage(odile, {"kind": "set-lock", **SAIL})
    id = staged["operations"][0]["data"]["id"]
    assert stage(odile, {"kind": "open-lock", "lock": id})["operations"] == []


def test_who_may_not_open_locks_there_sets_none_and_opens_none(odile, ines):
    made = ok(odile.post("locks", SAIL), 201)
    refused(ines.delete(f"locks/{made['id']}"), "not-granted")
    refused(ines.post("locks", {"node": "p3-sea-school"}), "not-granted")
    assert Lock.objects.filter(pk=made["id"]).exists()


def test_what_is_out_of_sight_is_as_good_as_not_there(ines):
    hidden, made_up = (ines.post("locks", {"node": node}) for node in ("min-2026-10", "nowhere"))
    assert hidden.status_code == made_up.status_code == 422
    assert hidden.content.decode().replace("min-2026-10", "?") == made_up.content.decode().replace("nowhere", "?")
    refused(ines.delete("locks/nothing"), "not-found", 404)


def test_what_cannot_be_locked_names_the_field(odile):
    for sent, at in (
        ({"field": "nothing"}, "/field"),
        ({"component": "nothing"}, "/component"),
        ({"field": "berth", "component": "c1"}, "/component"),
        ({"why": "x" * 201}, "/why"),
    ):
        problem = refused(odile.post("locks", SAIL | sent), "invalid", 422)
        assert problem["errors"][0]["pointer"].endswith(at), problem
    ok(odile.post("locks", SAIL), 201)
    refused(odile.post("locks", SAIL), "invalid", 422)


def test_the_locks_of_a_branch_are_in_one_list(odile, ines):
    ok(odile.post("locks", SAIL), 201)
    ok(odile.post("locks", {"node": "fees"}), 201)
    beneath = {lock["node"] for lock in ok(odile.get("locks", branch="pier-3-branch"))}
    assert LOFT in beneath
    assert "fees" not in beneath
    assert {lock["node"] for lock in ok(ines.get("locks"))} <= {lock["node"] for lock in ok(odile.get("locks"))}


def test_it_can_be_asked_for_that_a_lock_is_opened(odile, ines):
    ok(odile.post("locks", SAIL), 201)
    id = ok(ines.post("requests", {"action": "edit", "node": LOFT, "word": "For the storm."}), 201)["id"]
    way = next(w for w in ok(odile.get(f"requests/{id}"))["ways"] if w["sentence"].startswith("Open the lock"))
    ok(odile.post(f"requests/{id}/grant", {"operations": way["operations"]}), 204)
    assert "edit" in page(ines)["may"]


def test_a_lock_on_a_field_that_one_may_not_see_is_not_told(odile, lone):
    ok(odile.post("locks", SAIL | {"field": "dues"}), 201)
    asking = lone("desk.open")
    assert "dues" not in {field["key"] for field in page(asking)["fields"]}
    assert "dues" not in {lock["field"] for lock in page(asking)["locks"]}
    assert "dues" not in {lock["field"] for lock in ok(asking.get("locks"))}
    assert "dues" in {lock["field"] for lock in ok(odile.get("locks"))}
