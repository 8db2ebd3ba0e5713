"""Who can do something here, through what, and who almost can and what stops them."""

import csv
from io import StringIO

import pytest

from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from tests.api.support import apply, ok, refused, stage

LOFT = "p3-sail-loft"


def who(asking, **asked):
    return ok(asking.get("limit/who", **{"action": "edit", "node": LOFT} | asked))


@pytest.mark.parametrize(
    ("action", "node", "part"),
    [
        ("edit", LOFT, {}),
        ("publish", "fees", {}),
        ("see", "min-2026-10", {}),
        ("remove", "pier-3-branch", {}),
        ("discussion.moderate", "notices", {}),
        ("change-field", LOFT, {"field": "dues"}),
        ("insert-component", LOFT, {"component": "table"}),
        ("change-facet", LOFT, {"component": "text", "facet": "wording"}),
        ("create", "events", {"type": "event"}),
    ],
)
def test_it_is_what_the_rules_answer_to_each(odile, action, node, part):
    told = who(odile, action=action, node=node, **part)
    engine = engine_over(content(), current())
    target = engine.tree.target(node)
    asked = {key: value for key, value in part.items() if key != "type"}
    if "type" in part:
        target = target.child(part["type"])
    accounts = [a.id for a in engine.policy.accounts.values() if not a.keyholder and a.state == "active"]
    can = {id for id in accounts if engine.decide(Question(id, action, target, now(), **asked)).allow}
    assert {row["account"] for row in told["can"]} == can
    assert told["can_count"] == len(can)
    for row in told["can"]:
        assert row["through"], row
    for row in told["almost"]:
        reason = engine.decide(Question(row["account"], action, target, now(), **asked)).reason
        assert (row["reason"], bool(row["stopped"])) == (str(reason), True)


def test_a_role_with_its_cloth_and_where_it_is_held_and_what_stops_the_others(odile):
    apply(odile, {"kind": "set-limit", "node": "moorings", "to": {"kind": "account", "id": "ines"}, "effect": "stop",
                  "applies": "branch", "actions": ["edit"]})  # fmt: skip
    told = who(odile)
    ines = next(row for row in told["almost"] if row["account"] == "ines")
    assert ines["stopped"] == "stopped on Moorings"
    tomasz = next(row for row in told["can"] if row["account"] == "tomasz")
    assert {t["role"]["name"] for t in tomasz["through"] if t["role"]}
    assert told["keyholders"] >= 1


def test_on_a_branch_how_much_of_it(odile):
    told = who(odile, node="", branch="moorings")
    ines = next(row for row in told["can"] if row["account"] == "ines")
    assert 0 < ines["can"] < ines["of"]
    fields = who(odile, node="", branch="pier-3-branch", action="change-field", field="telephone")
    assert fields["can"]


def test_what_is_staged_counts_as_applied(odile):
    before = {row["account"] for row in who(odile, node="fees")["can"]}
    stage(odile, {"kind": "give-capability", "to": {"kind": "account", "id": "ines"}, "capability": "section.edit",
                  "says": "all", "scope": {"branches": ["fees"]}},
          {"kind": "give-capability", "to": {"kind": "account", "id": "ines"}, "capability": "section.edit-live",
           "says": "all", "scope": {"branches": ["fees"]}})  # fmt: skip
    assert {row["account"] for row in who(odile, node="fees")["can"]} == before | {"ines"}


def test_it_is_filtered_and_a_table(odile):
    told = who(odile, search="Ines")
    assert [row["name"] for row in told["can"]] == ["Ines Marrow"]
    table = odile.client.get(f"/api/limit/who/table?action=edit&node={LOFT}")
    rows = list(csv.DictReader(StringIO(table.content.decode("utf-8-sig"))))
    assert {row["name"] for row in rows if row["can"] == "yes"} == {row["name"] for row in who(odile)["can"]}


def test_people_are_for_those_who_see_the_roster(lone):
    refused(lone("limits.set", "berth.see").get("limit/who", action="edit", node=LOFT), "not-granted")
    hidden, made_up = (
        lone("limits.set", "roster.see").get("limit/who", action="edit", node=node)
        for node in ("min-2026-10", "nowhere")
    )
    assert hidden.content == made_up.content


@pytest.mark.parametrize(
    ("asked", "at"),
    [
        ({"action": "fly"}, "/action"),
        ({"node": ""}, "/node"),
        ({"action": "create", "branch": "events", "type": "event"}, "/branch"),
        ({"action": "create"}, "/type"),
        ({"action": "roles.define", "node": "", "branch": "events"}, "/branch"),
    ],
)
def test_what_cannot_be_asked_names_the_field(odile, asked, at):
    problem = refused(odile.get("limit/who", **{"action": "edit", "node": LOFT} | asked), "invalid", 422)
    assert problem["errors"][0]["pointer"] == at
