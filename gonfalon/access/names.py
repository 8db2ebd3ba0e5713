"""Names of groups, nodes, sites and topics, for words about access. Rows of the last three belong to an app above this
one."""

from collections.abc import Iterable, Mapping

from django.apps import apps
from django.db.models import Value

from gonfalon.accounts.models import Group


def titles(ids: Iterable[str]) -> dict[str, str]:
    """Titles of the nodes that exist among `ids`, in one query."""
    wanted = set(ids)
    there = apps.get_model("content.Node").objects.filter(pk__in=wanted)
    return dict(there.values_list("id", "title")) if wanted else {}


def node_parts(id: str) -> tuple[str, frozenset[str]]:
    """The type of a node that exists, and the ids of its components, in one query."""
    type, components = apps.get_model("content.Node").objects.values_list("type", "components").get(pk=id)
    return type, frozenset(component["id"] for component in components)


def group_names() -> dict[str, str]:
    """The names of all groups by key, in one query."""
    return dict(Group.objects.values_list("key", "name"))


def sites() -> Mapping[str, str]:
    """The names of all sites by key, in one query."""
    return _named("content.Site")


def topics() -> Mapping[str, str]:
    """The names of all topics by key, in one query."""
    return _named("content.Topic")


def places() -> tuple[frozenset[str], frozenset[str]]:
    """The keys of all sites and of all topics, in one query."""
    of_kind = {kind: apps.get_model(f"content.{kind}").objects.order_by() for kind in ("Site", "Topic")}
    one, other = (rows.values_list(Value(kind), "key") for kind, rows in of_kind.items())
    found = list(one.union(other))
    return tuple(frozenset(key for of, key in found if of == kind) for kind in of_kind)  # type: ignore[return-value]


def _named(model: str) -> Mapping[str, str]:
    return dict(apps.get_model(model).objects.values_list("key", "name"))
