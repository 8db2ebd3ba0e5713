"""What bars or narrows what an account holds, a sentence each: bars, places, limits."""

from collections.abc import Iterable, Iterator
from itertools import groupby
from typing import Any

from rest_framework import serializers

from gonfalon.access.describe import Names, capital, where_words
from gonfalon.core.decide.grants import GrantSource, gives
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Limit, Policy, Subject

FEW = 3
WHERE = {"node": "on", "beneath": "beneath", "branch": "on and beneath"}


class NarrowedShape(serializers.Serializer):
    """A sentence, and the role that it is about if it is one."""

    role = serializers.CharField(allow_null=True)
    text = serializers.CharField()


def narrowed(account: str, sources: Iterable[GrantSource], policy: Policy, names: Names) -> list[dict[str, Any]]:
    """What bars and narrows, as `NarrowedShape` has it: pages out of sight are not named."""
    sources = list(sources)
    limits = _limits(account, sources, policy)
    told = [*_sources(sources, names), *_limit_notes(limits, names)]
    return list({note["text"]: note for note in told}.values())


def _sources(sources: Iterable[GrantSource], names: Names) -> Iterator[dict[str, Any]]:
    for source in sources:
        name = names.roles.get(source.role or "") or f"A single capability, {_words(source.statements, names)}"
        where = where_words(write_scope(source.scope), names)
        bars = [key for key, statement in source.statements.items() if statement.says == "barred"]
        if bars:
            by = f"{name} bars" if source.role else "barred on its own"
            yield _note(source.role, f"{by} {where}: {_words(bars, names)}.")
        if not source.scope.unrestricted and any(gives(s.says) for s in source.statements.values()):
            yield _note(source.role, f"{name}: only {where}.")


def _limits(account: str, sources: Iterable[GrantSource], policy: Policy) -> list[Limit]:
    """Those that name the account, a group of its, or a role that it holds."""
    groups = policy.all_groups(policy.accounts[account])
    named = {Subject.account(account), *(Subject.group(g) for g in groups)}
    named |= {Subject.role(role) for source in sources for role in source.roles}
    return [limit for limit in policy.limits.values() if limit.to in named and limit.effect != "lift"]


def _limit_notes(limits: list[Limit], names: Names) -> Iterator[dict[str, Any]]:
    """Limits that say the same of several nodes are one sentence."""

    def alike(limit: Limit) -> tuple[Subject, str, str, tuple[str, ...]]:
        return limit.to, limit.effect, limit.applies, tuple(sorted(limit.actions or ()))

    for (to, effect, applies, actions), same in groupby(sorted(limits, key=alike), alike):
        what = ", ".join(names.catalogue.action(action).removesuffix(" this") for action in actions)
        place = f"{WHERE[applies]} {names.nodes(limit.node for limit in same)}"
        whom = "this account" if to.kind == "account" else names.subject({"kind": to.kind, "id": to.id})
        role = to.id if to.kind == "role" else None
        verb = "bars" if effect == "bar" else "stops"
        yield _note(role, f"A limit {place} {verb} {whom} from this: {what or 'everything'}.")


def _words(capabilities: Iterable[str], names: Names) -> str:
    """The first few, and how many more there are."""
    keys = list(capabilities)
    more = f" and {len(keys) - FEW} more" if len(keys) > FEW else ""
    return ", ".join(names.catalogue.phrase(key) for key in keys[:FEW]) + more


def _note(role: str | None, text: str) -> dict[str, Any]:
    return {"role": role, "text": capital(text)}
