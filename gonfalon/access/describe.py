"""Operations and what they touch, told in words: for the tray, the review and the ledger."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from functools import cached_property
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.catalogue import Catalogue
from gonfalon.access.groups import group_names
from gonfalon.access.names import sites, titles, topics
from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON, Sight
from gonfalon.accounts.models import Account
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

    def subject(self, to: Data) -> str:
        if to["kind"] == "account":
            return self.account(to["id"])
        if to["kind"] == "group":
            return f"the group {self.group(to['id'])}"
        return str(self.roles.get(to["id"], to["id"]))

    def group(self, key: str) -> str:
        return self.groups.get(key, key)

    def account(self, id: str) -> str:
        if id not in self.sight.people:
            return HIDDEN_PERSON
        return self.accounts.get(id, id)

    def node(self, id: str) -> str:
        return self._nodes.get(id, id) if self.shows(id) else HIDDEN_NODE

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
            nodes += said.get("branches") or []
    if nodes:
        told["nodes"] = sorted(set(nodes))
    return told


def _answer(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.roles.get(data['role'], data['role'])}: {names.catalogue.phrase(data['capability'])}"
    return Change(what=what, was=SAID[was], now=SAID[data["says"]])


def _builds_on(data: Data, was: Any, names: Names) -> Change:
    def above(key: str | None) -> str:
        return "nothing" if key is None else str(names.roles.get(key, key))

    what = f"{names.roles.get(data['role'], data['role'])}: builds on"
    return Change(what=what, was=above(was), now=above(data["builds_on"]))


def _components(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.roles.get(data['role'], data['role'])}: insert components"
    return Change(what=what, was=_listed(was, "any", names), now=_listed(data["components"], "any", names))


def _facets(data: Data, was: Any, names: Names) -> Change:
    component = names.catalogue.component_name(data["component"]).lower()
    what = f"{names.roles.get(data['role'], data['role'])}: change {component}"
    return Change(what=what, was=_listed(was, "everything", names), now=_listed(data["facets"], "everything", names))


def _listed(listed: list[str] | None, unsaid: str, names: Names) -> str:
    if listed is None:
        return f"nothing said, so {unsaid}"
    return ", ".join(names.catalogue.component_name(key).lower() for key in listed) or "nothing"


def _drop_role(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"Role {names.roles.get(data['role'], data['role'])}", was="there", now="removed")


def _put_role(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"Role {data['row']['name']}", was=None, now="put back")


def _give(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.subject(data['to'])}: {names.roles.get(data['role'], data['role'])}"
    return Change(what=what, was=_given(was, names) if was else None, now=_given(data, names))


def _given(data: Data, names: Names) -> str:
    """Where and when something given holds; of something as it stands, too."""
    return f"given {where_words(data.get('scope') or {}, names)}{_when(data.get('period') or data)}"


def _take(data: Data, was: Any, names: Names) -> Change:
    if not was:
        return Change(what=f"Assignment {data['assignment']}", was=None, now="taken away")
    what = f"{names.subject(was['to'])}: {names.roles.get(was['role'], was['role'])}"
    return Change(what=what, was=_given(was, names), now="taken away")


def _one_capability(given: Data, names: Names) -> str:
    barred = "barred: " if given["says"] == "barred" else ""
    extent = f" ({SAID[given['says']]})" if given["says"] in ("own", "team") else ""
    return f"{names.subject(given['to'])}: {barred}{names.catalogue.phrase(given['capability'])}{extent}"


def _give_capability(data: Data, was: Any, names: Names) -> Change:
    return Change(what=_one_capability(data, names), was=_given(was, names) if was else None, now=_given(data, names))


def _take_capability(data: Data, was: Any, names: Names) -> Change:
    if not was:
        return Change(what=f"Direct grant {data['grant']}", was=None, now="taken away")
    return Change(what=_one_capability(was, names), was=_given(was, names), now="taken away")


def delegation_words(data: Data, names: Names) -> str:
    """What a delegation lets somebody do, after "may give"."""
    roles = ", ".join(names.roles.get(role, role) for role in data["roles"])
    receivers = f"members of {names.group(data['receivers'])}" if data.get("receivers") else "anyone"
    where = where_words(data.get("scope") or {}, names)
    return f"{roles} to {receivers}, {where}{_when({'ends': data.get('ends')})}"


def _put_delegation(data: Data, was: Any, names: Names) -> Change:
    before = f"may give {delegation_words(was, names)}" if was else None
    what = f"{capital(names.subject(data['to']))}: hand out"
    return Change(what=what, was=before, now=f"may give {delegation_words(data, names)}")


def _drop_delegation(data: Data, was: Any, names: Names) -> Change:
    if not was:
        return Change(what=f"Delegation {data['delegation']}", was=None, now="ended")
    what = f"{capital(names.subject(was['to']))}: hand out"
    return Change(what=what, was=f"may give {delegation_words(was, names)}", now="ended")


def _reach(data: Data, was: Any, names: Names) -> Change:
    def confined(branches: list[str] | None) -> str:
        return "not confined" if branches is None else f"confined to {names.nodes(branches) or 'nothing'}"

    what = f"{names.account(data['account'])}: reach in {data['tree']}"
    return Change(what=what, was=confined(was), now=confined(data["branches"]))


def _member(data: Data, was: Any, names: Names) -> Change:
    what = f"{names.account(data['account'])} in {names.group(data['group'])}"
    return Change(what=what, was="a member" if was else "no member", now="a member" if data["member"] else "no member")


def _state(data: Data, was: Any, names: Names) -> Change:
    return Change(what=names.account(data["account"]), was=was, now=data["state"])


def _move_group(data: Data, was: Any, names: Names) -> Change:
    def above(key: str | None) -> str:
        return "at the top" if key is None else f"in {names.group(key)}"

    what = f"The group {names.group(data['group'])}"
    return Change(what=what, was=above(was["parent"]) if was else None, now=above(data["parent"]))


def _drop_group(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"The group {names.group(data['group'])}", was="there", now="ended")


def _put_group(data: Data, was: Any, names: Names) -> Change:
    return Change(what=f"The group {data['name']}", was=None, now="put back")


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
    type = names.catalogue.type(data["type"])
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
        parts.append("on " + (names.nodes(scope["branches"]) or "nothing"))
    if scope.get("sites") is not None:
        parts.append("on the site " + ", ".join(names.sites.get(key, key) for key in scope["sites"]))
    if scope.get("types") is not None:
        parts.append("for " + ", ".join(names.catalogue.type(t).plural for t in scope["types"]))
    if scope.get("topics") is not None:
        parts.append("about " + ", ".join(names.topics.get(key, key) for key in scope["topics"]))
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
    "give-capability": _give_capability,
    "take-capability": _take_capability,
    "put-delegation": _put_delegation,
    "drop-delegation": _drop_delegation,
    "set-reach": _reach,
    "set-member": _member,
    "set-state": _state,
    "move-group": _move_group,
    "drop-group": _drop_group,
    "put-group": _put_group,
    "set-limit": _limit,
    "drop-limit": _drop,
    "set-field-rule": _field,
}
