"""The server's way of asking, held beside the second reading of the rules on the harbour."""

from random import Random
from types import SimpleNamespace

import pytest

from gonfalon.access.snapshot import current
from gonfalon.api.guard import decide
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over, target
from gonfalon.core import Question
from gonfalon.core.model.vocabulary import ACTIONS
from tests.api.support import apply
from tests.core.naive import Naive

PEOPLE = (None, "ines", "aiko", "ludo", "tomasz", "halla", "renzo")
ON_NODES = tuple(action for action in ACTIONS if action != "create")
NODES = 25


@pytest.mark.parametrize("who", PEOPLE)
def test_it_answers_as_the_second_reading_does(odile, who):
    stop = {"kind": "set-limit", "effect": "stop", "applies": "branch", "actions": ["move", "remove", "edit"]}
    apply(odile, stop | {"node": "p3-sail-loft", "to": {"kind": "role", "id": "site-steward"}})
    snapshot, nodes = current(), content()
    here = SimpleNamespace(snapshot=snapshot, engine=engine_over(nodes, snapshot))
    naive, at = Naive(snapshot.policy, nodes.tree), now()
    sample = Random(3).sample(list(nodes.tree.index), NODES)
    for id in {*sample, "p3-sail-loft", "pier-3-branch", "moorings", "minutes"}:
        row = target(id)
        for action in ON_NODES:
            question = Question(who, action, row, at)
            assert str(decide(here, question, trail=False).reason) == naive.answer(question), (who, action, id)
        new = Question(who, "create", row.child("event"), at)
        assert str(decide(here, new, trail=False).reason) == naive.answer(new), (who, id)
