"""`remove` and `move` need the same of all that is beneath (§4): on the desk, in Why and on the X-ray."""

import pytest

from gonfalon.access.models import Lock
from gonfalon.access.snapshot import raise_version
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


@pytest.fixture
def half_blind(odile, mover):
    """Renzo may ask why, and does not see the page beneath that stops him."""
    apply(
        odile,
        {"kind": "set-answer", "role": "pilot", "capability": "roles.define", "says": "yes"},
        {
            "kind": "set-limit",
            "node": BENEATH,
            "to": {"kind": "account", "id": mover},
            "effect": "bar",
            "applies": "node",
            "actions": ["see"],
        },
    )
    return mover


def told_why(asking, account):
    return " ".join(
        step["text"] for step in ok(asking.get("why", account=account, node=BRANCH, action="remove"))["steps"]
    )


def test_a_page_beneath_is_named_only_to_who_may_see_it(odile, ask, half_blind):
    stop_beneath(odile, half_blind)
    assert "A limit on Pier 3, Sail loft" in told_why(odile, half_blind)
    told = told_why(ask(half_blind), half_blind)
    assert "A limit on a page out of sight" in told
    assert "Sail loft" not in told


def test_a_lock_beneath_is_told_of_the_page_that_it_is_on(odile, ask, half_blind):
    Lock.objects.create(node=BENEATH, why="The survey is under way", locked_by="odile")
    raise_version()
    assert "Pier 3, Sail loft is locked by Odile Varga: The survey is under way." in told_why(odile, half_blind)
    told = told_why(ask(half_blind), half_blind)
    assert "A page out of sight is locked." in told
    assert "Odile" not in told


def test_the_x_ray_shows_both_as_closed(odile, mover):
    stop_beneath(odile, mover)
    ok(odile.post("stand-in", {"account": mover}), 204)
    ghosts = {g["key"]: g["reason"] for g in ok(odile.get(f"xray/pages/{BRANCH}"))["ghosts"] if g["kind"] == "action"}
    assert ghosts["remove"] == ghosts["move"] == "stopped"
    assert "see" not in ghosts
