"""The engine and the naive reading answer alike, on policies made up to reach every reason."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, HypotheticalSubject, Question
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Scope
from gonfalon.core.model.question import NotInTree
from gonfalon.core.model.tree import EMPTY_TREE, profile
from gonfalon.core.model.vocabulary import WHOLE_BRANCH, Reason
from tests.core.harbour import COMPONENTS, NOW, TYPES
from tests.core.naive import Naive
from tests.core.strategies import NODE_IDS, TREE, policies
from tests.examples import SEED, examples

ACTIONS = ["see", "edit", "publish", "remove", "move", "history", "discussion.moderate"]


def questions():
    """Every kind of question there is, of everyone, on every node."""
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
        for capability in ("desk.open", "roles.define"):
            for site in (None, "quay", "regatta"):
                yield Question(who, capability, at=NOW, site=site)
        for action in ("see", "edit", "remove"):
            yield Question(who, action, profile("ada"), NOW)
        yield Question(who, "see-field", profile("ada"), NOW, field="phone")
        for node in NODE_IDS:
            target = TREE.target(node)
            for action in ACTIONS:
                yield Question(who, action, target, NOW)
            yield Question(who, "create", target.child("berth", frozenset({"trade"})), NOW)
            yield Question(who, "move", target, NOW, to=TREE.target("fees"))
            for component, facet in (("text", "style"), ("table", "layout")):
                yield Question(who, "insert-component", target, NOW, component=component)
                for id in (None, "c1", "c2"):
                    yield Question(who, "arrange-component", target, NOW, component=component, component_id=id)
                part = {"component": component, "facet": facet}
                yield Question(who, "change-facet", target, NOW, **part)
                for id in ("c1", "c2", "c3"):
                    yield Question(who, "change-facet", target, NOW, **part, component_id=id)
            for field in TYPES[target.type].fields:
                yield Question(who, "see-field", target, NOW, field=field)
                yield Question(who, "change-field", target, NOW, field=field)
            yield Question(who, "fill-field", target.child("berth"), NOW, field="dues")
            yield Question(who, "fill-field", target.child("notice"), NOW, field="hazard")


def made_up(who):
    scoped = [{"role": role, "scope": write_scope(scope)} for role, scope in who.scoped]
    return {"roles": [*who.roles, *scoped], "own": who.as_author, "groups": list(who.groups)}


def request(q):
    """The question as §8 writes it."""
    asked = {"action": q.action, "at": "2026-11-03T09:00:00Z"}
    asked |= made_up(q.who) if isinstance(q.who, HypotheticalSubject) else {"account": q.who}
    if q.target is not None and q.target.profile:
        asked["node"] = {"type": "account", "author": q.target.author}
    elif q.target is not None:
        asked["node"] = q.target.path[-1]
        if q.target.id is None:
            asked |= {"type": q.target.type, "topics": sorted(q.target.topics)}
    if q.to is not None:
        asked["to"] = q.to.path[-1]
    parts = {part: getattr(q, part) for part in ("site", "field", "component", "facet", "component_id")}
    return asked | {part: value for part, value in parts.items() if value is not None}


ALL = list(questions())
PARTS = 4


def compare(policy, asked, reached):
    """Hold every way of asking beside the naive reading: question and request, with a trail, without a tree."""
    policy = replace(policy, sites=frozenset({"quay", "regatta"}), topics=frozenset({"tides", "trade"}))
    engine, bare, naive = Engine(policy, TREE), Engine(policy, EMPTY_TREE), Naive(policy, TREE)
    for question in asked:
        answer = str(engine.decide(question).reason)
        assert answer == naive.answer(question), question
        assert answer == str(engine.decide(question, trail=True).reason), "the trail changed the answer"
        assert without_a_tree(bare, question) in (answer, "it needs a tree")
        if question.facet is None or question.facet in COMPONENTS[question.component]:
            assert answer == str(engine.decide(request(question)).reason), request(question)
        reached[answer] += 1


def without_a_tree(engine, question):
    """The answer by the node's own path alone, as the server asks; only what asks about nodes beneath has none."""
    try:
        return str(engine.decide(question).reason)
    except NotInTree:
        assert question.action in WHOLE_BRANCH
        assert not question.target.profile
        return "it needs a tree"


@settings(max_examples=examples(40), suppress_health_check=list(HealthCheck))
@given(policies())
def test_both_readings_answer_everything_alike(policy):
    compare(policy, ALL, Counter())


@pytest.mark.parametrize("part", range(PARTS))
def test_both_readings_answer_alike_on_thousands_of_policies(part):
    reached: Counter[str] = Counter()

    @seed(SEED * PARTS + part)
    @settings(max_examples=examples(2_000 // PARTS), suppress_health_check=list(HealthCheck), deadline=None)
    @given(policies(), st.randoms(use_true_random=False))
    def on_one_of_them(policy, random):
        compare(policy, random.sample(ALL, 50), reached)

    on_one_of_them()
    assert set(reached) == {str(reason) for reason in Reason} - {"beyond", "not-delegated"}, (
        "a reason never met is never compared"
    )
