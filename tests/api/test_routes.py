"""Every address has a door, and a door that is shut to a stranger says so as a problem."""

import re
from pathlib import Path

import pytest
from django.urls import URLPattern, get_resolver

from gonfalon.api.guard import Anyone, GuardedPage, GuardedView
from tests.api.support import refused

SAMPLES = {
    "node": "p3-sail-loft",
    "role": "tenant-editor",
    "account": "ines",
    "position": "1",
    "step": "1",
    "change_set": "some-change-set",
    "expectation": "expectation-01",
    "post": "post-3",
    "site": "harbour",
    "topic": "tides",
    "kind": "berth",
    "field": "telephone",
    "extension": "tide-table",
    "markup_set": "tables",
    "group": "pier-3",
    "assignment": "some-assignment",
    "request_id": "request-1",
    "review": "review-1",
    "item": "some-item",
    "report": "some-report",
    "walk_list": "walk-tenant-editor",
    "session": "some-session",
    "factor": "some-factor",
    "letter": "some-letter",
    "number": "1",
    "view": "some-view",
    "address": "moorings",
    "lock": "no-such-thing",
}


def routes() -> list[URLPattern]:
    return [pattern for pattern in get_resolver().url_patterns if isinstance(pattern, URLPattern)]


def view_of(pattern: URLPattern):
    return getattr(pattern.callback, "cls", None) or getattr(pattern.callback, "view_class", None)


def methods_of(view) -> set[str]:
    return {m for m in ("get", "post", "put", "patch", "delete") if hasattr(view, m)}


def path_of(pattern: URLPattern) -> str:
    path = str(pattern.pattern)
    for name, value in SAMPLES.items():
        for kind in ("slug", "int", "path"):
            path = path.replace(f"<{kind}:{name}>", value)
    return path


def test_all_addresses_are_flat_so_that_none_hides_below_an_include():
    assert len(routes()) == len(get_resolver().url_patterns)


@pytest.mark.parametrize("pattern", routes(), ids=lambda p: str(p.pattern))
def test_every_method_of_every_view_has_a_door(pattern):
    view = view_of(pattern)
    assert issubclass(view, GuardedView | GuardedPage)
    assert methods_of(view) == set(view.doors), "a method without a door, or a door without a method"


@pytest.mark.parametrize("pattern", routes(), ids=lambda p: str(p.pattern))
def test_every_method_that_writes_says_what_it_holds(pattern):
    view = view_of(pattern)
    writing = methods_of(view) - {"get"}
    locks, reads = (set(getattr(view, name, ())) for name in ("locks", "reads"))
    assert writing == locks | reads, "a method that is no unit of work, or a lock that nothing takes"
    assert locks.isdisjoint(reads)


def test_only_these_doors_stand_open_to_anyone():
    stand_open = {
        f"{method} /{pattern.pattern}"
        for pattern in routes()
        for method, door in view_of(pattern).doors.items()
        if isinstance(door, Anyone)
    }
    assert {name for name in stand_open if "/api/" in name} == {
        "get /api/policy.schema.json",
        "get /api/session",
        "post /api/session",
        "post /api/session/forgotten",
        "put /api/session/factor",
        "post /api/session/factor",
        "post /api/welcome",
        "post /api/welcome/use",
        "post /api/welcome/password",
        "get /api/schema/",
    }


@pytest.mark.parametrize(
    "pattern",
    [p for p in routes() if str(p.pattern).startswith("api/")],
    ids=lambda p: str(p.pattern),
)
def test_a_stranger_gets_a_problem_from_every_shut_door(pattern, ask):
    stranger = ask()
    for method, door in view_of(pattern).doors.items():
        if isinstance(door, Anyone):
            continue
        response = getattr(stranger.client, method)(f"/{path_of(pattern)}")
        assert response.status_code in (401, 404 if "desk/pages" in path_of(pattern) else 401, 403)
        assert response["Content-Type"] == "application/problem+json"


def test_an_account_without_duties_gets_a_reason_from_every_sitewide_door(ask):
    marit = ask("marit")
    for path in ("roles", "change-set", "accounts", "limits", "fields", "expectations", "ledger", "desk/children"):
        problem = refused(marit.get(path), "not-granted")
        assert problem["trail"]
        assert problem["detail"].startswith("You may not ")


def test_an_unknown_address_of_the_api_is_a_problem(odile):
    refused(odile.get("nothing-here"), "not-found", 404)


def test_the_schema_is_served_and_names_every_route(ask):
    schema = ask().client.get("/api/schema/?format=json")
    assert schema.status_code == 200
    described = schema.json()["paths"]
    for pattern in routes():
        path = str(pattern.pattern)
        if path.startswith("api/") and path != "api/schema/":
            for kind in ("slug:", "int:"):
                path = path.replace(f"<{kind}", "{")
            assert f"/{path.replace('>', '}')}" in described


def test_every_place_of_the_front_end_is_answered_where_one_comes_to_it_first(ask):
    """Its addresses are the front end's to say; the server answers each with the page that it fills."""
    routes_of_the_front_end = Path("web/src/shell/routes.tsx").read_text()
    paths = re.findall(r'path: "/([a-z-]+)', routes_of_the_front_end)
    assert len(set(paths)) > 10
    for path in set(paths):
        assert ask().client.get(f"/{path}?action=edit").status_code == 200, path
