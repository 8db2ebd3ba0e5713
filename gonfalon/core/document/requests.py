"""Questions as JSON, read into what the engine answers (§8).

    read_question({"account": "ada", "action": "edit", "node": "n2"}, policy, tree)

Whatever does not belong to the action asked is a fault: a key that would be passed over in silence may
well be a question asked wrongly.
"""

from collections.abc import Container, Mapping
from datetime import datetime
from typing import Any

from gonfalon.core.document.errors import Fault, Path, Unreadable, Validator
from gonfalon.core.document.scopes import read_scope
from gonfalon.core.model.policy import ANYWHERE, Assignment, Period, Policy, Scope, Subject
from gonfalon.core.model.question import HypotheticalSubject, Question, Who
from gonfalon.core.model.tree import Target, Tree, profile
from gonfalon.core.model.vocabulary import (
    ACTIONS,
    COMPONENT_ACTIONS,
    HAND_OUT_ACTION,
    PART_ACTIONS,
    PROFILE,
    STAND_IN_ACTION,
)

RANGES = ("holders_of", "members_of", "except_holders_of", "except_members_of")
"""What an expectation may say in place of one account (§8)."""

WHOSE = ("own", "team")
"""The extents by which an expectation may narrow a branch (§8)."""
_OF_A_BRANCH = {
    "types": "types narrow a branch, and no branch is named",
    "whose": "whose narrows a branch, and no branch is named",
}
_MADE_UP = ("roles", "own", "groups")
_WHO = ("account", *_MADE_UP)
_ALWAYS = {*_WHO, "action", "at"}
_BY_ACTION = {
    "create": {"node", "type", "topics"},
    "edit": {"node", "topics"},
    "move": {"node", "to"},
    "see-field": {"node", "field"},
    "change-field": {"node", "field"},
    "fill-field": {"node", "type", "topics", "field"},
    "insert-component": {"node", "component"},
    "arrange-component": {"node", "component", "component_id"},
    "change-facet": {"node", "component", "facet", "component_id"},
    STAND_IN_ACTION: {"for"},
    HAND_OUT_ACTION: {"role", "to", "scope", "until"},
}
_NEEDED = {
    "create": ("type",),
    "see-field": ("field",),
    "change-field": ("field",),
    "fill-field": ("type", "field"),
    "insert-component": ("component",),
    "arrange-component": ("component",),
    "change-facet": ("component", "facet"),
    STAND_IN_ACTION: ("for",),
    HAND_OUT_ACTION: ("role", "to"),
}
_NOT_OF_A_PROFILE = {"create", "fill-field", *COMPONENT_ACTIONS}


def read_question(request: object, policy: Policy, tree: Tree) -> Question:
    """One question. Raises Unreadable with the first thing wrong with it."""
    checker = Validator()
    question = RequestReader(checker, policy, tree).question(request, ())
    if checker.faults or question is None:
        raise Unreadable(checker.faults[0])
    return question


def faults_in(question: object, policy: Policy, tree: Tree) -> list[Fault]:
    """What is wrong with the question of an expectation, which may range over accounts and nodes; nothing if empty."""
    checker = Validator()
    RequestReader(checker, policy, tree).ranging(question, ())
    return checker.faults


