"""A whole policy as one JSON document (§8): read with every error at once.

    policy = load_policy(json.load(file))        # PolicyError names all that is wrong, by JSON Pointer

`writing` turns a policy into a document again; reading that gives an equal policy.
"""

from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import replace
from typing import Any, TypeVar

from gonfalon.core.document.errors import Path, PolicyError, Validator, shown
from gonfalon.core.document.node_reader import NodeReader, cycles
from gonfalon.core.document.requests import RequestReader
from gonfalon.core.document.scopes import read_scope
from gonfalon.core.model.policy import (
    ANYWHERE,
    UNLISTED,
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    Expectation,
    FieldRule,
    Group,
    Limit,
    Lock,
    NodeType,
    Period,
    Policy,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import (
    ACCOUNT_STATES,
    ACTIONS,
    BARRED,
    EXTENT_OF,
    FACETS,
    FIELD_MARKS,
    PROFILE,
    SAYS,
    TREES,
    VERBS,
    WITHHELD,
    Effect,
    Kind,
    Reason,
)

VERSION = 1
_LISTS = ("nodes", "assignments", "direct_grants", "delegations", "limits", "locks", "expectations", "sites", "topics")
_KEYED = ("capabilities", "types", "components", "groups", "accounts", "roles", "fields", "baseline")
_KEYS = frozenset({"gonfalon", *_LISTS, *_KEYED})
_LISTED_KINDS = (Kind.PLACED, Kind.OPENING, Kind.SITEWIDE)
T = TypeVar("T")


def load_policy(document: object) -> Policy:
    """The policy a document says. Raises PolicyError with every fault there is, in no more than one reading."""
    checker = Validator()
    policy = _Reader(checker).read(document)
    if checker.faults or policy is None:
        raise PolicyError(checker.faults)
    return policy


class _Reader:
    """Reads a document from what stands alone to what refers to it."""

    def __init__(self, checker: Validator) -> None:
        self.check = checker
        self.capabilities: dict[str, Kind] = {}
        self.types: dict[str, NodeType] = {}
        self.components: dict[str, tuple[str, ...]] = {}
        self.roles: Mapping[str, Any] = {}
        self.groups: Mapping[str, Any] = {}
        self.accounts: Mapping[str, Any] = {}
        self.tree = Tree.build(())

    def read(self, document: object) -> Policy | None:
        check = self.check
        said = check.mapping(document, (), _KEYS, ("gonfalon",))
        if said is None:
            return None
        version = said.get("gonfalon")
        if version is not None and (type(version) is not int or version != VERSION):
            check.fault(("gonfalon",), f"this should be the number {VERSION}, the version of the document's form")
        self._vocabulary(said)
        sites, topics = (frozenset(self._ids(said.get(key), (key,))) for key in ("sites", "topics"))
        self.roles, self.groups, self.accounts = (
            self._existing(said.get(key)) for key in ("roles", "groups", "accounts")
        )
        nodes = NodeReader(check, self.types, self.accounts, sites, topics)
        self.tree = nodes.read(check.listing(said.get("nodes"), ("nodes",)))
        self.sites, self.topics = sites, topics
        everyone, signed_in = self._baseline(said.get("baseline"))
        self.unassigned = {everyone, signed_in}
        policy = Policy(
            capabilities=self.capabilities,
            types=self.types,
            components=self.components,
            roles=self._keyed(said.get("roles"), "roles", self._role),
            everyone=everyone,
            signed_in=signed_in,
            groups=self._keyed(said.get("groups"), "groups", self._group),
            accounts=self._keyed(said.get("accounts"), "accounts", self._account),
            assignments=self._listed(said, "assignments", ("id", "role", "to"), _GIVEN | {"role"}, self._assignment),
            direct_grants=self._listed(
                said, "direct_grants", ("id", "to", "capability", "says"), _GIVEN | {"capability", "says"}, self._direct
            ),
            delegations=self._listed(said, "delegations", ("id", "to", "roles"), _DELEGATION, self._delegation),
            limits=self._listed(said, "limits", _LIMIT, frozenset(_LIMIT), self._limit),
            fields=dict(self._fields(said.get("fields"))),
            locks=self._listed(said, "locks", ("id", "node"), frozenset({"id", "node", "part"}), self._lock),
            sites=sites,
            topics=topics,
            tree=self.tree,
        )
        self._no_cycles("roles", "role", {key: role.builds_on for key, role in policy.roles.items()})
        self._no_cycles("groups", "group", {key: group.parent for key, group in policy.groups.items()})
        return self._with_expectations(policy, said)

    # -- the words of this installation --------------------------------------------------------

    def _vocabulary(self, said: Mapping[str, Any]) -> None:
        check = self.check
        for key, given, path in check.entries(said.get("components"), ("components",)):
            self.components[key] = tuple(f for f in FACETS if f in check.words(given, path, FACETS))
        for key, given, path in check.entries(said.get("types"), ("types",)):
            if "." in key or not key:
                check.fault(path, "the name of a type has no dot and is not empty")
            keys = {"fields"} if key == PROFILE else {"tree", "fields"}
            type = check.mapping(given, path, keys) or {}
            tree = check.word(type["tree"], (*path, "tree"), TREES) if "tree" in type else None
            fields = self._ids(type.get("fields"), (*path, "fields"))
            for field in fields:
                if "." in field:
                    check.fault((*path, "fields"), f"the name of a field has no dot: {shown(field)}")
            self.types[key] = NodeType(key, tree, fields)  # type: ignore[arg-type]
        self.types.setdefault(PROFILE, NodeType(PROFILE, None))
        for key, given, path in check.entries(said.get("capabilities"), ("capabilities",)):
            thing, dot, verb = key.partition(".")
            if not (thing and dot and verb) or "." in verb:
                check.fault(path, "a capability is written thing.verb, with one dot")
            elif thing in self.types:
                check.fault(path, f"the capabilities of the type {shown(thing)} exist without being listed")
            kind = check.word(given, path, _LISTED_KINDS)
            if kind is not None and UNLISTED.get(key, kind) != kind:
                check.fault(path, f"this capability is {UNLISTED[key]}")
            self.capabilities[key] = Kind(kind) if kind else Kind.PLACED
        self.sayable = {f"{type}.{verb}": SAYS[Kind.GRADED] for type in self.types for verb in VERBS}
        self.sayable |= {key: SAYS[kind] for key, kind in {**UNLISTED, **self.capabilities}.items()}

    # -- people and roles ----------------------------------------------------------------------

    def _baseline(self, given: object) -> tuple[str | None, str | None]:
        check = self.check
        said = (check.mapping(given, ("baseline",), {"everyone", "signed_in"}) or {}) if given is not None else {}
        everyone, signed_in = (
            check.known(said[key], ("baseline", key), self.roles, "role") if key in said else None
            for key in ("everyone", "signed_in")
        )
        if everyone is not None and everyone == signed_in:
            check.fault(("baseline", "signed_in"), "the baseline is two roles; this is the one everyone has already")
        return everyone, signed_in

    def _role(self, key: str, given: object, path: Path) -> Role:
        check = self.check
        said = check.mapping(given, path, {"builds_on", "grants", "components", "facets"}) or {}
        grants = {}
        for capability, says in (check.mapping(said.get("grants", {}), (*path, "grants")) or {}).items():
            if capability not in self.sayable:
                check.known(capability, (*path, "grants", capability), (), "capability")
            elif isinstance(says, str) and says in self.sayable[capability]:
                grants[capability] = says
            else:
                check.word(says, (*path, "grants", capability), self.sayable[capability])
        components = None
        if "components" in said:
            components = check.some(said["components"], (*path, "components"), self.components, "component")
        facets = {}
        for component, listed, at in check.entries(said.get("facets"), (*path, "facets")):
            if check.known(component, at, self.components, "component") and listed is not None:
                facets[component] = check.some(listed, at, self.components[component], f"facet of a {component}")
        builds_on = said.get("builds_on")
        if builds_on is not None:
            builds_on = check.known(builds_on, (*path, "builds_on"), self.roles, "role")
        return Role(key, grants, builds_on, components, facets)

    def _group(self, key: str, given: object, path: Path) -> Group:
        said = self.check.mapping(given, path, {"parent"}) or {}
        parent = said.get("parent")
        if parent is not None:
            parent = self.check.known(parent, (*path, "parent"), self.groups, "group")
        return Group(key, parent)

    def _account(self, key: str, given: object, path: Path) -> Account:
        check = self.check
        said = check.mapping(given, path, _ACCOUNT, ("state",)) or {}
        state = check.word(said["state"], (*path, "state"), ACCOUNT_STATES) if "state" in said else ""
        keyholder = check.truth(said.get("keyholder"), (*path, "keyholder"))
        groups = check.some(said.get("groups"), (*path, "groups"), self.groups, "group")
        reach = {}
        for tree, branches, at in check.entries(said.get("reach"), (*path, "reach")):
            if check.word(tree, at, TREES) and branches is not None:
                reach[tree] = check.some(branches, at, self.tree, "node")
        return Account(key, state, keyholder, groups, reach)  # type: ignore[arg-type]

    # -- what is given, and what narrows it ----------------------------------------------------

    def _assignment(self, id: str, said: dict[str, Any], path: Path) -> Assignment:
        role = self.check.known(said.get("role"), (*path, "role"), self.roles, "role") if "role" in said else None
        if role is not None and role in self.unassigned:
            self.check.fault((*path, "role"), "a role of the baseline is not assigned: everyone has it already")
        return Assignment(id, role or "", self._to(said, path), self._scope(said, path), self._period(said, path))

    def _direct(self, id: str, said: dict[str, Any], path: Path) -> DirectGrant:
        capability = None
        if "capability" in said:
            capability = self.check.known(said["capability"], (*path, "capability"), self.sayable, "capability")
        if "says" in said:
            words = self.sayable[capability] if capability else (*EXTENT_OF, BARRED)
            self.check.word(said["says"], (*path, "says"), tuple(word for word in words if word != WITHHELD))
        return DirectGrant(
            id,
            self._to(said, path),
            said.get("capability", ""),
            said.get("says", ""),
            self._scope(said, path),
            self._period(said, path),
        )

    def _delegation(self, id: str, said: dict[str, Any], path: Path) -> Delegation:
        check = self.check
        roles = check.some(said.get("roles"), (*path, "roles"), self.roles, "role")
        for i, role in enumerate(said["roles"] if isinstance(said.get("roles"), list) else ()):
            if isinstance(role, str) and role in self.unassigned:
                check.fault((*path, "roles", i), "a role of the baseline is not assigned: everyone has it already")
        receivers = None
        if "receivers" in said:
            named = check.mapping(said["receivers"], (*path, "receivers"), {"group"}, ("group",)) or {}
            if "group" in named:
                receivers = check.known(named["group"], (*path, "receivers", "group"), self.groups, "group")
        ends = check.time(said.get("until"), (*path, "until"))
        return Delegation(id, self._to(said, path, roles=True), roles, self._scope(said, path), receivers, ends)

    def _to(self, said: Mapping[str, Any], path: Path, *, roles: bool = False) -> Subject:
        """Whom something is for; roles only where they can be meant."""
        known: dict[str, Mapping[str, Any]] = {"account": self.accounts, "group": self.groups}
        if roles:
            known["role"] = self.roles
        if "to" not in said:
            return Subject.account("")
        to = self.check.mapping(said["to"], (*path, "to"), known)
        if to is None or len(to) != 1:
            if to is not None:
                self.check.fault((*path, "to"), f"name one of {', '.join(known)}")
            return Subject.account("")
        [(kind, id)] = to.items()
        return Subject(kind, self.check.known(id, (*path, "to", kind), known[kind], kind) or "")  # type: ignore[arg-type]

    def _scope(self, said: Mapping[str, Any], path: Path) -> Scope:
        if "scope" not in said:
            return ANYWHERE
        known: dict[str, Container[str]] = {
            "sites": self.sites,
            "branches": self.tree,
            "types": self.types,
            "topics": self.topics,
        }
        return read_scope(self.check, said["scope"], (*path, "scope"), known)

    def _period(self, said: Mapping[str, Any], path: Path) -> Period:
        starts, ends = (self.check.time(said.get(key), (*path, key)) for key in ("from", "until"))
        if starts is not None and ends is not None and starts >= ends:
            self.check.fault((*path, "until"), "this is not after “from”")
        return Period(starts, ends)

    def _limit(self, id: str, said: dict[str, Any], path: Path) -> Limit:
        check = self.check
        node = check.known(said["node"], (*path, "node"), self.tree, "node") if "node" in said else None
        effect = check.word(said["effect"], (*path, "effect"), tuple(Effect)) if "effect" in said else None
        applies = "branch"
        if "applies" in said:
            applies = check.word(said["applies"], (*path, "applies"), ("node", "beneath", "branch")) or applies
        actions = self._actions(said["actions"], (*path, "actions")) if "actions" in said else None
        effect = Effect(effect) if effect else Effect.STOP
        return Limit(id, node or "", self._to(said, path, roles=True), effect, applies, actions)  # type: ignore[arg-type]

    def _actions(self, given: object, path: Path) -> frozenset[str] | None:
        if given == "*":
            return None
        if not isinstance(given, list) or not given:
            self.check.wrong(given, path, "“*” or a list of actions that is not empty")
            return None
        placed = {key for key, kind in {**UNLISTED, **self.capabilities}.items() if kind is Kind.PLACED}
        return self.check.some(given, path, placed.union(ACTIONS), "action that a limit can name")

    def _lock(self, id: str, said: dict[str, Any], path: Path) -> Lock:
        check = self.check
        node = check.known(said["node"], (*path, "node"), self.tree, "node") if "node" in said else None
        part = (check.mapping(said["part"], (*path, "part"), {"field", "component"}) or {}) if "part" in said else {}
        if "part" in said and len(part) != 1:
            check.fault((*path, "part"), "name one field or one component, or leave it out for the whole node")
        field, component = part.get("field"), part.get("component")
        if field is not None and node is not None:
            type = self.tree.nodes[self.tree.index[node]].type
            fields = self.types[type].fields if type in self.types else ()
            check.known(field, (*path, "part", "field"), fields, f"field of a {type}")
        if component is not None:
            check.text(component, (*path, "part", "component"))
        return Lock(id, node or "", field, component)

    def _fields(self, given: object) -> Iterable[tuple[tuple[str, str], FieldRule]]:
        check = self.check
        for key, rule, path in check.entries(given, ("fields",)):
            type, _, field = key.partition(".")
            if type not in self.types or field not in self.types[type].fields:
                check.fault(path, f"there is no field {shown(key)}")
            said = check.mapping(rule, path, {"mode", "table"}) or {}
            mode = check.word(said["mode"], (*path, "mode"), ("open", "author", "table")) if "mode" in said else "open"
            table = {}
            for role, marks, at in check.entries(said.get("table"), (*path, "table")):
                if check.known(role, at, self.roles, "role") and marks is not None:
                    table[role] = check.words(marks, at, FIELD_MARKS)
            yield (type, field), FieldRule(mode or "open", table)  # type: ignore[arg-type]

    # -- expectations --------------------------------------------------------------------------

    def _with_expectations(self, policy: Policy, said: Mapping[str, Any]) -> Policy:
        reader = RequestReader(self.check, policy, self.tree)

        def read(id: str, given: dict[str, Any], path: Path) -> Expectation:
            expect, reason = given.get("expect"), given.get("reason")
            if expect is not None:
                self.check.word(expect, (*path, "expect"), ("allow", "deny"))
            if reason is not None and self.check.word(reason, (*path, "reason"), tuple(Reason)):
                reason = Reason(reason)
                if expect in ("allow", "deny") and (expect == "allow") != (reason is Reason.ALLOWED):
                    self.check.fault((*path, "reason"), f"this reason cannot come with “{expect}”")
            note = self.check.text(given["note"], (*path, "note")) if "note" in given else ""
            if "question" in given:
                reader.ranging(given["question"], (*path, "question"))
            return Expectation(id, given.get("question", {}), expect, reason, note or "")  # type: ignore[arg-type]

        required = ("id", "question", "expect")
        expectations = self._listed(said, "expectations", required, frozenset({*required, "reason", "note"}), read)
        return replace(policy, expectations=expectations) if expectations else policy

    # -- lists and cycles ----------------------------------------------------------------------

    @staticmethod
    def _existing(given: object) -> Mapping[str, Any]:
        """The ids an object gives, before its entries are read."""
        return {k: v for k, v in given.items() if v is not None} if isinstance(given, dict) else {}

    def _keyed(self, given: object, name: str, read: Callable[[str, object, Path], T]) -> dict[str, T]:
        entries = self.check.entries(given, (name,))
        return {key: read(key, inner, path) for key, inner, path in entries}

    def _listed(
        self,
        said: Mapping[str, Any],
        name: str,
        required: Iterable[str],
        keys: frozenset[str],
        read: Callable[[str, dict[str, Any], Path], T],
    ) -> dict[str, T]:
        """A list of entries with ids of their own."""
        found: dict[str, T] = {}
        for i, entry in enumerate(self.check.listing(said.get(name), (name,))):
            path = (name, i)
            given = self.check.mapping(entry, path, keys, required)
            if given is None:
                continue
            id = self.check.text(given["id"], (*path, "id")) if "id" in given else None
            if id in found:
                self.check.fault((*path, "id"), f"there is another one with the id {shown(id or '')}")
            found[id if id is not None else f"\0{i}"] = read(id or "", given, path)
        return found

    def _ids(self, given: object, path: Path) -> tuple[str, ...]:
        """A list of ids, none of them twice."""
        found: dict[str, None] = {}
        for i, value in enumerate(self.check.listing(given, path)):
            id = self.check.text(value, (*path, i))
            if id in found:
                self.check.fault((*path, i), f"{shown(id or '')} is in the list already")
            if id is not None:
                found[id] = None
        return tuple(found)

    def _no_cycles(self, name: str, what: str, above: Mapping[str, str | None]) -> None:
        """Tell each cycle once, and cut it, so that reading can go on."""
        word = "builds on" if what == "role" else "sits inside"
        key_above = "builds_on" if what == "role" else "parent"
        for cycle in cycles(above):
            way = " → ".join(shown(key)[1:-1] for key in cycle)
            self.check.fault((name, cycle[0], key_above), f"{what} {word} itself through {way}")


_GIVEN = frozenset({"id", "to", "scope", "from", "until"})
_DELEGATION = frozenset({"id", "to", "roles", "scope", "receivers", "until"})
_LIMIT = ("id", "node", "applies", "to", "actions", "effect")
_ACCOUNT = frozenset({"state", "keyholder", "groups", "reach"})
