"""The engine and the naive reading answer alike, on policies made up to reach every reason."""

from collections import Counter
from dataclasses import replace
from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, MadeUp, Question
from gonfalon.core.model.policy import (
    Account,
    Assignment,
    DirectGrant,
    FieldRule,
    Limit,
    Lock,
    Period,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.tree import Tree, profile
from gonfalon.core.model.vocabulary import FACETS, VERBS, Effect, Reason
from tests.core.harbour import COMPONENTS, NODES, NOW, harbour
from tests.core.naive import Naive

TREE = Tree.build(NODES)
NODE_IDS = [node.id for node in NODES]
ROLES = ("everyone", "signed-in", "writer", "lead", "guest")
GRADED = [f"{t}.{v}" for t in ("notice", "berth", "picture", "account") for v in VERBS]
PLAIN = ["desk.open", "roles.define", "impersonate.start", "discussion.moderate", "locks.open", "fields.private"]
WRITES = {f"{type}.{verb}": "all" for type in ("notice", "berth") for verb in ("edit", "edit-live")}
ACTIONS = ["see", "edit", "publish", "remove", "move", "history", "discussion.moderate"]

graded = st.dictionaries(
    st.sampled_from(GRADED), st.sampled_from(["own", "team", "all", "all", "all", "withheld", "barred"]), max_size=24
)
plain = st.dictionaries(st.sampled_from(PLAIN), st.sampled_from(["yes", "yes", "withheld", "barred"]), max_size=4)
grants = st.builds(lambda a, b: a | b, graded, plain)


def some(values, size=2):
    return st.none() | st.frozensets(st.sampled_from(values), max_size=size)


scopes = st.just(Scope()) | st.builds(
    Scope,
    sites=some(["quay", "regatta"]),
    branches=some(NODE_IDS),
    types=some(["berth", "notice", "account"]),
    topics=some(["tides", "trade"]),
)
periods = st.sampled_from(
    [Period(), Period(), Period(NOW, None), Period(None, NOW), Period(NOW - timedelta(1), NOW + timedelta(1))]
)
people = st.sampled_from(
    [Subject.account("ada"), Subject.account("ben"), Subject.group("tenants"), Subject.group("pier-3")]
)
anyone = people | st.sampled_from([Subject.role(key) for key in ROLES])
marks = st.frozensets(st.sampled_from(["see-own", "see-all", "change-own", "change-all", "fill"]), max_size=3)
rules = st.builds(
    FieldRule, st.sampled_from(["open", "author", "table"]), st.dictionaries(st.sampled_from(ROLES), marks, max_size=3)
)
facets = st.dictionaries(st.sampled_from(list(COMPONENTS)), st.frozensets(st.sampled_from(FACETS)), max_size=2)


@st.composite
def policies(draw):
    def several(make, most):
        return [make(f"x{i}") for i in range(draw(st.integers(0, most)))]

    def role(key, builds_on=None):
        said = draw(grants) | draw(st.sampled_from([{}, WRITES]))  # components and facets are asked of who may edit
        return Role(key, said, builds_on, draw(some(list(COMPONENTS), 1)), draw(facets))

    return harbour(
        roles={
            "everyone": Role("everyone", draw(graded)),
            "signed-in": Role("signed-in", draw(grants)),
            "writer": role("writer"),
            "lead": role("lead", "writer"),
            "guest": role("guest", "everyone"),
        },
        accounts=[
            Account(
                "ada",
                groups=frozenset({"pier-3"}),
                reach=draw(
                    st.dictionaries(
                        st.sampled_from(["content", "media"]), st.frozensets(st.sampled_from(NODE_IDS)), max_size=1
                    )
                ),
            ),
            Account("gone", "disabled"),
        ],
        assignments=several(
            lambda id: Assignment(id, draw(st.sampled_from(ROLES[2:])), draw(people), draw(scopes), draw(periods)), 4
        ),
        direct=several(
            lambda id: DirectGrant(
                f"d{id}",
                draw(people),
                draw(st.sampled_from(GRADED)),
                draw(st.sampled_from(["own", "team", "all", "barred"])),
                draw(scopes),
                draw(periods),
            ),
            2,
        ),
        limits=several(
            lambda id: Limit(
                id,
                draw(st.sampled_from(NODE_IDS)),
                draw(anyone),
                draw(st.sampled_from(Effect)),
                draw(st.sampled_from(["node", "beneath", "branch"])),
                draw(
                    st.none()
                    | st.frozensets(st.sampled_from(["see", "edit", "create", "move", "locks.open"]), min_size=1)
                ),
            ),
            5,
        ),
        locks=several(
            lambda id: Lock(
                id,
                draw(st.sampled_from(NODE_IDS)),
                *draw(st.sampled_from([(None, None), ("dues", None), (None, "c1")])),
            ),
            3,
        ),
        fields={("berth", "dues"): draw(rules), ("account", "phone"): draw(rules)},
    )


def questions():
    """Every kind of question there is, of everyone, on every node."""
    for who in (None, "ada", "ben", "cy", "gone", "key", MadeUp(("lead",)), MadeUp(("writer",), own=True)):
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
                part = {"component": component, "facet": facet}
                yield Question(who, "change-facet", target, NOW, **part)
                yield Question(who, "change-facet", target, NOW, **part, component_id="c1")
            if target.type == "berth":
                yield Question(who, "see-field", target, NOW, field="dues")
                yield Question(who, "change-field", target, NOW, field="dues")
                yield Question(who, "fill-field", target.child("berth"), NOW, field="dues")


def request(q):
    """The question as §8 writes it."""
    asked = {"action": q.action, "at": "2026-11-03T09:00:00Z"}
    asked |= {"roles": list(q.who.roles), "own": q.who.own} if isinstance(q.who, MadeUp) else {"account": q.who}
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
reached: Counter[str] = Counter()


def compare(policy, asked):
    """Hold the engine, its trail and its answer to JSON beside the naive reading."""
    policy = replace(policy, sites=frozenset({"quay", "regatta"}), topics=frozenset({"tides", "trade"}))
    engine, naive = Engine(policy, TREE), Naive(policy, TREE)
    for question in asked:
        answer = str(engine.decide(question).reason)
        assert answer == naive.answer(question), question
        assert answer == str(engine.decide(question, trail=True).reason), "the trail changed the answer"
        if question.facet is None or question.facet in COMPONENTS[question.component]:
            assert answer == str(engine.decide(request(question)).reason), request(question)
        reached[answer] += 1


@settings(max_examples=40, suppress_health_check=list(HealthCheck))
@given(policies())
def test_both_readings_answer_everything_alike(policy):
    compare(policy, ALL)


@settings(max_examples=2_000, suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), st.randoms(use_true_random=False))
def test_both_readings_answer_alike_on_thousands_of_policies(policy, random):
    compare(policy, random.sample(ALL, 20))


def test_every_reason_was_reached_on_the_way():
    """Runs after the comparison: a reason never met would be a sentence never compared."""
    assert set(reached) == {str(reason) for reason in Reason} - {"beyond"}
