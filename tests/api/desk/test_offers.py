"""Where one may work, told as page by page the rules answer; New, Waiting and Bin only where there is something."""

import pytest

from gonfalon.content.models import Node
from tests.api.support import Asking, apply, ok

LOFT = "desk/pages/p3-sail-loft"
MEDIA = ("media-harbour", "media-regatta")


def offers(asking: Asking) -> dict:
    return ok(asking.get("desk/offers"))


def rows(asking: Asking, tree: str) -> dict[str, dict]:
    """What the desk's tree lists of every page, by id."""
    ids = list(Node.objects.values_list("pk", flat=True))
    some = [ids[n : n + 50] for n in range(0, len(ids), 50)]
    found = [row for part in some for row in ok(asking.get("desk/found", tree=tree, id=part))]
    return {row["id"]: row for row in found if not row["context"]}


@pytest.mark.parametrize("who", ["ines", "tomasz", "bashir", "anouk", "odile", "ciaran", "aiko"])
def test_it_is_what_each_page_answers(ask, who):
    asking = ask(who)
    told = offers(asking)
    edits = sum(work["edits"] for work in told["work"])
    listed = {**rows(asking, "content"), **rows(asking, "media")}
    assert told["work_in_all"] == len(told["work"]) <= 6, "else not all of it is told"
    assert edits == sum(row["may_edit"] or on_copy(asking, row) for row in listed.values())
    makes = {id for id in listed if ok(asking.get(f"desk/pages/{id}/new"))}
    beneath = {work["id"] for work in told["work"]}
    for id in makes | {id for id, row in listed.items() if row["may_edit"] or on_copy(asking, row)}:
        assert beneath & {id, *_above(id)}
    assert set(told["make_under"].values()) <= makes
    assert bool(told["make_under"]) == bool(makes)


def on_copy(asking: Asking, row: dict) -> bool:
    """Whether the working copy of what is public may be changed."""
    if row["state"] != "published":
        return False
    beside = ok(asking.get(f"desk/pages/{row['id']}"))["beside"]
    return beside is not None and beside["may_edit"]


def _above(id: str) -> list[str]:
    return [row.pk for row in Node.objects.get_ancestors(Node.objects.get(pk=id))]


def test_nothing_out_of_sight_is_offered_though_something_could_be_made_there(odile, ask):
    """Making something under a page does not ask whether one sees that page (§4)."""
    to = {"kind": "account", "id": "tomasz"}
    stop = {"kind": "set-limit", "to": to, "effect": "bar", "applies": "branch", "actions": ["see"]}
    before = offers(ask("tomasz"))
    assert before["make_under"]
    apply(odile, *(stop | {"node": node} for node in ("home-harbour", "home-regatta", *MEDIA)))
    assert (offers(ask("tomasz"))["work"], offers(ask("tomasz"))["make_under"]) == ([], {})


def test_of_a_retired_kind_nothing_is_offered_to_be_made(odile):
    [plural] = [kind["plural"] for kind in ok(odile.get("kinds")) if kind["key"] == "event"]
    assert plural in offers(odile)["work"][0]["makes"]
    kind = next(kind for kind in ok(odile.get("kinds")) if kind["key"] == "event")
    ok(odile.patch("kinds/event", {"retired": True}, **{"If-Match": f'"{kind["version"]}"'}))
    assert plural not in offers(odile)["work"][0]["makes"]


def test_waiting_and_bin_are_offered_where_there_is_something(ask, odile):
    told = offers(ask("ines"))
    assert (told["waiting"], told["bin"]) == (False, False)
    assert offers(ask("tomasz"))["waiting"]
    ok(odile.post(f"{LOFT}/remove", **{"If-Match": odile.get(LOFT)["ETag"]}), 204)
    assert offers(odile)["bin"]
    assert not offers(ask("aiko"))["bin"]
