"""Who is told what: every address, asked with each single duty, held beside the table of docs/knowledge.md."""

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from django.db.models import Value
from django.db.models.functions import Concat, Left
from drf_spectacular.generators import SchemaGenerator

from gonfalon.access.models import Assignment, Limit, Lock, Review
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account, Group
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.content.nodes import content, engine_over, in_sight
from gonfalon.content.nodes import raise_version as content_changed
from gonfalon.core import Question
from gonfalon.verify.models import Expectation
from tests.api.support import Asking, ok, stage
from tests.examples import LONG

EVERYTHING = LONG
"""All demo accounts and all duties; else a sample of the accounts."""
TABLE = Path("docs/knowledge.md").read_text()
DUTIES = [
    *("roles.define", "roles.assign", "limits.set", "roster.see", "impersonate.start", "expectations.keep"),
    *("ledger.read", "listing.settings", "site.settings", "desk.open", "media.open"),
    *("accounts.invite", "accounts.disable"),
]
HIDDEN, MADE_UP, SEEN = "min-2026-10", "no-such-thing", "p3-sail-loft"
NODES, ACCOUNTS = (SEEN, "notices", HIDDEN, MADE_UP), ("ines", "odile", "lone", MADE_UP)
GETS: dict[str, list[dict[str, str]]] = {
    "accounts": [{}, {"search": "ines"}, {"role": "pilot"}],
    "accounts/export": [{}],
    "accounts/{account}": [{}],
    "accounts/{account}/leaving": [{}],
    "accounts/{account}/where": [{}],
    "catalogue": [{}],
    "change-set": [{}],
    "change-set/impact": [{}],
    "change-set/impact/accounts": [{}],
    "change-set/impact/nodes": [{"key": "edit", "account": "ines"}],
    "change-set/impact/pages": [{"key": "edit"}],
    "change-set/progress": [{}],
    "change-set/touched": [{}],
    "change-sets": [{}],
    "crossbar": [{}],
    "delegations": [{}],
    "desk/pages/{node}": [{}],
    "desk/pages/{node}/copy": [{}],
    "desk/pages/{node}/copy/changes": [{}],
    "desk/pages/{node}/copy/versions": [{}],
    "desk/pages/{node}/copy/versions/{number}": [{}],
    "desk/pages/{node}/listing": [{}],
    "desk/pages/{node}/posts": [{}],
    "desk/pages/{node}/since-public": [{}],
    "desk/pages/{node}/versions": [{}],
    "desk/pages/{node}/versions/{number}": [{}],
    "desk/people": [{}],
    "desk/people/{account}": [{}],
    "desk/waiting": [{}],
    "desk/children": [{}, {"tree": "media"}],
    "desk/children/{node}": [{}],
    "desk/way/{node}": [{}],
    "desk/found": [{"words": "e"}, {"words": "e", "tree": "media"}, {"id": HIDDEN}, {"under": HIDDEN}],
    "expectations": [{}, {"words": "harbour"}],
    "expectations/groups": [{}],
    "expectations/suggested": [{"role": "tenant-editor"}, {"role": "season-intern"}],
    "expectations/sentences": [{}, {"keys": "yes"}],
    "expectations/{expectation}/broke": [{}],
    "extensions": [{}],
    "extensions/{extension}/switched": [{}],
    "fields": [{}],
    "find": [{"words": "i"}, {"words": "min"}, {"words": "marrow"}],
    "handing-out": [{}],
    "groups": [{}],
    "groups/{group}": [{}],
    "ledger": [{}, {"search": "Ines"}],
    "limit/who": [
        {"action": "edit", "node": SEEN},
        {"action": "see", "node": HIDDEN},
        {"action": "edit", "branch": "moorings"},
        {"action": "roles.define"},
    ],
    "limit/leftovers": [
        {"node": SEEN, "who": "role tenant-editor"},
        {"branch": HIDDEN, "who": "account ines"},
        {"branch": "pier-3-branch", "who": "account ines"},
    ],
    "limit/shown": [
        {"node": SEEN, "who": "role pilot"},
        {"node": SEEN, "who": "account ines"},
        {"node": HIDDEN, "who": "visitor"},
    ],
    "limit/who/table": [{"action": "edit", "node": SEEN}],
    "limits": [{}],
    "locks": [{}, {"branch": HIDDEN}],
    "desk/pages/{node}/access": [{}],
    "limits/places/{node}": [{}],
    "limits/children": [{"role": "pilot"}, {"account": "ines"}, {"role": "pilot", "tree": "media"}],
    "limits/children/{node}": [{"role": "pilot"}],
    "limits/way/{node}": [{"role": "pilot"}],
    "limits/found": [{"role": "pilot", "words": "e"}, {"role": "pilot", "limits": "true"}],
    "me": [{}],
    "me/requests": [{}],
    "me/factors": [{}],
    "session/proof": [{}],
    "demands": [{}],
    "letters": [{}],
    "accounts/{account}/portrait": [{}],
    "me/sessions": [{}],
    "me/stood-in": [{}],
    "markup-sets": [{}],
    "markup-sets/{markup_set}": [{}],
    "policy.schema.json": [{}],
    "roles": [{}],
    "roles/{role}": [{}],
    "roles/starters": [{}],
    "roles/{role}/beside": [{}],
    "roles/{role}/cell": [{"capability": "berth.edit"}],
    "roles/{role}/cell/expectations": [{"capability": "berth.edit"}],
    "roles/capability": [{"capability": "berth.edit"}],
    "requests": [{}],
    "requests/{request_id}": [{}],
    "reports/{report}": [{}],
    "reports/{report}/spreadsheet": [{}],
    "reports/{report}/table": [{}],
    "walk-lists": [{}],
    "walk-lists/{walk_list}": [{}, {"node": "p3-sail-loft"}, {"node": "min-2026-10"}],
    "reviews": [{}],
    "reviews/{review}": [{}],
    "reviews/{review}/report": [{}],
    "reviews/{review}/foreseen": [{}],
    "roster-views": [{}],
    "rehearsal": [{}],
    "side-by-side": [
        {"side": ("visitor", "roles:tenant-editor"), "show": "tree"},
        {"side": ("visitor", "account:ines"), "show": "board"},
        *({"side": ("visitor", "account:lone"), "node": node} for node in (SEEN, HIDDEN)),
    ],
    "xray/places": [{}],
    "xray/rows": [{"of": "waiting"}, {"of": "bin"}, {"of": "people"}],
    "session": [{}],
    "sites": [{}],
    "sites/{site}": [{}],
    "begin": [{}],
    "start": [{}],
    "desk/offers": [{}],
    "desk/bin": [{}],
    "desk/media/{node}": [{}],
    "desk/media/{node}/files": [{}, {"only": "wordless"}, {"words": "e"}],
    "desk/pages/{node}/new": [{}],
    "desk/pages/{node}/remove": [{}],
    "topics/{topic}": [{}],
    "kinds": [{}],
    "sites/{site}/listing": [{}],
    "topics": [{}],
    "why": [
        *(
            {"action": "edit", "node": node, "account": account}
            for node in (SEEN, HIDDEN)
            for account in ("ines", "lone")
        ),
        {"action": "remove", "node": "home-harbour", "role": "duty-editor"},
        {"action": "roles.define", "account": "odile"},
    ],
    "xray/pages/{node}": [{}],
    "xray/children": [{}, {"tree": "media"}],
    "xray/children/{node}": [{}],
    "xray/found": [{"words": "e"}, {"tree": "media"}],
    "xray/way/{node}": [{}],
}
IDS = {
    "{account}": ACCOUNTS,
    "{node}": NODES,
    "{role}": ("tenant-editor", MADE_UP),
    "{topic}": ("tides", MADE_UP),
    "{site}": ("harbour", "regatta", MADE_UP),
    "{markup_set}": ("prose", MADE_UP),
    "{review}": ("review-1", MADE_UP),
    "{request_id}": ("request-1", MADE_UP),
    "{group}": ("pier-3", MADE_UP),
    "{walk_list}": ("walk-tenant-editor", MADE_UP),
    "{extension}": ("tide-table", MADE_UP),
    "{report}": (MADE_UP,),
    "{expectation}": ("expectation-01", MADE_UP),
}


