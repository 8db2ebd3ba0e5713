"""Expectations as rows: read as the core asks them, told in words, proved against a policy."""

from collections.abc import Iterable, Mapping
from typing import Any

from gonfalon.access.catalogue import VERB_WORDS, Catalogue
from gonfalon.access.describe import Names, capital
from gonfalon.access.sight import Sight
from gonfalon.core.model.policy import Expectation as Asked
from gonfalon.core.model.vocabulary import Reason
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint


def as_asked(row: Expectation) -> Asked:
    """The row as the core asks it (§8)."""
    return Asked(row.id, row.question, row.expect, Reason(row.reason) if row.reason else None, row.note)  # type: ignore[arg-type]


def names_in(rows: Iterable[Expectation], sight: Sight, catalogue: Catalogue, more: Iterable[str] = ()) -> Names:
    """Every name within sight that the sentences of these expectations need, in a fixed number of queries."""
    return Names([{"questions": [row.question for row in rows], "more": list(more)}], sight, catalogue)


def subject_words(question: Mapping[str, Any], names: Names) -> str:
    if role := question.get("holders_of"):
        return f"Holders of {names.roles.get(role, role)}"
    if group := question.get("members_of"):
        return f"Members of {names.groups.get(group, group)}"
    if role := question.get("except_holders_of"):
        return f"Everyone but holders of {names.roles.get(role, role)}"
    if group := question.get("except_members_of"):
        return f"Everyone but members of {names.groups.get(group, group)}"
    account = question.get("account")
    return capital(names.account(account)) if account else "Visitors"


def action_words(question: Mapping[str, Any], names: Names) -> tuple[str, str]:
    """The verb and its object: ("edit", "Winter rates")."""
    action = question["action"]
    duty = names.catalogue.every_duty.get(action)
    verb = f"{duty.phrase} on" if duty else VERB_WORDS[action][1] if action in VERB_WORDS else action
    if duty and not question.get("node") and not question.get("branch"):
        return duty.phrase, ""
    verb = {"see-field": "see", "change-field": "change", "fill-field": "fill"}.get(verb, verb)
    where = names.node(question["node"]) if question.get("node") else ""
    if branch := question.get("branch"):
        kinds = [names.catalogue.type(t).plural for t in question.get("types") or ()]
        where = f"{', '.join(kinds) if kinds else 'anything'} in {names.node(branch)}"
    if field := question.get("field"):
        known = {f.key: f.name.lower() for t in names.catalogue.every_type.values() for f in t.fields}
        return verb, f"{known.get(field, field)} on {where}"
    return verb, where


def sentences(rows: Iterable[Expectation], viewpoint: Viewpoint) -> dict[str, str]:
    """By id what is expected, as "Ines Marrow may not publish Winter rates"; nothing is named that is out of sight."""
    every = list(rows)
    if not every:
        return {}
    names = names_in(every, viewpoint.sight, viewpoint.catalogue)
    return {row.id: _sentence(row, names) for row in every}


def _sentence(row: Expectation, names: Names) -> str:
    verb, thing = action_words(row.question, names)
    may = "may" if row.expect == "allow" else "may not"
    return f"{subject_words(row.question, names)} {may} {verb} {thing}".strip()
