"""What an imported document changes, entry by entry, for the ledger."""

import json
from collections.abc import Iterator
from typing import Any

from gonfalon.core.document.writer import write_policy
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import Change

MOST_TOLD = 500
_ONE = {
    "assignments": "Assignment",
    "direct_grants": "Direct grant",
    "delegations": "Delegation",
    "limits": "Limit",
    "locks": "Lock",
    "expectations": "Expectation",
    "nodes": "Page",
    "groups": "Group",
    "accounts": "Account",
    "roles": "Role",
    "fields": "Field rule",
    "types": "Kind",
    "components": "Component",
    "capabilities": "Capability",
    "baseline": "Baseline",
    "sites": "Site",
    "topics": "Topic",
}


def differences(was: Policy, now: Policy) -> list[Change]:
    """Each entry of the document that comes, goes or says something else; the first MOST_TOLD, and how many more."""
    every = list(_differences(write_policy(was), write_policy(now)))
    told = every[:MOST_TOLD]
    if len(every) > MOST_TOLD:
        told.append(Change(what=f"and {len(every) - MOST_TOLD} more", was=None, now=None))
    return told


def _differences(was: dict[str, Any], now: dict[str, Any]) -> Iterator[Change]:
    for part, one in _ONE.items():
        before, after = _by_id(was[part]), _by_id(now[part])
        for id in sorted(before.keys() | after.keys()):
            if before.get(id) != after.get(id):
                change = Change(what=f"{one} {id}", was=_told(before.get(id)), now=_told(after.get(id)))
                if nodes := sorted({*_nodes(part, before.get(id)), *_nodes(part, after.get(id))}):
                    change["nodes"] = nodes
                yield change


def _by_id(entries: Any) -> dict[str, Any]:
    if isinstance(entries, dict):
        return entries
    return {entry if isinstance(entry, str) else entry["id"]: entry for entry in entries}


def _told(entry: Any) -> str | None:
    return None if entry is None else json.dumps(entry, sort_keys=True)[:2_000]


def _nodes(part: str, entry: Any) -> Iterator[str]:
    """The nodes that an entry names: only those may know of it in whose sight they are."""
    if not isinstance(entry, dict):
        return
    if part == "nodes":
        yield entry["id"]
    question = entry.get("question") or {}
    for value in (entry.get("node"), question.get("node"), question.get("branch")):
        if isinstance(value, str):
            yield value
    yield from (entry.get("scope") or {}).get("branches") or ()
    for branches in (entry.get("reach") or {}).values():
        yield from branches
