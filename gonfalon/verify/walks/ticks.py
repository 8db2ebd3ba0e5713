"""Ticks: what of walk lists was done in rehearsals, and what of that still stands.

    note_tries(asked, here, role, actor)        # after each request of a rehearsal
    Standing(here, lists).of(walk_list)         # {item.key: True or False}, as of now

A tick keeps the questions that its doing asked of pages, and stands while a holder of the role and nothing else gets
the same answer to each, and these are still what the item asks for. One whose page was handed on, moved, retired or
made public since is asked of it as it is now.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any, Literal, NamedTuple

from gonfalon.clock import now
from gonfalon.core.checks.tries import Again, Kept, again, keep
from gonfalon.core.checks.walk import Item, fits, outcome
from gonfalon.core.model.question import Question
from gonfalon.core.model.vocabulary import Kind
from gonfalon.verify.models import WalkList, WalkTick
from gonfalon.verify.walks.lists import items_of
from gonfalon.viewpoint.asked import Asked
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work.apart import APART

MOST_KEPT = 60
"""Questions of one doing."""


Way = Literal["written", "read", "failed"]
"""What became of a request. Of one that failed nothing was done, and what one only looked at was not changed."""
Try = tuple[Kept, Again]
_READ = frozenset({"see", "see-field", "history"})


class Tick(NamedTuple):
    """How something of a list went the last time that still counts."""

    as_said: bool
    node: str
    by: str
    at: datetime
    asked: Sequence[Any]
    """The questions of its doing, as Kept has them."""


def standing(lists: Sequence[WalkList], here: Viewpoint) -> dict[str, dict[str, Tick]]:
    """By list and item what stands: where it went otherwise, that before all. One query."""
    told: dict[str, dict[str, Tick]] = {row.id: {} for row in lists}
    roles = {row.id: row.role for row in lists}
    items = {row.id: {item.key: item for item in items_of(row)} for row in lists}
    for row in WalkTick.objects.filter(walk_list__in=list(roles)).order_by("-as_said"):
        item = items[row.walk_list].get(row.item)
        if item is not None and _stands(row, item, roles[row.walk_list], here):
            told[row.walk_list][row.item] = Tick(row.as_said, row.node, row.by, row.at, row.asked)
    return told


def note_tries(asked: Iterable[Asked], way: Way, here: Viewpoint, roles: Iterable[str], by: str) -> list[str]:
    """Tick off what a request of a rehearsal did, in the lists of some roles; the keys of the items.

    `here` is what is in force outside, under which a holder of the role alone must get the same answers. One query, two
    more for each list that it ticks something in.
    """
    every = list(asked)[:MOST_KEPT]
    lists = list(WalkList.objects.filter(role__in=list(roles))) if every else []
    return [item for row in lists for item in _tick(row, every, way, here, by)]


def _was_done(action: str, way: Way, here: Viewpoint) -> bool:
    """Whether an action that passed was done: what opens a place did, whatever became of what was asked for there."""
    opens = here.snapshot.policy.kind(action) is Kind.OPENING
    return opens or way == "written" or (way == "read" and action in _READ)


def _tick(row: WalkList, asked: Sequence[Asked], way: Way, here: Viewpoint, by: str) -> list[str]:
    tries = _as_the_role(row.role, asked, here)
    counting = [one for one in tries if not one[1].decision.allow or _was_done(one[1].question.action, way, here)]
    ticks: dict[str, WalkTick] = {}
    for item in items_of(row) if counting else ():
        fitting = [one for one in counting if fits(item, one[1])]
        kept = _with_those_of_the_page(fitting, tries)
        went = outcome(item, [one for _, one in fitting])
        if went is not None:
            node = next((one.question.target.id or "" for _, one in kept if one.question.target), "")
            ticks[item.key] = WalkTick(
                walk_list=row.id, item=item.key, as_said=went, node=node if node in here.nodes.tree else "", by=by,
                at=now(), asked=[list(k) for k, _ in kept],
            )  # fmt: skip
    if ticks:
        WalkTick.objects.using(APART).bulk_create(
            sorted(ticks.values(), key=lambda tick: tick.item),  # two who walk one list wait for each other in order
            update_conflicts=True,
            update_fields=["node", "by", "at", "asked"],
        )
    return list(ticks)


def _as_the_role(role: str, asked: Iterable[Asked], here: Viewpoint) -> list[Try]:
    """What was asked, with the answers of the role alone, where these are the same."""
    found = []
    for one in asked:
        kept = keep(one.question, one.own, str(one.decision.reason), here.engine.tree)
        anew = again(kept, role, here.engine, here.at) if kept else None
        if kept and anew and anew.decision.reason == one.decision.reason:
            found.append((kept, anew))
    return found


def _with_those_of_the_page(fitting: list[Try], tries: Sequence[Try]) -> list[Try]:
    """What is kept for an item: the questions that fit it, and before them the others of the same pages."""
    pages = {_page(one.question) for _, one in fitting} - {None}
    return [one for one in tries if one in fitting or _page(one[1].question) in pages]


def _page(question: Question) -> tuple[str, ...] | None:
    return question.target.path if question.target is not None else None


def _stands(row: WalkTick, item: Item, role: str, here: Viewpoint) -> bool:
    tries = []
    for said, own, reason in row.asked:
        anew = again(Kept(said, own, reason), role, here.engine, here.at)
        if anew is None or anew.decision.reason != reason:
            return False
        tries.append(anew)
    return outcome(item, tries) is row.as_said


def counted(ticks: Mapping[str, Tick]) -> dict[str, int]:
    """How many went as they should, and how many otherwise."""
    went = defaultdict(int, {"proved": 0, "otherwise": 0})
    for tick in ticks.values():
        went["proved" if tick.as_said else "otherwise"] += 1
    return dict(went)
