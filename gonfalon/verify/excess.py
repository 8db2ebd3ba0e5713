"""Why one may not stand in for somebody, in words: what they may do that one may not oneself (§7)."""

from collections.abc import Iterable, Iterator
from itertools import islice

from gonfalon.access.catalogue import VERB_WORDS
from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.core.bulk.impersonation import Excess
from gonfalon.core.model.vocabulary import ACTIONS
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_TOLD = 3


def beyond_words(excess: Iterable[Excess], viewpoint: Viewpoint, they: str = "They may") -> str:
    """Up to three things that the other person may do and whoever asks may not, naming only what is in sight.

    What is about one place is told together: "edit, publish and retire “Fees”".
    """
    told: dict[str, list[str]] = {}
    for one in islice(_telling(excess, viewpoint), MOST_TOLD):
        what, where = _words(one, viewpoint)
        if what not in told.setdefault(where, []):
            told[where].append(what)
    return f"{they} {_listed(f'{_listed(what)} {where}'.strip() for where, what in told.items())}, and you may not."


def _listed(words: Iterable[str]) -> str:
    *most, last = words
    return f"{', '.join(most)} and {last}" if most else last


def _telling(excess: Iterable[Excess], viewpoint: Viewpoint) -> Iterator[Excess]:
    """Those about something in sight before the others."""
    hidden = []
    for one in excess:
        if one.positions is None or _place(one, viewpoint) is not None:
            yield one
        else:
            hidden.append(one)
    yield from hidden


def _place(one: Excess, viewpoint: Viewpoint) -> str | None:
    """The first node in sight that it is about."""
    nodes = viewpoint.engine.tree.nodes
    positions = () if one.positions is None else one.positions.tolist()
    return next((nodes[i].id for i in positions if nodes[i].id in viewpoint.sight.nodes), None)


def _words(one: Excess, viewpoint: Viewpoint) -> tuple[str, str]:
    """What it is and where: ("edit", "“Fees”"), or a duty and nothing."""
    q = one.question
    if q.target is None:
        return viewpoint.catalogue.phrase(q.action), ""
    if q.target.profile:
        what = "" if q.field is None else f" {viewpoint.catalogue.type(q.target.type).field_name(q.field).lower()} of"
        return f"{_verb(q.action, viewpoint)}{what}", "somebody’s profile"
    id = _place(one, viewpoint)
    where = HIDDEN_NODE if id is None else f"“{viewpoint.nodes.titles[id]}”"
    if _of_a_copy(one, viewpoint):
        where = f"a working copy of {where}"
    type = viewpoint.catalogue.type(q.target.type)
    if q.action in ("create", "fill-field"):
        filled = "make " if q.field is None else f"fill {type.field_name(q.field).lower()} of new "
        return f"{filled}{type.plural}", f"beneath {where}"
    if q.field is not None:
        return f"{_verb(q.action, viewpoint)} {type.field_name(q.field).lower()}", f"of {where}"
    if q.component is not None:
        part = viewpoint.catalogue.component_name(q.component).lower()
        return f"insert a {part}" if q.facet is None else f"change the {q.facet} of a {part}", f"on {where}"
    return _verb(q.action, viewpoint), where


def _of_a_copy(one: Excess, viewpoint: Viewpoint) -> bool:
    """Whether it is about working copies of what is public."""
    tree, target = viewpoint.nodes.tree, one.question.target
    if target is None or target.id is None or one.positions is None:
        return False
    return target.state != "published" and bool(tree.published[one.positions[0]])


def _verb(action: str, viewpoint: Viewpoint) -> str:
    if action in ACTIONS:
        return VERB_WORDS[action][1]
    return {"see-field": "see", "change-field": "change"}.get(action) or f"{viewpoint.catalogue.phrase(action)} on"
