"""A node that is known to have nothing beneath it is asked about alone, and needs no tree."""

from dataclasses import replace

import pytest

from gonfalon.core import Engine, Question
from gonfalon.core.model.policy import Assignment, Subject
from gonfalon.core.model.question import NotInTree
from gonfalon.core.model.tree import Tree
from tests.core.harbour import NODES, NOW, harbour

POLICY = harbour(
    roles={"mover": {"berth.remove": "all", "berth.move": "own"}},
    assignments=[Assignment("a", "mover", Subject.account("ada"))],
)
TREE = Tree.build(NODES)


@pytest.mark.parametrize("node", ["loft", "chandlery", "winter"])
@pytest.mark.parametrize("action", ["remove", "move"])
def test_the_answer_is_that_of_the_tree(node, action):
    question = Question("ada", action, TREE.target(node), NOW)
    without = Engine(POLICY)
    with pytest.raises(NotInTree):
        without.decide(Question("ada", "remove", TREE.target("fees"), NOW))
    alone = replace(question, target=replace(TREE.target(node), leaf=True))
    assert without.decide(alone).reason == Engine(POLICY, TREE).decide(question).reason


def test_it_says_nothing_of_which_node_it_is():
    assert replace(TREE.target("loft"), leaf=True) == TREE.target("loft")
