"""Questions as JSON: read, or refused with the place and the reason."""

import pytest

from gonfalon.core import Engine, Unreadable, load_policy
from gonfalon.core.document.requests import faults_in
from gonfalon.core.model.tree import Tree
from tests.core.documents import EVERYTHING
from tests.core.harbour import NODES, give, harbour

ENGINE = Engine(load_policy(EVERYTHING))
PROFILE = {"type": "account", "author": "ada"}
ON = {"account": "ada", "node": "n2"}


@pytest.mark.parametrize(
    ("request_", "pointer", "message"),
    [
        ("text", "", "this is “text”; it should be an object"),
        ({"account": "ada", "node": "n2"}, "/action", "this is missing"),
        ({**ON, "action": "dance"}, "/action", "this is “dance”; it should be an action or a capability there is"),
        (
            {**ON, "action": "see-draft"},
            "/action",
            "this is “see-draft”; it should be an action or a capability there is",
        ),
        ({"action": "see", "node": "n2"}, "/account", "this is missing; null asks for a visitor"),
        ({"account": "ben", "action": "see", "node": "n2"}, "/account", "there is no account “ben”"),
        (
            {"account": ["ada"], "action": "see", "node": "n2"},
            "/account",
            "this is a list; it should be the id of an account",
        ),
        ({"account": "ada", "action": "see"}, "/node", "this is missing"),
        ({"account": "ada", "action": "see", "node": "n9"}, "/node", "there is no node “n9”"),
        ({**ON, "action": "see", "field": "title"}, "/field", "this key is not known here"),
        ({**ON, "action": "see", "working": 1}, "/working", "this is a number; it should be true or false"),
        ({**ON, "action": "create", "type": "notice", "working": True}, "/working", "this key is not known here"),
        ({"account": "ada", "action": "desk.open", "working": True}, "/working", "this key is not known here"),
        (
            {**ON, "action": "see", "roles": ["lead"]},
            "/account",
            "there are roles already; a question asks one or the other",
        ),
        ({**ON, "action": "see", "own": True}, "/own", "this goes with roles only"),
        (
            {**ON, "action": "see", "at": "2026-01-01"},
            "/at",
            "this is “2026-01-01”; it should be a time with its offset, such as 2026-01-01T00:00:00Z",
        ),
        ({**ON, "action": "see-field"}, "/field", "this is missing"),
        ({**ON, "action": "see-field", "field": "alt"}, "/field", "there is no field of a notice “alt”"),
        ({**ON, "action": "create"}, "/type", "this is missing"),
        ({**ON, "action": "create", "type": "account"}, "/type", "there is no type “account”"),
        ({**ON, "action": "create", "type": "notice", "topics": ["stars"]}, "/topics/0", "there is no topic “stars”"),
        (
            {**ON, "action": "change-facet", "component": "table", "facet": "links"},
            "/facet",
            "there is no facet of a table “links”",
        ),
        ({**ON, "action": "insert-component", "component": "chart"}, "/component", "there is no component “chart”"),
        ({"account": "ada", "action": "roles.define", "site": "moon"}, "/site", "there is no site “moon”"),
        ({"account": "ada", "action": "roles.define", "node": "n1"}, "/node", "this key is not known here"),
        (
            {"account": "ada", "action": "insert-component", "component": "text", "node": PROFILE},
            "/node",
            "insert-component cannot be asked of a profile",
        ),
        (
            {"account": "ada", "action": "see", "node": {"type": "notice", "author": "ada"}},
            "/node/type",
            "this is “notice”; it should be “account”",
        ),
        (
            {"account": "ada", "action": "stand-in", "for": {}},
            "/for",
            "name either one account (null for a visitor) or some roles",
        ),
        (
            {"account": "ada", "action": "stand-in", "for": {"account": "ada", "roles": ["writer"]}},
            "/for",
            "name either one account (null for a visitor) or some roles",
        ),
        (
            {"account": "ada", "action": "stand-in", "for": {"account": None, "own": True}},
            "/for/own",
            "this goes with roles only",
        ),
        (
            {"account": "ada", "action": "arrange-component", "component": "text", "node": PROFILE},
            "/node",
            "arrange-component cannot be asked of a profile",
        ),
    ],
)
def test_what_cannot_be_asked_is_refused_with_its_place(request_, pointer, message):
    with pytest.raises(Unreadable) as refused:
        ENGINE.decide(request_)
    assert refused.value.fault == (pointer, message)


