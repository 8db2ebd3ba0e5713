"""A survey gives the answers that one question after another would."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, HypotheticalSubject, Question
from gonfalon.core.bulk.survey import REASONS
from gonfalon.core.model.policy import Account, Assignment, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Extent
from tests.core.harbour import NODES, NOW, engine, harbour
from tests.core.strategies import NODE_IDS, engines
from tests.examples import examples

ACTIONS = ["see", "edit", "history", "retire", "remove", "move", "create:berth", "discussion.moderate"]
PLACES = [Scope(), Scope(branches=frozenset({"moorings"})), Scope(types=frozenset({"berth"}))]


@settings(max_examples=examples(150), deadline=None)
@given(engines())
def test_survey_equals_decide(asked):
    survey = asked.surveyor
    for who in (
        None,
        "ada",
        "ben",
        "cy",
        "gone",
        "key",
        HypotheticalSubject(("lead",)),
        HypotheticalSubject(("writer",), as_author=True),
        HypotheticalSubject((), scoped=(("lead", Scope(branches=frozenset({"moorings"}))),), groups=("pier-3",)),
        HypotheticalSubject(("writer",), groups=("pier-5",), as_author=True),
    ):
        reasons = survey.reasons(who, ACTIONS, NOW)
        for i, node in enumerate(asked.tree.nodes):
            for j, action in enumerate(ACTIONS):
                target = asked.tree.target(node.id)
                if action.startswith("create:"):
                    target = target.child("berth")
                question = Question(who, action.split(":")[0], target, NOW)
                assert REASONS[reasons[i, j]] is asked.decide(question).reason, (who, node.id, action)


@pytest.fixture(params=["cell by cell", "all cells at once"])
def beneath(request, monkeypatch):
    """What lies beneath some nodes is asked about only where an answer rests on it, or all of it at once."""
    dear = 0 if request.param == "cell by cell" else 1_000_000
    monkeypatch.setattr("gonfalon.core.bulk.subtrees._DEARER", dear)


@pytest.mark.usefixtures("beneath")
@settings(max_examples=examples(100), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(engines(), st.lists(st.sampled_from(NODE_IDS), min_size=1))
def test_many_people_on_some_nodes_are_answered_as_one_by_one(asked, nodes):
    people = [
        None,
        "ada",
        "ben",
        "cy",
        "gone",
        "key",
        HypotheticalSubject(("lead",)),
        HypotheticalSubject(("writer",), as_author=True),
        HypotheticalSubject((), scoped=(("lead", Scope(branches=frozenset({"moorings"}))),), groups=("pier-3",)),
        HypotheticalSubject(("writer",), groups=("pier-5",), as_author=True),
    ]
    answers = asked.survey(people, nodes, ACTIONS, NOW)
    for who, of_one in zip(people, answers, strict=True):
        for node, of_node in zip(nodes, of_one, strict=True):
            for action, allowed in zip(ACTIONS, of_node, strict=True):
                target = asked.tree.target(node)
                if action.startswith("create:"):
                    target = target.child("berth")
                question = Question(who, action.split(":")[0], target, NOW)
                assert allowed == asked.decide(question).allow, (who, node, action)


@settings(max_examples=examples(100), deadline=None)
@given(engines())
def test_marks_hang_as_far_as_the_answers_go(asked):
    survey = asked.surveyor
    for roles in (("writer",), ("lead", "writer")):
        marks = survey.marks(HypotheticalSubject(roles), ["edit", "history"], NOW)
        as_stranger = survey.allowed([HypotheticalSubject(roles)], None, ["edit", "history"], NOW)[0]
        as_author = survey.allowed([HypotheticalSubject(roles, as_author=True)], None, ["edit", "history"], NOW)[0]
        locked = np.isin([n.id for n in NODES], [k.node for k in asked.policy.locks.values()])
        assert ((marks.extent == Extent.ALL)[~locked] == as_stranger[~locked]).all()
        assert ((marks.extent > 0)[~locked] == as_author[~locked]).all()


@settings(max_examples=examples(15), suppress_health_check=list(HealthCheck), deadline=None)
@given(engines(), st.randoms(use_true_random=False))
def test_whole_branches_are_answered_for_more_people_than_a_word_has_bits(asked, random):
    groups = [frozenset(), frozenset({"tenants"}), frozenset({"pier-3"})]
    evaluator = [Account(f"p{i}", keyholder=i == 70, groups=random.choice(groups)) for i in range(140)]
    given = [
        Assignment(f"g{i}", random.choice(("writer", "lead")), Subject.account(f"p{i}"), random.choice(PLACES))
        for i in range(0, 140, 2)
    ]
    policy = replace(
        asked.policy,
        accounts={**asked.policy.accounts, **{account.id: account for account in evaluator}},
        assignments={**asked.policy.assignments, **{one.id: one for one in given}},
    )
    engine, who, nodes = Engine(policy, asked.tree), [account.id for account in evaluator], NODE_IDS[1:]
    answers = engine.survey(who, nodes, ["remove", "see", "move"], NOW)
    for i in range(0, 140, 5):
        for j, node in enumerate(nodes):
            target = asked.tree.target(node)
            told = [engine.decide(Question(who[i], action, target, NOW)).allow for action in ("remove", "see", "move")]
            assert answers[i, j].tolist() == told


def test_a_subset_of_nodes_keeps_the_order_asked_for():
    asked = Engine(harbour(roles={"everyone": {"berth.see": "all"}}), Tree.build(NODES))
    answers = asked.surveyor.allowed([None], ["home", "loft"], ["see"], NOW)
    assert answers.tolist() == [[[False], [True]]]


def test_the_same_nodes_asked_again_are_on_the_sheet_that_was_kept():
    survey = engine().surveyor
    positions = np.array([1, 3, 4])
    kept = survey.among(("see",), positions)
    assert survey.among(("see",), positions.copy()) is kept
    assert survey.among(("edit",), positions) is not kept
    assert survey.among(("see",), positions[:2]).length == 2


@settings(max_examples=examples(60), deadline=None)
@given(engines())
def test_working_copies_are_asked_about_as_drafts(asked):
    for who in (None, "ada", "ben", HypotheticalSubject(("writer",), as_author=True)):
        told = asked.copies.allowed([who], None, ["see", "edit"], NOW)[0]
        for i, node in enumerate(asked.tree.nodes):
            copy = asked.tree.target(node.id).working_copy()
            answers = [asked.decide(Question(who, action, copy, NOW)).allow for action in ("see", "edit")]
            assert told[i].tolist() == answers, (who, node)
