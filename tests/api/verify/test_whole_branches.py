"""`remove` and `move` need the same of all that is beneath (§4): on the desk, in Why and on the X-ray."""

import pytest

from tests.api.support import apply, ok

BRANCH, BENEATH = "pier-3-branch", "p3-sail-loft"
TYPES = ("section", "berth")


@pytest.fixture
def mover(odile):
    """Renzo may move and remove all of Pier 3, then a limit beneath stops it for him."""
    apply(
        odile,
        *(
            {"kind": "set-answer", "role": "pilot", "capability": f"{type}.{verb}", "says": "all"}
            for type in TYPES
            for verb in ("see", "see-draft", "move", "remove", "edit")
        ),
        {
            "kind": "give-role",
            "role": "pilot",
            "to": {"kind": "account", "id": "renzo"},
            "scope": {},
            "starts": None,
            "ends": None,
        },
    )
    return "renzo"


def stop_beneath(odile, account):
    apply(
        odile,
        {
            "kind": "set-limit",
            "node": BENEATH,
            "to": {"kind": "account", "id": account},
            "effect": "stop",
            "applies": "node",
            "actions": ["move", "remove"],
        },
    )


@pytest.mark.parametrize("action", ["remove", "move"])
def test_a_limit_beneath_counts_for_all_that_is_above_it(odile, ask, mover, action):
    def told():
        page = ok(ask(mover).get(f"desk/pages/{BRANCH}"))
        why = ok(odile.get("why", account=mover, node=BRANCH, action=action))
        return action in page["may"], why["allow"], why["reason"]

    assert told() == (True, True, "allowed")
    stop_beneath(odile, mover)
    assert told() == (False, False, "stopped")


def test_the_x_ray_shows_both_as_closed(odile, mover):
    stop_beneath(odile, mover)
    ok(odile.post("stand-in", {"account": mover}), 204)
    ghosts = {g["key"]: g["reason"] for g in ok(odile.get(f"xray/pages/{BRANCH}"))["ghosts"] if g["kind"] == "action"}
    assert ghosts["remove"] == ghosts["move"] == "stopped"
    assert "see" not in ghosts
