"""The decision of §4 without its trail, for what is asked most: an action on a node, or `create`.

    quick.answer({"account": "ada", "action": "edit", "node": "n2"})    # Reason.LOCKED, or None

None means: ask the engine, which answers everything and says what is wrong with a question. Both read
the same page; tests hold them beside each other.

What is compiled is kept: sources per account, scopes as spans of preorder positions, limits as steps
along them. A warm answer looks at each source of the account once.
"""

from collections.abc import Mapping
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from gonfalon.core.decide.grants import SubjectGrants, SubjectGrantsCache, capability_of
from gonfalon.core.decide.limits import LimitIndex, LimitIntervals
from gonfalon.core.document.errors import read_time
from gonfalon.core.model.policy import Scope, Subject
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Node, Tree
from gonfalon.core.model.vocabulary import ACTIONS, CHANGING, LOCKS_OPEN, WHOLE_BRANCH, Effect, Extent, Reason

_ALL, _OWN, _TOP = int(Extent.ALL), int(Extent.OWN), 4
_RUNGS = (Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED)
_read_time = lru_cache(1024)(read_time)

_Asks = Mapping[str, tuple[str, str | None, bool]]
"""For each action the capability it asks first, the one it asks then, and whether locks close it."""
_Spans = tuple[tuple[int, int], ...]
_Place = tuple[int, Node, _Asks]


class _Area:
    """A scope with its branches as spans of positions."""

    __slots__ = ("sites", "spans", "topics", "types")

    def __init__(self, spans: _Spans | None, scope: Scope) -> None:
        self.spans, self.sites, self.types, self.topics = spans, scope.sites, scope.types, scope.topics

    def covers(self, position: int, node: Node) -> bool:
        if self.spans is not None:
            for start, end in self.spans:
                if start <= position < end:
                    break
            else:
                return False
        return (
            (self.sites is None or node.site in self.sites)
            and (self.types is None or node.type in self.types)
            and (self.topics is None or not self.topics.isdisjoint(node.topics))
        )


class _Narrowed:
    """The limits on some subjects, as steps for each action once it is asked."""

    __slots__ = ("_by_action", "_limits", "_subjects")

    def __init__(self, subjects: tuple[Subject, ...], limits: LimitIndex) -> None:
        self._subjects, self._limits = subjects, limits
        self._by_action: dict[str, tuple[LimitIntervals, ...]] = {}

    def by(self, effect: Effect, action: str, position: int) -> bool:
        """Whether a limit of this effect is in force for any of the subjects."""
        found = self._by_action.get(action)
        if found is None:
            every = (self._limits.steps(subject, action) for subject in self._subjects)
            found = self._by_action[action] = tuple(steps for steps in every if steps is not None)
        return any(steps.at(position, effect) for steps in found)


class _Person:
    """An account or visitor, compiled. `decided` is the answer to everything, if there is one (steps 1, 2)."""

    __slots__ = (
        "account",
        "barring",
        "decided",
        "ends",
        "limit_bars",
        "near_bars",
        "own",
        "reach",
        "sources",
        "starts",
    )

    def __init__(self, who: SubjectGrants) -> None:
        self.account = who.account
        self.starts, self.ends = who.starts, who.ends
        self.decided = Reason.INACTIVE if not who.active else Reason.ALLOWED if who.keyholder else None
        self.sources: list[tuple[Mapping[str, int], _Area | None, _Narrowed | None]] = []
        self.barring: list[tuple[frozenset[str], _Area | None]] = []
        self.limit_bars: list[tuple[_Narrowed, _Area | None]] = []
        self.near_bars = LimitIntervals()
        self.own: _Narrowed | None = None
        self.reach: dict[str, _Spans] = {}

    def holds_at(self, at: datetime) -> bool:
        """Whether the same is held at `at`."""
        return (self.starts is None or self.starts <= at) and (self.ends is None or at < self.ends)


