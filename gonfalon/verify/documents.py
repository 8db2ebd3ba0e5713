"""The whole installation's policy as one value: read from rows, and rows made what one says (§8).

    policy = whole_policy()
    install(load_policy(document), by)

What a document cannot say (names, descriptions, texts of pages, who gave what when) stays as it is.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Any, TypeVar

from gonfalon.access import models as access
from gonfalon.access import snapshot
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
    STATES,
    Cell,
    Cells,
    Entries,
)
from gonfalon.access.roles import cloth_for
from gonfalon.access.vocabulary import keep_vocabulary, vocabulary
from gonfalon.accounts.models import Account
from gonfalon.clock import new_id, now
from gonfalon.content import nodes
from gonfalon.content.documents import check_nodes, install_nodes
from gonfalon.content.models import Removed, Site, Topic
from gonfalon.core.document.errors import Fault, PolicyError, pointer
from gonfalon.core.model.policy import Policy
from gonfalon.ids import LONGEST_ID
from gonfalon.ledger.models import By, Entry, record
from gonfalon.verify.document_changes import differences
from gonfalon.verify.expectations import as_asked
from gonfalon.verify.gone import without_gone
from gonfalon.verify.models import Expectation
from gonfalon.work import NODES, POLICY, read_together, unit

T = TypeVar("T")


def whole_policy() -> Policy:
    """Everything a document says, from one view of the database. A fixed number of queries.

    Kinds and capabilities of extensions that are switched off are named, since pages may be of them; what is
    said about them is not, since it does not count.
    """
    with read_together():
        words = vocabulary()
        policy = snapshot.read_policy(words)
        said = {capability for role in policy.roles.values() for capability in role.grants}
        said |= {direct.capability for direct in policy.direct_grants.values()}
        more = {capability: kind for capability, kind in policy.capabilities.items() if capability in said}
        whole = replace(
            policy,
            capabilities={**words.capabilities, **more},
            types=words.types,
            components=words.components,
            tree=nodes.content().tree,
            expectations={row.id: as_asked(row) for row in Expectation.objects.all()},
        )
        return whole if not Removed.objects.exists() else without_gone(whole)


@unit(POLICY, NODES)
def install(policy: Policy, by: By) -> Entry | None:
    """Make the installation's policy what another says, all or nothing, as one ledger entry; None if nothing differs.

    Accounts are never deleted, pages only on the desk, and the last active keyholder stays one: raises PolicyError
    when the document leaves out any that there are, or says what cannot be kept.
    """
    was = whole_policy()
    faults = [*_too_long(policy), *_left_out(was, policy), *check_nodes(was.tree, policy.tree, policy.sites)]
    if faults:
        raise PolicyError(faults)
    changes = differences(was, policy)
    if not changes:
        return None
    keep_vocabulary(policy)
    _people(was, policy, by)
    _take_away(was, policy)
    _roles(was, policy, by)
    _places(policy)
    _entries(was, policy, by)
    _expectations(was, policy)
    snapshot.raise_version()
    nodes.raise_version()
    way, about = "one" if len(changes) == 1 else "", ("policy", "whole")
    return record(by, "policy.imported", about=about, changes=changes, way=way, differences=len(changes))


# -- what a document may not do ----------------------------------------------------------------


def _too_long(policy: Policy) -> Iterable[Fault]:
    ids: dict[str, Iterable[str]] = {
        "accounts": policy.accounts,
        "groups": policy.groups,
        "roles": policy.roles,
        "assignments": policy.assignments,
        "direct_grants": policy.direct_grants,
        "delegations": policy.delegations,
        "limits": policy.limits,
        "locks": policy.locks,
        "expectations": policy.expectations,
        "nodes": policy.tree.index,
        "sites": policy.sites,
        "topics": policy.topics,
        "types": policy.types,
        "capabilities": policy.capabilities,
    }
    for name, keys in ids.items():
        for key in keys:
            if len(key) > LONGEST_ID:
                yield Fault(pointer((name, key)), f"an id of more than {LONGEST_ID} characters cannot be kept")


def _left_out(was: Policy, now: Policy) -> Iterable[Fault]:
    for id in sorted(was.accounts.keys() - now.accounts.keys()):
        yield Fault(pointer(("accounts", id)), "this account is here and is never deleted; say that it is disabled")
    if _keyholders(was) and not _keyholders(now):
        yield Fault("/accounts", "this would take the last active keyholder; leave one, active")


def _keyholders(policy: Policy) -> bool:
    return any(account.keyholder and account.state == "active" for account in policy.accounts.values())


# -- people, roles, places ---------------------------------------------------------------------


def _people(was: Policy, now: Policy, by: By) -> None:
    GROUPS.put((now.groups[key] for key in _changed(was.groups, now.groups)), by)
    people = _changed(was.accounts, now.accounts)
    new = [Account(id=id, name=id, email=f"{new_id()}@imported.invalid") for id in people if id not in was.accounts]
    for account in new:
        account.set_unusable_password()
    Account.objects.bulk_create(new)
    Account.objects.filter(pk__in=people).update(keyholder=False)
    Account.objects.filter(pk__in=[id for id in people if now.accounts[id].keyholder]).update(keyholder=True)
    states = {id: account.state for id, account in was.accounts.items()}
    STATES.put((((id,), now.accounts[id].state) for id in people if states.get(id) != now.accounts[id].state), by)
    _cells(MEMBERSHIPS, dict(_members(was, people)), dict(_members(now, people)), by)
    _cells(REACHES, dict(_reaches(was, people)), dict(_reaches(now, people)), by)


def _members(policy: Policy, people: Iterable[str]) -> Iterator[tuple[Cell, str]]:
    for id in people:
        if id in policy.accounts:
            yield from (((id, group), "member") for group in policy.accounts[id].groups)


def _reaches(policy: Policy, people: Iterable[str]) -> Iterator[tuple[Cell, frozenset[str]]]:
    for id in people:
        if id in policy.accounts:
            yield from (((id, tree), branches) for tree, branches in policy.accounts[id].reach.items())


def _answers(policy: Policy, roles: Iterable[str]) -> Iterator[tuple[Cell, str]]:
    for key in roles:
        if key in policy.roles:
            yield from (((key, capability), says) for capability, says in policy.roles[key].grants.items())


def _cells(entries: Cells[T], was: Mapping[Cell, T], now: Mapping[Cell, T], by: By) -> None:
    """Make what is said of some things what it is now."""
    entries.drop(was.keys() - now.keys())
    entries.put(((cell, value) for cell, value in now.items() if was.get(cell) != value), by)


_ENTRIES: tuple[Entries[Any], ...] = (ASSIGNMENTS, DIRECT_GRANTS, DELEGATIONS, LIMITS, LOCKS, FIELD_RULES)
"""From what refers to what is referred to."""


def _take_away(was: Policy, now: Policy) -> None:
    """What the document no longer says."""
    for entries in _ENTRIES:
        before, after = getattr(was, entries.mapping), getattr(now, entries.mapping)
        entries.drop(before.keys() - after.keys())
    Expectation.objects.filter(pk__in=was.expectations.keys() - now.expectations.keys()).delete()


def _roles(was: Policy, now: Policy, by: By) -> None:
    changed = _changed(was.roles, now.roles)
    worn = Counter(access.Role.objects.values_list("colour", "pattern"))
    for position, key in enumerate((key for key in changed if key not in was.roles), start=len(was.roles)):
        colour, pattern = cloth_for(worn)
        worn[colour, pattern] += 1
        access.Role.objects.create(key=key, name=_name(key), colour=colour, pattern=pattern, position=position)
    ROLES.put((now.roles[key] for key in changed), by)
    _cells(ANSWERS, dict(_answers(was, changed)), dict(_answers(now, changed)), by)
    gone = was.roles.keys() - now.roles.keys()
    # While importing, a moved assignment may still name a role that goes; it is pointed elsewhere first.
    moved = (a for a in now.assignments.values() if a.id in was.assignments and was.assignments[a.id].role in gone)
    ASSIGNMENTS.put(moved, by, keeps_maker=True)
    ROLES.drop(gone)
    access.Role.objects.exclude(baseline="").update(baseline="")
    access.Role.objects.filter(pk=now.everyone).update(baseline="everyone")
    access.Role.objects.filter(pk=now.signed_in).update(baseline="signed-in")


def _name(key: str) -> str:
    """A name for a role that brings none: its key, with a tail where another is called alike."""
    name = key[:60]
    return f"{name} {new_id()[-6:]}" if access.Role.objects.filter(name=name).exists() else name


def _places(now: Policy) -> None:
    Site.objects.bulk_create((Site(key=key, name=key) for key in now.sites), ignore_conflicts=True)
    Topic.objects.bulk_create((Topic(key=key, name=key[:80]) for key in now.topics), ignore_conflicts=True)
    install_nodes(now.tree)
    Site.objects.exclude(pk__in=now.sites).delete()
    Topic.objects.exclude(pk__in=now.topics).delete()


# -- what is given, what narrows, what should hold ---------------------------------------------


def _entries(was: Policy, now: Policy, by: By) -> None:
    """What is given and what narrows it; whoever put an entry there first stays who did."""
    for entries in _ENTRIES:
        before, after = getattr(was, entries.mapping), getattr(now, entries.mapping)
        changed = [(key, after[key]) for key in _changed(before, after)]
        entries.put(changed if isinstance(entries, Cells) else [entry for _, entry in changed], by, keeps_maker=True)
    GROUPS.drop(was.groups.keys() - now.groups.keys())


def _expectations(was: Policy, policy: Policy) -> None:
    for id in _changed(was.expectations, policy.expectations):
        e = policy.expectations[id]
        said = {"question": dict(e.question), "expect": e.expect, "reason": str(e.reason or ""), "note": e.note}
        _keep(Expectation, id, {**said, "recorded_at": now()}, {})


def _keep(model: Any, id: str, said: Mapping[str, Any], made: Mapping[str, Any]) -> None:
    """Change a row to what is said, or make it."""
    model.objects.update_or_create(pk=id, defaults=said, create_defaults={**said, **made})


def _changed(was: Mapping[Any, T], now: Mapping[Any, T]) -> list[Any]:
    """Keys of what is new or said otherwise."""
    return [key for key, value in now.items() if was.get(key) != value]
