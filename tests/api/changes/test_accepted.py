"""Whatever an installation takes on can be said in a policy document that `gonfalon check` finds no fault with."""

from random import Random

import pytest

from gonfalon.core import load_policy, write_policy
from gonfalon.verify.documents import whole_policy
from tests.api.bad_requests import EXAMPLES, Making
from tests.api.support import ok, refused
from tests.examples import SEED, examples


@pytest.mark.parametrize("seed", range(SEED, SEED + examples(4)))
def test_what_is_applied_and_expected_passes_the_check(odile, seed):
    random = Random(seed)
    making, accepted = Making(random, {}), 0
    for _ in range(120):
        asked = making.altered(random.choice(EXAMPLES["stage"]))
        accepted += odile.post("change-set/operations", asked).status_code == 200
        expected = making.altered(random.choice(EXAMPLES["record_expectation"]))
        accepted += odile.post("expectations", expected).status_code == 201
        if random.random() < 0.1 and odile.post("change-set/apply").status_code == 409:
            ok(odile.delete("change-set"))
    odile.post("change-set/apply")
    load_policy(write_policy(whole_policy()))
    assert accepted > 40


@pytest.mark.parametrize(
    ("change", "pointer"),
    [
        ({"scope": {"sites": ["atlantis"]}}, "/scope/sites"),
        ({"scope": {"topics": ["stars"]}}, "/scope/topics"),
        ({"scope": {"types": ["ship"]}}, "/scope/types"),
        ({"scope": {"branches": ["atlantis"]}}, "/scope/branches"),
    ],
)
def test_a_role_is_given_only_where_there_is_something(odile, change, pointer):
    given = {"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "pilots"}} | change
    problem = refused(odile.post("change-set/operations", {"operations": [given]}), "invalid", 422)
    assert [error["pointer"] for error in problem["errors"]] == [pointer]


@pytest.mark.parametrize(
    ("change", "pointer"),
    [
        ({"action": "see-field", "field": "depth"}, "/field"),
        ({"action": "see-field"}, "/field"),
        ({"branch": "moorings", "node": "p3-sail-loft"}, "/node"),
        ({"branch": "moorings", "types": ["ship"], "node": None}, "/node"),
        ({"types": ["berth"]}, "/types"),
        ({"action": "fly"}, "/action"),
        ({"action": "desk.open"}, "/node"),
        ({"account": "nobody"}, "/account"),
        ({"holders_of": "pilot"}, "/account"),
    ],
)
def test_only_what_can_be_asked_is_expected(odile, change, pointer):
    asked = {"account": "ines", "action": "edit", "node": "p3-sail-loft", "expect": "allow"} | change
    problem = refused(odile.post("expectations", asked), "invalid", 422)
    assert pointer in [error["pointer"] for error in problem["errors"]]
