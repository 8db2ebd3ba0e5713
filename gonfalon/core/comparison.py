"""Two policies beside each other: what can be touched, and who asks about it."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import datetime
from functools import cached_property, partial

import numpy as np

from gonfalon.core.askers import ActionsAsker, Asker, PartsAsker, Side
from gonfalon.core.parts import Restricted
from gonfalon.core.plan import MOST_ACTIONS, Bools
from gonfalon.core.profiles import ProfileAsker
from gonfalon.core.question import Question
from gonfalon.core.survey import Surveyor
from gonfalon.core.touched import Touch, Touched
from gonfalon.core.tree import Tree
from gonfalon.core.turned import Turned, Turns, turns_of
from gonfalon.core.vocabulary import WHOLE_BRANCH

_MOST_SHARED = 8
"""Actions a touch may name, anywhere, and still share its askers with others."""
Concerned = tuple[Asker, Callable[[Touch], bool]]


class Comparison:
    """Two policies beside each other: what can be touched, and who asks about it.

    Most accounts share askers about what the touches name, each over the places where any of them may
    count. Those few that are touched in much and anywhere have askers of their own.
    """

    def __init__(self, before: Surveyor, after: Surveyor, at: datetime) -> None:
        self.at = at
        self.restricted = Restricted.by((before.policy, after.policy))
        self._all = Touched(before.engine, after.engine)
        self.same_tree = before.tree is after.tree or before.tree.nodes == after.tree.nodes
        self.tree = before.tree
        self._apart: tuple[tuple[Touch, ...], list[Concerned]] = ((), [])
        if self.same_tree:
            self.sides = (Side(before), Side(after))
            self.touched: Mapping[str | None, tuple[Touch, ...]] = self._all.by_account()
        else:
            ids = {**dict.fromkeys(before.tree.index), **dict.fromkeys(after.tree.index)}
            rows = [np.array([s.tree.index.get(id, -1) for id in ids], dtype=np.intp) for s in (before, after)]
            self.sides = (Side(before, rows[0]), Side(after, rows[1]))
            everyone = (None, *before.policy.accounts, *after.policy.accounts)
            self.touched = dict.fromkeys(everyone, (self._all.anything,))

    def turns(self, who: str | None, touches: tuple[Touch, ...]) -> Turns:
        """What turns for an account with these touches."""
        turns: dict[str, Turned] = {}
        for asker, concerns in self._asking(touches):
            if any(concerns(touch) for touch in touches):
                turns |= asker.turns(who) if self.same_authors(touches) else asker.alone(who)
        plain = frozenset[str]().union(*(t.plain for t in touches))
        profiles = frozenset[str]().union(*(t.profiles for t in touches))
        return {**turns, **self._plain(who, plain), **self._profiles.turns(who, profiles)}

    @cached_property
    def _profiles(self) -> ProfileAsker:
        return ProfileAsker(self.sides, self.at)

    def same_authors(self, touches: tuple[Touch, ...]) -> bool:
        """Whether nothing changed about who wrote what, and who is in a team with whom, for an account."""
        return self._all.anything not in touches

    def _asking(self, touches: tuple[Touch, ...]) -> list[Concerned]:
        if not any(map(_broad, touches)):
            return self._shared
        if touches != self._apart[0]:
            self._apart = touches, list(self._askers(touches))
        return self._apart[1]

    @cached_property
    def _shared(self) -> list[Concerned]:
        every = {touch: None for touches in self.touched.values() for touch in touches}
        return list(self._askers([touch for touch in every if not _broad(touch)]))

    def _askers(self, touches: Sequence[Touch]) -> Iterator[Concerned]:
        """Askers about all that some touches name, each with whether a touch concerns it."""
        by_place: dict[bytes | None, tuple[Bools | None, list[str]]] = {}
        for action in self._all.actions:
            if naming := [t for t in touches if action in t.actions]:
                where = self._where(naming)
                if action in WHOLE_BRANCH and where is not None:
                    where = _with_ancestors(self.tree, where)
                key = None if where is None else np.packbits(where).tobytes()
                by_place.setdefault(key, (where, []))[1].append(action)
        for where, actions in by_place.values():
            for some in _apart(actions):
                yield ActionsAsker(self.sides, self.at, some, where), partial(_names_action, frozenset(some))
        yield from self._part_askers(touches)

    def _part_askers(self, touches: Sequence[Touch]) -> Iterator[Concerned]:
        """Askers about restricted fields, type by type, and about components."""
        every = self.restricted
        for type in sorted({type for type, _ in every.fields}):
            keys = frozenset(key for key in every.fields if key[0] == type)
            if naming := [t for t in touches if type in t.fields]:
                where = self._of_type(self._where(naming), type)
                yield PartsAsker(self.sides, self.at, Restricted(fields=keys), where), partial(_names_fields, type)
            if naming := [t for t in touches if type in t.filled]:
                yield (
                    PartsAsker(self.sides, self.at, Restricted(filled=keys), self._where(naming)),
                    partial(_names_filled, type),
                )
        naming = [t for t in touches if t.components]
        if naming and (every.components or every.facets):
            pieces = Restricted(components=every.components, facets=every.facets)
            yield PartsAsker(self.sides, self.at, pieces, self._where(naming)), _names_components

    def _where(self, touches: Sequence[Touch]) -> Bools | None:
        """Where any of some touches may count; None: anywhere."""
        regions = [t.where for t in touches if t.where is not None]
        return np.logical_or.reduce(regions) if self.same_tree and len(regions) == len(touches) else None

    def _of_type(self, where: Bools | None, type: str) -> Bools | None:
        if not self.same_tree:
            return where
        of_type: Bools = np.repeat([name == type for name in self.tree.type_names], 2)[self.tree.kinds]
        return of_type if where is None else of_type & where

    def _plain(self, who: str | None, capabilities: Iterable[str]) -> Turns:
        def may(side: Side, capability: str) -> bool:
            known = who is None or who in side.survey.policy.accounts
            return known and side.survey.engine.decide(Question(who, capability, at=self.at)).allow

        answers = ((c, [may(side, c) for side in self.sides]) for c in sorted(capabilities))
        return turns_of((c, int(now and not was), int(was and not now)) for c, (was, now) in answers)


def _broad(touch: Touch) -> bool:
    """Whether a touch names so much that it is asked about apart, for those few that it touches."""
    return touch.where is None and len(touch.actions) > _MOST_SHARED


def _names_action(actions: frozenset[str], touch: Touch) -> bool:
    return not actions.isdisjoint(touch.actions)


def _names_fields(type: str, touch: Touch) -> bool:
    return type in touch.fields


def _names_filled(type: str, touch: Touch) -> bool:
    return type in touch.filled


def _names_components(touch: Touch) -> bool:
    return touch.components


def _apart(actions: Sequence[str]) -> Iterator[list[str]]:
    """Actions in pieces that fit a plan, those about whole branches apart."""
    alone = [a for a in actions if a not in WHOLE_BRANCH]
    for first in range(0, len(alone), MOST_ACTIONS):
        yield alone[first : first + MOST_ACTIONS]
    if branching := [a for a in actions if a in WHOLE_BRANCH]:
        yield branching


def _with_ancestors(tree: Tree, where: Bools) -> Bools:
    """The nodes and every one above them: those whose branch holds one of the nodes."""
    until = np.concatenate(([0], np.cumsum(where)))
    above: Bools = until[tree.ends] > until[:-1]
    return above
