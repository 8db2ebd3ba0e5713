"""Plans a comparison of two policies: which questions to ask of which accounts at which nodes."""

from collections.abc import Collection, Container, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from gonfalon.core.bulk.columns import MOST_ACTIONS
from gonfalon.core.bulk.parts import Restricted
from gonfalon.core.diff.account_diff import AccountDiff, ActionDiff, PartDiff
from gonfalon.core.diff.affected import AffectedRegion, AffectedRegions, NodeKind, Regions
from gonfalon.core.diff.counts import Deltas, deltas_of
from gonfalon.core.diff.equivalence import classes_of_children, classes_of_nodes
from gonfalon.core.diff.may_change import MayChange
from gonfalon.core.diff.node_classes import Places, Side, Sides
from gonfalon.core.diff.profile_diff import ProfileDiff
from gonfalon.core.diff.subtree_diff import SubtreeDiff
from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.question import Question
from gonfalon.core.model.vocabulary import WHOLE_BRANCH

_FEW = 20
"""Up to so many accounts share one region, wherever any of them is affected."""
_SEVERAL = 4
"""From so many accounts on, classes of nodes are worked out before all of a tree is asked about."""


_SOME = 400
"""Up to so many accounts are evaluated each by itself; more are grouped by equivalence keys."""
_PART = 1 / 16
"""A region of at least this part of a tree is wide: it is not asked about together with others;"""
_LITTLE = 2_000
"""and it has at least so many nodes."""


SAMPLES = (64, 4_096)
"""So many nodes of a region are asked about first: most accounts for whom anything differs there show it at these."""


class _About(NamedTuple):
    """One thing to ask about: an action, the fields of a type seen and changed, or filled, or components."""

    action: str | None = None
    fields: str | None = None
    filled: str | None = None
    components: bool = False

    @property
    def matter(self) -> str:
        """Actions are asked with actions, fields with fields."""
        return "action" if self.action else "fields" if self.fields else "filled" if self.filled else "components"

    def kinds(self, region: AffectedRegion) -> frozenset[NodeKind] | None:
        """The kinds of node that a region is about in this; None: any."""
        return region.kinds.get("edit" if self.components else self.action or "")


class Part(NamedTuple):
    """What some regions are about, and the accounts that have just these about it."""

    abouts: list[_About]
    naming: Regions
    individually: bool
    who: list[str | None]

    @property
    def of_many(self) -> bool:
        """Whether its accounts are worth telling apart."""
        return len(self.who) > _SOME

    @property
    def of_branches(self) -> bool:
        """Whether anything in it is asked of whole branches."""
        return any(about.action in WHOLE_BRANCH for about in self.abouts)

    def of(self, who: Sequence[str | None]) -> "Part":
        """The same for some of the accounts."""
        return self._replace(who=list(who), individually=self.individually or len(who) <= _SOME)

    def with_those_of(self, other: "Part") -> "Part":
        """All that either is about, asked of everyone whom either concerns."""
        abouts, naming, who = (
            dict.fromkeys((*ones, *others))
            for ones, others in ((self.abouts, other.abouts), (self.naming, other.naming), (self.who, other.who))
        )
        return Part(list(abouts), tuple(naming), self.individually, list(who))


