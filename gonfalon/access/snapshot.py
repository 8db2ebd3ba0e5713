"""The policy in force, built from rows once per version and kept by each process.

    current().engine.decide(Question("ada", "roles.define"))

A request costs one primary-key read to learn the version; a new version costs a fixed number of
queries to read, however many rows there are. Processes on one database agree at once, because the
version is raised in the unit of the change. What a unit reads that may still raise it belongs to that unit
alone until it is kept: a version that is rolled back was never there.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, Literal

from django.db import models

from gonfalon.access import models as rows
from gonfalon.access.catalogue import Catalogue
from gonfalon.access.entries import (
    ANSWERS,
    ASSIGNMENTS,
    DELEGATIONS,
    DIRECT_GRANTS,
    FIELD_RULES,
    GROUPS,
    LIMITS,
    LOCKS,
    MEMBERSHIPS,
    REACHES,
    ROLES,
)
from gonfalon.access.holders import Holders
from gonfalon.access.names import places
from gonfalon.access.vocabulary import Words, vocabulary
from gonfalon.accounts.models import Account
from gonfalon.core import Engine
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.work import POLICY, raise_row, raised, read_together, version_row
from gonfalon.work.kept import KeptByVersion

VERSION_ROW = 1
_LONGEST_LINE = 50


@dataclass(frozen=True, slots=True)
class Demands:
    """What people must have when they come: whose holders need a second factor, and which fields are filled in."""

    roles: frozenset[str] = frozenset()
    risky: bool = False
    fields: frozenset[str] = frozenset()

    @classmethod
    def read(cls, data: dict[str, Any]) -> "Demands":
        return cls(frozenset(data.get("roles", ())), data.get("risky", False), frozenset(data.get("fields", ())))

    def data(self) -> dict[str, Any]:
        return {"roles": sorted(self.roles), "risky": self.risky, "fields": sorted(self.fields)}


@dataclass(frozen=True)
class Snapshot:
    """A policy, its version, an engine that keeps what it compiles, and what there is to say something about."""

    version: int
    policy: Policy
    engine: Engine
    words: Words
    demands: Demands = Demands()
    line: int = 0
    """Through how many versions before this one what is compiled has been handed on."""
    _holders: list[Holders] = field(default_factory=list, compare=False)

    def holders(self, at: datetime) -> Holders:
        """Who holds what at a moment; worked out anew when something given begins or ends."""
        if not self._holders or not self._holders[0].still_so(at):
            self._holders[:] = [Holders(self.policy, at)]
        return self._holders[0]

    @property
    def catalogue(self) -> Catalogue:
        """What is in use here, in words."""
        return self.words.in_use.catalogue


_kept = KeptByVersion[Snapshot](POLICY)


def current() -> Snapshot:
    """The policy as it stands in the database now, and within a unit as that has written it.

    One query unless it changed, none where the unit holds the version.
    """
    return _kept.at(_version(), _read)


def _read(before: Snapshot | None) -> Snapshot:
    """Version and rows from one view of the database, so that they belong together.

    What is compiled of the version read before is handed on, but not for ever: what nobody says any more goes with it.
    """
    with read_together():
        row: rows.PolicyVersion = version_row(POLICY) or rows.PolicyVersion.objects.get(pk=VERSION_ROW)
        version, demands = row.number, Demands.read(row.demands)
        words = vocabulary()
        policy = read_policy(words)
    if before is None or before.line == _LONGEST_LINE:
        return Snapshot(version, policy, Engine(policy), words, demands)
    policy = policy.like(before.policy)
    before.engine.detach()
    return Snapshot(version, policy, before.engine.changed(policy), words, demands, before.line + 1)


def _version() -> int:
    held: rows.PolicyVersion | None = version_row(POLICY)
    if held is not None:
        return held.number
    return rows.PolicyVersion.objects.values_list("number", flat=True).get(pk=VERSION_ROW)


def raise_version() -> None:
    """Say that access has changed. Belongs in the unit of the change, which holds POLICY."""
    held = raised(POLICY)
    if held is not None:
        raise_row(held, number=held.number + 1)
    else:
        rows.PolicyVersion.objects.filter(pk=VERSION_ROW).update(number=models.F("number") + 1)


def read_policy(words: Words | None = None) -> Policy:
    """Everything said about access, in a fixed number of queries. Nodes are not part of it.

    What is said about an extension that is switched off is left out.
    """
    words = (words or vocabulary()).in_use
    roles, baseline = ROLES.with_baseline()
    sites, topics = places()
    return Policy(
        capabilities=words.capabilities,
        types=words.types,
        components=words.components,
        sites=sites,
        topics=topics,
        roles=_roles(roles, words),
        everyone=baseline.get("everyone"),
        signed_in=baseline.get("signed-in"),
        groups=GROUPS.read(),
        accounts=_accounts(),
        assignments=ASSIGNMENTS.read(),
        direct_grants=_direct_grants(words),
        delegations=DELEGATIONS.read(),
        limits=LIMITS.read(),
        fields={
            (type, field): rule
            for (type, field), rule in FIELD_RULES.values().items()
            if (type, field) not in words.retired
        },
        locks=LOCKS.read(),
    )


def with_words(policy: Policy, words: Words) -> Policy:
    """The policy as it would be with other extensions switched on: what roles and direct grants say of theirs counts.

    Three queries.
    """
    words = words.in_use
    return replace(
        policy,
        capabilities=words.capabilities,
        types=words.types,
        components=words.components,
        roles=_roles(ROLES.read(), words),
        direct_grants=_direct_grants(words),
    )


def _direct_grants(words: Words) -> dict[str, core.DirectGrant]:
    return {id: direct for id, direct in DIRECT_GRANTS.read().items() if words.knows(direct.capability)}


def _roles(roles: Mapping[str, core.Role], words: Words) -> dict[str, core.Role]:
    answers: dict[str, dict[str, str]] = defaultdict(dict)
    for (role, capability), says in ANSWERS.values().items():
        if words.knows(capability):
            answers[role][capability] = says
    return {
        key: replace(
            role,
            grants=answers[key],
            components=None if role.components is None else frozenset(words.components.keys() & role.components),
            facets={component: facets for component, facets in role.facets.items() if component in words.components},
        )
        for key, role in roles.items()
    }


def _accounts() -> dict[str, core.Account]:
    groups: dict[str, set[str]] = defaultdict(set)
    for account, group in MEMBERSHIPS.values():
        groups[account].add(group)
    reach: dict[str, dict[str, frozenset[str]]] = defaultdict(dict)
    for (account, tree), branches in REACHES.values().items():
        reach[account][tree] = branches
    return {
        id: core.Account(id, _state(state), keyholder, frozenset(groups[id]), reach[id])
        for id, state, keyholder in Account.objects.values_list("id", "state", "keyholder")
    }


def _state(state: str) -> Literal["active", "invited", "disabled"]:
    return state  # type: ignore[return-value]
