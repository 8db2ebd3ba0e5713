"""What an operation names is looked at again when it is applied: it may be gone, and what comes after it is another."""

import pytest

from gonfalon.access.models import Answer, Limit
from gonfalon.content.models import Node, Topic
from tests.api.support import apply, ok, refused, stage

TO = {"to": {"kind": "account", "id": "noor"}}
LIMIT = {"kind": "set-limit", "node": "winter-rates", **TO, "effect": "stop", "applies": "node", "actions": ["edit"]}
GIVE = {"kind": "give-role", "role": "pilot", **TO}


def remove(asking, page: str) -> None:
    ok(asking.post(f"desk/pages/{page}/remove", **{"If-Match": asking.get(f"desk/pages/{page}")["ETag"]}), 204)


def stale(asking) -> list[bool]:
    refused(asking.post("change-set/apply"), "conflict", 409)
    return ok(asking.get("change-set"))["operations"]


@pytest.mark.parametrize("operation", [LIMIT, GIVE | {"scope": {"branches": ["winter-rates"]}}])
def test_a_page_that_is_in_the_bin_by_then(odile, operation):
    stage(odile, operation)
    remove(odile, "winter-rates")
    assert stale(odile)
    ok(odile.post("desk/pages/winter-rates/restore"))
    ok(odile.post("change-set/apply"))


def test_a_limit_on_a_page_that_is_gone_can_still_be_dropped(odile):
    apply(odile, LIMIT)
    [limit] = Limit.objects.filter(node="winter-rates", subject_id="noor").values_list("pk", flat=True)
    stage(odile, {"kind": "drop-limit", "limit": limit})
    remove(odile, "winter-rates")
    ok(odile.post("change-set/apply"))


def test_a_topic_that_is_removed_and_one_of_its_name_that_comes_after_it(odile):
    stage(odile, GIVE | {"scope": {"topics": ["tides"]}})
    assert odile.delete("topics/tides").status_code == 204
    assert stale(odile)
    made = ok(odile.post("topics", {"name": "Tides"}), 201)
    assert made["key"] != "tides"
    assert stale(odile)
    assert not Topic.objects.filter(pk="tides").exists()


def test_a_markup_set_that_is_dropped_and_one_of_its_name_that_comes_after_it(odile):
    markup = {"name": "Wide", "elements": {"p": ["class"]}, "schemes": []}
    first = ok(odile.post("markup-sets", markup), 201)["key"]
    stage(odile, {"kind": "set-answer", "role": "pilot", "capability": f"markup.{first}", "says": "yes"})
    assert odile.delete(f"markup-sets/{first}").status_code == 204
    assert stale(odile)
    second = ok(odile.post("markup-sets", markup), 201)["key"]
    assert second != first
    assert stale(odile)
    assert not Answer.objects.filter(capability=f"markup.{second}").exists()


def test_a_role_and_a_group_that_come_after_ones_of_their_name(odile):
    for path, name, ending, drop in (
        ("roles", "Slip crew", "removal", {"kind": "drop-role", "role": "slip-crew"}),
        ("groups", "Slip hands", "ending", {"kind": "drop-group", "group": "slip-hands"}),
    ):
        assert ok(odile.post(path, {"name": name}), 201)["key"] == drop.get("role", drop.get("group"))
        apply(odile, drop)
        assert ok(odile.post(path, {"name": name}), 201)["key"].endswith("-2"), ending


def test_a_field_that_is_retired_by_then(odile):
    rule = {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "author", "table": {}}
    stage(odile, rule)
    version = next(kind["version"] for kind in ok(odile.get("kinds")) if kind["key"] == "berth")
    ok(odile.patch("kinds/berth/fields/dues", {"retired": True}, **{"If-Match": f'"{version}"'}))
    assert stale(odile)
    assert Node.objects.filter(values__has_key="dues").exists()