class QuickAnswers:
    """Answers about the nodes of one tree, under one policy."""

    def __init__(self, holdings: SubjectGrantsCache, limits: LimitIndex, tree: Tree) -> None:
        self.grants, self.limits, self.tree = holdings, limits, tree
        self.policy = holdings.policy
        self._people: dict[Who, _Person] = {}
        self._areas: dict[Scope, _Area | None] = {}
        self._narrowed: dict[tuple[Subject, ...], _Narrowed | None] = {}
        self._asks: dict[tuple[str, bool], _Asks] = {}
        self._places: dict[str, _Place] = {}
        self._locked = {k.node for k in self.policy.locks.values() if k.field is None and k.component is None}

    def answer(self, request: Mapping[str, Any]) -> Reason | None:
        """The reason, or None for a question that this does not answer."""
        if request.__class__ is not dict:
            return None
        try:
            place = self._places.get(request["node"]) or self._place(request["node"])
            action = request["action"]
            if action == "create":
                return self._create(request, place)
            given = len(request)
            if action not in place[2] or given > 4:
                return None
            at = _read_time(request["at"]) if given == 4 else None
            account = request["account"]
            person = self._people.get(account)
            if person is None or person.starts is not None or person.ends is not None:
                person = self._person(account, at)
        except (KeyError, TypeError, ValueError, OverflowError):
            return None
        if person.decided is not None:
            return person.decided
        if action in WHOLE_BRANCH:
            return self._whole_branch(person, action, place[0])
        return self._on_node(person, action, place)

    def _create(self, request: Mapping[str, Any], place: _Place) -> Reason | None:
        type, topics, at = request["type"], request.get("topics"), request.get("at")
        given = 4 + ("topics" in request) + ("at" in request)
        if len(request) != given or type not in self.policy.node_types:
            return None
        if topics and (topics.__class__ is not list or not self.policy.topics.issuperset(topics)):
            return None
        if topics is not None and topics.__class__ is not list:
            return None
        person = self._person(request["account"], None if at is None else _read_time(at))
        if person.decided is not None:
            return person.decided
        i, parent, _ = place
        new = Node("", parent.id, parent.tree, parent.site, type, None, "", frozenset(topics or ()))
        return self._granted(person, f"{type}.create", "create", i, new)

    # -- §4 ------------------------------------------------------------------------------------

    def _on_node(self, person: _Person, action: str, place: _Place) -> Reason:
        """Steps 3 to 6."""
        i, node, asks = place
        capability, then, changing = asks[action]
        reason = self._granted(person, capability, action, i, node)
        if reason is not Reason.ALLOWED:
            return reason
        if then is not None:
            reason = self._granted(person, then, action, i, node, live=True)
            if reason is not Reason.ALLOWED:
                return reason
        if changing and node.id in self._locked:
            opens = self._granted(person, LOCKS_OPEN, LOCKS_OPEN, i, node) is Reason.ALLOWED
            return Reason.ALLOWED if opens else Reason.LOCKED
        return Reason.ALLOWED

    def _whole_branch(self, person: _Person, action: str, start: int) -> Reason:
        """The same of the node and of each one beneath it."""
        for i in range(start, int(self.tree.ends[start])):
            place = self._place(self.tree.nodes[i].id)
            reason = self._on_node(person, action, place)
            if reason is not Reason.ALLOWED:
                return reason
        return Reason.ALLOWED

    def _granted(
        self, person: _Person, capability: str, action: str, i: int, node: Node, *, live: bool = False
    ) -> Reason:
        """Steps 3 to 5 for one capability."""
        for barred, area in person.barring:
            if capability in barred and (area is None or area.covers(i, node)):
                return Reason.BARRED
        if person.limit_bars and person.near_bars.at(i, Effect.BAR):
            for limited, area in person.limit_bars:
                if (area is None or area.covers(i, node)) and limited.by(Effect.BAR, action, i):
                    return Reason.BARRED
        best = 0
        for extents, area, narrowed in person.sources:
            if capability not in extents:
                continue
            if area is not None and not area.covers(i, node):
                best = best or 1
            elif (
                (extent := extents[capability]) != _ALL
                and action != "create"
                and not self._written_by(person, extent, node.author)
            ):
                best = max(best, 2)
            elif narrowed is not None and narrowed.by(Effect.STOP, action, i):
                best = 3
            else:
                best = _TOP
                break
        if best != _TOP:
            return Reason.LIVE if live else _RUNGS[best]
        if person.own is not None and person.own.by(Effect.STOP, action, i):
            return Reason.STOPPED
        if person.reach:
            spans = person.reach.get(node.tree)
            if spans is not None and not any(start <= i < end for start, end in spans):
                return Reason.OUT_OF_REACH
        return Reason.ALLOWED

    def _written_by(self, person: _Person, extent: int, author: str | None) -> bool:
        account = person.account
        if author is None or account is None:
            return False
        if author == account.id:
            return True
        return extent != _OWN and not self.policy.accounts[author].groups.isdisjoint(account.groups)

    # -- compiling -----------------------------------------------------------------------------

    def _place(self, id: str) -> _Place:
        """A node with its position and what its type and state make actions ask. KeyError if there is none."""
        i = self.tree.index[id]
        node = self.tree.nodes[i]
        kind = (node.type, node.state == "published")
        asks = self._asks.get(kind)
        if asks is None:
            asks = {a: self._ask(a, *kind) for a in ACTIONS if a != "create"}
            asks |= {key: (key, None, False) for key in self.policy.placed}
            self._asks[kind] = asks
        place = self._places[id] = (i, node, asks)
        return place

    @staticmethod
    def _ask(action: str, type: str, published: bool) -> tuple[str, str | None, bool]:
        then = f"{type}.edit-live" if action == "edit" and published else None
        return capability_of(action, type, "published" if published else "draft"), then, action in CHANGING

    def _person(self, who: Who, at: datetime | None) -> _Person:
        """Somebody as they stand at a time (None: now). KeyError if there is no such account."""
        at = at or datetime.now(UTC)
        person = self._people.get(who)
        if person is None or not person.holds_at(at):
            person = self._people[who] = self._compiled(self.grants.of(who, at))
        return person

    def _compiled(self, who: SubjectGrants) -> _Person:
        person = _Person(who)
        if person.decided is not None:
            return person
        barring_limits: list[Subject] = []
        for source in who.sources:
            area, said = self._area(source.scope), source.resolved
            if said.extents:
                person.sources.append((said.extents, area, self._narrowing(source.subjects)))
            if said.barred:
                person.barring.append((said.barred, area))
            if narrowed := self._barring(said.subjects):
                person.limit_bars.append((narrowed, area))
                barring_limits += said.subjects
        if narrowed := self._barring(who.subjects):
            person.limit_bars.append((narrowed, None))
            barring_limits += who.subjects
        if barring_limits:
            person.near_bars = self.limits.near_bars(barring_limits)
        if who.account is not None:
            person.reach = {tree: self._spans(branches) for tree, branches in who.account.reach.items()}
            person.own = self._narrowing(who.subjects[:1])
        return person

    def _area(self, scope: Scope) -> _Area | None:
        if scope.unrestricted:
            return None
        if scope not in self._areas:
            spans = None if scope.branches is None else self._spans(scope.branches)
            self._areas[scope] = _Area(spans, scope)
        return self._areas[scope]

    def _spans(self, branches: frozenset[str]) -> _Spans:
        slices = [self.tree.branch(id) for id in branches if id in self.tree]
        return tuple(sorted((s.start, s.stop) for s in slices))

    def _narrowing(self, subjects: tuple[Subject, ...]) -> _Narrowed | None:
        """The limits on some subjects, or None when there are none."""
        if subjects not in self._narrowed:
            limited = any(self.limits.limited(subject) for subject in subjects)
            self._narrowed[subjects] = _Narrowed(subjects, self.limits) if limited else None
        return self._narrowed[subjects]

    def _barring(self, subjects: tuple[Subject, ...]) -> _Narrowed | None:
        """The limits on some subjects, or None when none of them bars."""
        return self._narrowing(subjects) if any(self.limits.bars(subject) for subject in subjects) else None