class Comparison:
    """Two policies beside each other: what can be affected, and who asks about it.

    Accounts with the same regions about some actions share one asker, over the places where any of those
    regions may count. With `only`, nobody else is asked about.
    """

    def __init__(self, before: Engine, after: Engine, at: datetime, only: Container[str | None] | None = None) -> None:
        self.at = at
        self.restricted = Restricted.by((before.policy, after.policy))
        self._all = AffectedRegions(before, after)
        self._abouts: dict[AffectedRegion, Collection[_About]] = {}
        self._plainly: dict[Regions, tuple[frozenset[str], frozenset[str]]] = {}
        self.same_tree = before.tree is after.tree or before.tree.nodes == after.tree.nodes
        handed = None if self.same_tree else before.tree.reauthored(after.tree)
        self.same_places = self.same_tree or handed is not None
        self.tree = before.tree
        self._classes_of_nodes = lru_cache(1)(lambda who: classes_of_nodes(self.sides, who, at))
        if self.same_places:
            self.sides = (Side(before), Side(after))
            self.affected: Mapping[str | None, Regions] = self._all.by_account()
        else:
            ids = {**dict.fromkeys(before.tree.index), **dict.fromkeys(after.tree.index)}
            rows = [np.array([s.tree.index.get(id, -1) for id in ids], dtype=np.intp) for s in (before, after)]
            self.sides = (Side(before, rows[0]), Side(after, rows[1]))
            every = (None, *before.policy.accounts, *after.policy.accounts)
            self.affected = dict.fromkeys(every, (self._all.anything,))
        if only is not None:
            self.affected = {id: regions for id, regions in self.affected.items() if id in only}
        if self.same_tree:
            held = self.sides[0].grants(list(self.affected), at)
            before.surveyor.policy_index.source_index.intern(
                [who for who in held if who is not None]
            )  # the other side takes them over
        elif handed is not None:
            also = self._all.reauthored(handed, at)
            everyone = dict.fromkeys((*self.affected, *also))
            self.affected = {
                id: (*self.affected.get(id, ()), *also.get(id, ())) for id in everyone if only is None or id in only
            }
            self._all.baseline = self._all.ruling = frozenset()  # what they save asks both sides over one tree

    @cached_property
    def parts(self) -> list[Part]:
        """What there is to ask, each part with the accounts it concerns; what takes longest first."""
        alike: dict[Regions, list[str | None]] = {}
        for id, regions in self.affected.items():
            alike.setdefault(regions, []).append(id)
        concerned: dict[tuple[_About, Regions, bool], list[Regions]] = {}
        for regions in alike:
            individually = self._all.anything in regions or not self.same_tree
            for about, naming in self._naming(regions):
                concerned.setdefault((about, naming, individually), []).append(regions)
        together: dict[tuple[Regions, bool, tuple[Regions, ...]], list[_About]] = {}
        for (about, naming, individually), may_change_for in concerned.items():
            together.setdefault((naming, individually, tuple(may_change_for)), []).append(about)
        parts: list[Part] = []
        few: list[Part] = []
        for (naming, individually, affected), abouts in together.items():
            who = [id for regions in affected for id in alike[regions]]
            (few if len(who) <= _FEW else parts).append(Part(abouts, naming, individually or len(who) <= _SOME, who))
        return [*self._joined(few), *sorted(parts, key=lambda part: -len(part.who))]

    def _joined(self, few: Iterable[Part]) -> Iterable[Part]:
        """Parts of few accounts, joined where they are about one thing, then where they concern the same accounts.

        Each account is asked by itself; what is about much of the tree is kept apart from what is not.
        """
        by_about: dict[tuple[_About, bool], Part] = {}
        for part in few:
            for about in part.abouts:
                key = about, any(self._wide(region, about) for region in part.naming)
                alone = Part([about], part.naming, True, part.who)
                by_about[key] = by_about[key].with_those_of(alone) if key in by_about else alone
        by_who: dict[tuple[frozenset[str | None], bool], Part] = {}
        for (_, wide), part in by_about.items():
            whose = frozenset(part.who), wide
            by_who[whose] = by_who[whose].with_those_of(part) if whose in by_who else part
        return by_who.values()

    def leading(self, part: Part) -> Part:
        """The same without those fields that go otherwise only where an action does."""
        fields = [about for about in part.abouts if about.fields or about.filled]
        led = {
            about for about in fields if all(t.implies_action_change for t in part.naming if about in self._about(t))
        }
        return part._replace(abouts=[about for about in part.abouts if about not in led])

    def turns(self, part: Part) -> Iterator[tuple[str | None, Deltas]]:
        """What turns for each account that a part concerns."""
        for asker in self.diffs(part):
            yield from asker.turns(part.who).items()

    def may_change(self, who: Iterable[str | None]) -> MayChange:
        """What may turn for some accounts, nothing for the others."""
        return MayChange({id: self.affected[id] for id in who}, self.tree)

    def plain(self, who: str | None) -> Deltas:
        """What turns for an account about capabilities without a target, and about profiles."""
        plain, profiles = self._asked_plainly(self.affected[who])
        if not plain and not profiles:
            return {}
        return {**self._plain(who, plain), **self._profiles.turns(who, profiles)}

    def _asked_plainly(self, regions: Regions) -> tuple[frozenset[str], frozenset[str]]:
        """The plain capabilities, and the actions on profiles, that some regions are about."""
        if regions not in self._plainly:
            plain = frozenset[str]().union(*(t.plain for t in regions))
            profiles = frozenset[str]().union(*(t.profiles for t in regions))
            self._plainly[regions] = plain, profiles
        return self._plainly[regions]

    @cached_property
    def _profiles(self) -> ProfileDiff:
        return ProfileDiff(self.sides, self.at)

    def _naming(self, regions: Regions) -> Iterator[tuple[_About, Regions]]:
        """What some regions are about, each with those of them that are."""
        found: dict[_About, list[AffectedRegion]] = {}
        for region in regions:
            for about in self._about(region):
                found.setdefault(about, []).append(region)
        for about, naming in found.items():
            yield about, tuple(naming)

    def _about(self, region: AffectedRegion) -> Collection[_About]:
        """What a region is about, in the order in which it is asked."""
        if region not in self._abouts:
            fielded = sorted({type for type, _ in self.restricted.fields})
            restricted = bool(self.restricted.components or self.restricted.facets)
            components = restricted and (region.components or "edit" in region.actions)
            actions = region.actions - {"edit"} if components else region.actions  # it is told with components
            abouts = [_About(action=action) for action in self._all.actions if action in actions]
            abouts += [_About(fields=type) for type in fielded if type in region.fields]
            abouts += [_About(filled=type) for type in fielded if type in region.filled]
            abouts += [_About(components=True)] if components else []
            self._abouts[region] = dict.fromkeys(abouts)
        return self._abouts[region]

    def diffs(self, part: Part, *, sampled: int = 0, soonest: bool = False) -> Iterator[AccountDiff | SubtreeDiff]:
        """Who asks what a part is about, one after the other; `sampled`: at so many nodes only, with nothing beneath.

        `soonest`: before components, of which `edit` is told too, that is asked alone: it turns for most of them.
        """
        how = {
            "individually": bool(sampled) or part.individually,
            "baseline_only": not sampled and self._baseline_only(part),
        }
        for where, abouts in self._regions(part):
            actions = [about.action for about in abouts if about.action is not None]
            for some in _in_pieces(["edit"] if soonest and abouts[0].components else actions):
                if some[0] in WHOLE_BRANCH and not sampled:
                    yield from self._subtree_diffs(part, some, where)
                    continue
                here = self._sample(where, sampled) if sampled else where
                for places in self._places(part, here, new=some[0].startswith("create:")):
                    yield ActionDiff(self.sides, self.at, some, places, **how)
            if not actions:
                types = {about.fields for about in abouts}
                here = where if types == {None} else self._of_types(where, types)
                here = self._sample(here, sampled) if sampled else here
                sides = self._ruled if self._all.ruling.issuperset(part.naming) else self.sides
                for places in self._places(part, here, new=abouts[0].matter == "filled"):
                    yield PartDiff(sides, self.at, self._pieces(abouts), places, **how)

    def _sample(self, where: Bools | None, size: int) -> Bools:
        """About so many nodes here and there in a region (None: anywhere), of those that have nothing beneath."""
        bare = self.tree.ends == np.arange(len(self.tree)) + 1
        here = (bare if where is None else bare & where).nonzero()[0]
        sample = np.zeros(len(self.tree), dtype=bool)
        sample[here[:: len(here) // size + 1]] = True
        return sample

    def _regions(self, part: Part) -> Iterator[tuple[Bools | None, list[_About]]]:
        """Where a part is asked about, and what there, one matter at a time.

        Accounts that are told apart are so for one type's fields at a time. Of a few the rest is asked in one region,
        or, what is about much of the tree, everywhere.
        """
        alike: dict[tuple[Hashable, tuple[tuple[AffectedRegion, frozenset[NodeKind] | None], ...]], list[_About]] = {}
        for about in part.abouts:
            alone: Hashable = about if about.action is None and not part.individually else about.matter
            naming = [(region, about.kinds(region)) for region in part.naming if about in self._about(region)]
            alike.setdefault((alone, tuple(naming)), []).append(about)
        regions: dict[Hashable, list[tuple[Bools | None, list[_About]]]] = {}
        for (alone, named), abouts in alike.items():
            regions.setdefault(alone, []).append((self._where([region for region, _ in named], abouts[0]), abouts))
        for found in regions.values():
            yield from self._at_once(found) if len(part.who) <= _FEW else found

    def _at_once(
        self, regions: Sequence[tuple[Bools | None, list[_About]]]
    ) -> Iterator[tuple[Bools | None, list[_About]]]:
        """The narrow ones of some regions as one, and the wide ones as all of the tree."""
        narrow = [(where, abouts) for where, abouts in regions if where is not None and not self._is_wide(where)]
        wide = [abouts for where, abouts in regions if self._is_wide(where)]
        if narrow:
            yield np.logical_or.reduce([w for w, _ in narrow]), [about for _, abouts in narrow for about in abouts]
        if wide:
            yield None, [about for abouts in wide for about in abouts]

    def _is_wide(self, where: Bools | None) -> bool:
        return where is None or int(np.count_nonzero(where)) > self._much

    def _subtree_diffs(
        self, part: Part, actions: Sequence[str], where: Bools | None
    ) -> Iterator[AccountDiff | SubtreeDiff]:
        """Who asks about whole branches: of a wide region the whole tree at once."""
        if self._is_wide(where) or not self.same_tree:
            for places in self._places(part, None, new=False, whole=True):
                yield ActionDiff(self.sides, self.at, actions, places, individually=True, baseline_only=False)
        else:
            for places in self._places(part, where, new=False, whole=True):
                yield SubtreeDiff(self.sides, self.at, actions, places[0])

    def _baseline_only(self, part: Part) -> bool:
        """Whether only baseline roles changed for everyone in a part.

        Equivalence keys computed before the change then stay valid after it: keys tell each baseline role apart.
        """
        return self._all.baseline.issuperset(part.naming)

    @cached_property
    def _ruled(self) -> Sides:
        """The policy before, and that with the field rules from after.

        Where only field rules matter to what is asked, this answers as the policy after does, on one batch for both.
        """
        before, after = self.sides
        policy = replace(before.engine.policy, fields=after.engine.policy.fields)
        return before, Side(before.engine.changed(policy), held=before.held)

    def _places(
        self, part: Part, where: Bools | None, *, new: bool, whole: bool = False
    ) -> Iterator[tuple[Places, Places]]:
        """The places on each side, if there are any; those once that are alike to `new` nodes, or to a few accounts.

        What is asked of `whole` branches rests on each node in them.
        """
        trees = [side.engine.tree for side in self.sides]
        if not self.same_tree:
            of_each = Places(trees[0], where), Places(trees[1], where)
            yield of_each
        elif where is None or where.any():
            alike = where is None and not whole and _SEVERAL <= len(part.who) <= _FEW
            of_nodes = self._classes_of_nodes(tuple(part.who)) if alike else None
            both = Places(trees[0], where, self._classes_of_children if new else of_nodes)
            yield both, both

    @cached_property
    def _classes_of_children(self) -> Ints:
        return classes_of_children(self.sides)

    def _pieces(self, abouts: Sequence[_About]) -> Restricted:
        every = self.restricted
        fields, filled = ({about[i] for about in abouts} for i in (1, 2))
        if abouts[0].components:
            return Restricted(components=every.components, facets=every.facets)
        return Restricted(
            fields=frozenset(key for key in every.fields if key[0] in fields),
            filled=frozenset(key for key in every.filled if key[0] in filled),
        )

    def _where(self, regions: Sequence[AffectedRegion], about: _About) -> Bools | None:
        """Where any of some regions may count in what they are about; None: anywhere."""
        each = [self._region(region.where, about.kinds(region)) for region in regions]
        some = [where for where in each if where is not None]
        return np.logical_or.reduce(some) if self.same_places and len(some) == len(each) else None

    def _wide(self, region: AffectedRegion, about: _About) -> bool:
        """Whether a region may count in more than a part of the tree that is worth asking about by itself."""
        if region.where is not None and np.count_nonzero(region.where) < self._much:
            return False
        kinds = about.kinds(region)
        return kinds is None or sum(self._of_kind.get(kind, 0) for kind in kinds) >= self._much

    @property
    def _much(self) -> float:
        return max(_LITTLE, len(self.tree) * _PART)

    @cached_property
    def _of_kind(self) -> Mapping[NodeKind, int]:
        """How many nodes there are of each kind."""
        counts = np.bincount(self.tree.kinds, minlength=2 * len(self.tree.type_names)).tolist()
        return dict(zip(self.tree.node_kinds, counts, strict=True))

    def _region(self, where: Bools | None, kinds: frozenset[NodeKind] | None) -> Bools | None:
        """Where nodes of some kinds (None: of any) are, within a region."""
        if kinds is None:
            return where
        of_kinds: Bools = np.array([kind in kinds for kind in self.tree.node_kinds], dtype=bool)[self.tree.kinds]
        return of_kinds if where is None else of_kinds & where

    def _of_types(self, where: Bools | None, types: Container[str | None]) -> Bools | None:
        if not self.same_tree:
            return where
        of_types: Bools = np.repeat([name in types for name in self.tree.type_names], 2)[self.tree.kinds]
        return of_types if where is None else of_types & where

    def _plain(self, who: str | None, capabilities: Iterable[str]) -> Deltas:
        def may(side: Side, capability: str) -> bool:
            known = who is None or who in side.engine.policy.accounts
            return known and side.engine.decide(Question(who, capability, at=self.at)).allow

        answers = ((c, [may(side, c) for side in self.sides]) for c in sorted(capabilities))
        return deltas_of((c, int(now and not was), int(was and not now)) for c, (was, now) in answers)


def _in_pieces(actions: Sequence[str]) -> Iterator[list[str]]:
    """Actions in pieces that fit the columns: about single nodes, about new ones, about whole branches."""
    new = [a for a in actions if a.startswith("create:")]
    alone = [a for a in actions if a not in WHOLE_BRANCH and not a.startswith("create:")]
    for some in (alone, new):
        for first in range(0, len(some), MOST_ACTIONS):
            yield some[first : first + MOST_ACTIONS]
    if branching := [a for a in actions if a in WHOLE_BRANCH]:
        yield branching
