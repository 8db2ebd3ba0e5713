"""Walk lists as they are told: how far each has come, and what there is to try."""

from collections.abc import Iterable, Mapping
from typing import Any

from rest_framework import serializers

from gonfalon.access.models import GivenWalk
from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.shapes import RoleTagShape
from gonfalon.api.verify.walk_attempts import attempt
from gonfalon.content.models import Node
from gonfalon.core.checks.walk import Item
from gonfalon.verify.models import WalkList
from gonfalon.verify.walks.lists import items_of, news
from gonfalon.verify.walks.pages import Pages
from gonfalon.verify.walks.ticks import Tick, counted
from gonfalon.verify.walks.words import Words
from gonfalon.viewpoint.viewpoint import Viewpoint


class WalkCountShape(serializers.Serializer):
    """How much of a role has been proved. `id` is null where there is no list of it yet."""

    id = serializers.CharField(allow_null=True)
    role = RoleTagShape()
    items = serializers.IntegerField()
    proved = serializers.IntegerField()
    otherwise = serializers.IntegerField(help_text="What did not go as the list says, the last time it was tried.")
    rehearsed = serializers.BooleanField(help_text="Whether whom one rehearses as holds the role.")
    given = serializers.BooleanField(help_text="Whether it was given to whoever asks.")
    word = serializers.CharField(help_text="What was said in giving it.")


class WalkPageShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()


class WalkTickShape(serializers.Serializer):
    page = WalkPageShape(allow_null=True)
    by = serializers.CharField()
    at = serializers.DateTimeField()


class WalkAttemptShape(serializers.Serializer):
    """What is sent to try something that no screen offers."""

    method = serializers.ChoiceField(choices=["GET", "POST", "PATCH"])
    path = serializers.CharField()
    body = serializers.JSONField(allow_null=True)


class WalkItemShape(serializers.Serializer):
    """One thing to try: what should come of it, what came of it, and a page to try it on."""

    key = serializers.CharField()
    words = serializers.CharField(help_text="What is done, as it reads after “may”.")
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    state = serializers.ChoiceField(choices=["open", "proved", "otherwise"])
    tick = WalkTickShape(allow_null=True)
    page = WalkPageShape(allow_null=True)
    attempt = WalkAttemptShape(allow_null=True, help_text="Of what must be refused.")
    kinds = serializers.ListField(child=serializers.CharField(), help_text="Of pages; none where it does not matter.")
    public = serializers.BooleanField(allow_null=True)
    own = serializers.BooleanField(allow_null=True)
    question = serializers.DictField(
        child=serializers.CharField(), allow_null=True, help_text="What Why can be asked of it."
    )


class GivenWalkShape(serializers.Serializer):
    account = serializers.CharField(allow_null=True, help_text="Where one knows of it.")
    name = serializers.CharField()
    word = serializers.CharField()
    at = serializers.DateTimeField()
    by = serializers.CharField()


class WalkNewsShape(serializers.Serializer):
    """What making the list anew would bring."""

    more = serializers.IntegerField()
    gone = serializers.IntegerField()


class WalkListShape(WalkCountShape):
    made_at = serializers.DateTimeField()
    entries = WalkItemShape(many=True)
    news = WalkNewsShape(allow_null=True, help_text="For whoever keeps expectations.")
    walkers = GivenWalkShape(many=True, help_text="Whom it was given to, for whoever keeps expectations.")


def count_data(
    tag: Mapping[str, Any], row: WalkList | None, ticks: Mapping[str, Tick], *, rehearsed: bool, given: GivenWalk | None
) -> dict[str, Any]:
    """How far one list has come. No query."""
    return {
        "id": row.id if row else None,
        "role": tag,
        "items": len(row.items) if row else 0,
        **counted(ticks),
        "rehearsed": rehearsed,
        "given": given is not None,
        "word": given.word if given else "",
    }


def entries_data(
    row: WalkList, ticks: Mapping[str, Tick], here: Viewpoint, account: str | None, first: str | None
) -> list[dict[str, Any]]:
    """What there is to try, told to somebody; `account` is as whom they try it, `first` the page that they are on.

    Three queries.
    """
    items = items_of(row)
    pages = Pages(row.role, here, account).of(items, first)
    words = Words(here)
    names = names_of(tick.by for tick in ticks.values()) if ticks else {}
    rows = Node.objects.in_bulk({pages[item.key] for item in items if not item.expect and item.key in pages})
    told = []
    for item in items:
        tick, page = ticks.get(item.key), pages.get(item.key)
        told.append(
            {
                "key": item.key,
                "words": words.of(item),
                "expect": "allow" if item.expect else "deny",
                "state": "open" if tick is None else "proved" if tick.as_said else "otherwise",
                "tick": tick and _tick_data(tick, names, here),
                "page": _page(page, here),
                "attempt": attempt(item, rows[page], here.catalogue) if page in rows and not item.expect else None,
                "kinds": list(item.types),
                "public": item.public,
                "own": item.own,
                "question": _question(item, row.role, (tick.node if tick else "") or page, here),
            }
        )
    return told


def walkers_data(given: Iterable[GivenWalk], here: Viewpoint) -> list[dict[str, Any]]:
    """Whom a list was given to. One query."""
    rows, known = list(given), here.sight.people
    names = names_of({row.given_by or "" for row in rows} | {row.account_id for row in rows})
    return [
        {
            "account": row.account_id if row.account_id in known else None,
            "name": names[row.account_id] if row.account_id in known else HIDDEN_PERSON,
            "word": row.word,
            "at": row.given_at,
            "by": names.get(row.given_by or "", HIDDEN_PERSON) if row.given_by in known else HIDDEN_PERSON,
        }
        for row in rows
    ]


def news_data(row: WalkList, here: Viewpoint) -> dict[str, int]:
    """What making it anew would bring."""
    brings = news(row, here)
    return {"more": brings.more, "gone": brings.gone}


def _tick_data(tick: Tick, names: Mapping[str, str], here: Viewpoint) -> dict[str, Any]:
    known = tick.by in here.sight.people
    return {
        "page": _page(tick.node, here) or ({"id": "", "title": HIDDEN_NODE} if tick.node else None),
        "by": names.get(tick.by, HIDDEN_PERSON) if known else HIDDEN_PERSON,
        "at": tick.at,
    }


def _page(id: str | None, here: Viewpoint) -> dict[str, str] | None:
    return {"id": id, "title": here.nodes.titles[id]} if id and id in here.sight.nodes else None


def _question(item: Item, role: str, node: str | None, here: Viewpoint) -> dict[str, str] | None:
    """What Why is asked of it, on one page; None where there is none to ask of."""
    asked: dict[str, str] = {"role": role, "action": item.action}
    if item.action in here.snapshot.policy.plain:
        return asked
    if not node or node not in here.sight.nodes:
        return None
    asked["node"] = node
    if item.action in ("create", "fill-field"):
        asked["type"] = item.types[0]
    if item.field:
        asked["field"] = item.field
    if item.components:
        asked["component"] = item.components[0]
    if item.facet:
        asked["facet"] = item.facet
    return asked
