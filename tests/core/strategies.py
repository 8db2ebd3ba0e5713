"""Policies, and changes to them, made up for properties: dense enough that everything the rules tell apart comes up."""

from datetime import timedelta

from hypothesis import strategies as st

from gonfalon.core import Engine
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
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import FACETS, VERBS, Effect
from gonfalon.core.operations import (
    DropLimit,
    GiveRole,
    OpenLock,
    SetAnswer,
    SetBuildsOn,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetLock,
    SetReach,
    TakeRole,
)
from tests.core.harbour import COMPONENTS, NODES, NOW, harbour

TREE = Tree.build(NODES)
NODE_IDS = [node.id for node in NODES]
ROLES = ("everyone", "signed-in", "writer", "lead", "guest")
GRADED = [f"{t}.{v}" for t in ("notice", "berth", "picture", "account") for v in VERBS]
PLAIN = ["desk.open", "roles.define", "impersonate.start", "discussion.moderate", "locks.open", "fields.private"]
WRITES = {f"{type}.{verb}": "all" for type in ("notice", "berth") for verb in ("edit", "edit-live")}

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


def engines():
    """Engines of such policies over the harbour's tree."""
    return policies().map(lambda policy: Engine(policy, TREE))


graded_answers = st.builds(
    SetAnswer, st.sampled_from(ROLES), st.sampled_from(GRADED), st.sampled_from(["own", "team", "all", None])
)
operations = st.one_of(
    graded_answers,
    st.builds(
        SetAnswer,
        st.sampled_from(ROLES),
        st.sampled_from([*GRADED, "locks.open", "roles.define", "fields.private"]),
        st.sampled_from(["all", "barred", None]),
    ),
    st.builds(
        lambda role, to, scope: GiveRole(Assignment("new", role, to, scope)),
        st.sampled_from(ROLES[2:]),
        st.sampled_from([Subject.account("ada"), Subject.group("tenants")]),
        scopes,
    ),
    st.builds(SetComponents, st.sampled_from(ROLES), st.none() | st.frozensets(st.sampled_from([*COMPONENTS]))),
    st.builds(
        lambda role, facets: SetFacets(role, "text", facets),
        st.sampled_from(ROLES),
        st.none() | st.frozensets(st.sampled_from(COMPONENTS["text"])),
    ),
    st.builds(lambda above: SetBuildsOn("guest", above), st.none() | st.sampled_from(["writer", "lead"])),
    st.just(TakeRole("x0")),
    st.just(DropLimit("x0")),
    st.builds(
        lambda node, to, effect, applies: SetLimit(Limit("new", node, to, effect, applies)),
        st.sampled_from(NODE_IDS),
        anyone,
        st.sampled_from(Effect),
        st.sampled_from(["node", "beneath", "branch"]),
    ),
    st.builds(lambda rule: SetFieldRule("berth", "dues", rule), rules),
    st.builds(lambda node: SetLock(Lock("new", node)), st.sampled_from(NODE_IDS)),
    st.just(OpenLock("x0")),
    st.builds(
        lambda branches: SetReach("ada", "content", branches),
        st.none() | st.frozensets(st.sampled_from(NODE_IDS), max_size=2),
    ),
)
