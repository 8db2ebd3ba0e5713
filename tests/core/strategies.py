"""Policies, and changes to them, made up for properties: dense enough that everything the rules tell apart comes up."""

from datetime import timedelta
from random import Random

from hypothesis import strategies as st

from gonfalon.core import Engine
from gonfalon.core.model.policy import (
    Account,
    Assignment,
    DirectGrant,
    FieldRule,
    Group,
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
    GiveCapability,
    GiveRole,
    OpenLock,
    PutGroup,
    SetAnswer,
    SetBuildsOn,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetLock,
    SetMember,
    SetReach,
    SetState,
    TakeCapability,
    TakeRole,
)
from tests.core.harbour import COMPONENTS, NODES, NOW, harbour

TREE = Tree.build(NODES)
NODE_IDS = [node.id for node in NODES]
ROLES = ("everyone", "signed-in", "writer", "lead", "guest")
GRADED = [f"{t}.{v}" for t in ("notice", "berth", "picture", "account") for v in VERBS]
PLAIN = ["desk.open", "roles.define", "impersonate.start", "discussion.moderate", "locks.open", "fields.private"]
WRITES = {f"{type}.{verb}": "all" for type in ("notice", "berth") for verb in ("edit", "edit-live")}


def some(values, size=2):
    return st.none() | st.frozensets(st.sampled_from(values), max_size=size)


scopes = st.just(Scope()) | st.builds(
    Scope,
    sites=some(["quay", "regatta"]),
    branches=some(NODE_IDS),
    types=some(["berth", "notice", "account"]),
    topics=some(["tides", "trade"]),
)
PEOPLE = [Subject.account("ada"), Subject.account("ben"), Subject.group("tenants"), Subject.group("pier-3")]
ANYONE = [*PEOPLE, *(Subject.role(key) for key in ROLES)]
anyone = st.sampled_from(ANYONE)
marks = st.frozensets(st.sampled_from(["see-own", "see-all", "change-own", "change-all", "fill"]), max_size=3)
rules = st.builds(
    FieldRule, st.sampled_from(["open", "author", "table"]), st.dictionaries(st.sampled_from(ROLES), marks, max_size=3)
)


class Making:
    """Makes one policy up from a seed: many times as fast as drawing each of its hundreds of choices."""

    PERIODS = (Period(), Period(), Period(NOW, None), Period(None, NOW), Period(NOW - timedelta(1), NOW + timedelta(1)))
    MARKS = ("see-own", "see-all", "change-own", "change-all", "fill")
    LOCKED = ((None, None), ("dues", None), ("title", None), ("hazard", None), (None, "c1"), (None, "c2"))
    RULED = (("berth", "dues"), ("berth", "title"), ("notice", "hazard"), ("account", "phone"))
    LIMITED = ("see", "edit", "create", "move", "locks.open")

    def __init__(self, seed: int) -> None:
        self.random = Random(seed)
        self.one = self.random.choice

    def policy(self):
        return harbour(
            roles={
                "everyone": Role("everyone", self.graded()),
                "signed-in": Role("signed-in", self.grants()),
                "writer": self.role("writer"),
                "lead": self.role("lead", "writer"),
                "guest": self.role("guest", "everyone"),
            },
            accounts=[
                Account("ada", groups=frozenset({"pier-3"}), reach=self.reach()),
                Account("gone", "disabled"),
            ],
            assignments=self.several(
                4,
                lambda id: Assignment(id, self.one(ROLES[2:]), self.one(PEOPLE), self.scope(), self.one(self.PERIODS)),
            ),
            direct=self.several(2, self.direct_grant),
            limits=self.several(5, self.limit),
            locks=self.several(5, lambda id: Lock(id, self.one(NODE_IDS), *self.one(self.LOCKED))),
            fields={key: self.rule() for key in self.RULED},
        )

    def several(self, most, make):
        return [make(f"x{i}") for i in range(self.random.randint(0, most))]

    def among(self, values, most, least=0):
        return frozenset(self.one(values) for _ in range(self.random.randint(least, most)))

    def perhaps(self, values, most=2):
        return None if self.random.random() < 0.5 else self.among(values, most)

    def said(self, capabilities, words, most):
        return {self.one(capabilities): self.one(words) for _ in range(self.random.randint(0, most))}

    def graded(self):
        return self.said(GRADED, ("own", "team", "all", "all", "all", "withheld", "barred"), 24)

    def grants(self):
        return self.graded() | self.said(PLAIN, ("yes", "yes", "withheld", "barred"), 4)

    def role(self, key, builds_on=None):
        said = self.grants() | self.one(({}, WRITES))  # components and facets are asked of who may edit
        facets = {component: self.among(FACETS, 4) for component in sorted(self.among(list(COMPONENTS), 2))}
        return Role(key, said, builds_on, self.perhaps(list(COMPONENTS), 1), facets)

    def reach(self):
        return {tree: self.among(NODE_IDS, 3) for tree in sorted(self.among(("content", "media"), 1))}

    def scope(self):
        if self.random.random() < 0.5:
            return Scope()
        types = self.perhaps(("berth", "notice", "account"))
        return Scope(self.perhaps(("quay", "regatta")), self.perhaps(NODE_IDS), types, self.perhaps(("tides", "trade")))

    def assignment(self, id):
        return Assignment(id, self.one(ROLES[2:]), self.one(PEOPLE), self.scope(), self.one(self.PERIODS))

    def direct_grant(self, id):
        says = self.one(("own", "team", "all", "barred"))
        period = self.one(self.PERIODS)
        return DirectGrant(f"d{id}", self.one(PEOPLE), self.one(GRADED), says, self.scope(), period)

    def limit(self, id):
        actions = None if self.random.random() < 0.5 else self.among(self.LIMITED, 3, least=1)
        applies = self.one(("node", "beneath", "branch"))
        return Limit(id, self.one(NODE_IDS), self.one(ANYONE), self.one(list(Effect)), applies, actions)

    def rule(self):
        table = {role: self.among(self.MARKS, 3) for role in sorted(self.among(ROLES, 3))}
        return FieldRule(self.one(("open", "author", "table")), table)


def policies():
    return st.integers(0, 2**48).map(lambda seed: Making(seed).policy())


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
    st.builds(
        lambda capability, says, to, scope: GiveCapability(DirectGrant("new-d", to, capability, says, scope)),
        st.sampled_from(GRADED),
        st.sampled_from(["own", "all", "barred"]),
        st.sampled_from(PEOPLE),
        scopes,
    ),
    st.just(TakeCapability("dx0")),
    st.builds(
        SetMember,
        st.sampled_from(["ada", "ben", "cy"]),
        st.sampled_from(["tenants", "pier-3", "pier-5"]),
        st.booleans(),
    ),
    st.builds(SetState, st.sampled_from(["ada", "ben", "gone"]), st.sampled_from(["active", "invited", "disabled"])),
    st.builds(lambda parent: PutGroup(Group("pier-3", parent)), st.sampled_from([None, "tenants", "pier-5"])),
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
