"""Accounts, groups, roles and what is given, from roles.yaml and people.yaml."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.hashers import make_password

from gonfalon.access.holders import Holders
from gonfalon.access.models import (
    Answer,
    Assignment,
    Delegation,
    DirectGrant,
    Reach,
    Review,
    ReviewItem,
    Role,
    Use,
)
from gonfalon.access.reviews import close_when_due
from gonfalon.access.snapshot import read_policy
from gonfalon.accounts.models import Account, Group, Membership

Data = dict[str, Any]

PAGES = ("home", "section", "page", "notice", "berth", "event", "article", "tenant", "result")
FILES = ("picture", "document")


def load_roles(roles: list[Data]) -> None:
    """Roles in their order with all they say. The two baseline roles exist already."""
    for position, data in enumerate(roles):
        if "name" in data:
            Role.objects.create(key=data["key"], **_named(data, position))
        role = Role.objects.get(key=data["key"])
        role.answers.bulk_create(
            Answer(role=role, capability=capability, says=says) for capability, says in _answers(data)
        )


def _named(data: Data, position: int) -> Data:
    colour, pattern = data["cloth"]
    return {
        "name": data["name"],
        "description": data["description"],
        "colour": colour,
        "pattern": pattern,
        "position": position,
        "builds_on_id": data.get("builds_on"),
        "components": data.get("components"),
        "facets": data.get("facets", {}),
    }


def _answers(data: Data) -> Iterable[tuple[str, str]]:
    said: dict[str, str] = {}
    for types, verbs in data.get("answers", {}).items():
        for type in {"pages": PAGES, "files": FILES}.get(types, (types,)):
            said |= {f"{type}.{verb}": says for verb, says in verbs.items()}
    return [*said.items(), *((duty, "yes") for duty in data.get("duties", ()))]


def load_people(data: Data, password: str, at: datetime) -> dict[str, str]:
    """Groups and accounts. Gives the ids of accounts by the first part of their address."""
    for key, group in data["groups"].items():
        Group.objects.create(key=key, name=group["name"], parent_id=group.get("parent"))
    hashed = make_password(password)
    ids = {}
    for name, email, groups, more in data["people"]:
        id = email.split("@")[0]
        ids[id] = id
        Account.objects.create(
            id=id,
            name=name,
            email=email,
            password=hashed,
            profile=more.get("profile", {}),
            state=more.get("state", "active"),
            keyholder=more.get("keyholder", False),
            last_seen=None if more["seen"] == "never" else at - timedelta(days=more["seen"], minutes=len(name) * 7),
        )
        Membership.objects.bulk_create(Membership(account_id=id, group_id=g) for g in groups)
    return ids


def load_given(data: Data, at: datetime) -> None:
    """Assignments, direct grants and reach, as people.yaml lists them."""
    for n, given in enumerate(data["given"], 1):
        Assignment.objects.create(id=f"given-{n}", role_id=given["role"], **_given(given, at))
    for n, given in enumerate(data["direct"], 1):
        DirectGrant.objects.create(
            id=f"direct-{n}", capability=given["capability"], says=given["says"], **_given(given, at)
        )
    for reach in data["reach"]:
        Reach.objects.create(account_id=reach["to"], tree=reach["tree"], branches=reach["branches"])


def load_uses(at: datetime) -> None:
    """What was used: everybody used what they hold when they were last seen, but some of it not at all."""
    held = Holders(read_policy(), at)
    seen = Account.objects.exclude(last_seen=None).values_list("id", "name", "last_seen")
    Use.objects.bulk_create(
        Use(account=id, role=role, day=last.date(), capabilities=["desk.open"])
        for id, name, last in seen
        for role in held.roles_of(id)
        if last and (len(name) + len(role)) % 5
    )


def load_delegations(data: Data, at: datetime) -> None:
    """Who may hand out what, as people.yaml lists it."""
    midnight = at.replace(hour=0, minute=0, second=0, microsecond=0)
    for n, listed in enumerate(data["delegations"], 1):
        kind, _, name = listed["to"].partition(" ")
        Delegation.objects.create(
            id=f"delegation-{n}",
            subject_kind=kind,
            subject_id=name,
            roles=listed["roles"],
            scope={key: listed[key] for key in ("sites", "branches") if key in listed},
            receivers_id=listed["receivers"],
            ends=midnight + timedelta(days=listed["until"]),
            made_by="odile",
        )


def load_reviews(data: Data, at: datetime) -> None:
    """Reviews under way, with what was decided already."""
    for n, listed in enumerate(data["reviews"], 1):
        review = Review.objects.create(
            id=f"review-{n}",
            name=listed["name"],
            about=listed["about"],
            reviewers=listed["reviewers"],
            due_at=at + timedelta(days=listed["due"]),
            silent=listed["silent"],
            made_by="odile",
            made_at=at - timedelta(days=2),
        )
        for given in Assignment.objects.filter(role_id=listed["about"]["role"]).order_by("id"):
            to = given.account_id or given.group_id or ""
            decision, reason, by = listed["decided"].get(to, ("", "", None))
            ReviewItem.objects.create(
                review=review,
                assignment=given.id,
                role=given.role_id,
                to_kind="account" if given.account_id else "group",
                to_id=to,
                scope=given.scope,
                ends=given.ends,
                decision=decision,
                reason=reason,
                decided_by=by,
                decided_at=at - timedelta(days=1) if by else None,
            )
        close_when_due.using(run_after=review.due_at).enqueue(review.id)


def _given(given: Data, at: datetime) -> Data:
    kind, _, name = given["to"].rpartition(" ")
    scope = {"branches": given.get("branches"), "sites": given.get("sites"), "types": given.get("types")}
    midnight = at.replace(hour=0, minute=0, second=0, microsecond=0)
    return {
        "account_id": None if kind == "group" else name,
        "group_id": name if kind == "group" else None,
        "scope": {key: value for key, value in scope.items() if value is not None},
        "starts": midnight - timedelta(days=240),
        "ends": midnight + timedelta(days=given["until"]) if "until" in given else None,
        "given_by": "odile",
    }
