"""Finding anything by words, and one capability across all roles."""

from django.db import connection
from django.test.utils import CaptureQueriesContext

from gonfalon.access.models import Role
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import ok, refused, stage


def test_all_words_must_be_in_the_name(odile):
    found = ok(odile.get("find", words="tenant ed"))
    assert [(one["kind"], one["id"]) for one in found] == [("role", "tenant-editor")]
    pages = [one["name"] for one in ok(odile.get("find", words="sail loft")) if one["kind"] == "page"]
    assert "Pier 3, Sail loft" in pages
    assert [one["id"] for one in ok(odile.get("find", words="marrow")) if one["kind"] == "account"] == ["ines"]
    assert ok(odile.get("find", words="  ")) == []


def test_many_words_cost_no_more_queries_and_a_text_longer_than_names_finds_nothing(odile):
    words = " ".join("abcdefghijklmnopqrstuvwxyz" * 5)
    with CaptureQueriesContext(connection) as queries:
        assert ok(odile.get("find", words=words)) == []
    asked = [query["sql"] for query in queries if "accounts_account" in query["sql"] and "LIKE" in query["sql"]]
    assert len(asked) == 1
    assert asked[0].count("LIKE") == 2 * 26
    assert ok(odile.get("find", words="varga " * 200)) == []
    assert ok(odile.get("accounts", search="varga " * 200))["results"] == []
    assert ok(odile.get("accounts", search="varga " * 5))["results"] != []


def test_groups_are_found_by_whoever_may_know_of_them(odile, lone):
    groups = [one["id"] for one in ok(odile.get("find", words="pier 3")) if one["kind"] == "group"]
    assert groups == ["pier-3"]
    found = ok(lone("roles.define").get("find", words="pier 3"))
    assert "group" not in {one["kind"] for one in found}


def test_nobody_finds_what_they_may_not_know_of(ask):
    kinds = {one["kind"] for one in ok(ask("ines").get("find", words="a"))}
    assert kinds == {"page"}
    names = [one["name"] for one in ok(ask("ines").get("find", words="minutes"))]
    assert names == []
    refused(ask().get("find", words="a"), "not-signed-in", 401)


def test_one_capability_across_all_roles_with_what_is_staged(odile):
    stage(odile, EDIT)
    cells = {cell["role"]: cell for cell in ok(odile.get("roles/capability", capability="event.edit"))}
    assert list(cells) == list(Role.objects.values_list("key", flat=True))
    assert (cells["tenant-editor"]["said"], cells["tenant-editor"]["staged"]) == ("team", True)
    refused(odile.get("roles/capability", capability="ship.sink"), "not-found", 404)


def test_no_role_gets_a_key_that_is_an_address(odile):
    assert ok(odile.post("roles", {"name": "Compare"}), 201)["key"] == "compare-2"


def test_the_board_of_a_role_about_to_be_removed_says_so(odile):
    ok(odile.post("roles/pilot/removal"))
    problem = refused(odile.get("roles/pilot"), "conflict", 409)
    assert "about to be removed" in problem["detail"]
