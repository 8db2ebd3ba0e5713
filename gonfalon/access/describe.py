"""Operations and what they touch, told in words: for the tray, the review and the ledger."""

from collections.abc import Container, Iterable
from datetime import datetime
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.catalogue import DUTIES, TYPES, VERB_WORDS, component_name, type_named
from gonfalon.access.markup import PREFIX
from gonfalon.access.names import titles
from gonfalon.accounts.models import Account, Group
from gonfalon.ledger.models import Change

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
APPLIES = {"node": "here only", "beneath": "beneath only", "branch": "here and beneath"}


class Names:
    """Names of all roles and groups, and of the accounts and nodes that operations mention."""

    def __init__(self, told: Iterable[Data], visible_ids: Container[str] | None = None) -> None:
        """With `visible_ids`, only those nodes are named; any other is a page out of sight."""
        told = list(told)
        self.visible_ids = visible_ids
        self.roles = dict(rows.Role.objects.values_list("key", "name"))
        self.groups = dict(Group.objects.values_list("key", "name"))
        ids = set(_strings(told))
        self.accounts = dict(Account.objects.filter(pk__in=ids).values_list("id", "name"))
        self.nodes = titles(ids)

    def subject(self, to: Data) -> str:
        if to["kind"] == "account":
            return str(self.accounts.get(to["id"], to["id"]))
        if to["kind"] == "group":
            return f"the group {self.groups.get(to['id'], to['id'])}"
        return str(self.roles.get(to["id"], to["id"]))

    def node(self, id: str) -> str:
        return self.nodes.get(id, id) if self.shows(id) else "a page out of sight"

    def shows(self, id: str) -> bool:
        """Whether a node is named to whoever reads this."""
        return self.visible_ids is None or id in self.visible_ids


def _strings(value: Any) -> Iterable[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for inner in value.values():
            yield from _strings(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _strings(inner)


def capability_words(capability: str) -> str:
    """A capability after "may": "edit events", "open the desk"."""
    if capability in DUTIES:
        return DUTIES[capability].phrase
    if capability.startswith(PREFIX):
        return f"use the markup set “{capability.removeprefix(PREFIX)}”"
    type, _, verb = capability.partition(".")
    return f"{VERB_WORDS[verb][1]} {TYPES[type].plural}" if type in TYPES else capability


def change(data: Data, was: Any, names: Names) -> Change:
    """One operation as what it changes, what that was and what it becomes."""
    return _TELL[data["kind"]](data, was, names)


def recorded(data: Data, was: Any, names: Names) -> Change:
    """The same for the ledger, with the nodes that it names."""
    told, nodes = change(data, was, names), []
    for said in (data, was):
        if isinstance(said, dict):
            nodes += [said["node"]] if "node" in said else []
            nodes += (said.get("scope") or {}).get("branches") or []
    if nodes:
        told["nodes"] = sorted(set(nodes))
    return told


def _answer(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.roles.get(data['role'], data['role'])}: {capability_words(data['capability'])}"
    return Change(what=what, was=SAID[was], now=SAID[data["says"]])


def _builds_on(data: Data, was: Any, names: Names) -> Change:
    def above(key: str | None) -> str:
        return "nothing" if key is None else str(names.roles.get(key, key))

    what = f"{names.roles.get(data['role'], data['role'])}: builds on"
    return Change(what=what, was=above(was), now=above(data["builds_on"]))


def _components(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.roles.get(data['role'], data['role'])}: insert components"
    return Change(what=what, was=_listed(was, "any"), now=_listed(data["components"], "any"))


def _facets(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.roles.get(data['role'], data['role'])}: change {component_name(data['component']).lower()}"
    return Change(what=what, was=_listed(was, "everything"), now=_listed(data["facets"], "everything"))


def _listed(listed: list[str] | None, unsaid: str) -> str:
    if listed is None:
        return f"nothing said, so {unsaid}"
    names = [component_name(key).lower() for key in listed]
    return ", ".join(names) or "nothing"


def _drop_role(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"Role {names.roles.get(data['role'], data['role'])}", was="there", now="removed")


def _put_role(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"Role {data['row']['name']}", was=None, now="put back")


def _give(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.subject(data['to'])}: {names.roles.get(data['role'], data['role'])}"
    return Change(what=what, was=None, now=f"given {where_words(data.get('scope') or {}, names)}{_when(data)}")


def _take(data: Data, was: Any, names: Names) -> Change:
    if not was:
        return Change(what=f"Assignment {data['assignment']}", was=None, now="taken away")
    what = f"{names.subject(was['to'])}: {names.roles.get(was['role'], was['role'])}"
    return Change(what=what, was=f"given {where_words(was['scope'], names)}", now="taken away")


def _limit(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"Limit on {names.node(data['node'])}", was=None, now=limit_words(data, names))


def _drop(data: Data, was: Any, names: Names) -> Change:
    if not was:
        return Change(what=f"Limit {data['limit']}", was=None, now="dropped")
    return Change(what=f"Limit on {names.node(was['node'])}", was=limit_words(was, names), now="dropped")


def limit_words(limit: Data, names: Names) -> str:
    actions = "everything" if limit["actions"] is None else ", ".join(limit["actions"])
    return f"{limit['effect']} {actions} for {names.subject(limit['to'])}, {APPLIES[limit['applies']]}"


def _field(data: Data, was: Any, names: Names) -> Change:
    type = type_named(data["type"])
    what = f"{type.name}: {type.field_name(data['field'])}"
    return Change(what=what, was=_rule(was or {"mode": "open"}, names), now=_rule(data, names))


def _rule(rule: Data, names: Names) -> str:
    if rule["mode"] != "table":
        return "open" if rule["mode"] == "open" else "author only"
    table = sorted((names.roles.get(role, role), marks) for role, marks in (rule.get("table") or {}).items())
    return "; ".join(f"{role}: {', '.join(sorted(marks))}" for role, marks in table) or "nobody"


def where_words(scope: Data, names: Names) -> str:
    parts = []
    if scope.get("branches") is not None:
        parts.append("on " + ", ".join(names.node(b) for b in scope["branches"]))
    if scope.get("sites") is not None:
        parts.append("on the site " + ", ".join(scope["sites"]))
    if scope.get("types") is not None:
        parts.append("for " + ", ".join(TYPES[t].plural if t in TYPES else t for t in scope["types"]))
    if scope.get("topics") is not None:
        parts.append("about " + ", ".join(scope["topics"]))
    return " ".join(parts) or "everywhere"


def _when(data: Data) -> str:
    return "".join(
        f", {word} {datetime.fromisoformat(data[key]):%-d %B %Y}"
        for word, key in (("from", "starts"), ("until", "ends"))
        if data.get(key)
    )


_TELL = {
    "set-answer": _answer,
    "set-builds-on": _builds_on,
    "set-components": _components,
    "set-facets": _facets,
    "drop-role": _drop_role,
    "put-role": _put_role,
    "give-role": _give,
    "take-role": _take,
    "set-limit": _limit,
    "drop-limit": _drop,
    "set-field-rule": _field,
}
