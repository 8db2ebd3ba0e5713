"""What a limit changes today, and why one changes nothing."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, Question
from gonfalon.core.checks import narrowing as module
from gonfalon.core.checks.narrowing import Narrowing, idle, narrowing
from gonfalon.core.model.policy import Account, Group, Limit, Subject
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.core.operations import DropLimit, apply
from tests.core.harbour import EDITS, NOW, WRITER, engine, give
from tests.core.strategies import TREE, engines
from tests.examples import examples


def only_limit(*limits, **said):
    return engine(roles={"writer": EDITS}, assignments=[give()], limits=limits, **said)


def test_how_many_accounts_and_nodes_it_narrows():
    stop = Limit("l1", "fees", WRITER, Effect.STOP)
    there = only_limit(stop)
    assert narrowing(there, stop, NOW) == Narrowing(1, 3)
    beneath = Limit("l1", "fees", WRITER, Effect.STOP, "beneath")
    assert narrowing(only_limit(beneath), beneath, NOW) == Narrowing(1, 2)


def test_a_lift_counts_by_what_it_gives_back():
    stop, lift = Limit("l1", "moorings", WRITER, Effect.STOP), Limit("l2", "loft", WRITER, Effect.LIFT, "node")
    there = only_limit(stop, lift)
    assert narrowing(there, lift, NOW) == Narrowing(1, 1)
    assert narrowing(there, stop, NOW) == Narrowing(1, 5)


@pytest.mark.parametrize(
    ("limit", "why"),
    [
        (Limit("l", "fees", Subject.account("key"), Effect.STOP), "keyholder"),
        (Limit("l", "fees", Subject.account("gone"), Effect.STOP), "inactive"),
        (Limit("l", "fees", Subject.role("lead"), Effect.STOP), "nobody-holds"),
        (Limit("l", "fees", Subject.group("pilots"), Effect.STOP), "nobody-in"),
        (Limit("l", "fees", WRITER, Effect.LIFT), "nothing-to-lift"),
        (Limit("l", "fees", WRITER, Effect.STOP, actions=frozenset({"publish"})), "not-given"),
    ],
)
def test_why_one_changes_nothing(limit, why):
    said = {"roles": {"writer": EDITS, "lead": {}}, "limits": [limit], "accounts": [Account("gone", "disabled")]}
    policy = engine(assignments=[give()], **said).policy
    there = Engine(replace(policy, groups=policy.groups | {"pilots": Group("pilots")}), TREE)
    assert narrowing(there, limit, NOW) == Narrowing(0, 0)
    assert idle(there, limit, NOW) == why


def test_what_comes_to_too_many_answers_is_not_counted(monkeypatch):
    monkeypatch.setattr(module, "MOST_ASKED", 3)
    stop = Limit("l1", "fees", WRITER, Effect.STOP)
    assert narrowing(only_limit(stop), stop, NOW) is None


@settings(max_examples=examples(80))
@given(engines(), st.data())
def test_it_is_what_dropping_the_limit_changes(there, data):
    if not there.policy.limits:
        return
    limit = there.policy.limits[data.draw(st.sampled_from(sorted(there.policy.limits)))]
    found = narrowing(there, limit, NOW)
    without = there.changed(apply(there.policy, [DropLimit(limit.id)]))
    people, nodes = set(), set()
    for who in (*there.policy.accounts, None):
        for node in TREE.nodes:
            for action in (*ACTIONS, *there.policy.placed):
                if action in ("create", "remove", "move"):
                    continue
                question = Question(who, action, TREE.target(node.id), NOW)
                if there.decide(question).allow != without.decide(question).allow:
                    people.add(who)
                    nodes.add(node.id)
    if not (limit.matches("create") or limit.matches("remove") or limit.matches("move")):
        assert found == (len(people), len(nodes))
    else:
        assert found.accounts >= len(people)
        assert found.nodes >= len(nodes)
