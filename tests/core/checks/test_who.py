"""Who can do something, who almost can, and through what."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core import Question
from gonfalon.core.checks import who as module
from gonfalon.core.checks.who import TooMany, stops, through, who_can, who_can_beneath
from gonfalon.core.model.policy import Account, FieldRule, Limit, Lock, Subject
from gonfalon.core.model.vocabulary import Effect, Reason
from tests.core.harbour import ADA, BEN, CREW, EDITS, NOW, engine, give, only
from tests.core.naive import Naive
from tests.core.strategies import NODE_IDS, TREE, engines
from tests.examples import examples


def asked(action="edit", node="loft", **part):
    return Question(None, action, TREE.target(node), NOW, **part)


def test_those_who_can_and_those_who_almost_can_with_what_stops_them():
    stop = Limit("l1", "moorings", Subject.group("pier-5"), Effect.STOP)
    given_ = [
        give(to=ADA),
        give(to=Subject.group("pier-5"), id="a2"),
        give(to=BEN, id="a3", scope=only(branches=["fees"])),
    ]
    there = engine(roles={"writer": EDITS}, assignments=given_, limits=[stop], accounts=[Account("gone", "disabled")])
    found = who_can(there, asked())
    assert found.can == ["ada"]
    assert found.almost == {"cy": Reason.STOPPED, "ben": Reason.OUT_OF_SCOPE}
    assert [f.id for f in through(there, replace(asked(), who="ada"))] == ["a1"]
    assert [f.limits for f in stops(there, replace(asked(), who="cy"))] == [("l1",)]


def test_the_nearest_to_a_yes_comes_first():
    there = engine(
        roles={"writer": EDITS},
        assignments=[give(to=CREW)],
        accounts=[Account("ada", reach={"content": frozenset({"fees"})})],
        locks=[Lock("k1", "loft")],
    )
    assert list(who_can(there, asked()).almost.values()) == [Reason.LOCKED, Reason.LOCKED]
    open_ = engine(roles={"writer": {"berth.edit": "own", "berth.edit-live": "all"}}, assignments=[give(to=CREW)])
    assert who_can(open_, asked()).almost == {"ben": Reason.OUT_OF_EXTENT, "cy": Reason.OUT_OF_EXTENT}


def test_of_a_field_and_of_what_has_no_place():
    rule = FieldRule("table", {"writer": frozenset({"change-own"})})
    there = engine(roles={"writer": EDITS}, assignments=[give(to=CREW)], fields={("berth", "dues"): rule})
    found = who_can(there, asked("change-field", field="dues"))
    assert (found.can, set(found.almost.values())) == (["ada"], {Reason.FIELD})
    there = engine(roles={"writer": {"roles.define": "yes"}}, assignments=[give(to=ADA)])
    assert who_can(there, Question(None, "roles.define", at=NOW)).can == ["ada"]


def test_on_a_branch_how_much_of_it():
    there = engine(roles={"writer": EDITS}, assignments=[give(scope=only(branches=["fees"]))])
    assert who_can_beneath(there, "fees", Question(None, "edit"), NOW) == {"ada": (3, 3)}
    assert who_can_beneath(there, "moorings", Question(None, "edit"), NOW) == {"ada": (3, 6)}
    assert who_can_beneath(there, "home", Question(None, "edit"), NOW, ["berth"]) == {"ada": (3, 6)}
    dues = Question(None, "change-field", field="dues")
    assert who_can_beneath(there, "home", dues, NOW) == {"ada": (3, 6)}


def test_more_than_can_be_asked_at_once_is_refused(monkeypatch):
    monkeypatch.setattr(module, "MOST_ANSWERS", 5)
    with pytest.raises(TooMany):
        who_can_beneath(engine(), "home", Question(None, "edit"), NOW)


@settings(max_examples=examples(60))
@given(engines(), st.sampled_from(NODE_IDS), st.sampled_from(["see", "edit", "remove", "locks.open"]))
def test_it_is_what_the_naive_reading_says_of_each(there, node, action):
    naive = Naive(there.policy, TREE)
    question = asked(action, node)
    found = who_can(there, question)
    for id, account in there.policy.accounts.items():
        if account.keyholder or account.state != "active":
            assert id not in found.can
            continue
        reason = naive.answer(replace(question, who=id))
        assert (id in found.can) == (reason == Reason.ALLOWED)
        assert found.almost.get(id) in (None, reason)
        if id in found.can:
            assert through(there, replace(question, who=id))
    beneath = who_can_beneath(there, node, Question(None, action), NOW)
    nodes = [n.id for n in TREE.nodes[TREE.branch(node)]]
    for id in there.policy.accounts:
        count = sum(naive.answer(replace(asked(action, each), who=id)) == Reason.ALLOWED for each in nodes)
        if not there.policy.accounts[id].keyholder and there.policy.accounts[id].state == "active":
            assert beneath.get(id, (0,))[0] == count
