"""What operations and entries name, in words for one reader: roles, groups, people, places, times."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from functools import cached_property
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.catalogue import Catalogue
from gonfalon.access.keys import was_called
from gonfalon.access.names import group_names, sites, titles, topics
from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON, Sight
from gonfalon.accounts.models import Account

Data = dict[str, Any]

SAID = {
    None: "nothing said",
    "own": "own",
    "team": "team",
    "all": "all",
    "yes": "yes",
    "withheld": "withheld",
    "barred": "barred",
}


class Names:
    """Names of all roles and groups, and of the accounts and nodes that operations mention. A query for each sort."""

    def __init__(
        self, told: Iterable[Data], sight: Sight, catalogue: Catalogue, titles: Mapping[str, str] | None = None
    ) -> None:
        """Only what is in sight is named; anything else is a page out of sight, or somebody.

        `titles` of nodes are looked up unless they are given.
        """
        self.sight = sight
        self.catalogue = catalogue
        self._titles = titles
        self._told = set(strings_in(list(told)))

    @cached_property
    def roles(self) -> Mapping[str, str]:
        return dict(rows.Role.objects.values_list("key", "name"))

    @cached_property
    def groups(self) -> Mapping[str, str]:
        return group_names()

    @cached_property
    def accounts(self) -> Mapping[str, str]:
        known = [id for id in self._told if id in self.sight.people]
        return dict(Account.objects.filter(pk__in=known).values_list("id", "name"))

    @cached_property
    def _nodes(self) -> Mapping[str, str]:
        return titles(self._told) if self._titles is None else self._titles

    @cached_property
    def sites(self) -> Mapping[str, str]:
        return sites()

    @cached_property
    def topics(self) -> Mapping[str, str]:
        return topics()

    @cached_property
    def _gone(self) -> Mapping[tuple[str, str], str]:
        return was_called()

    def subject(self, to: Data) -> str:
        if to["kind"] == "account":
            return self.account(to["id"])
        if to["kind"] == "group":
            return f"the group {self.group(to['id'])}"
        return self.role(to["id"])

    def role(self, key: str) -> str:
        return self.roles.get(key) or self._gone.get(("role", key), key)

    def group(self, key: str) -> str:
        return self.groups.get(key) or self._gone.get(("group", key), key)

    def site(self, key: str) -> str:
        return self.sites.get(key, key)

    def topic(self, key: str) -> str:
        return self.topics.get(key) or self._gone.get(("topic", key), key)

    def account(self, id: str) -> str:
        if id not in self.sight.people:
            return HIDDEN_PERSON
        return self.accounts.get(id, id)

    def node(self, id: str) -> str:
        return self._nodes.get(id, id) if self.shows(id) else HIDDEN_NODE

    def part(self, field: str | None, component: str | None) -> str:
        """A part of a page, as it stands before its title; nothing where the whole page is meant."""
        if field is not None:
            fields = (f for type in self.catalogue.every_type.values() for f in type.fields)
            return f"{next((f.name.lower() for f in fields if f.key == field), field)} of "
        return "a part of " if component is not None else ""

    def nodes(self, ids: Iterable[str]) -> str:
        """Several nodes, one after the other; how many are out of sight is not told."""
        return ", ".join(dict.fromkeys(self.node(id) for id in sorted(ids, key=lambda id: not self.shows(id))))

    def shows(self, id: str) -> bool:
        """Whether a node is named to whoever reads this."""
        return id in self.sight.nodes


def in_sight(data: Data, sight: Sight) -> Data:
    """An operation's data without the ids of nodes and accounts that are out of sight."""
    told = dict(data)
    if told.get("node") is not None and told["node"] not in sight.nodes:
        told["node"] = None
    if (to := told.get("to")) and to["kind"] == "account" and to["id"] not in sight.people:
        told["to"] = {**to, "id": None}
    if told.get("account") is not None and told["account"] not in sight.people:
        told["account"] = None
    if told.get("nodes") is not None:
        told["nodes"] = [id for id in told["nodes"] if id in sight.nodes]
    if told.get("branches") is not None:
        told["branches"] = [id for id in told["branches"] if id in sight.nodes]
    if (scope := told.get("scope")) and scope.get("branches") is not None:
        told["scope"] = {**scope, "branches": [id for id in scope["branches"] if id in sight.nodes]}
    return told


def capital(words: str) -> str:
    """Words as a sentence begins with them."""
    return words[:1].upper() + words[1:]


def strings_in(value: Any) -> Iterable[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for inner in value.values():
            yield from strings_in(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from strings_in(inner)


def where_words(scope: Data, names: Names) -> str:
    """Where something holds (§3)."""
    parts = []
    if scope.get("branches") is not None:
        parts.append("on " + (names.nodes(scope["branches"]) or "nothing"))
    if scope.get("sites") is not None:
        sites = [names.site(key) for key in scope["sites"]]
        parts.append(f"on the {'site' if len(sites) == 1 else 'sites'} {', '.join(sites)}")
    if scope.get("types") is not None:
        parts.append("for " + ", ".join(names.catalogue.type(t).plural for t in scope["types"]))
    if scope.get("topics") is not None:
        parts.append("about " + ", ".join(names.topic(key) for key in scope["topics"]))
    return " ".join(parts) or "everywhere"


def when(data: Data) -> str:
    """From when and until when something holds; nothing where that is open."""
    return "".join(
        f", {word} {datetime.fromisoformat(data[key]):%-d %B %Y}"
        for word, key in (("from", "starts"), ("until", "ends"))
        if data.get(key)
    )
