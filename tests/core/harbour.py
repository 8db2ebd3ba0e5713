"""A small harbour to ask about: two sites, a few people, one tree each of content and media."""

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime

from gonfalon.core import Engine, Policy, Question
from gonfalon.core.model.policy import (
    ALWAYS,
    ANYWHERE,
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    FieldRule,
    Group,
    Limit,
    Lock,
    NodeType,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.tree import Node, Tree
from gonfalon.core.model.vocabulary import Kind

NOW = datetime(2026, 11, 3, 9, 0, tzinfo=UTC)

TYPES = {
    "notice": NodeType("notice", "content", ("title", "hazard", "contact")),
    "berth": NodeType("berth", "content", ("title", "dues")),
    "picture": NodeType("picture", "media", ("alt",)),
    "account": NodeType("account", None, ("phone",)),
}
CAPABILITIES = {
    "discussion.moderate": Kind.PLACED,
    "locks.open": Kind.PLACED,
    "fields.private": Kind.PLACED,
    "desk.open": Kind.OPENING,
    "roles.define": Kind.SITEWIDE,
    "impersonate.start": Kind.SITEWIDE,
    "roles.assign": Kind.SITEWIDE,
}
COMPONENTS = {"text": ("wording", "links", "style"), "table": ("wording", "layout")}

NODES = [
    Node("home", None, "content", "quay", "notice"),
    Node("moorings", "home", "content", "quay", "berth"),
    Node("loft", "moorings", "content", "quay", "berth", author="ada"),
    Node("chandlery", "moorings", "content", "quay", "berth", author="ben", topics=frozenset({"trade"})),
    Node("fees", "moorings", "content", "quay", "berth", author="ada"),
    Node("winter", "fees", "content", "quay", "berth", author="ada"),
    Node("hardship", "fees", "content", "quay", "berth", author="ada"),
    Node("draft", "home", "content", "quay", "notice", author="ada", state="draft", topics=frozenset({"tides"})),
    Node("races", None, "content", "regatta", "notice", author="cy"),
    Node("pictures", None, "media", "quay", "picture"),
    Node("quayside", "pictures", "media", "quay", "picture", author="ben"),
]


def by_id(things: Iterable) -> dict:
    return {thing.id: thing for thing in things}


def harbour(
    *,
    roles: Mapping[str, Role | dict[str, str]] = {},
    assignments: Iterable[Assignment] = (),
    direct: Iterable[DirectGrant] = (),
    limits: Iterable[Limit] = (),
    locks: Iterable[Lock] = (),
    fields: Mapping[tuple[str, str], FieldRule] = {},
    accounts: Iterable[Account] = (),
    delegations: Iterable[Delegation] = (),
) -> Policy:
    """The harbour with these roles (a dict of grants is enough) given in these ways."""
    people = [
        Account("ada", groups=frozenset({"pier-3"})),
        Account("ben", groups=frozenset({"pier-3"})),
        Account("cy", groups=frozenset({"pier-5"})),
        Account("key", keyholder=True),
    ]
    made = {k: r if isinstance(r, Role) else Role(k, r) for k, r in roles.items()}
    return Policy(
        capabilities=CAPABILITIES,
        types=TYPES,
        components=COMPONENTS,
        roles={"everyone": Role("everyone"), "signed-in": Role("signed-in")} | made,
        groups={
            "tenants": Group("tenants"),
            "pier-3": Group("pier-3", "tenants"),
            "pier-5": Group("pier-5", "tenants"),
        },
        accounts=by_id(people) | by_id(accounts),
        assignments=by_id(assignments),
        direct_grants=by_id(direct),
        delegations=by_id(delegations),
        limits=by_id(limits),
        locks=by_id(locks),
        fields=fields,
    )


def engine(**said) -> Engine:
    return Engine(harbour(**said), Tree.build(NODES))


ADA, BEN, CREW = Subject.account("ada"), Subject.account("ben"), Subject.group("tenants")
WRITER = Subject.role("writer")
EDITS = {"berth.edit": "all", "berth.edit-live": "all"}


def give(role="writer", to=ADA, *, id="a1", scope=ANYWHERE, period=ALWAYS) -> Assignment:
    return Assignment(id, role, to, scope, period)


def only(**lists) -> Scope:
    return Scope(**{name: frozenset(value) for name, value in lists.items()})


def ask(asked, who, action, node=None, **more) -> str:
    target = asked.tree.target(node) if node else None
    return str(asked.decide(Question(who, action, target, NOW, **more)).reason)


def ask_new(asked, who, type, parent, topics=(), action="create", **more) -> str:
    target = asked.tree.target(parent).child(type, frozenset(topics))
    return str(asked.decide(Question(who, action, target, NOW, **more)).reason)
