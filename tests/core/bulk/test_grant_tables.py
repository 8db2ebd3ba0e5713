"""What is said, as bits for each kind of node, is what each role answers for the capability a node asks."""

import numpy as np
import pytest
from hypothesis import given, settings

from gonfalon.core.bulk.columns import MOST_ACTIONS, ActionColumns
from gonfalon.core.bulk.grant_tables import AuthorRelation, GrantTables
from gonfalon.core.decide.grants import SubjectGrantsCache, capability_of
from gonfalon.core.model.vocabulary import Extent
from tests.core.harbour import engine, give
from tests.core.strategies import engines
from tests.examples import examples

ACTIONS = ("see", "edit", "create:berth", "remove", "discussion.moderate")
LEAST = {AuthorRelation.OWN: Extent.OWN, AuthorRelation.TEAM: Extent.TEAM, AuthorRelation.ALL: Extent.ALL}


def kinds(columns):
    return [(name, state) for name in columns.type_names for state in ("published", "draft")]


def bit(table, column):
    return bool(int(table) >> column & 1)


@settings(max_examples=examples(100), deadline=None)
@given(engines())
def test_each_level_tells_what_a_role_gives_at_that_extent_or_longer(asked):
    columns, tables, holdings = (
        ActionColumns(asked.tree.type_names, ACTIONS),
        GrantTables(asked.policy),
        SubjectGrantsCache(asked.policy),
    )
    for role in asked.policy.roles:
        said = holdings.resolved(role)
        told = tables.of(columns, [tables.number(said)])[:, 0]
        for kind, (type, state) in enumerate(kinds(columns)):
            for column, action in enumerate(ACTIONS):
                new = action.removeprefix("create:") if action.startswith("create:") else None
                capability = f"{new}.create" if new else capability_of(action, type, state)
                answer = said.statements.get(capability)
                extent = Extent.NONE if answer is None else answer.extent
                for level, least in LEAST.items():
                    expected = extent > Extent.NONE if new else extent >= least
                    assert bit(told[level, kind], column) == expected
                assert bit(told[AuthorRelation.BARS, kind], column) == (answer is not None and answer.says == "barred")


@settings(max_examples=examples(60), deadline=None)
@given(engines())
def test_of_some_kinds_the_same_is_told_and_of_the_others_nothing(asked):
    columns, tables, holdings = (
        ActionColumns(asked.tree.type_names, ACTIONS),
        GrantTables(asked.policy),
        SubjectGrantsCache(asked.policy),
    )
    numbers = [tables.number(holdings.resolved(role)) for role in asked.policy.roles]
    every, some = tables.of(columns, numbers), np.arange(len(columns.nothing)) % 2 == 0
    told = tables.some(columns, numbers, some)
    assert (told[:, :, some] == every[:, :, some]).all()
    assert not told[:, :, ~some].any()


def test_what_is_numbered_later_is_told_too():
    asked = engine(roles={"writer": {"berth.edit": "own"}}, assignments=[give()])
    columns, tables, holdings = (
        ActionColumns(asked.tree.type_names, ACTIONS),
        GrantTables(asked.policy),
        SubjectGrantsCache(asked.policy),
    )
    first = tables.number(holdings.resolved("everyone"))
    assert not tables.of(columns, [first]).any()
    later = tables.number(holdings.resolved("writer"))
    assert tables.of(columns, [later])[AuthorRelation.OWN].any()
    assert not tables.of(columns, [first]).any()


@pytest.mark.parametrize("count", [1, 7, 8, 12, 13, 33, MOST_ACTIONS])
def test_bits_of_any_number_of_actions_are_unpacked_as_they_are(count):
    tree = engine().tree
    columns = ActionColumns(tree.type_names, [f"duty{i}.do" for i in range(count)])
    said = np.random.default_rng(count).random((3, len(tree), count)) < 0.5
    bits = np.zeros(said.shape[:2], dtype=columns.dtype)
    for i in range(count):
        bits |= said[:, :, i] * columns.bit(i)
    out = np.empty_like(said)
    columns.unpack(bits, out)
    assert (out == said).all()
