"""Places of one class are answered alike: to new nodes whoever asks, to some people about the nodes that are there."""

import numpy as np
import pytest
from hypothesis import given, settings

from gonfalon.core import Engine
from gonfalon.core.bulk.parts import Parts, Restricted
from gonfalon.core.diff.equivalence import classes_of_children, classes_of_nodes
from gonfalon.core.diff.node_classes import Places, Side
from gonfalon.core.model.policy import Account, FieldRule, Limit, Lock
from gonfalon.core.model.tree import Node, Tree
from gonfalon.core.model.vocabulary import ACTIONS, WHOLE_BRANCH, Effect
from tests.core.harbour import BEN, CREW, NODES, NOW, WRITER, give, harbour, only
from tests.core.strategies import engines, policies
from tests.examples import examples

PEOPLE = (None, "ada", "ben", "cy", "gone", "key")
ALONE = [action for action in ACTIONS if action != "create" and action not in WHOLE_BRANCH]
TWICE = Tree.build([*NODES, *(node._replace(id=f"{node.id}-{i}", parent=node.id) for node in NODES for i in range(2))])
"""Each node with two like it beneath."""


@settings(max_examples=examples(100), deadline=None)
@given(engines())
def test_a_new_node_is_answered_alike_under_all_places_of_a_class(asked):
    side = Side(asked)
    places = Places(asked.tree, None, classes_of_children((side, side)))
    everywhere = asked.survey([*PEOPLE], None, ["create:berth", "create:notice"], NOW)
    assert places.sizes is not None
    assert places.sizes.sum() == len(asked.tree)
    of_classes = everywhere[:, places.positions]
    assert (of_classes[:, places.row_of] == everywhere).all()
    assert (places.count(of_classes[:, :, 0]) == everywhere[:, :, 0].sum(axis=1)).all()


def told(side, who):
    """`[people, nodes]` every answer about a node, by what is asked."""
    survey = side.survey
    for i, action in enumerate(ALONE):
        yield action, survey.allowed(who, None, ALONE, NOW)[:, :, i]
    for some in Restricted.by([survey.policy]).pieces():
        parts = Parts.at(survey, some, np.arange(len(survey.tree)))
        yield from parts.answers(parts.evaluator([side.engine.grants.of(id, NOW) for id in who])).items()


@settings(max_examples=examples(60), deadline=None)
@given(policies(), policies())
def test_some_people_are_answered_alike_about_all_nodes_of_a_class(before, after):
    sides = tuple(Side(Engine(policy, TWICE)) for policy in (before, after))
    for who in (PEOPLE, ("ada",)):
        _, first, of = np.unique(classes_of_nodes(sides, who, NOW), return_index=True, return_inverse=True)
        for side in sides:
            for name, answers in told(side, who):
                assert (answers == answers[:, first[of]]).all(), name


SIBLINGS = Tree.build(
    [
        Node("home", None, "content", "quay", "notice"),
        *(Node(f"n{i}", "home", "content", "quay", "berth") for i in range(4)),
        Node("n4", "home", "content", "quay", "berth", "ben"),
        Node("n5", "home", "content", "quay", "berth", "cy", topics=frozenset({"trade"})),
    ]
)


@pytest.mark.parametrize(
    ("said", "alike"),
    [
        ({}, [0, 1, 2, 3, 5]),
        ({"limits": [Limit("l", "n2", WRITER, Effect.STOP, "node")]}, [0, 1]),
        ({"limits": [Limit("l", "n2", CREW, Effect.BAR, "node")]}, [0, 1]),
        ({"limits": [Limit("l", "n2", BEN, Effect.BAR, "node")]}, [0, 1, 2, 3, 5]),
        ({"locks": [Lock("k", "n2")]}, [0, 1]),
        ({"locks": [Lock("k", "n2", field="dues")], "fields": {("berth", "dues"): FieldRule("author")}}, [0, 1]),
        ({"assignments": [give(scope=only(branches=["n2"]))]}, [0, 1]),
        ({"assignments": [give(scope=only(topics=["trade"]))]}, [0, 1, 2, 3]),
        (
            {"accounts": [Account("ada", groups=frozenset({"pier-3"}), reach={"content": frozenset({"n2"})})]},
            [0, 1],
        ),
    ],
)
def test_what_counts_for_an_account_tells_nodes_apart(said, alike):
    """Ben is a fellow member of Ada's, so that what he wrote is apart; Cy is none. Limits on others do not count."""
    sides = [
        Side(Engine(harbour(**{"roles": {"writer": {}}, "assignments": [give()]} | each), SIBLINGS))
        for each in ({}, said)
    ]
    for pair in (sides, sides[::-1]):
        classes = classes_of_nodes(tuple(pair), ["ada"], NOW)
        same = [i for i in range(6) if classes[SIBLINGS.index[f"n{i}"]] == classes[SIBLINGS.index["n0"]]]
        assert same == alike