class RequestReader:
    """Reads questions about one policy, and the ranges of an expectation, noting faults."""

    def __init__(self, checker: Validator, policy: Policy, tree: Tree) -> None:
        self.checker, self.policy, self.tree = checker, policy, tree
        self._placed = frozenset(policy.placed)
        self._plain = frozenset(policy.plain)

    def question(self, request: object, path: Path) -> Question | None:
        """One question to one account about one target."""
        asked = self._asked(request, path, ranges=False)
        if asked is None:
            return None
        who = self._who(asked, request, path)
        at = self.checker.time(asked.get("at"), (*path, "at"))
        return self._question(asked, path, who, at)

    def ranging(self, request: object, path: Path) -> None:
        """Check the question of an expectation: as `question`, but it may range over accounts and nodes."""
        asked = self._asked(request, path, ranges=True)
        if asked is None or not isinstance(request, dict):
            return
        if named := [key for key in RANGES if key in asked]:
            for key in [*named[1:], *(k for k in _WHO if k in request)]:
                self.checker.fault((*path, key), f"there is {named[0]} already; a question asks one or the other")
            known, what = (
                (self.policy.roles, "role") if named[0].endswith("holders_of") else (self.policy.groups, "group")
            )
            self.checker.known(asked[named[0]], (*path, named[0]), known, what)
        else:
            self._who(asked, request, path)
        at = self._times(asked, path)
        if "branch" not in asked:
            for key in ("types", "whose"):
                if key in asked:
                    self.checker.fault(
                        (*path, key), f"{key} narrow{'s' * (key == 'whose')} a branch, and none is named"
                    )
            self._question(asked, path, None, at)
            return
        if "node" in asked:
            self.checker.fault((*path, "node"), "there is a branch already; a question asks one or the other")
        self.checker.some(asked.get("types"), (*path, "types"), self.policy.types, "type")
        if "whose" in asked:
            self.checker.word(asked["whose"], (*path, "whose"), WHOSE)
        branch = self.checker.known(asked["branch"], (*path, "branch"), self.tree, "node")
        if branch is None:
            return
        if asked["action"] in ("see-field", "change-field"):
            fields = {field for type in self.policy.types.values() for field in type.fields}
            self.checker.known(asked["field"], (*path, "field"), fields, "field")
            return
        self._question({**asked, "node": branch}, path, None, at)

    def _times(self, asked: Mapping[str, Any], path: Path) -> datetime | None:
        """When an expectation is asked; one that holds from one time until another names no other."""
        check = self.checker
        at = check.time(asked.get("at"), (*path, "at"))
        if asked["action"] == HAND_OUT_ACTION:
            return at
        starts, ends = (check.time(asked.get(key), (*path, key)) for key in ("from", "until"))
        if "at" in asked and ("from" in asked or "until" in asked):
            check.fault((*path, "at"), "there is from or until already; a question asks one or the other")
        if starts is not None and ends is not None and ends <= starts:
            check.fault((*path, "until"), "it ends no later than it begins")
        return at

    def _asked(self, request: object, path: Path, *, ranges: bool) -> dict[str, Any] | None:
        """The request as a dict with the keys its action takes and those it needs, or None."""
        check = self.checker
        if not isinstance(request, dict):
            check.wrong(request, path, "an object")
            return None
        action = check.text(request["action"], (*path, "action")) if request.get("action") is not None else None
        if action is None:
            if request.get("action") is None:
                check.fault((*path, "action"), "this is missing")
            return None
        plain = action in self._plain
        if not (plain or action in ACTIONS or action in self._placed or action in _BY_ACTION):
            check.wrong(action, (*path, "action"), "an action or a capability there is")
            return None
        keys = _ALWAYS | ({"site"} if plain else _BY_ACTION.get(action, {"node"}))
        if "node" in keys and "type" not in keys:
            keys = keys | {"working"}
        if ranges:
            keys = keys | set(RANGES) | ({"branch", "types", "whose"} if "node" in keys else set())
            keys = keys | ({"from", "until"} if action != HAND_OUT_ACTION else set())
        needed = _NEEDED.get(action, ())
        if "node" in keys and not (ranges and request.get("branch") is not None):
            needed = (*needed, "node")
        before = len(check.faults)
        asked = check.mapping(request, path, keys, needed)
        return asked if len(check.faults) == before else None

    def _who(self, asked: Mapping[str, Any], request: object, path: Path) -> Who:
        check = self.checker
        if "roles" in asked:
            if "account" in asked:
                check.fault((*path, "account"), "there are roles already; a question asks one or the other")
            return self._made_up(asked, path)
        for key in _MADE_UP[1:]:
            if key in asked:
                check.fault((*path, key), "this goes with roles only")
        if isinstance(request, dict) and "account" not in request:
            check.fault((*path, "account"), "this is missing; null asks for a visitor")
        if asked.get("account") is None:
            return None
        return check.known(asked["account"], (*path, "account"), self.policy.accounts, "account")

    def _made_up(self, asked: Mapping[str, Any], path: Path) -> HypotheticalSubject:
        check, plain, scoped = self.checker, list[str](), list[tuple[str, Scope]]()
        for i, role in enumerate(check.listing(asked["roles"], (*path, "roles"))):
            at = (*path, "roles", i)
            if not isinstance(role, dict):
                plain += [key for key in (check.known(role, at, self.policy.roles, "role"),) if key is not None]
                continue
            said = check.mapping(role, at, {"role", "scope"}, ("role",))
            named = said is not None and "role" in said
            key = check.known(said["role"], (*at, "role"), self.policy.roles, "role") if said and named else None
            if said and key is not None:
                scope = self._scope(said, at)
                scoped += [(key, scope)]
        groups = check.listing(asked.get("groups") or [], (*path, "groups"))
        known = (check.known(g, (*path, "groups", i), self.policy.groups, "group") for i, g in enumerate(groups))
        return HypotheticalSubject(
            tuple(dict.fromkeys(plain)),
            check.truth(asked.get("own"), (*path, "own")),
            tuple(dict.fromkeys(scoped)),
            tuple(sorted({group for group in known if group is not None})),
        )

    def _scope(self, said: Mapping[str, Any], path: Path) -> Scope:
        if "scope" not in said:
            return ANYWHERE
        known: dict[str, Container[str]] = {
            "sites": self.policy.sites,
            "branches": self.tree,
            "types": self.policy.types,
            "topics": self.policy.topics,
        }
        return read_scope(self.checker, said["scope"], (*path, "scope"), known)

    def _question(self, asked: Mapping[str, Any], path: Path, who: Who, at: datetime | None) -> Question | None:
        check, action = self.checker, asked["action"]
        if action in self._plain:
            site = asked.get("site")
            if site is not None:
                check.known(site, (*path, "site"), self.policy.sites, "site")
            return Question(who, action, at=at, site=site)
        if action == STAND_IN_ACTION:
            return Question(who, action, at=at, subject=self._subject(asked["for"], (*path, "for")))
        if action == HAND_OUT_ACTION:
            return Question(who, action, at=at, given=self._assignment(asked, path))
        target = self._target(asked["node"], action, (*path, "node"))
        if target is None:
            return None
        if check.truth(asked.get("working"), (*path, "working")):
            target = target.working_copy()
        topics = None
        if "topics" in asked:
            topics = check.some(asked["topics"], (*path, "topics"), self.policy.topics, "topic")
        if "type" in asked:
            made = check.known(asked["type"], (*path, "type"), self.policy.node_types, "type")
            target = target.child(made or "", topics or frozenset())
            topics = None
        to = None
        if "to" in asked:
            to = self._target(asked["to"], "create", (*path, "to"))
            if target.profile:
                check.fault((*path, "to"), "a profile sits in no tree")
        part = self._part(asked, target, path) if action in PART_ACTIONS else {}
        return Question(who, action, target, at, to=to, topics=topics, **part)

    def _target(self, value: object, action: str, path: Path) -> Target | None:
        check = self.checker
        if not isinstance(value, dict):
            node = check.known(value, path, self.tree, "node")
            return self.tree.target(node) if node is not None else None
        made = check.mapping(value, path, {"type", "author"}, ("type", "author"))
        if not made or len(made) < 2:
            return None
        check.word(made["type"], (*path, "type"), (PROFILE,))
        author = check.known(made["author"], (*path, "author"), self.policy.accounts, "account")
        if action in _NOT_OF_A_PROFILE:
            check.fault(path, f"{action} cannot be asked of a profile")
        return profile(author) if author is not None else None

    def _subject(self, value: object, path: Path) -> Who:
        """Whom a stand-in would be for: an account, or a made-up holder of roles (§7)."""
        check = self.checker
        named = check.mapping(value, path, {*_WHO})
        if named is None or not isinstance(value, dict):
            return None
        if ("account" in value) is ("roles" in named):
            check.fault(path, "name either one account (null for a visitor) or some roles")
            return None
        return self._who(named, value, path)

    def _assignment(self, asked: Mapping[str, Any], path: Path) -> Assignment:
        """The assignment that somebody would make (§9); it has no id yet."""
        check = self.checker
        role = check.known(asked["role"], (*path, "role"), self.policy.roles, "role") or ""
        if role and role in self.policy.baseline:
            check.fault((*path, "role"), "a role of the baseline is not assigned: everyone has it already")
        to = check.mapping(asked["to"], (*path, "to"), {"account"}, ("account",)) or {}
        account = ""
        if "account" in to:
            account = check.known(to["account"], (*path, "to", "account"), self.policy.accounts, "account") or ""
        scope = self._scope(asked, path)
        ends = check.time(asked.get("until"), (*path, "until"))
        return Assignment("", role, Subject.account(account), scope, Period(None, ends))

    def _part(self, asked: Mapping[str, Any], target: Target, path: Path) -> dict[str, Any]:
        """The field, component, facet or component's id that an action on a part names (§5)."""
        check, part = self.checker, {}
        if "field" in asked:
            type = self.policy.types.get(target.type)
            check.known(asked["field"], (*path, "field"), type.fields if type else (), f"field of a {target.type}")
        if "component" in asked:
            component = check.known(asked["component"], (*path, "component"), self.policy.components, "component")
            if "facet" in asked and component is not None:
                facets = self.policy.components[component]
                check.known(asked["facet"], (*path, "facet"), facets, f"facet of a {component}")
        if "component_id" in asked:
            check.text(asked["component_id"], (*path, "component_id"))
        for key in ("field", "component", "facet", "component_id"):
            if key in asked:
                part[key] = asked[key]
        return part