def opened_by(knowledge: str) -> set[str]:
    """The duties that the table names beside something."""
    [row] = [line for line in TABLE.splitlines() if line.startswith(f"| {knowledge}")]
    return set(re.findall(r"`([a-z]+\.[a-z]+)`", row.split("|")[2]))


def requests() -> Iterator[tuple[str, dict[str, str]]]:
    for path, queries in GETS.items():
        name = next((name for name in IDS if name in path), None)
        for id in IDS[name] if name else ("",):
            for query in queries:
                yield (path.replace(name, id) if name else path).replace("{number}", "1"), query


def test_every_address_to_read_is_walked():
    schema = SchemaGenerator().get_schema(request=None, public=True)
    there = {path.removeprefix("/api/") for path, methods in schema["paths"].items() if "get" in methods}
    assert there - {"schema/"} == set(GETS)


class Secrets:
    """What an account may not be told, by the strings that would give it away."""

    def __init__(self, who: str | None, duties: set[str]) -> None:
        self.duties = duties
        engine = engine_over(content(), current())
        sight = in_sight(engine, who, now())
        nodes = engine.tree.nodes
        hidden = {node.id for node in nodes} - sight.named
        self.nodes = hidden - set(Group.objects.values_list("key", flat=True))
        self.titles = {content().titles[id] for id in hidden}
        people = Account.objects.exclude(pk=who).values_list("id", "name", "email")
        self.people = set() if duties & opened_by("people:") else {word for row in people for word in row}
        kept = Expectation.objects.values_list("id", "note")
        told = duties & opened_by("what is expected")
        self.expectations = set() if told else {word for row in kept for word in row if word}
        limits = Limit.objects.all()
        self.limits = {row.id for row in limits if not duties & opened_by("limits and") or row.node in hidden}
        self.reviews = any(who in review.reviewers for review in Review.objects.all())
        self.counts = bool(duties & opened_by("people:"))

    def given_away(self, path: str, answer: Any) -> set[str]:
        """Which of them an answer gives away."""
        words = set(_strings(answer))
        of_desk = ("start", "desk/offers", "desk/waiting")
        on_desk = (path.startswith("desk/pages/") and not path.endswith("/access")) or path in of_desk
        of_review = self.reviews and path.startswith("reviews")
        # Whoever sees those is told of these.
        people = set() if on_desk or of_review or path in ("ledger", "locks") else self.people
        nodes = {HIDDEN} if on_desk else self.nodes  # what a page shows may lie where one is told of nothing else
        found = words & (nodes | self.titles | people | self.expectations | self.limits)
        return found | {
            secret for secret in self.titles | {p for p in people if " " in p} if any(secret in w for w in words)
        }

    def counted(self, answer: Any) -> set[str]:
        """Counts of people in an answer, where people are not known."""
        names = {"holders", "gain", "lose", "members", "keyholders", "can_count", "almost_count", "accounts", "count"}
        return (
            set()
            if self.counts
            else {
                key for key, value in _entries(answer) if key in names and isinstance(value, int | list) and value != []
            }
        )


