"""The stories the harbour tells, each as its people would find it."""

import pytest

from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.demo.builder import load
from tests.api.support import PASSWORD, in_tree, ok, refused


def may(asking, node):
    return ok(asking.get(f"desk/pages/{node}"))["may"]


def test_it_is_all_there():
    assert Account.objects.count() == 86
    assert Node.objects.count() > 220
    assert set(Node.objects.values_list("state", flat=True)) == {"draft", "review", "published", "retired"}
    assert not [n for n in Node.objects.filter(type="picture") if not n.file]


def test_loading_it_again_touches_nothing():
    assert load(PASSWORD, now()) is False


def test_no_two_pages_of_a_site_share_an_address():
    pages = list(Node.objects.exclude(type__in=["folder", "picture", "document"]).values_list("site", "address"))
    assert len(pages) == len(set(pages))


def test_the_intern_touches_the_events_of_one_season_and_nothing_else(ask):
    aiko = ask("aiko")
    tree = in_tree(aiko)
    editable = {id for id, row in tree.items() if row["may_edit"]}
    assert editable == {"lantern-night", "quay-cinema", "crab-race", "book-boat", "kite-day"}
    refused(aiko.get("desk/pages/open-day"), "not-found", 404)


def test_the_cafes_role_was_copied_too_wide(ask):
    assert "edit" in may(ask("edda"), "open-day")
    refused(ask("birgit").get("desk/pages/open-day"), "not-found", 404)


def test_the_client_cannot_break_the_layout(ask):
    components = ok(ask("ines").get("desk/pages/p3-sail-loft"))["components"]
    assert not any(c["facets"].get("layout") or c["facets"].get("style") for c in components)
    assert any(c["facets"].get("wording") for c in components)


def test_of_two_roles_one_bars(ask):
    assert "edit" in may(ask("tamsin"), "result-3")
    assert "edit" not in may(ask("mireille"), "result-3")


def test_only_pilots_change_the_hazard_level(ask):
    path = "desk/pages/n-seals"
    tag = {"If-Match": '"1"'}
    refused(ask("tomasz").patch(path, {"values": {"hazard": "high"}}, **tag), "field")
    ok(ask("gwenda").patch(path, {"values": {"hazard": "high"}}, **tag))


def test_someone_who_left_in_spring_still_has_access(ask):
    renzo = ok(ask("odile").get("accounts/renzo"))
    assert renzo["account"]["state"] == "active"
    assert [g["role"] for g in renzo["given"]] == ["notice-writer"]


def test_a_notice_waits_for_review(ask):
    notice = ok(ask("tomasz").get("desk/pages/n-regatta-course"))
    assert (notice["state"], "publish" in notice["may"]) == ("review", True)


def test_what_ends_soon_has_an_end(ask):
    roles = {role["key"]: role for role in ok(ask("odile").get("roles"))}
    assert roles["season-intern"]["ends"]
    assert roles["duty-editor"]["ends"] is None


@pytest.mark.parametrize("account", ["stellan", "imke", "marit", "olu"])
def test_everyone_active_can_sign_in(ask, account):
    email = Account.objects.get(pk=account).email
    assert ok(ask().post("session", {"email": email, "password": PASSWORD}))["actor"]["id"] == account
