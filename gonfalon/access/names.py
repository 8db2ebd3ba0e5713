"""Names of nodes, sites and topics, for words about access. The content app, above this one, looks them up."""

from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple


class LookUps(NamedTuple):
    """Titles of the nodes that exist among some ids, and the keys of all sites and topics."""

    titles: Callable[[set[str]], dict[str, str]]
    sites: Callable[[], Mapping[str, str]]
    topics: Callable[[], Mapping[str, str]]


_look_ups: LookUps | None = None


def names_come_from(look_ups: LookUps) -> None:
    """Register the look-ups."""
    global _look_ups
    _look_ups = look_ups


def titles(ids: Iterable[str]) -> dict[str, str]:
    """Titles of the nodes that exist among `ids`, in one query."""
    wanted = set(ids)
    return _look_ups.titles(wanted) if _look_ups and wanted else {}


def sites() -> Mapping[str, str]:
    """The names of all sites by key, in one query."""
    return _look_ups.sites() if _look_ups else {}


def topics() -> Mapping[str, str]:
    """The names of all topics by key, in one query."""
    return _look_ups.topics() if _look_ups else {}
