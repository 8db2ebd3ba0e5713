"""Words for people: what operations come to, why an answer is what it is, what a problem says."""

from datetime import timedelta

import pytest
from rest_framework import serializers

from gonfalon.access import operations
from gonfalon.access.describe import Names
from gonfalon.access.keys import key_for
from gonfalon.access.models import FieldRule, Limit, Lock, Reach
from gonfalon.access.roles import COLOURS, PATTERNS, cloth_for
from gonfalon.access.sight import UNBOUND
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account
from gonfalon.api.problems import Conflict, Invalid, NotFound, TooMany, as_problem
from gonfalon.clock import new_id, now
from gonfalon.verify.impact_text import turn_words
from tests.api.support import apply, ok


def told(data, was=None):
    return operations.told(data, was, Names([data, {"was": was}], UNBOUND, current().catalogue))


class TestOperations:
    def test_an_answer(self):
        said = told({"kind": "set-answer", "role": "pilot", "capability": "notice.edit-live", "says": None}, "all")
        assert said == {"what": "Pilot: edit published notices to mariners", "was": "all", "now": "nothing said"}

    @pytest.mark.parametrize(
        ("scope", "words"),
        [
            ({}, "given everywhere"),
            ({"branches": ["fees", "events"]}, "given on Fees and dues, Events"),
            ({"sites": ["regatta"], "types": ["event"]}, "given on the site Skerrow Regatta for events"),
            ({"topics": ["tides"]}, "given about Tides"),
            ({"branches": []}, "given on nothing"),
        ],
    )
    def test_a_role_given_somewhere(self, scope, words):
        data = {"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "museum"}, "scope": scope}
        assert told(data) == {"what": "the group Museum: Pilot", "was": None, "now": words}

    def test_a_role_given_for_a_time(self):
        dates = {"starts": "2099-01-05T00:00:00+00:00", "ends": "2099-06-30T00:00:00+00:00"}
        data = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}, **dates}
        assert told(data)["now"] == "given everywhere, from 5 January 2099, until 30 June 2099"

    def test_a_role_taken(self):
        was = {"role": "pilot", "to": {"kind": "account", "id": "ines"}, "scope": {"branches": ["fees"]}}
        taken = told({"kind": "take-role", "assignment": "x"}, was)
        assert taken == {"what": "Ines Marrow: Pilot", "was": "given on Fees and dues", "now": "taken away"}

    def test_limits(self):
        limit = {"node": "fees", "to": {"kind": "role", "id": "pilot"}, "effect": "stop", "applies": "beneath"}
        set_limit = told({"kind": "set-limit", **limit, "actions": ["edit", "move"]})
        assert set_limit["now"] == "stop edit, move for Pilot, beneath only"
        dropped = told({"kind": "drop-limit", "limit": "x"}, limit | {"actions": None})
        assert dropped == {
            "what": "Limit on Fees and dues",
            "was": "stop everything for Pilot, beneath only",
            "now": "dropped",
        }

    def test_a_field(self):
        rule = {"kind": "set-field-rule", "type": "event", "field": "budget", "mode": "table"}
        said = told(rule | {"table": {"pilot": ["see-all", "fill"]}}, {"mode": "author"})
        assert said == {"what": "Event: Budget", "was": "author only", "now": "Pilot: fill, see-all"}
        assert told(rule | {"table": {}})["now"] == "nobody"

    def test_what_is_gone_keeps_its_id(self):
        assert told({"kind": "drop-limit", "limit": "gone"})["what"] == "Limit gone"
        assert told({"kind": "take-role", "assignment": "gone"})["what"] == "Assignment gone"

    def test_capabilities(self):
        assert current().catalogue.phrase("desk.open") == "open the desk"
        assert current().catalogue.phrase("event.history") == "see the history of events"