def test_a_change_of_topics_is_decided_as_it_is_and_as_it_would_be():
    document = {
        **EVERYTHING,
        "assignments": [{"id": "a", "role": "lead", "to": {"account": "kåre"}, "scope": {"topics": ["tides"]}}],
        "accounts": {**EVERYTHING["accounts"], "kåre": {"state": "active"}},
        "limits": [],
        "locks": [],
    }
    asked = {"account": "kåre", "action": "edit", "node": "n2"}
    engine = Engine(load_policy(document))
    assert engine.decide(asked).reason == "allowed"
    assert engine.decide({**asked, "topics": ["tides"]}).reason == "allowed"
    assert engine.decide({**asked, "topics": []}).reason == "out-of-scope"


def test_a_made_up_holder_holds_within_scopes_and_is_in_groups():
    within = {"role": "writer", "scope": {"branches": ["n2"]}}
    asked = {"roles": [within], "own": True, "action": "edit", "node": "n2"}
    assert ENGINE.decide(asked).reason == "allowed"
    assert ENGINE.decide({**asked, "node": "n1"}).reason == "out-of-scope"
    crew = {"roles": [], "groups": ["crew"], "action": "edit", "node": "n1"}
    assert ENGINE.decide({**crew, "groups": []}).reason == "not-granted"
    assert ENGINE.decide(crew).reason != "not-granted", "what the group is given counts"
    for key, wrong in (("roles", [{"scope": {}}]), ("roles", [{"role": "nobody"}]), ("groups", ["nobody"])):
        with pytest.raises(Unreadable):
            ENGINE.decide({**asked, key: wrong})
    with pytest.raises(Unreadable):
        ENGINE.decide({"account": "Ada", "groups": ["crew"], "action": "edit", "node": "n1"})


def test_a_made_up_holder_is_asked_for_by_roles():
    asked = {"roles": ["writer"], "action": "see", "node": "n2"}
    assert ENGINE.decide(asked).reason == "out-of-extent"
    assert ENGINE.decide({**asked, "own": True}).reason == "allowed"
    assert ENGINE.decide({"account": "kåre", "action": "stand-in", "for": {"roles": ["writer"]}}).reason == "allowed"
    assert ENGINE.decide({"account": "kåre", "action": "stand-in", "for": {"account": None}}).reason == "allowed"
    assert ENGINE.decide({"account": "kåre", "action": "stand-in", "for": {"account": "Ada"}}).reason == "inactive"
    assert ENGINE.decide({"account": "kåre", "action": "stand-in", "for": {"account": "kåre"}}).reason == "beyond"


def test_a_working_copy_is_asked_about_as_a_draft():
    policy = harbour(roles={"writer": {"berth.edit": "all"}}, assignments=[give()])
    asked = Engine(policy, Tree.build(NODES))
    loft = {"account": "ada", "action": "edit", "node": "loft"}
    assert asked.decide(loft).reason == "live"
    assert asked.decide(loft | {"working": False}).reason == "live"
    for more in ({}, {"at": "2026-11-03T09:00:00Z"}):
        assert asked.decide(loft | {"working": True} | more).reason == "allowed"
    assert asked.decide(loft | {"action": "see", "working": True}).reason == "not-granted"
    draft = {"account": "ada", "action": "see", "node": "draft"}
    assert asked.decide(draft) == asked.decide(draft | {"working": True})
    dues = loft | {"action": "change-field", "field": "dues"}
    assert (asked.decide(dues).reason, asked.decide(dues | {"working": True}).reason) == ("live", "allowed")


BRANCH = {"account": "ada", "action": "edit", "branch": "n1"}
FIRST, LAST = "2026-01-01T00:00:00Z", "2026-02-01T00:00:00+01:00"


@pytest.mark.parametrize(
    ("question", "pointers"),
    [
        (BRANCH | {"whose": "own", "from": FIRST, "until": LAST}, []),
        (BRANCH | {"whose": "team", "types": ["notice"], "until": LAST}, []),
        ({"holders_of": "writer", "action": "desk.open", "from": FIRST}, []),
        ({"account": "ada", "action": "hand-out", "role": "writer", "to": {"account": "ben"}, "until": LAST}, []),
        (BRANCH | {"whose": "all"}, ["/whose"]),
        (ON | {"action": "edit", "whose": "own"}, ["/whose"]),
        ({"account": "ada", "action": "desk.open", "whose": "own"}, ["/whose"]),
        (BRANCH | {"from": FIRST, "until": FIRST}, ["/until"]),
        (BRANCH | {"from": FIRST, "at": FIRST}, ["/at"]),
        (BRANCH | {"from": "now"}, ["/from"]),
    ],
)
def test_what_an_expectation_may_range_over(question, pointers):
    known = {"accounts": {**EVERYTHING["accounts"], "ben": {"state": "active"}}}
    asked = Engine(load_policy({**EVERYTHING, **known}))
    assert [fault.pointer for fault in faults_in(question, asked.policy, asked.tree)] == pointers
