"""What every view costs: never more than 25 queries, and the same however many rows there are."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from gonfalon.access import snapshot
from gonfalon.access.models import Assignment, Limit
from gonfalon.accounts.models import Account, Membership
from gonfalon.content import nodes
from gonfalon.content.models import Node
from gonfalon.content.pages import version_data
from gonfalon.content.working_copies import copy_of, save
from gonfalon.ledger.models import By, record
from gonfalon.verify.models import Expectation, Report
from tests.api.changes.test_change_sets import EDIT, GIVE, STOP
from tests.api.support import forget, ok, stage
from tests.api.test_routes import methods_of, path_of, routes, view_of
from tests.api.writes import LATER

MOST = 25
MOST_ANEW = 32
"""The same where a process has to read the policy and the nodes first, since they changed."""
QUERY = {
    "api/roles/<slug:role>/cell": "?capability=event.edit",
    "api/roles/<slug:role>/cell/expectations": "?capability=event.edit",
    "api/expectations/suggested": "?role=tenant-editor",
    "api/roles/capability": "?capability=event.edit",
    "api/side-by-side": "?side=account:ines&side=visitor&node=p3-sail-loft&show=parts",
    "api/find": "?words=loft",
    "api/change-set/impact/nodes": "?account=ines&key=edit",
    "api/change-set/impact/pages": "?key=edit",
    **{
        f"api/limits/{part}": "?role=duty-editor"
        for part in ("children", "children/<slug:node>", "way/<slug:node>", "found")
    },
    "api/limit/who": "?action=edit&node=p3-sail-loft",
    "api/limit/who/table": "?action=edit&node=p3-sail-loft",
    "api/limit/shown": "?node=p3-sail-loft&who=account%20ines",
    "api/limit/leftovers": "?branch=moorings&who=account%20ines",
    "api/why": "?account=ines&action=edit&node=p3-sail-loft",
}
SAMPLE_FILE = "/files/pic-sail-loft"
PATHS = [
    SAMPLE_FILE if "files/" in path_of(p) else "/" + path_of(p) + QUERY.get(str(p.pattern), "")
    for p in routes()
    if "get" in methods_of(view_of(p))
    and "portrait" not in str(p.pattern)  # nobody has one
    and not str(p.pattern).startswith(("^", "api/xray", "api/schema"))
]


def cost(asking, path: str) -> int:
    with CaptureQueriesContext(connection) as queries:
        status = asking.client.get(path).status_code
    assert status in (200, 302), path
    return len([q for q in queries if "SAVEPOINT" not in q["sql"]])


@pytest.fixture(autouse=True)
def made(harbour):
    """A report that Odile had made, and a working copy that was saved once."""
    told = {"title": "Pilots", "facts": [], "left_out": [], "sections": []}
    Report.objects.create(id="some-report", owner="odile", about_kind="everything", until=LATER, told=told)
    row = Node.objects.get(pk="p3-sail-loft")
    copy = copy_of(row)
    save(row, copy, version_data(row) | {"title": "The loft next"}, By("odile"))


@pytest.mark.parametrize("path", PATHS)
def test_no_view_costs_more_than_25_queries_nor_32_right_after_a_change(odile, path):
    stage(odile, EDIT, GIVE, STOP)
    forget()
    assert cost(odile, path) <= MOST_ANEW
    assert cost(odile, path) <= MOST


def test_no_view_costs_more_when_there_is_more(odile):
    stage(odile, EDIT, GIVE)
    for path in PATHS:
        odile.client.get(path)
    before = {path: cost(odile, path) for path in PATHS}
    _more()
    stage(odile, STOP, *(STOP | {"node": node} for node in ("minutes", "events", "crews")))
    for path in PATHS:
        odile.client.get(path)
    assert {path: cost(odile, path) for path in PATHS} == before


def _more() -> None:
    accounts = [Account(id=f"more-{n}", email=f"m{n}@berth.example", name=f"More {n}") for n in range(30)]
    Account.objects.bulk_create(accounts)
    Membership.objects.bulk_create(Membership(account=a, group_id="pier-3") for a in accounts)
    for n, branch in enumerate(["events", "minutes", "crews", "races", "tenants-branch"]):
        Assignment.objects.create(role_id="pilot", account_id="ines", scope={"branches": [branch]})
        Limit.objects.create(
            node="museum",
            subject_kind="account",
            subject_id=f"more-{n}",
            effect="stop",
            applies="branch",
            actions=["edit"],
        )
        question = {"account": f"more-{n}", "action": "edit", "node": branch}
        Expectation.objects.create(question=question, expect="deny", recorded_by=f"more-{n}")
        record(By(f"more-{n}"), "page.saved", title=f"{n}")
    parent = Node.objects.get(pk="pier-3-branch")
    for n in range(10):
        parent.refresh_from_db()
        Node.objects.add_child(
            parent,
            instance=Node(
                id=f"more-{n}",
                type="berth",
                site_id="harbour",
                title=f"Berth {n}",
                address=f"m/{n}",
                author=accounts[n],
                state="published",
            ),
        )
    snapshot.raise_version()
    nodes.raise_version()


def test_the_schema_costs_nothing(odile):
    ok(odile.get("session"))
    assert cost(odile, "/api/schema/?format=json") <= 4
