"""Side by side: what each may do, beside the engine's own answers, and nothing that one could not look at."""

from typing import Any

import pytest

from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import HypotheticalSubject, Question
from tests.api.support import Asking, apply, ok, refused, stage

LOFT = "p3-sail-loft"
WIDER = {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"}


def beside(asking: Asking, *sides: str, **query: Any) -> Any:
    return ok(asking.get("side-by-side", side=sides, **query))


def test_a_page_and_its_parts_are_as_the_engine_has_them(odile):
    engine, at = engine_over(content(), current()), now()
    whom = ["ines", None, HypotheticalSubject(("tenant-editor",), as_author=True)]
    told = beside(odile, "account:ines", "visitor", "roles:tenant-editor;own", node=LOFT)
    assert [side["name"] for side in told["sides"]] == ["Ines Marrow", "A visitor", "Tenant editor"]
    target = engine.tree.target(LOFT)
    for row in told["rows"]:
        says = []
        for who in whom:
            part = {key: value for key, value in row["asked"].items() if key != "action"}
            answers = [
                engine.decide(Question(who, action, target, at, **part)).allow
                for action in (("see-field", "change-field") if row["group"] == "field" else (row["asked"]["action"],))
            ]
            if row["group"] == "field":
                says.append("no" if not answers[0] else "change" if answers[1] else "see")
            else:
                says.append("yes" if answers[0] else "no")
        assert [answer["says"] for answer in row["answers"]] == says, row
        assert row["differs"] == (len(set(says)) > 1)
    assert told["differing"] == sum(row["differs"] for row in told["rows"]) > 0
    only = beside(odile, "account:ines", "visitor", "roles:tenant-editor;own", node=LOFT, differing="true")
    assert only["rows"] == [row for row in told["rows"] if row["differs"]]


def test_the_page_is_drawn_as_each_has_it(odile):
    told = beside(odile, "account:ines", "visitor", node=LOFT)
    assert "Annual dues" in told["sides"][0]["html"]
    assert "Annual dues" not in told["sides"][1]["html"]
    hidden = beside(odile, "account:ines", "visitor", node="min-2026-10")
    assert [side["html"] for side in hidden["sides"]] == [None, None]


def test_the_tree_has_pages_alone_and_marks_what_differs(odile):
    told = beside(odile, "account:ines", "account:aiko", show="tree", differing="true")
    survey = engine_over(content(), current()).survey(["ines", "aiko"], None, told["actions"], now())
    tree = content().tree
    differing = [
        node.id for i, node in enumerate(tree.nodes) if node.tree == "content" and (survey[0, i] != survey[1, i]).any()
    ]
    assert [node["id"] for node in told["nodes"]] == differing
    assert told["differing"] == told["total"] == len(differing)


def test_the_board_tells_how_far_each_is_given_something(odile):
    told = beside(odile, "roles:tenant-editor", "account:odile", show="board")["rows"]
    rows = {row["key"]: [answer["says"] for answer in row["answers"]] for row in told}
    assert rows["berth.edit"] == ["own", "all"]
    assert rows["desk.open"] == ["yes", "all"]


def test_one_beside_oneself_on_a_date_and_with_what_is_staged(odile):
    stage(odile, WIDER)
    told = beside(odile, "account:ines", "account:ines;staged", node=LOFT, differing="true")
    assert [(row["key"], [a["says"] for a in row["answers"]]) for row in told["rows"]] == [("publish", ["no", "yes"])]
    ok(odile.delete("change-set"))
    before = now().isoformat()
    apply(odile, WIDER)
    told = beside(odile, f"account:ines;at={before}", "account:ines", node=LOFT, differing="true")
    assert [(row["key"], [a["says"] for a in row["answers"]]) for row in told["rows"]] == [("publish", ["no", "yes"])]


@pytest.mark.parametrize(
    "sides",
    [
        (),
        ("visitor",),
        ("visitor",) * 4,
        ("visitor", "account:"),
        ("visitor", "account:nobody"),
        ("visitor", "roles:nothing"),
        ("visitor", "groups:nothing"),
        ("visitor", "visitor;at=soon"),
        ("visitor", "visitor;at=2026-01-01T00:00:00"),
        ("visitor", "visitor;loud"),
        ("visitor", "x" * 700),
    ],
)
def test_what_cannot_be_read_is_said(odile, sides):
    assert (
        refused(odile.get("side-by-side", side=sides, show="board"), "invalid", 422)["errors"][0]["pointer"] == "/side"
    )


def test_nobody_is_told_of_those_whom_they_could_not_stand_in_for(ask):
    bashir = ask("bashir")
    refused(bashir.get("side-by-side", side=("visitor", "account:odile"), show="board"), "beyond")
    refused(ask("ines").get("side-by-side", side=("visitor", "account:ines"), show="board"), "not-granted")


def test_it_is_told_while_one_stands_in_too_as_whoever_signed_in(odile):
    ok(odile.post("stand-in", {"account": "ines", "mode": "rehearse"}), 204)
    told = beside(odile, "account:ines", "account:odile", node="min-2026-10")
    assert [side["html"] is None for side in told["sides"]] == [True, False]


def test_a_page_that_one_does_not_see_oneself_is_not_there(ask, odile):
    lieke = ask("lieke")
    give = {"kind": "give-capability", "capability": "impersonate.start", "says": "yes"}
    apply(odile, give | {"to": {"kind": "account", "id": "lieke"}})
    beside(lieke, "account:lieke", "visitor", node=LOFT)
    refused(lieke.get("side-by-side", side=("account:lieke", "visitor"), node="min-2026-10"), "not-found", 404)
    every = {node["title"] for node in beside(lieke, "account:lieke", "visitor", show="tree")["nodes"]}
    assert "Minutes of October" not in every
    assert {node["title"] for node in beside(odile, "account:ines", "visitor", show="tree")["nodes"]} > every
