"""What is said, as bits for each kind of node, is what each role answers for the capability a node asks."""

import numpy as np
import pytest
from hypothesis import given, settings

from gonfalon.core.bulk.columns import MOST_ACTIONS, Plan
from gonfalon.core.bulk.grant_tables import Level, Tables
from gonfalon.core.decide.grants import Holdings, capability_of
from gonfalon.core.model.vocabulary import Extent
from tests.core.harbour import engine, give
from tests.core.strategies import engines

ACTIONS = ("see", "edit", "create:berth", "remove", "discussion.moderate")
LEAST = {Level.OWN: Extent.OWN, Level.TEAM: Extent.TEAM, Level.ALL: Extent.ALL}


def kinds(plan):
    return [(name, state) for name in plan.type_names for state in ("published", "draft")]


def bit(table, column):
    return bool(int(table) >> column & 1)


@settings(max_examples=100, deadline=None)
@given(engines())
def test_each_level_tells_what_a_role_gives_at_that_extent_or_longer(asked):
    plan, tables, holdings = Plan(asked.tree.type_names, ACTIONS), Tables(asked.policy), Holdings(asked.policy)
    for role in asked.policy.roles:
        said = holdings.said(role)
        told = tables.of(plan, [tables.number(said)])[:, 0]
        for kind, (type, state) in enumerate(kinds(plan)):
            for column, action in enumerate(ACTIONS):
                new = action.removeprefix("create:") if action.startswith("create:") else None
                capability = f"{new}.create" if new else capability_of(action, type, state)
                answer = said.answers.get(capability)
                extent = Extent.NONE if answer is None else answer.extent
                for level, least in LEAST.items():
                    expected = extent > Extent.NONE if new else extent >= least
                    assert bit(told[level, kind], column) == expected
                assert bit(told[Level.BARS, kind], column) == (answer is not None and answer.says == "barred")


@settings(max_examples=60, deadline=None)
@given(engines())
def test_of_some_kinds_the_same_is_told_and_of_the_others_nothing(asked):
    plan, tables, holdings = Plan(asked.tree.type_names, ACTIONS), Tables(asked.policy), Holdings(asked.policy)
    numbers = [tables.number(holdings.said(role)) for role in asked.policy.roles]
    every, some = tables.of(plan, numbers), np.arange(len(plan.nothing)) % 2 == 0
    told = tables.some(plan, numbers, some)
    assert (told[:, :, some] == every[:, :, some]).all()
    assert not told[:, :, ~some].any()


def test_what_is_numbered_later_is_told_too():
    asked = engine(roles={"writer": {"berth.edit": "own"}}, assignments=[give()])
    plan, tables, holdings = Plan(asked.tree.type_names, ACTIONS), Tables(asked.policy), Holdings(asked.policy)
    first = tables.number(holdings.said("everyone"))
    assert not tables.of(plan, [first]).any()
    later = tables.number(holdings.said("writer"))
    assert tables.of(plan, [later])[Level.OWN].any()
    assert not tables.of(plan, [first]).any()


@pytest.mark.parametrize("count", [1, 7, 8, 12, 13, 33, MOST_ACTIONS])
def test_bits_of_any_number_of_actions_are_unpacked_as_they_are(count):
    tree = engine().tree
    plan = Plan(tree.type_names, [f"duty{i}.do" for i in range(count)])
    said = np.random.default_rng(count).random((3, len(tree), count)) < 0.5
    bits = np.zeros(said.shape[:2], dtype=plan.dtype)
    for i in range(count):
        bits |= said[:, :, i] * plan.bit(i)
    out = np.empty_like(said)
    plan.unpack(bits, out)
    assert (out == said).all()
