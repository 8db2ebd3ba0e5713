"""Topics are added, renamed, merged and removed, each by its own duty; pages and scopes follow."""

import pytest

from gonfalon.access.models import Assignment
from gonfalon.content.models import Node
from tests.api.support import apply, ok, refused

TAG = {"If-Match": '"1"'}
LOFT = "desk/pages/p3-sail-loft"


@pytest.fixture
def currents(odile):
    ok(odile.post("topics", {"name": "Currents"}), 201)
    ok(odile.patch(LOFT, {"topics": ["currents"]}, **TAG))
    about = {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "arvo"}}
    apply(odile, about | {"scope": {"topics": ["currents"]}})


def may_edit(asking):
    return "edit" in ok(asking.get(LOFT))["may"]


def test_a_topic_has_a_name_of_its_own(odile):
    assert ok(odile.post("topics", {"name": " Currents "}), 201)["key"] == "currents"
    for name, why in (("currents", "Another topic has this name."), ("  ", "A topic needs a name.")):
        problem = refused(odile.post("topics", {"name": name}), "invalid", 422)
        assert problem["errors"] == [{"pointer": "/name", "message": why}]


def test_a_scope_by_topic_works_from_end_to_end(currents, ask):
    assert may_edit(ask("arvo"))
    assert ok(ask("arvo").get("desk/pages/p5-cafe"))["may"] == ["see"]


def test_renaming_changes_nothing_but_the_name(currents, odile, ask):
    assert ok(odile.patch("topics/currents", {"name": "High and low water"}, **TAG))["name"] == "High and low water"
    assert odile.patch("topics/currents", {"name": "Again"}, **TAG).status_code == 412
    assert may_edit(ask("arvo"))


def test_merging_lets_pages_and_scopes_follow(currents, odile, ask):
    odile.post("topics", {"name": "Water"})
    ok(odile.post("topics/currents/merge", {"into": "water"}))
    assert Node.objects.get(pk="p3-sail-loft").topics == ["water"]
    assert Assignment.objects.get(account="arvo", role="duty-editor").scope == {"topics": ["water"]}
    assert may_edit(ask("arvo"))
    assert [topic["key"] for topic in ok(odile.get("topics")) if topic["key"] in ("currents", "water")] == ["water"]
    assert refused(odile.post("topics/water/merge", {"into": "water"}), "conflict", 409)
    assert odile.post("topics/water/merge", {"into": "gone"}).status_code == 422


def test_removing_tells_what_names_it_and_leaves_a_scope_for_nothing(currents, odile, ask):
    used = ok(odile.get("topics/currents"))
    assert (used["pages"], used["titles"], used["given"]) == (1, ["Pier 3, Sail loft"], 1)
    assert odile.delete("topics/currents").status_code == 204
    assert Node.objects.get(pk="p3-sail-loft").topics == []
    assert Assignment.objects.get(account="arvo", role="duty-editor").scope == {"topics": []}
    assert not may_edit(ask("arvo"))


def test_each_is_a_duty_of_its_own(currents, lone):
    doing = {
        "topics.add": lambda one: one.post("topics", {"name": "Knots"}),
        "topics.rename": lambda one: one.patch("topics/currents", {"name": "Ebb"}, **TAG),
    }
    for duty, do in doing.items():
        for other in doing:
            assert (do(lone(other, "desk.open")).status_code < 300) == (duty == other), (duty, other)


def test_what_is_given_only_about_it_is_taken_by_whoever_gives_roles(currents, lone):
    refused(lone("topics.remove", "desk.open").delete("topics/currents"), "not-granted")
    refused(lone("topics.remove", "desk.open").post("topics/currents/merge", {"into": "currents"}), "conflict", 409)
    assert lone("topics.remove", "desk.open", "roles.assign").delete("topics/currents").status_code == 204


def test_letting_more_be_about_what_something_is_given_about_is_for_whoever_gives_roles(currents, lone, odile):
    ok(odile.post("topics", {"name": "Plain"}), 201)
    refused(lone("topics.remove", "desk.open").post("topics/plain/merge", {"into": "currents"}), "not-granted")
    ok(lone("topics.remove", "desk.open", "roles.assign").post("topics/plain/merge", {"into": "currents"}))
