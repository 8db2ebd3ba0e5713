"""Limits as runs along a tree are the limits found by walking up from each node."""

import pytest
from hypothesis import given, settings

from gonfalon.core import Engine
from gonfalon.core.bulk.columns import ActionColumns
from gonfalon.core.bulk.limit_runs import LimitRuns
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import BEN, WRITER, engine, harbour
from tests.core.strategies import engines
from tests.examples import examples

ACTIONS = ("see", "edit", "remove", "create:berth", "create:notice", "discussion.moderate")
EFFECTS = (Effect.STOP, Effect.BAR)


def told(asked: Engine, actions=ACTIONS):
    """`(subject, node, action, effect)` wherever the runs of a plan narrow something."""
    columns = ActionColumns(asked.tree.type_names, actions, alone=True)
    forces = LimitRuns(asked.limits)
    for effect in EFFECTS:
        runs = forces.on(columns, effect)
        for whose, start, end, bits in zip(*(column.tolist() for column in runs), strict=True):
            for i, action in enumerate(actions):
                if bits >> i & 1:
                    yield from ((forces.subjects[whose], n.id, action, effect) for n in asked.tree.nodes[start:end])


def walked(asked: Engine, actions=ACTIONS):
    for subject in {limit.to for limit in asked.policy.limits.values()}:
        for node in asked.tree.nodes:
            for action in actions:
                verb, _, type = action.partition(":")
                target = asked.tree.target(node.id)
                force = asked.limits.in_force(subject, verb, target.child(type) if type else target)
                if force.effect is not None:
                    yield subject, node.id, action, force.effect


@settings(max_examples=examples(150), deadline=None)
@given(engines())
def test_runs_tell_what_a_walk_from_each_node_finds(asked):
    """A bar answers before a stop does, so that beside one no stop is asked for."""
    bars = {each[:3] for each in told(asked) if each[3] is Effect.BAR}
    found = {each for each in told(asked) if each[3] is Effect.BAR or each[:3] not in bars}
    assert found == set(walked(asked))


@pytest.mark.parametrize("applies", ["node", "beneath", "branch"])
def test_a_limit_holds_where_it_applies_and_for_what_is_made_there_as_beneath(applies):
    asked = engine(limits=[Limit("l", "fees", WRITER, Effect.STOP, applies)])
    found = set(told(asked, ("edit", "create:berth")))
    edits = {node for _, node, action, _ in found if action == "edit"}
    made = {node for _, node, action, _ in found if action != "edit"}
    beneath = {"winter", "hardship"}
    assert edits == {"node": {"fees"}, "beneath": beneath, "branch": {"fees", *beneath}}[applies]
    assert made == ({"fees", *beneath} if applies != "node" else set())


def test_only_what_a_plan_asks_is_told():
    asked = engine(limits=[Limit("l", "fees", BEN, Effect.STOP, actions=frozenset({"publish"}))])
    assert set(told(asked, ("edit",))) == set()
    assert {action for _, _, action, _ in told(asked, ("edit", "publish"))} == {"publish"}


def test_limits_on_nodes_of_no_tree_narrow_nothing():
    policy = harbour(limits=[Limit("l", "nowhere", WRITER, Effect.BAR)])
    asked = Engine(policy)
    assert list(told(asked)) == []


def test_a_sheet_tells_whom_limits_narrow_on_its_rows_and_nobody_else():
    limits = [
        Limit("here", "winter", WRITER, Effect.STOP),
        Limit("there", "pictures", Subject.group("tenants"), Effect.STOP),
    ]
    survey = engine(limits=limits).surveyor
    place = survey.tree.index["winter"]
    batch = survey.batch(survey.columns(("edit",)), survey.whole(("edit",)).row_of[[place]])
    assert list(batch.narrowed(Effect.STOP).places) == [WRITER]
    assert batch.in_force((WRITER, BEN), Effect.STOP) is not None
    assert batch.in_force((BEN,), Effect.STOP) is None
    assert batch.in_force((WRITER,), Effect.BAR) is None
