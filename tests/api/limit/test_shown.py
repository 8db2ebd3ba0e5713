"""What one page shows to whom, side by side."""

import pytest

from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from tests.api.support import ok, refused, stage

LOFT = "p3-sail-loft"
WHO = ["visitor", "account ines", "role duty-editor", "group pilots"]


def shown(asking, who=tuple(WHO), node=LOFT):
    return ok(asking.get("limit/shown", node=node, who=list(who)))


def test_it_is_what_the_rules_answer_to_each(odile):
    told = shown(odile)
    engine = engine_over(content(), current())
    target = engine.tree.target(LOFT)
    assert told["who"] == ["A visitor", "Ines Marrow", "Duty editor", "The group Pilots"]
    for field in told["fields_shown"]:
        for i, who in ((0, None), (1, "ines")):
            for key, action in (("see", "see-field"), ("change", "change-field")):
                question = Question(who, action, target, now(), field=field["key"])
                assert field["answers"][i][key] == engine.decide(question).allow
    dues = next(field for field in told["fields_shown"] if field["key"] == "dues")
    assert (dues["answers"][0]["see"], dues["answers"][2]["see"]) == (False, True)


def test_what_is_staged_counts(odile):
    stage(odile, {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "open", "table": {}})
    dues = next(field for field in shown(odile)["fields_shown"] if field["key"] == "dues")
    assert dues["answers"][0]["see"]


@pytest.mark.parametrize("who", ["role nobody", "group nobody", "account nobody", "captain"])
def test_nobody_unknown(odile, who):
    refused(odile.get("limit/shown", node=LOFT, who=[who]), "not-found", 404)


def test_one_to_six_of_a_page_that_one_knows(odile, lone):
    assert refused(odile.get("limit/shown", node=LOFT), "invalid", 422)["errors"][0]["pointer"] == "/who"
    refused(odile.get("limit/shown", node=LOFT, who=["visitor"] * 7), "invalid", 422)
    hidden, made_up = (lone("limits.set").get("limit/shown", node=n, who=["visitor"]) for n in ("min-2026-10", "x"))
    assert hidden.content == made_up.content
    people = [
        lone("limits.set", "berth.see").get("limit/shown", node=LOFT, who=[f"account {id}"]) for id in ("ines", "x")
    ]
    assert people[0].content == people[1].content
