"""What differs between two policies, exactly: who gains and who loses what, and at how many nodes (§4, §5).

    changed = impact(before, after, at)
    changed.gain, changed.lose              # accounts, None a visitor
    changed.deltas["ada"]["edit"]           # Delta(gained=3, lost=0)
    changed.nodes("ada", "edit")            # (["n1", "n4", "n7"], [])

Only what the difference can region is asked, and of holders and places that cannot be told apart once:
accounts with an equal equivalence key share one answer. Nothing is sampled.
"""

from collections.abc import Callable, Collection, Container, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property

import numpy as np

from gonfalon.core.bulk.node_batch import chunks
from gonfalon.core.bulk.parts import Parts, Restricted
from gonfalon.core.diff.counts import NOTHING, Delta, Deltas, Total
from gonfalon.core.diff.planner import Comparison
from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.question import Question, Who
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import PROFILE

GrantColumns = list[tuple[Who, Deltas]]
Progress = Callable[[int, int], None]
Work = Callable[[Callable[[int], GrantColumns], Sequence[int]], Iterable[GrantColumns]]


@dataclass(frozen=True)
class Impact:
    """What turns for each account that anything turns for."""

    deltas: Mapping[Who, Deltas]
    before: Engine
    after: Engine
    at: datetime

    @cached_property
    def gain(self) -> frozenset[Who]:
        """Who gains anything."""
        return frozenset(who for who, turns in self.deltas.items() if any(t.gained for t in turns.values()))

    @cached_property
    def lose(self) -> frozenset[Who]:
        """Who loses anything."""
        return frozenset(who for who, turns in self.deltas.items() if any(t.lost for t in turns.values()))

    @property
    def gained(self) -> int:
        """How many answers turn to yes, for all together."""
        return self._total.gained

    @property
    def lost(self) -> int:
        """How many answers turn to no, for all together."""
        return self._total.lost

    @cached_property
    def _total(self) -> Delta:
        every = (deltas for turns in self.deltas.values() for deltas in turns.values())
        return sum(every, NOTHING)

    @cached_property
    def totals(self) -> Mapping[str, Total]:
        """By action what turns for all accounts together, and for visitors."""
        of_accounts: dict[str, list[Delta]] = {}
        for who, turns in self.deltas.items():
            for action, deltas in turns.items():
                of_action = of_accounts.setdefault(action, [])
                if who is not None:
                    of_action.append(deltas)
        visitors = self.deltas.get(None, {})
        return {action: Total.of(each, visitors.get(action, NOTHING)) for action, each in of_accounts.items()}

    def at_nodes(self, action: str, of: Collection[Who]) -> tuple[Ints, Ints]:
        """`[nodes]` how many of some gain an action on a whole node, and how many lose it, at each node of the tree.

        Both policies must be over one tree. Asks those it turns for, of every node.
        """
        gained, lost = np.zeros((2, len(self.after.tree)), dtype=np.intp)
        sides = (self.before, self.after)
        who = [id for id, turns in self.deltas.items() if action in turns and id in of]
        for some in chunks(self.after.surveyor.whole((action,)), len(who)):
            was, now = (_there(side, who[some], action, self.at) for side in sides)
            gained += np.count_nonzero(now & ~was, axis=0)
            lost += np.count_nonzero(was & ~now, axis=0)
        return gained, lost

    def nodes(self, who: Who, action: str) -> tuple[list[str], list[str]]:
        """The ids gained and lost for an account and an action: nodes in the order of the tree, or profiles."""
        restricted = Restricted.by((self.before.policy, self.after.policy))
        was, now = (_by_id(survey, restricted, who, action, self.at) for survey in (self.before, self.after))
        order = {**now, **was}
        gained = [id for id in order if now.get(id, False) and not was.get(id, False)]
        return gained, [id for id in order if was.get(id, False) and not now.get(id, False)]


def impact(
    before: Engine,
    after: Engine,
    at: datetime,
    progress: Progress | None = None,
    work: Work = map,
    only: Container[str | None] | None = None,
) -> Impact:
    """Compare two policies for every account and visitors, every node, action, part and plain capability.

    With `only`, for those alone, however many others it turns something for.

    `progress` is called with how many parts are done, and of how many. `work` is whatever maps numbers, such as
    `shared_out` (§8).
    """
    compare = Comparison(before, after, at, only)
    parts = compare.parts
    deltas: dict[Who, dict[str, Delta]] = {}
    for done, found in enumerate(work(lambda i: list(compare.turns(parts[i])), range(len(parts)))):
        if progress is not None:
            progress(done, len(parts))
        for id, turns in found:
            deltas.setdefault(id, {}).update(turns)
    for id in compare.affected:
        if turns := compare.plain(id):
            deltas.setdefault(id, {}).update(turns)
    return Impact(deltas, before, after, at)


def _there(side: Engine, who: Sequence[Who], action: str, at: datetime) -> Bools:
    """`[accounts, nodes]` the answers of those that are there on a side; no for the others."""
    there = [id is None or id in side.policy.accounts for id in who]
    answers = np.zeros((len(who), len(side.tree)), dtype=bool)
    present = [id for id, is_there in zip(who, there, strict=True) if is_there]
    answers[there] = side.survey(present, None, [action], at)[:, :, 0]
    return answers


def _by_id(side: Engine, restricted: Restricted, who: Who, action: str, at: datetime) -> dict[str, bool]:
    """The answer about each node of a tree, or each profile."""
    if isinstance(who, str) and who not in side.policy.accounts:
        return {}
    verb, _, part = action.partition(" ")
    if part.partition(".")[0] == PROFILE:
        asked = Question(who, verb, at=at, field=part.partition(".")[2] or None)
        return {id: side.decide(replace(asked, target=profile(id))).allow for id in side.policy.accounts}
    ids = [n.id for n in side.tree.nodes]
    if not part:
        return dict(zip(ids, side.survey([who], None, [action], at)[0, :, 0].tolist(), strict=True))
    holding = side.grants.of(who, at)
    for some in restricted.pieces():
        parts = Parts.at(side.surveyor, some, np.arange(len(ids)))
        answers = parts.answers(parts.evaluator([holding]))
        if action in answers:
            return dict(zip(ids, answers[action][0].tolist(), strict=True))
    raise KeyError(action)
