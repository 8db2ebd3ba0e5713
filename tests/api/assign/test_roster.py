"""The roster at a glance: who enters the desk, what is odd, what ends, in which order; and views kept of it."""

from datetime import timedelta

import pytest

from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from tests.api.support import apply, ok, refused


def found(asking, **filters):
    return {row["id"]: row for row in ok(asking.get("accounts", **filters))["results"]}


def test_staff_and_clients_are_told_from_visitors_by_what_they_may_do(odile):
    answer = ok(odile.get("accounts"))
    counts = answer["counts"]
    assert counts["desk"] + counts["visitors"] == answer["count"] == 86
    assert "ines" in found(odile, show="desk")
    visitors = found(odile, show="visitors")
    assert visitors
    assert not any(row["desk"] for row in visitors.values() if row["state"] == "active")
    apply(odile, {"kind": "give-capability", "capability": "desk.open", "says": "yes",
                  "to": {"kind": "account", "id": (one := next(iter(visitors)))}})  # fmt: skip
    assert one not in found(odile, show="visitors")


def test_what_is_worth_a_look_is_said(odile):
    Account.objects.filter(pk="halla").update(last_seen=now() - timedelta(days=200))
    Account.objects.filter(pk="ayo").update(last_seen=None)
    look = found(odile, show="look")
    assert look["halla"]["notes"] == ["unseen"]
    assert look["ayo"]["notes"] == ["never"]
    assert "holding" in look["agnes"]["notes"]
    assert "tomasz" not in look


def test_what_ends_within_thirty_days_is_said_and_sorted(odile):
    assert set(found(odile, show="ends")) == {"aiko", "ciaran"}
    rows = ok(odile.get("accounts", sort="ends"))["results"]
    assert [row["id"] for row in rows[:2]] == ["aiko", "ciaran"]
    down = ok(odile.get("accounts", sort="ends", down="true"))["results"]
    assert down[-1]["id"] in ("aiko", "ciaran")


def test_names_go_either_way(odile):
    names = [row["name"] for row in ok(odile.get("accounts", down="true"))["results"]]
    assert names == sorted(names, reverse=True)


def test_people_are_found_by_their_groups_too(odile):
    assert set(found(odile, search="pilots")) == set(found(odile, group="pilots")) != set()


@pytest.mark.parametrize(("name", "value"), [("show", "nonsense"), ("sort", "nonsense")])
def test_a_wrong_word_is_named(odile, name, value):
    problem = refused(odile.get("accounts", **{name: value}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == f"/{name}"


def test_an_invited_or_disabled_account_counts_as_what_it_would_be(odile):
    assert found(odile, search="agnes")["agnes"]["desk"] is True
    Account.objects.filter(pk="ines").update(state="disabled")
    raise_version()
    assert found(odile, show="disabled")["ines"]["notes"] == ["holding"]


def test_views_are_kept_under_a_name_for_oneself(odile, ask):
    ok(odile.post("roster-views", {"name": "Interns", "query": "role=season-intern"}), 201)
    ok(odile.post("roster-views", {"name": "Interns", "query": "role=season-intern&sort=ends"}), 201)
    [view] = ok(odile.get("roster-views"))
    assert view["query"] == "role=season-intern&sort=ends"
    ludo = ask("ludo")
    assert ok(ludo.get("roster-views")) == []
    refused(ludo.delete(f"roster-views/{view['id']}"), "not-found", 404)
    ok(odile.delete(f"roster-views/{view['id']}"), 204)
    assert ok(odile.get("roster-views")) == []
