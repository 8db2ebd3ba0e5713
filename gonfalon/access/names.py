"""Names of nodes, for words about access. The content app, above this one, tells how to look them up."""

from collections.abc import Callable, Iterable

_look_up: Callable[[set[str]], dict[str, str]] | None = None


def titles_come_from(look_up: Callable[[set[str]], dict[str, str]]) -> None:
    """Register the look-up: given node ids, it returns the titles of those that exist."""
    global _look_up
    _look_up = look_up


def titles(ids: Iterable[str]) -> dict[str, str]:
    """Titles of the nodes that exist among `ids`, in one query."""
    wanted = set(ids)
    return _look_up(wanted) if _look_up and wanted else {}
