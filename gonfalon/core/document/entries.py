"""Entries of a policy as data: what differs between two policies, one by one, and a policy with that taken back.

    changes = list(changes_between(before, after))   # [EntryChange("assignment", ("a1",), None, {"role": …})]
    taken_back(after, changes) == before

An entry is written as a policy document writes it (§8). What a role says is an entry for each capability; pages,
sites, topics and expectations are none of access and left alone.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, fields, replace
from datetime import datetime
from typing import Any, NamedTuple

from gonfalon.core.document import writer
from gonfalon.core.document.scopes import plain_scope
from gonfalon.core.model.policy import (
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    FieldRule,
    Group,
    Limit,
    Lock,
    NodeType,
    Period,
    Policy,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.vocabulary import Effect, Kind

Json = dict[str, Any]
Key = tuple[str, ...]


class EntryChange(NamedTuple):
    """One entry of a policy that came, went (`now` None) or says something else."""

    kind: str
    key: Key
    was: Any
    now: Any


@dataclass(frozen=True, slots=True)
class EntryKind:
    """How entries of one mapping of a policy are written and read. `read` is given the key and what was written."""

    name: str
    mapping: str
    write: Callable[[Any], Any]
    read: Callable[[Key, Any], Any]

    def key(self, in_mapping: Any) -> Key:
        """The key of an entry as data."""
        return in_mapping if isinstance(in_mapping, tuple) else (in_mapping,)

    def in_mapping(self, key: Key) -> Any:
        """The same as the policy has it."""
        return key[0] if len(key) == 1 else key


def _subject(to: Json) -> Subject:
    [(kind, id)] = to.items()
    return Subject(kind, id)  # type: ignore[arg-type]


def _scope(said: Json) -> Scope:
    return plain_scope(said.get("scope") or {})


def _period(said: Json) -> Period:
    return Period(_time(said.get("from")), _time(said.get("until")))


def _time(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


def _sets(lists: Json | None) -> dict[str, frozenset[str]]:
    return {name: frozenset(ids) for name, ids in (lists or {}).items()}


def _role_alone(role: Role) -> Json:
    said = writer.write_role(replace(role, grants={}))
    return {key: value for key, value in said.items() if key != "grants"}


def _read_role(key: Key, said: Json) -> Role:
    components = said.get("components")
    return Role(
        key[0],
        {},
        said.get("builds_on"),
        None if components is None else frozenset(components),
        _sets(said.get("facets")),
    )


def _read_account(key: Key, said: Json) -> Account:
    return Account(key[0], said["state"], said["keyholder"], frozenset(said["groups"]), _sets(said.get("reach")))


def _read_assignment(key: Key, said: Json) -> Assignment:
    return Assignment(key[0], said["role"], _subject(said["to"]), _scope(said), _period(said))


def _read_direct_grant(key: Key, said: Json) -> DirectGrant:
    return DirectGrant(key[0], _subject(said["to"]), said["capability"], said["says"], _scope(said), _period(said))


def _read_delegation(key: Key, said: Json) -> Delegation:
    receivers = said.get("receivers")
    group = receivers["group"] if receivers else None
    return Delegation(
        key[0], _subject(said["to"]), frozenset(said["roles"]), _scope(said), group, _time(said.get("until"))
    )


def _read_limit(key: Key, said: Json) -> Limit:
    actions = None if said["actions"] == "*" else frozenset(said["actions"])
    return Limit(key[0], said["node"], _subject(said["to"]), Effect(said["effect"]), said["applies"], actions)


def _read_lock(key: Key, said: Json) -> Lock:
    part = said.get("part") or {}
    return Lock(key[0], said["node"], part.get("field"), part.get("component"))


def _read_type(key: Key, said: Json) -> NodeType:
    return NodeType(key[0], said.get("tree"), tuple(said["fields"]))


ROLE, ANSWER, BASELINE = "role", "answer", "baseline"
KINDS: tuple[EntryKind, ...] = (
    EntryKind("capability", "capabilities", str, lambda key, said: Kind(said)),
    EntryKind("type", "types", writer.write_type, _read_type),
    EntryKind("component", "components", list, lambda key, said: tuple(said)),
    EntryKind(ROLE, "roles", _role_alone, _read_role),
    EntryKind(
        "group",
        "groups",
        lambda group: {"parent": group.parent},
        lambda key, said: Group(key[0], said["parent"]),
    ),
    EntryKind("account", "accounts", writer.write_account, _read_account),
    EntryKind("assignment", "assignments", writer.write_assignment, _read_assignment),
    EntryKind("direct-grant", "direct_grants", writer.write_direct_grant, _read_direct_grant),
    EntryKind("delegation", "delegations", writer.write_delegation, _read_delegation),
    EntryKind("limit", "limits", writer.write_limit, _read_limit),
    EntryKind(
        "field-rule",
        "fields",
        writer.write_field_rule,
        lambda key, said: FieldRule(said["mode"], _sets(said.get("table"))),
    ),
    EntryKind("lock", "locks", writer.write_lock, _read_lock),
)
_BY_NAME = {kind.name: kind for kind in KINDS}
_SIDES = ("everyone", "signed_in")


def changes_between(before: Policy, after: Policy) -> Iterator[EntryChange]:
    """What differs in access. Mappings and entries that both have the same, object by object, cost nothing."""
    for kind in KINDS:
        was, now = getattr(before, kind.mapping), getattr(after, kind.mapping)
        if was is not now:
            yield from _of_kind(kind, was, now)
    for side in _SIDES:
        if getattr(before, side) != getattr(after, side):
            yield EntryChange(BASELINE, (side,), getattr(before, side), getattr(after, side))


def _of_kind(kind: EntryKind, before: Mapping[Any, Any], after: Mapping[Any, Any]) -> Iterator[EntryChange]:
    for key in [*before, *(key for key in after if key not in before)]:
        was, now = before.get(key), after.get(key)
        if was is now or was == now:
            continue
        told = EntryChange(
            kind.name,
            kind.key(key),
            None if was is None else kind.write(was),
            None if now is None else kind.write(now),
        )
        if told.was != told.now:
            yield told
        if kind.name == ROLE:
            yield from _answers(key, was.grants if was else {}, now.grants if now else {})


def _answers(role: str, before: Mapping[str, str], after: Mapping[str, str]) -> Iterator[EntryChange]:
    for capability in [*before, *(key for key in after if key not in before)]:
        was, now = before.get(capability), after.get(capability)
        if was != now:
            yield EntryChange(ANSWER, (role, capability), was, now)


def taken_back(policy: Policy, changes: Iterable[EntryChange]) -> Policy:
    """The policy as it was before some changes, the last of which is given first."""
    kept: dict[str, dict[Any, Any]] = {kind.mapping: dict(getattr(policy, kind.mapping)) for kind in KINDS}
    grants = {key: dict(role.grants) for key, role in policy.roles.items()}
    sides: dict[str, Any] = {}
    for change in changes:
        if change.kind == BASELINE:
            sides[change.key[0]] = change.was
        elif change.kind == ANSWER:
            role, capability = change.key
            _put(grants.setdefault(role, {}), capability, change.was)
        else:
            kind = _BY_NAME[change.kind]
            value = None if change.was is None else kind.read(change.key, change.was)
            _put(kept[kind.mapping], kind.in_mapping(change.key), value)
    roles = {key: replace(role, grants=grants.get(key, {})) for key, role in kept["roles"].items()}
    changed: dict[str, Any] = {**kept, "roles": roles, **sides}
    return replace(policy, **changed)


def _put(mapping: dict[Any, Any], key: Any, value: Any) -> None:
    if value is None:
        mapping.pop(key, None)
    else:
        mapping[key] = value


ACCESS = frozenset({*(kind.mapping for kind in KINDS), *_SIDES})
"""The fields of a policy that its entries make up."""


def same_access(one: Policy, other: Policy) -> bool:
    """Whether two policies say the same about access."""
    return all(getattr(one, f.name) == getattr(other, f.name) for f in fields(Policy) if f.name in ACCESS)
