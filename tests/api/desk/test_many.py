"""One thing is done with several pages: with those for which it may be, or with none unless it may be with all."""

from gonfalon.content.models import Node
from tests.api.support import ok, refused


def many(asking, *nodes, **said):
    return asking.post("desk/many", {"nodes": nodes, **said})


def states(*nodes):
    return [Node.objects.get(pk=id).state for id in nodes]


def test_the_rest_is_done_and_each_refused_one_is_told(ask):
    told = ok(many(ask("ines"), "p3-sail-loft", "p5-cafe", "min-2026-10", "no-such-page", action="retire"))
    assert told["done"] == 1
    assert [(one["id"], one["title"] is not None, one["done"]) for one in told["pages"]] == [
        ("p3-sail-loft", True, True),
        ("p5-cafe", True, False),
        ("min-2026-10", False, False),
        ("no-such-page", False, False),
    ]
    assert told["pages"][1]["why"].startswith("You may not retire this.")
    assert told["pages"][2]["why"] == told["pages"][3]["why"]
    assert states("p3-sail-loft", "p5-cafe") == ["retired", "published"]


def test_or_none_of_it(ask):
    told = ok(many(ask("ines"), "p3-sail-loft", "p5-cafe", action="retire", together=True))
    assert told["done"] == 0
    assert states("p3-sail-loft", "p5-cafe") == ["published", "published"]


def test_a_page_that_went_with_one_above_it_is_told_as_gone(odile):
    told = ok(many(odile, "events", "open-day", action="remove"))
    assert [one["done"] for one in told["pages"]] == [True, False]
    ok(odile.post("desk/pages/events/restore"))
    assert Node.objects.find_problems() == ([], [], [], [], [])


def test_they_are_moved_and_published(odile):
    assert ok(many(odile, "open-day", "knot-night", action="publish"))["done"] == 2
    assert ok(many(odile, "open-day", "knot-night", action="move", to="races"))["done"] == 2
    children = [row.id for row in Node.objects.get_children(Node.objects.get(pk="races"))]
    assert children[-2:] == ["open-day", "knot-night"]
    problem = refused(many(odile, "open-day", action="move"), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/to"
    told = ok(many(odile, "home-harbour", action="remove"))
    assert (told["done"], told["pages"][0]["title"]) == (0, "Skerrow Harbour")
