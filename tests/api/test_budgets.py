"""Whatever is sent, a request costs no more than its budget: queries, and work in Python. Nothing is timed here.

`python -m bench.budgets` tells the seconds of the same requests.
"""

import sys
from collections.abc import Callable, Iterator
from itertools import islice
from typing import Any

import pytest
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext

from gonfalon.access.models import Role
from gonfalon.accounts.models import Account, Group
from gonfalon.content.models import Node, Topic
from tests.api.largest import FOLDED, largest_requests
from tests.api.support import ok, refused

MOST_QUERIES = 60
MOST_CALLS = 2_000_000
"""Of Python functions: a second or two of them."""
FOR_EACH_APPLIED = 2_000
"""Calls for each operation that is applied: as many as somebody staged, so that no bound holds of all of them."""
FOR_EACH_PAGE = {"desk/many": 600}
"""Up to a hundred pages, each a decision and a unit of its own."""


def cost_of(send: Callable[[], Any]) -> tuple[Any, int, int]:
    """The response, and how many queries and calls it took."""
    calls = 0

    def count(frame: Any, event: str, argument: Any) -> None:
        nonlocal calls
        calls += event == "call"

    with CaptureQueriesContext(connection) as queries:
        before = sys.getprofile()
        sys.setprofile(count)
        try:
            response = send()
        finally:
            sys.setprofile(before)
    return response, len(queries), calls


def within_budget(
    send: Callable[[], Any], what: str, most_queries: int = MOST_QUERIES, most_calls: int = MOST_CALLS
) -> Any:
    response, queries, calls = cost_of(send)
    assert response.status_code < 500, what
    assert queries <= most_queries, f"{what}: {queries} queries"
    assert calls <= most_calls, f"{what}: {calls} calls"
    return response


def there() -> dict[str, list[str]]:
    models = {"nodes": Node, "roles": Role, "accounts": Account, "groups": Group, "topics": Topic}
    found = {name: list(model.objects.values_list("pk", flat=True)) for name, model in models.items()}
    return found | {"roles": [key for key in found["roles"] if key not in ("everyone", "signed-in")]}


@pytest.mark.parametrize("part", range(4))
def test_the_largest_body_of_each_address(odile, part):
    odile.client.raise_request_exception = False
    session = odile.client.cookies["sessionid"].value
    for request in islice(largest_requests(there()), part, None, 4):
        odile.client.cookies["sessionid"] = session
        with transaction.atomic():
            most = FOR_EACH_PAGE.get(request.path, MOST_QUERIES)
            within_budget(lambda request=request: request.send(odile), str(request), most)
            transaction.set_rollback(True)


def operations() -> Iterator[tuple[str, list[dict[str, Any]]]]:
    nodes = list(Node.objects.values_list("pk", flat=True))
    to = [{"kind": "account", "id": id} for id in ("ines", "tomasz", "noor", "greta")]
    scope = {"sites": ["harbour", "regatta"], "topics": ["tides", "safety"], "branches": nodes[:8], "types": ["berth"]}
    give = {"kind": "give-role", "role": "pilot", "scope": scope}
    yield "giving roles", [give | {"to": to[n % 4]} for n in range(1_300)]
    stop = {"kind": "set-limit", "effect": "stop", "applies": "branch", "actions": ["edit", "publish"]}
    yield "limits", [stop | {"node": nodes[n % len(nodes)], "to": to[n % 4]} for n in range(2_000)]
    rule = {
        "kind": "set-field-rule",
        "type": "berth",
        "field": "dues",
        "mode": "table",
        "table": {"pilot": ["fill"]},
    }
    yield "field rules", [rule] * 2_000
    hand = {"kind": "put-delegation", "roles": ["pilot", "tenant-editor"], "scope": scope}
    yield "delegations", [hand | {"to": to[n % 4]} for n in range(1_200)]


@pytest.mark.parametrize("which", range(4))
def test_as_many_operations_as_fit(odile, which):
    what, asked = list(operations())[which]
    staged = within_budget(lambda: odile.post("change-set/operations", {"operations": asked}), what)
    assert len(ok(staged)["operations"]) in (1, len(asked))
    most_calls = FOR_EACH_APPLIED * len(asked)
    ok(within_budget(lambda: odile.post("change-set/apply"), f"applying {what}", most_calls=most_calls))


def test_more_values_than_a_request_holds(odile):
    for body in ({"keys": [0] * 900_000}, {"keys": [[]] * 300_000}, {"keys": {str(n): n for n in range(90_000)}}):
        response = within_budget(lambda body=body: odile.put("sites/order", body), "values")
        refused(response, "too-large", 413)


def test_texts_that_cost_much_to_read(odile):
    texts = ["<b><i><u>" * 2_200, "<a <b" * 4_000, "*" * 20_000, "<" * 20_000, "&" * 20_000, FOLDED * 6_000]
    for text in texts:
        body = {"components": [{"kind": "text", "props": {"html": text}}] * 3}
        within_budget(lambda body=body: odile.post("desk/pages/p3-sail-loft/preview", body), text[:20])


def test_tables_of_people(odile):
    rows = "".join(f"Person {n},p{n}@post.example,pier-3|pilots,tenant-editor|pilot\n" for n in range(10_000))
    for text in (f"name,email,groups,roles\n{rows}", f"name,email\n{FOLDED * 600_000},a@b.example\n"):
        response, queries, _ = cost_of(lambda text=text: odile.post("accounts/import", {"text": text}))
        assert response.status_code < 500
        assert queries <= MOST_QUERIES


@pytest.mark.parametrize("words", ["a" * 400, " ".join("abcdefghijklmnop"), "x " * 200, FOLDED * 400])
def test_finding(odile, words):
    for path in ("find", "desk/found", "accounts"):
        within_budget(lambda path=path: odile.get(path, words=words, search=words), f"{path} {words[:20]}")
