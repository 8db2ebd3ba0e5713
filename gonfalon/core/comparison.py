"""Two policies beside each other: what can be touched, and who asks about it."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gonfalon.core.askers import ActionsAsker, Asker, PartsAsker
from gonfalon.core.parts import Restricted
from gonfalon.core.places import Side
from gonfalon.core.plan import MOST_ACTIONS, Bools
from gonfalon.core.profiles import ProfileAsker
from gonfalon.core.question import Question
from gonfalon.core.survey import Surveyor
from gonfalon.core.touched import Touch, Touched
from gonfalon.core.tree import Tree
from gonfalon.core.turned import Turns, turns_of
from gonfalon.core.vocabulary import WHOLE_BRANCH

Touches = tuple[Touch, ...]
Asking = tuple[Asker, list[str | None]]


_MANY = 100
"""From so many accounts on it pays to look for places that are alike."""


class _About(NamedTuple):
    """What one asker asks about: an action, the fields of a type seen and changed, or filled, or components."""

    action: str | None = None
    fields: str | None = None
    filled: str | None = None
    components: bool = False


class Comparison:
    """Two policies beside each other: what can be touched, and who asks about it.

    Accounts with the same touches about some actions share one asker, over the places where any of those
    touches may count.
    """

    def __init__(self, before: Surveyor, after: Surveyor, at: datetime) -> None:
        self.at = at
        self.restricted = Restricted.by((before.policy, after.policy))
        self._all = Touched(before.engine, after.engine)
        self.same_tree = before.tree is after.tree or before.tree.nodes == after.tree.nodes
        self.tree = before.tree
        if self.same_tree:
            self.sides = (Side(before), Side(after))
            self.touched: Mapping[str | None, Touches] = self._all.by_account()
        else:
            ids = {**dict.fromkeys(before.tree.index), **dict.fromkeys(after.tree.index)}
            rows = [np.array([s.tree.index.get(id, -1) for id in ids], dtype=np.intp) for s in (before, after)]
            self.sides = (Side(before, rows[0]), Side(after, rows[1]))
            everyone = (None, *before.policy.accounts, *after.policy.accounts)
            self.touched = dict.fromkeys(everyone, (self._all.anything,))

    def asking(self) -> Iterator[Asking]:
        """Askers about all that is touched, each with the accounts it is to ask; made as they come."""
        alike: dict[Touches, list[str | None]] = {}
        for who, touches in self.touched.items():
            alike.setdefault(touches, []).append(who)
        concerned: dict[tuple[_About, Touches, bool], list[Touches]] = {}
        for touches in alike:
            apart = self._all.anything in touches
            for about, naming in self._naming(touches):
                concerned.setdefault((about, naming, apart), []).append(touches)
        together: dict[tuple[Touches, bool, tuple[Touches, ...]], list[_About]] = {}
        for (about, naming, apart), touching in concerned.items():
            together.setdefault((naming, apart, tuple(touching)), []).append(about)
        for (naming, apart, touching), abouts in together.items():
            who = [id for touches in touching for id in alike[touches]]
            for asker in self._askers(abouts, naming, apart=apart, many=len(who) > _MANY and not apart):
                yield asker, who

    def plain(self, who: str | None) -> Turns:
        """What turns for an account about capabilities without a target, and about profiles."""
        touches = self.touched[who]
        plain = frozenset[str]().union(*(t.plain for t in touches))
        profiles = frozenset[str]().union(*(t.profiles for t in touches))
        return {**self._plain(who, plain), **self._profiles.turns(who, profiles)}

    @cached_property
    def _profiles(self) -> ProfileAsker:
        return ProfileAsker(self.sides, self.at)

    def _naming(self, touches: Touches) -> Iterator[tuple[_About, Touches]]:
        """What some touches are about, each with those of them that are."""
        found: dict[_About, list[Touch]] = {}
        for touch in touches:
            for about in self._about(touch):
                found.setdefault(about, []).append(touch)
        for about, naming in found.items():
            yield about, tuple(naming)

    def _about(self, touch: Touch) -> Iterator[_About]:
        yield from (_About(action=action) for action in self._all.actions if action in touch.actions)
        fielded = sorted({type for type, _ in self.restricted.fields})
        yield from (_About(fields=type) for type in fielded if type in touch.fields)
        yield from (_About(filled=type) for type in fielded if type in touch.filled)
        if touch.components and (self.restricted.components or self.restricted.facets):
            yield _About(components=True)

    def _askers(self, abouts: Sequence[_About], naming: Touches, *, apart: bool, many: bool) -> Iterator[Asker]:
        where = self._where(naming)
        if where is not None and not where.any():
            return
        actions = [about.action for about in abouts if about.action is not None]
        for some in _apart(actions):
            branching = where is not None and some[0] in WHOLE_BRANCH
            here = _with_ancestors(self.tree, where) if branching and where is not None else where
            yield ActionsAsker(self.sides, self.at, some, here, apart=apart, many=many)
        for about in abouts:
            if about.action is None:
                here = where if about.fields is None else self._of_type(where, about.fields)
                if here is None or here.any():
                    yield PartsAsker(self.sides, self.at, self._pieces(about), here, apart=apart, many=many)

    def _pieces(self, about: _About) -> Restricted:
        every = self.restricted
        if about.fields is not None:
            return Restricted(fields=frozenset(key for key in every.fields if key[0] == about.fields))
        if about.filled is not None:
            return Restricted(filled=frozenset(key for key in every.filled if key[0] == about.filled))
        return Restricted(components=every.components, facets=every.facets)

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
