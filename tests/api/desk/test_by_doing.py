"""Every verb on every board does something on the desk for whoever may, and nothing for whoever may not.

Each is tried by doing, for each kind of content by each of some accounts, and its outcome held beside the engine's
answer.
"""

import pytest
from django.db import transaction

from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content import nodes
from gonfalon.content.models import Node
from gonfalon.content.nodes import content, engine_over, raise_version
from gonfalon.core import Question
from gonfalon.core.model.vocabulary import VERBS
from tests.api.support import Asking

PEOPLE = ("odile", "bashir", "tomasz", "ines", "aiko", "halla", "marit")
PAGES = ("section", "notice", "berth", "event", "article", "tenant")
FILES = ("folder", "picture", "document")
OPENING = {"content": ("desk.open",), "media": ("desk.open", "media.open")}


class Samples:
    """Two pages of a kind, one published and one not, each with one earlier version."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        live, draft = [
            row
            for row in Node.objects.filter(type=kind).exclude(depth=1)
            if row.author_id or kind in ("section", "folder")
        ][:2]
        for row, state in ((live, "published"), (draft, "draft")):
            Node.objects.filter(pk=row.pk).update(state=state, version=2)
            row.versions.filter(number__gt=1).delete()
        self.live, self.draft = live.pk, draft.pk
        self.parent = nodes.ancestors(Node.objects.get(pk=live.pk))[-1].pk
        raise_version()


def page(id: str, more: str = "") -> str:
    return f"desk/pages/{id}{more}"


TAG = {"If-Match": '"2"'}
DOING = {
    "see": lambda one, s: one.get(page(s.live)),
    "see-draft": lambda one, s: one.get(page(s.draft)),
    "create": lambda one, s: one.post("desk/pages", {"parent": s.parent, "type": s.kind, "title": "By doing"}),
    "edit": lambda one, s: one.patch(page(s.draft), {"title": "By doing"}, **TAG),
    "edit-live": lambda one, s: one.patch(page(s.live), {"title": "By doing"}, **TAG),
    "publish": lambda one, s: one.post(page(s.draft, "/publish"), **TAG),
    "retire": lambda one, s: one.post(page(s.live, "/retire"), **TAG),
    "remove": lambda one, s: one.post(page(s.live, "/remove"), **TAG),
    "move": lambda one, s: one.post(page(s.live, "/move"), **TAG),
    "history": lambda one, s: one.get(page(s.live, "/versions")),
    "restore": lambda one, s: one.post(page(s.live, "/versions/1/restore"), **TAG),
}
ASKED = {
    "see-draft": ("see", "draft"),
    "edit": ("edit", "draft"),
    "edit-live": ("edit", "live"),
    "publish": ("publish", "draft"),
}


def expected(who: str, verb: str, samples: Samples) -> bool:
    """What the engine says: the sections of the desk, seeing the page, then the action itself."""
    engine = engine_over(content(), current())
    action, which = ASKED.get(verb, (verb, "live"))
    target = engine.tree.target(samples.parent if verb == "create" else getattr(samples, which))
    asked = [Question(who, duty, at=now()) for duty in OPENING[target.tree]]
    asked.append(Question(who, "see", target, now()))
    if action != "see":
        asked.append(Question(who, action, target.child(samples.kind) if verb == "create" else target, now()))
    return all(engine.decide(question).allow for question in asked)


def test_every_verb_is_tried():
    assert set(DOING) == set(VERBS)


@pytest.mark.parametrize("kind", [*PAGES, *FILES])
def test_what_is_done_is_what_the_engine_answers(kind):
    samples = Samples(kind)
    people = {who: Asking(who) for who in PEOPLE}
    outcomes = {}
    for who, asking in people.items():
        for verb, do in DOING.items():
            answer = expected(who, verb, samples)
            with transaction.atomic():
                status = do(asking, samples).status_code
                transaction.set_rollback(True)
            if status < 300:  # a version number of the content means something else after the rollback
                nodes._kept.clear()
                nodes._engines.clear()
            outcomes[who, verb] = status
            assert (status < 300) == answer, (kind, who, verb, status)
    assert any(status < 300 for status in outcomes.values())
    assert any(status >= 400 for status in outcomes.values())
