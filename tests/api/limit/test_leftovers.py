"""What somebody can still change, part by part, the surprising first."""

import pytest

from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from tests.api.support import apply, ok, refused

LOFT = "p3-sail-loft"


def leftovers(asking, **asked):
    told = ok(asking.get("limit/leftovers", **{"who": "account ines", "node": LOFT} | asked))
    return {row["what"]: row for row in told["leftovers"]}


def test_it_is_all_that_the_rules_let_them_change_and_nothing_else(odile):
    told = leftovers(odile)
    engine = engine_over(content(), current())
    target = engine.tree.target(LOFT)
    for component in Node.objects.get(pk=LOFT).components:
        part = {"component": component["kind"], "component_id": component["id"]}
        allowed = engine.decide(Question("ines", "change-facet", target, now(), facet="style", **part)).allow
        if allowed:
            assert f"Style of a {component['kind']}" in told
    assert "Wording of a text" in told
    assert "Annual dues of berth pages" not in told
    assert "Edit berth pages" in told
    assert "Publish berth pages" not in told


def test_over_a_branch_at_how_many_pages(odile):
    told = leftovers(odile, node="", branch="pier-3-branch")
    wording = told["Wording of a text"]
    assert 0 < wording["pages"] < wording["of"]


def test_what_is_locked_elsewhere_comes_first(odile):
    components = Node.objects.get(pk="p3-sea-school").components
    text = next(c["id"] for c in components if c["kind"] == "text")
    ok(odile.post("locks", {"node": "p3-sea-school", "component": text}), 201)
    rows = [*leftovers(odile, node="", branch="pier-3-branch", who="role duty-editor").values()]
    first = [row for row in rows if row["locked_elsewhere"]]
    assert rows[: len(first)] == first
    assert "Wording of a text" in {row["what"] for row in first}


def test_of_a_role_as_the_author_or_not(odile):
    assert leftovers(odile, who="role tenant-editor") == {}
    assert "Wording of a text" in leftovers(odile, who="role tenant-editor", own="true")
    bar = {"kind": "set-limit", "node": LOFT, "to": {"kind": "role", "id": "tenant-editor"}, "effect": "bar"}
    apply(odile, bar | {"applies": "node", "actions": None})
    assert leftovers(odile, who="role tenant-editor", own="true") == {}


@pytest.mark.parametrize("asked", [{"who": "role nobody"}, {"node": "nowhere"}, {"who": ""}])
def test_nothing_unknown(odile, asked):
    refused(odile.get("limit/leftovers", **{"who": "account ines", "node": LOFT} | asked), "not-found", 404)


def test_so_many_pages_at_once(odile, monkeypatch):
    monkeypatch.setattr("gonfalon.api.limit.leftovers.MOST_PAGES", 3)
    asked = {"who": "account ines", "branch": "moorings"}
    assert refused(odile.get("limit/leftovers", **asked), "invalid", 422)["errors"][0]["pointer"] == "/branch"


def test_pages_out_of_sight_are_not_counted(odile, lone):
    asked = {"who": "role duty-editor", "branch": "home-harbour"}
    whole, part = (ok(asking.get("limit/leftovers", **asked))["pages"] for asking in (odile, lone("limits.set")))
    assert part < whole