def _strings(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    for inner in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        yield from _strings(inner)


def _entries(value: Any) -> Iterator[tuple[str, Any]]:
    if isinstance(value, dict):
        yield from value.items()
    for inner in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        yield from _entries(inner)


@pytest.fixture(autouse=True)
def titles_of_their_own(harbour):
    """Each title is of one page alone, so that it gives that page away and nothing else does."""
    Node.objects.update(title=Concat(Left("title", 80), Value(" §"), "id", Value("§")))
    content_changed()


@pytest.mark.parametrize("duty", DUTIES)
def test_each_single_duty_opens_what_the_table_says_and_nothing_else(lone, odile, duty):
    stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"})
    asking, secrets = lone(duty), Secrets("lone", {duty})
    if duty in ("roles.define", "roles.assign", "limits.set"):
        staged = {
            "roles.define": {
                "kind": "set-answer",
                "role": "tenant-editor",
                "capability": "berth.retire",
                "says": "all",
            },
            "roles.assign": {"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "tenants"}},
            "limits.set": {
                "kind": "set-limit",
                "node": SEEN,
                "to": {"kind": "group", "id": "tenants"},
                "effect": "stop",
                "applies": "branch",
                "actions": ["edit"],
            },
        }[duty]
        stage(asking, staged)
    for path, query in requests():
        response = asking.get(path, **query)
        assert response.status_code in (200, 401, 403, 404, 409, 422), (path, query)
        answer = _without(response.data_read, {*query.values(), *path.split("/"), "lone"})
        assert not secrets.given_away(path, answer), (path, query)
        assert response.status_code != 200 or not secrets.counted(answer), (path, query)


def _without(value: Any, asked: set[str]) -> Any:
    """An answer without what was said in the request."""
    text = json.dumps(value)
    for word in asked:
        text = text.replace(f'"{word}"', '""')
    return json.loads(text)


@pytest.mark.parametrize("duty", DUTIES)
def test_an_id_out_of_sight_is_answered_like_one_that_was_made_up(lone, duty):
    asking, secrets = lone(duty, "desk.open"), Secrets("lone", {duty, "desk.open"})
    pairs = [(HIDDEN, "{node}"), *([("ines", "{account}")] if secrets.people else [])]
    for path, queries in GETS.items():
        for hidden, name in pairs:
            for query in queries:
                if name in path:
                    asked = [asking.get(path.replace(name, id), **query) for id in (hidden, MADE_UP)]
                elif hidden in query.values():
                    asked = [asking.get(path, **query)]
                    asked.append(asking.get(path, **{k: MADE_UP if v == hidden else v for k, v in query.items()}))
                else:
                    continue
                one, other = (
                    (r.status_code, r.content.decode().replace(id, "?"))
                    for r, id in zip(asked, (hidden, MADE_UP), strict=True)
                )
                assert one == other, (path, query)


STAGED: dict[str, list[dict[str, Any]]] = {
    "roles.assign": [
        {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "?"}},
        {"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "pilots"}, "scope": {"branches": ["?"]}},
        {"kind": "take-role", "assignment": "?"},
    ],
    "limits.set": [
        {
            "kind": "set-limit",
            "node": "?",
            "to": {"kind": "role", "id": "pilot"},
            "effect": "stop",
            "applies": "branch",
            "actions": None,
        },
        {
            "kind": "set-limit",
            "node": SEEN,
            "to": {"kind": "account", "id": "?"},
            "effect": "stop",
            "applies": "branch",
            "actions": None,
        },
        {"kind": "drop-limit", "limit": "?"},
        {"kind": "change-limit", "limit": "?", "applies": "node"},
        {"kind": "set-lock", "node": "?"},
        {"kind": "open-lock", "lock": "?"},
    ],
}
OUT_OF_SIGHT = {"to": "ines", "scope": HIDDEN, "assignment": "given-1", "node": HIDDEN, "limit": "?"}


@pytest.mark.parametrize(("duty", "at"), [(duty, at) for duty, every in STAGED.items() for at in range(len(every))])
@pytest.mark.parametrize("address", ["change-set/operations", "change-set/preview", "change-set/preview/touched"])
def test_an_operation_on_what_is_out_of_sight_is_answered_like_one_on_nothing(lone, duty, at, address):
    given = (
        Assignment.objects.filter(account="ines").first() or Assignment.objects.filter(account__isnull=False).first()
    )
    hidden_limit = next(row.id for row in Limit.objects.all() if row.node == "harbour-office")
    template = json.dumps(STAGED[duty][at])
    kind = STAGED[duty][at]["kind"]
    Lock.objects.create(id="lock-out-of-sight", node="harbour-office")
    raise_version()
    named = {"take-role": given.id, "open-lock": "lock-out-of-sight"}
    hidden = (named | dict.fromkeys(("drop-limit", "change-limit"), hidden_limit)).get(kind)
    hidden = hidden or ("ines" if '"kind": "account"' in template else HIDDEN)
    asking = lone(duty)
    answers = []
    for id in (hidden, MADE_UP):
        response = asking.post(address, {"operations": [json.loads(template.replace("?", id))]})
        answers.append((response.status_code, response.content.decode().replace(id, "?")))
    assert answers[0] == answers[1]
    assert answers[0][0] == 422


SAMPLE = ("bashir", "ludo", "ines", None)


def people() -> list[str | None]:
    return [*Account.objects.filter(state="active").values_list("id", flat=True), None] if EVERYTHING else list(SAMPLE)


def test_every_demo_account_is_told_what_its_duties_open(ask):
    engine = current().engine
    for who in people():
        duties = {duty for duty in DUTIES if engine.decide(Question(who, duty, at=now())).allow}
        if who is not None and current().policy.accounts[who].keyholder:
            continue
        asking, secrets = ask(who), Secrets(who, duties)
        for path, query in requests():
            response = asking.get(path, **query)
            assert response.status_code < 500, (who, path, query)
            answer = _without(response.data_read, {*query.values(), *path.split("/"), who or ""})
            assert not secrets.given_away(path, answer), (who, path, query)


PAIRS = [("odile", "ines"), ("odile", "bashir"), ("bashir", "tomasz"), ("ludo", "ciaran"), ("odile", None)]
EVERYBODY = "everybody"
WHO_IS_THERE = ("session", "me", "stand-in", "rehearsal", "why", "xray", "side-by-side", "walk-lists")
"""Who signed in, and what they may look into besides."""


@pytest.mark.parametrize("mode", ["look", "rehearse"])
@pytest.mark.parametrize(("actor", "subject"), [*PAIRS, *([("odile", EVERYBODY)] if EVERYTHING else [])])
def test_while_standing_in_one_is_told_what_the_other_is_told(ask, actor, subject, mode):
    for each in people() if subject == EVERYBODY else [subject]:
        if each != actor:
            told_the_same(ask(actor), ask(each), each, mode)


def told_the_same(asking: Asking, themselves: Asking, subject: str | None, mode: str) -> None:
    ok(asking.post("stand-in", {"account": subject, "mode": mode}), 204)
    for path, query in requests():
        if path.partition("/")[0] in WHO_IS_THERE:
            continue
        mine, theirs = asking.get(path, **query), themselves.get(path, **query)
        assert (mine.status_code, _timeless(mine)) == (theirs.status_code, _timeless(theirs)), (path, query)


def _timeless(response: Any) -> Any:
    """An answer but for how long it took."""
    data = response.data_read
    return response.content if data is None else [(k, v) for k, v in _entries(data) if k != "milliseconds"] or data


def test_group_names_are_known_where_the_table_says(lone):
    for duty in DUTIES:
        response = lone(duty).get("groups")
        assert (response.status_code == 200) == (duty in opened_by("names of groups")), duty
        if response.status_code == 200:
            assert len(response.data_read) == Group.objects.count()


def test_role_names_are_known_where_the_table_says(lone):
    for duty in DUTIES:
        assert (lone(duty).get("roles").status_code == 200) == (duty in opened_by("names and cloths")), duty
