"""Many accounts at once: previewed exactly, staged, applied and undone as one."""

import pytest

from gonfalon.access.models import Assignment
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account
from tests.api.support import ok, refused

INTERNS = {"role": "season-intern"}


def test_a_scope_names_no_more_than_can_be_looked_at_for_all(odile):
    asked = {"all_that_match": {}, "action": "give-role", "role": "pilot", "scope": {"branches": ["fees"] * 900}}
    for path in ("accounts/many", "accounts/many/preview"):
        assert refused(odile.post(path, asked), "invalid", 422)["errors"][0]["pointer"] == "/scope"


def test_taking_a_role_tells_who_loses_and_who_keeps_it(odile):
    asked = {"accounts": ["aiko", "ciaran", "arvo"], "action": "take-role", "role": "season-intern"}
    told = ok(odile.post("accounts/many/preview", asked))
    assert (told["chosen"], told["changes"], told["gain"], told["lose"]) == (3, 2, 0, 2)
    assert told["losing"] == ["Aiko Lindqvist", "Ciaran Ubukata"]
    assert told["keeps"] == [{"name": "Arvo Tennant", "why": "does not have it"}]
    assert len(told["breaks"]) == 1
    assert ok(odile.get("change-set"))["operations"] == []


def test_through_a_group_a_role_stays(odile):
    told = ok(odile.post("accounts/many/preview", {"accounts": ["arvo"], "action": "take-role", "role": "pilot"}))
    assert told["keeps"] == [{"name": "Arvo Tennant", "why": "has it through a group only"}]


@pytest.mark.parametrize(
    "asked",
    [
        {"action": "give-role", "role": "picture-desk", "scope": {"sites": ["regatta"]}},
        {"action": "take-role", "role": "season-intern"},
        {"action": "join", "group": "pilots"},
        {"action": "set-end", "role": "season-intern", "ends": "2099-01-01T00:00:00Z"},
        {"action": "disable"},
    ],
    ids=lambda asked: asked["action"],
)
def test_it_is_done_to_all_that_match_and_undone_as_one(odile, asked):
    before = current().policy
    staged = ok(odile.post("accounts/many", {"all_that_match": INTERNS, **asked}))["operations"]
    assert len(staged) == 2
    done = ok(odile.post("change-set/apply"))
    assert current().policy != before
    ok(odile.post(f"change-sets/{done['id']}/undo"))
    assert current().policy == before


def test_leaving_a_group_asks_only_those_in_it(odile):
    told = ok(odile.post("accounts/many/preview", {"accounts": ["ines", "arvo"], "action": "leave", "group": "pilots"}))
    assert told["changes"] == 1
    assert told["keeps"] == [{"name": "Ines Marrow", "why": "is not in it"}]


def test_enabling_leaves_those_alone_who_are_active(odile):
    Account.objects.filter(pk="agnes").update(password="argon2$x")
    staged = ok(odile.post("accounts/many", {"accounts": ["agnes", "ines"], "action": "enable"}))["operations"]
    assert [op["now"] for op in staged] == ["active"]


def test_enabling_many_brings_those_back_as_they_came_who_never_chose_a_password(odile):
    [invited] = ok(odile.post("accounts", {"people": [{"name": "Ada", "email": "ada@post.example"}]}), 201)["people"]
    Account.objects.filter(pk="agnes").update(password="argon2$x")
    for account in (invited["id"], "agnes"):
        Account.objects.filter(pk=account).update(state="disabled")
    raise_version()
    asked = {"accounts": [invited["id"], "agnes", "ines"], "action": "enable"}
    staged = ok(odile.post("accounts/many", asked))["operations"]
    assert [op["now"] for op in staged] == ["invited", "active"]
    ok(odile.post("change-set/apply"))
    states = {id: current().policy.accounts[id].state for id in asked["accounts"]}
    assert states == {invited["id"]: "invited", "agnes": "active", "ines": "active"}


def test_the_last_keyholder_stays(odile):
    Account.objects.exclude(pk="odile").update(keyholder=False)
    told = ok(odile.post("accounts/many/preview", {"accounts": ["odile"], "action": "disable"}))
    assert told["keeps"] == [{"name": "Odile Varga", "why": "is the last active keyholder"}]
    operation = {"kind": "set-state", "account": "odile", "state": "disabled"}
    refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)


@pytest.mark.parametrize(
    ("asked", "at"),
    [
        ({"action": "disable"}, "accounts"),
        ({"action": "disable", "accounts": ["ines"], "all_that_match": {}}, "accounts"),
        ({"action": "disable", "accounts": ["nobody"]}, "accounts"),
        ({"action": "take-role", "accounts": ["ines"]}, "role"),
        ({"action": "join", "accounts": ["ines"]}, "group"),
        ({"action": "join", "accounts": ["ines"], "group": "nothing"}, "group"),
        ({"action": "nonsense", "accounts": ["ines"]}, "action"),
        ({"action": "enable", "accounts": ["ines"]}, "accounts"),
    ],
)
def test_what_cannot_be_done_names_the_field(odile, asked, at):
    problem = refused(odile.post("accounts/many", asked), "invalid", 422)
    assert problem["errors"][0]["pointer"].endswith(at)


def test_seeing_the_roster_is_not_enough(ask):
    asked = {"accounts": ["ines"], "action": "take-role", "role": "season-intern"}
    bashir = ask("bashir")
    ok(bashir.get("accounts"))
    assert bashir.post("accounts/many", {**asked, "accounts": ["aiko"]}).status_code == 403
    assert bashir.post("accounts/many/preview", {**asked, "accounts": ["aiko"]}).status_code == 403
    assert Assignment.objects.filter(account="aiko", role="season-intern").exists()
