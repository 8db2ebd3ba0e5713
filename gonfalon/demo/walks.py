"""Walk lists of the harbour, with as much of each ticked off as somebody has tried so far."""

from datetime import datetime
from typing import Any

from gonfalon.access.models import GivenWalk
from gonfalon.core import Question
from gonfalon.core.checks.tries import of_holder
from gonfalon.core.checks.walk import Item
from gonfalon.core.checks.walk import walk as walk_of
from gonfalon.verify.models import WalkList
from gonfalon.verify.walks.pages import Pages
from gonfalon.verify.walks.ticks import note_tries
from gonfalon.viewpoint.asked import Asked
from gonfalon.viewpoint.viewpoint import Viewpoint, viewpoint


def load_walks(data: list[dict[str, Any]], at: datetime) -> None:
    """Make the lists, try what was tried, and give those that are given."""
    for walk in data:
        by, role = walk["by"], walk["role"]
        here = viewpoint(by, at)
        items = walk_of(role, here.engine, at)
        WalkList.objects.create(
            id=f"walk-{role}", role=role, items=[list(item) for item in items], made_by=by, made_at=at
        )
        pages = Pages(role, here).of(items)
        for item in [item for item in items if item.key in pages][: walk["tried"]]:
            note_tries([_asked(item, role, pages[item.key], here)], "written", here, [role], by)
        for account, word in walk.get("given", {}).items():
            GivenWalk.objects.create(role=role, account_id=account, word=word, given_by=by, given_at=at)


def _asked(item: Item, role: str, page: str, here: Viewpoint) -> Asked:
    target = here.engine.tree.target(page)
    if item.action in ("create", "fill-field"):
        target = target.child(item.types[0])
    own = item.own is not False
    component = item.components[0] if item.components else None
    part = {"field": item.field, "component": component, "facet": item.facet}
    question = Question(of_holder(role, own=own), item.action, target, here.at, **part)  # type: ignore[arg-type]
    return Asked(question, here.engine.decide(question, trail=True), own)
