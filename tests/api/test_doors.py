"""Every address, asked by all sorts of people, opens exactly when the engine says that its door does."""

import re
from itertools import product

import pytest

from gonfalon.access.models import Answer, Assignment, Role
from gonfalon.access.snapshot import current, raise_version
from gonfalon.access.walks import is_walking
from gonfalon.accounts.models import Account
from gonfalon.api.desk.copy_data import OF_THE_COPY, OnCopy
from gonfalon.api.guard import Anyone, Arrived, May, On, SignedIn, Within
from gonfalon.api.verify.walking import Rehearsing
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from tests.api.support import Asking, ok, refused
from tests.api.test_routes import methods_of, routes, view_of
from tests.examples import LONG

PEOPLE = (None, "bashir", "ludo", "ines", "lieke")
IDS = {
    "node": ("p3-sail-loft", "min-2026-10", "crab-race", "pic-sail-loft", "r-night", "no-such-thing"),
    "role": ("tenant-editor", "no-such-thing"),
    "account": ("ines", "no-such-thing"),
    "kind": ("no-such-thing",),
    "field": ("no-such-thing",),
    "topic": ("no-such-thing",),
    "site": ("harbour", "regatta", "no-such-thing"),
    "extension": ("tide-table", "no-such-thing"),
    "walk_list": ("walk-tenant-editor", "no-such-thing"),
    "markup_set": ("prose", "no-such-thing"),
    "expectation": ("expectation-01", "no-such-thing"),
    "post": ("post-3", "no-such-thing"),
    "change_set": ("no-such-thing",),
    "position": ("1",),
    "group": ("pier-3", "no-such-thing"),
    "assignment": ("no-such-thing",),
    "request_id": ("no-such-thing",),
    "review": ("no-such-thing",),
    "item": ("no-such-thing",),
    "report": ("no-such-thing",),
    "session": ("no-such-thing",),
    "factor": ("no-such-thing",),
    "letter": ("no-such-thing",),
    "lock": ("no-such-thing",),
    "number": ("1", "999"),
    "step": ("1",),
    "view": ("no-such-thing",),
}
SHUT = (401, 403, 404)


def addresses():
    """Each address with a door to decide about, its arguments filled in: view, method, path, arguments."""
    for route in routes():
        view, pattern = view_of(route), str(route.pattern)
        if pattern.startswith("^") or not pattern.startswith("api/"):
            continue
        names = re.findall(r"<\w+:(\w+)>", pattern)
        for values in product(*(IDS[name] for name in names)):
            path = pattern
            for name, value in zip(names, values, strict=True):
                path = re.sub(rf"<\w+:{name}>", value, path)
            for method in sorted(methods_of(view)):
                yield view, method, path.removeprefix("api/"), dict(zip(names, values, strict=True))


def test_there_are_many_addresses():
    every = list(addresses())
    assert len(every) > 120
    assert {method for _, method, _, _ in every} == {"get", "post", "put", "patch", "delete"}


def opens(door, who, arguments) -> bool:
    """What the engine says, asked here and not by the guard."""
    engine, at = engine_over(content(), current()), now()
    if isinstance(door, Anyone):
        return True
    if isinstance(door, SignedIn | Arrived):
        return who is not None
    if isinstance(door, Rehearsing):
        given = who is not None and is_walking(who)
        return given or opens(May("impersonate.start", "rehearsal.start"), who, arguments)
    if isinstance(door, Within):
        section = [Question(who, c, at=at) for c in ("desk.open", door.section)]
        open = who is not None and all(engine.decide(question).allow for question in section)
        return open and (door.door is None or opens(door.door, who, arguments))
    if isinstance(door, May):
        asked = [Question(who, c, at=at, site=arguments.get("site")) for c in door.capabilities]
        return who is not None and any(engine.decide(question).allow for question in asked)
    if isinstance(door, OnCopy):
        page = opens(On("see" if door.action in OF_THE_COPY else door.action, desk=True), who, arguments)
        copy = engine.tree.target(arguments["node"]).working_copy() if page else None
        asked = [Question(who, action, copy, at) for action in ("see", door.action) if action in OF_THE_COPY]
        return page and all(engine.decide(question).allow for question in asked)
    assert isinstance(door, On)
    if (who is None and door.desk) or arguments["node"] not in engine.tree:
        return False
    target = engine.tree.target(arguments["node"])
    asked = [Question(who, action, target, at) for action in {"see", door.action}]
    if door.desk:
        asked += [Question(who, c, at=at) for c in ("desk.open", f"{target.tree}.open")]
    return all(engine.decide(question).allow for question in asked)


def everyone() -> list[str | None]:
    return [None, *Account.objects.filter(state="active").values_list("id", flat=True)] if LONG else list(PEOPLE)


def test_reading_opens_where_the_engine_says_so_and_nowhere_else(ask):
    for who in everyone():
        asking = ask(who)
        for view, method, path, arguments in addresses():
            door = view.doors[method]
            if method != "get" or path.startswith(("schema", "xray")):
                continue
            status = asking.get(path).status_code
            if not opens(door, who, arguments):
                assert status in SHUT, (who, path)
            elif "no-such-thing" not in arguments.values():
                assert status not in (401, 403) or path.endswith(SAYS_MORE), (who, path, status)


SAYS_MORE = ("cell/expectations", "impact/accounts", "impact/nodes", "impact/pages")
"""What asks for the duty to know of people or expectations besides."""


def test_writing_is_shut_wherever_the_engine_does_not_open_it(ask):
    for who in everyone():
        asking = ask(who)
        for view, method, path, arguments in addresses():
            if method != "get" and not opens(view.doors[method], who, arguments):
                sent = getattr(asking.client, method)(f"/api/{path}", "{}", content_type="application/json")
                assert sent.status_code in SHUT, (who, method, path)


@pytest.mark.parametrize("method", ["patch", "put", "post", "delete"])
def test_nothing_is_written_while_standing_in(odile, method):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    for view, each, path, _ in addresses():
        if each != method or view.doors[each].while_looking:
            continue
        sent = getattr(odile.client, method)(f"/api/{path}", "{}", content_type="application/json")
        assert refused(odile._read(sent), "look-only"), path


def test_a_duty_for_one_site_opens_that_site_alone(ask):
    Account.objects.create(id="lone", name="Lone", email="lone@skerrow.example", password="x")
    Role.objects.create(key="lone", name="Lone", colour="azure", pattern="plain", position=99)
    Assignment.objects.create(id="lone", role_id="lone", account_id="lone", scope={"sites": ["harbour"]})
    duties = ("listing.settings", "desk.open", "settings.open")
    Answer.objects.bulk_create(Answer(role_id="lone", capability=duty, says="yes") for duty in duties)
    raise_version()
    lone: Asking = ask("lone")
    ok(lone.get("sites/harbour/listing"))
    other, made_up = (lone.get(f"sites/{site}/listing") for site in ("regatta", "no-such-thing"))
    assert other.content == made_up.content
    refused(other, "out-of-scope")