class TestWhy:
    def sentences(self, odile, account, action, node, **part):
        why = ok(odile.get("why", account=account, action=action, node=node, **part))
        return why["reason"], [step["text"] for step in why["steps"]]

    def test_an_account_that_is_not_active(self, odile):
        reason, said = self.sentences(odile, "agnes", "see", "events")
        assert (reason, said) == ("inactive", ["The account of Agnes Marchbanks is not active."])

    def test_a_limit_on_the_account_itself(self, odile):
        reason, said = self.sentences(odile, "renzo", "publish", "notices")
        assert reason == "not-granted"
        assert said[-1] == "Nothing else gives it to Renzo Achterberg."
        Limit.objects.create(
            node="notices",
            subject_kind="account",
            subject_id="halla",
            effect="stop",
            applies="branch",
            actions=["edit"],
        )
        raise_version()
        reason, said = self.sentences(odile, "halla", "edit", "n-seals")
        assert (reason, said[-1]) == ("stopped", "A limit on Notices to mariners stops it for Halla Brink.")

    def test_reach(self, odile):
        Reach.objects.create(account_id="tomasz", tree="content", branches=["events"])
        raise_version()
        reason, said = self.sentences(odile, "tomasz", "edit", "n-seals")
        assert (reason, said[-1]) == ("out-of-reach", "Tomasz Okafor is confined to Events, and this lies outside.")

    def test_a_role_that_takes_it_from_another(self, odile):
        _, said = self.sentences(odile, "bashir", "edit", "n-seals")
        assert any(s.endswith("gives edit notices to mariners (all), which it takes from Duty editor.") for s in said)

    def test_a_stop_names_where_it_is(self, odile):
        reason, said = self.sentences(odile, "tomasz", "edit", "mould-loft")
        assert reason == "stopped"
        assert "Duty editor gives edit articles, but a limit on Shipyard museum stops it." in said

    def test_a_lock_names_who_and_why(self, odile):
        reason, said = self.sentences(odile, "tomasz", "edit", "home-harbour")
        assert reason == "not-granted"
        Lock.objects.create(node="soup-sunday", locked_by="odile", why="the poster is printed")
        raise_version()
        reason, said = self.sentences(odile, "tomasz", "edit", "soup-sunday")
        assert (reason, said[-1]) == ("locked", "It is locked by Odile Varga: the poster is printed.")

    def test_fields_for_their_author_alone(self, odile):
        FieldRule.objects.create(type="event", field="place", mode="author")
        raise_version()
        reason, said = self.sentences(odile, "tomasz", "see-field", "soup-sunday", field="place")
        assert (reason, said[-1]) == ("field", "Place is for its author alone.")

    def test_published_pages_closed(self, odile):
        reason, said = self.sentences(odile, "aiko", "edit", "shanty-choir")
        assert reason == "live"
        assert said[0].startswith("Season intern, held on Summer season, gives edit events (all)")

    def test_a_bar_of_another_role(self, odile):
        reason, said = self.sentences(odile, "mireille", "edit", "result-1")
        assert (reason, said) == ("barred", ["Competitor bars it, and a bar beats every grant."])


class TestProblems:
    def test_nested_input_errors_become_pointers(self):
        nested = serializers.ValidationError({"scope": {"branches": ["No such branch."]}, "to": ["Missing."]})
        problem = as_problem(nested)
        assert isinstance(problem, Invalid)
        assert problem.body["errors"] == [
            {"pointer": "/scope/branches", "message": "No such branch."},
            {"pointer": "/to", "message": "Missing."},
        ]

    def test_lists_are_counted(self):
        listed = serializers.ValidationError([{}, {"name": ["Too long."]}])
        assert as_problem(listed).body["errors"] == [{"pointer": "/1/name", "message": "Too long."}]

    def test_each_has_its_status_and_reason(self):
        for problem, status, reason in (
            (NotFound(), 404, "not-found"),
            (Conflict("x"), 409, "conflict"),
            (TooMany(3), 429, "throttled"),
        ):
            assert (problem.status, problem.body["reason"]) == (status, reason)

    def test_the_unexpected_is_left_to_the_log(self):
        assert as_problem(ZeroDivisionError()) is None

    def test_broken_json_is_a_problem(self, odile):
        answer = odile.client.post("/api/roles", "{broken", content_type="application/json")
        assert (answer.status_code, answer.json()["reason"]) == (400, "parse-error")

    def test_a_method_that_is_not_there_is_a_problem(self, odile):
        answer = odile.client.delete("/api/roles")
        assert (answer.status_code, answer.json()["reason"]) == (405, "method-not-allowed")


class TestNames:
    def test_keys_are_always_valid_and_free(self):
        taken: set[str] = set()
        for name in ("Pilot", "pilot", "  PILOT ", "Pílot!", "船", "x" * 200, "-", "a/b c"):
            key = key_for(name, taken)
            assert key not in taken
            assert len(key) <= 60
            taken.add(key)
        assert {"pilot", "pilot-2", "pilot-3", "pilot-4", "role"} < taken

    def test_the_first_56_roles_all_wear_different_cloths(self):
        from collections import Counter

        worn: Counter[tuple[str, str]] = Counter()
        for _ in range(len(COLOURS) * len(PATTERNS)):
            worn[cloth_for(worn)] += 1
        assert len(worn) == 56
        assert set(worn.values()) == {1}

    def test_ids_sort_by_when_they_were_made(self):
        first, second = new_id(), new_id()
        assert first != second
        assert len(first) == 20
        assert first[:9] <= second[:9]


def test_a_role_ends_by_itself_when_its_time_is_over(odile, ask):
    give = {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "marit"}}
    apply(odile, give | {"ends": (now() + timedelta(days=1)).isoformat()})
    assert ok(ask("marit").get("session"))["places"] == ["desk"]
    from gonfalon.access.models import Assignment

    Assignment.objects.filter(account_id="marit").update(ends=now() - timedelta(seconds=1))
    raise_version()
    assert ok(ask("marit").get("session"))["places"] == []
    given = ok(odile.get("accounts/marit"))["given"]
    assert [(g["role"], g["active"]) for g in given] == [("duty-editor", False)]


def test_a_disabled_account_is_on_the_roster_still(odile):
    assert Account.objects.get(pk="agnes").state == "disabled"
    assert ok(odile.get("accounts", search="agnes"))["results"][0]["state"] == "disabled"


def test_kinds_and_fields_that_no_module_brings_go_by_their_keys():
    policy = current().policy
    catalogue = current().catalogue
    assert turn_words("see-field page1.price", policy, catalogue) == "see price of page1"
    assert turn_words("create:page1", policy, catalogue) == "create page1"
    assert turn_words("see-field berth.dues", policy, catalogue) == "see Annual dues of berth pages"
