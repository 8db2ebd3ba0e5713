"""A scope as a document or a question writes it (§3, §8)."""

from collections.abc import Container, Iterable, Mapping

from gonfalon.core.document.errors import Path, Validator
from gonfalon.core.model.policy import ANYWHERE, Scope

_WHAT = {"sites": "site", "branches": "node", "types": "type", "topics": "topic"}


def read_scope(check: Validator, given: object, path: Path, known: Mapping[str, Container[str]]) -> Scope:
    """A scope; `known` has what there is, by list. Faults are noted."""
    lists = check.mapping(given, path, set(_WHAT))
    if not lists:
        return ANYWHERE
    return Scope(**{key: check.some(ids, (*path, key), known[key], _WHAT[key]) for key, ids in lists.items()})


def plain_scope(said: Mapping[str, Iterable[str]]) -> Scope:
    """A scope from what was checked before."""
    return Scope(**{name: frozenset(ids) for name, ids in said.items()})
