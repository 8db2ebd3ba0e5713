"""The tree as it is opened: children, the way to a node, and what is found; never more than is in sight."""

import pytest

from gonfalon.api.tree import MOST_FOUND
from gonfalon.content.models import Node
from tests.api.support import apply, in_tree, ok, refused

LOFT = "p3-sail-loft"


def ids(rows):
    return [row["id"] for row in rows]


def test_what_stands_under_a_node_comes_in_its_order(odile):
    top = ok(odile.get("desk/children"))
    assert ids(top) == ["home-harbour", "home-regatta"]
    beneath = Node.objects.get_children(Node.objects.get(pk="home-harbour"))
    assert ids(ok(odile.get("desk/children/home-harbour"))) == [node.id for node in beneath]
    assert not ok(odile.get(f"desk/children/{LOFT}"))


def test_every_node_in_sight_is_come_to_and_none_beyond(odile, ask):
    assert len(in_tree(odile)) + len(in_tree(odile, "media")) == Node.objects.count()
    seen = in_tree(ask("ines"))
    assert not seen[LOFT]["context"]
    assert all(row["parent"] in seen for row in seen.values() if row["parent"])
    assert {id for id, row in seen.items() if row["branch"]} == {row["parent"] for row in seen.values()} - {None}


def test_the_way_to_a_node_is_all_that_is_listed_on_it(odile):
    way = ids(ok(odile.get(f"desk/way/{LOFT}")))
    assert {"home-regatta", "events", "pier-5-branch", LOFT} <= set(way)
    assert "open-day" not in way
    assert way == [id for id in in_tree(odile) if id in set(way)]


def test_words_find_titles_with_what_is_above_them(odile):
    rows = ok(odile.get("desk/found", words="3, SAIL loft"))
    assert [row["id"] for row in rows if row["found"]] == [LOFT]
    assert ids(rows) == ["home-harbour", "moorings", "directory", "pier-3-branch", LOFT]
    assert not ok(odile.get("desk/found", words="nothing of the kind"))


def test_it_is_found_by_kind_beneath_a_node_and_by_ids(odile):
    pictures = ok(odile.get("desk/found", tree="media", type="picture"))
    assert {row["type"] for row in pictures if row["found"]} == {"picture"}
    beneath = ok(odile.get("desk/found", under="events"))
    assert {row["id"] for row in beneath if row["found"]} == {
        n.id for n in Node.objects.get_descendants(Node.objects.get(pk="events"))
    }
    named = ok(odile.get("desk/found", id=[LOFT, "pic-sail-loft", "nothing"]))
    assert {row["id"] for row in named if row["found"]} == {LOFT, "pic-sail-loft"}
    assert len(ok(odile.get("desk/found"))) <= MOST_FOUND


@pytest.mark.parametrize("part", ["children", "way"])
def test_a_node_out_of_sight_is_as_good_as_not_there(ask, part):
    seen = {**in_tree(ask("ines")), **in_tree(ask("ines"), "media")}
    hidden = Node.objects.exclude(id__in=seen).values_list("id", flat=True)[0]
    refused(ask("ines").get(f"desk/{part}/{hidden}"), "not-found", 404)
    assert not ok(ask("ines").get("desk/found", id=hidden))
    assert not ok(ask("ines").get("desk/found", under=hidden))


def test_locks_and_states_are_told(odile):
    rows = in_tree(odile)
    assert rows["home-harbour"]["locked"]
    assert rows["lantern-night"]["state"] == "review"


def test_what_carries_limits_is_found_with_what_one_has_staged(odile):
    rows = ok(odile.get("limits/found", role="duty-editor", limits="true"))
    assert {row["id"] for row in rows if row["found"]} == {row["node"] for row in ok(odile.get("limits"))}
    assert all(row["limits"] + row["lifts"] for row in rows if row["found"])
    stop = {"kind": "set-limit", "node": "events", "to": {"kind": "role", "id": "pilot"}, "effect": "stop"}
    apply(odile, stop | {"applies": "branch", "actions": ["edit"]})
    assert "events" in ids(ok(odile.get("limits/found", role="duty-editor", limits="true")))


def test_marks_are_the_same_however_a_row_is_come_to(odile):
    by_children = in_tree(odile, of="limits", role="duty-editor")
    for rows in (
        ok(odile.get("limits/way/museum-visit", role="duty-editor")),
        ok(odile.get("limits/found", role="duty-editor", words="museum")),
    ):
        assert {row["id"]: row["marks"] for row in rows} == {row["id"]: by_children[row["id"]]["marks"] for row in rows}
