"""Handing out: sentence by sentence, and against the second reading of §9 on made-up policies."""

from collections import Counter
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, HypotheticalSubject
from gonfalon.core.model.policy import (
    ANYWHERE,
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    Limit,
    Period,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.question import Question
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import ADA, NOW, engine, give
from tests.core.naive import Naive
from tests.core.strategies import TREE, Making, policies, scopes
from tests.examples import examples

LEAD = {"berth.edit": "all", "berth.edit-live": "all", "berth.create": "own", "berth.see": "all", "desk.open": "yes"}
SOON, LATER = NOW + timedelta(days=1), NOW + timedelta(days=9)
TO_LEADS = Delegation("h1", Subject.role("lead"), frozenset({"writer"}), receivers="pier-3")


def may(theirs, *, to="ben", scope=ANYWHERE, until=None, actor="ada", delegations=(TO_LEADS,), **said):
    """Ada leads, and would give Ben what writers have."""
    said.setdefault("assignments", [give("lead")])
    roles = {"lead": said.pop("lead", LEAD), "writer": theirs, "base": said.pop("base", {})}
    asked = engine(roles=roles, delegations=delegations, **said)
    given = Assignment("new", "writer", Subject.account(to), scope, Period(None, until))
    return str(asked.may_hand_out(actor, given, NOW).reason)


class TestWhoMay:
    def test_a_delegation_to_a_role_an_account_or_a_group_is_enough(self):
        assert may({"berth.edit": "own"}) == "allowed"
        for to in (ADA, Subject.group("tenants")):
            assert may({"berth.edit": "own"}, delegations=[replace(TO_LEADS, to=to)]) == "allowed"
        assert may({"berth.edit": "own"}, delegations=[replace(TO_LEADS, to=Subject.account("cy"))]) == "not-delegated"

    def test_without_one_nobody_may_but_keyholders_and_those_who_assign(self):
        assert may({}, delegations=()) == "not-delegated"
        assert may({}, delegations=(), actor="key") == "allowed"
        assert may({"roles.define": "yes"}, delegations=(), lead={"roles.assign": "yes"}) == "allowed"
        assert may({}, delegations=(), actor="gone", accounts=[Account("gone", "disabled", True)]) == "inactive"

    def test_nobody_gives_to_themselves(self):
        assert may({}, to="ada") == "not-delegated"

    def test_only_the_roles_named_to_the_receivers_named(self):
        assert may({}, delegations=[replace(TO_LEADS, roles=frozenset({"lead"}))]) == "not-delegated"
        assert may({}, to="cy") == "not-delegated"
        assert may({}, to="cy", delegations=[replace(TO_LEADS, receivers="tenants")]) == "allowed"
        assert may({}, to="key", delegations=[replace(TO_LEADS, receivers=None)]) == "allowed"

    def test_no_longer_than_the_delegation_and_only_while_it_lasts(self):
        ending = [replace(TO_LEADS, ends=SOON)]
        assert may({}, delegations=ending, until=SOON) == "allowed"
        assert may({}, delegations=ending, until=LATER) == "not-delegated"
        assert may({}, delegations=ending) == "not-delegated"
        assert may({}, delegations=[replace(TO_LEADS, ends=NOW)], until=NOW) == "not-delegated"

    @pytest.mark.parametrize(
        ("scope", "answer"),
        [
            (Scope(), "not-delegated"),
            (Scope(branches=frozenset({"fees"})), "allowed"),
            (Scope(branches=frozenset({"winter"})), "allowed"),
            (Scope(branches=frozenset({"loft"})), "not-delegated"),
            (Scope(branches=frozenset({"fees", "loft"})), "not-delegated"),
            (Scope(branches=frozenset()), "allowed"),
            (Scope(types=frozenset({"berth"})), "not-delegated"),
            (Scope(branches=frozenset({"winter"}), types=frozenset({"berth"})), "allowed"),
        ],
    )
    def test_within_its_scope_alone(self, scope, answer):
        here = [replace(TO_LEADS, scope=Scope(branches=frozenset({"fees"})))]
        assert may({"berth.edit": "own"}, scope=scope, delegations=here) == answer


class TestNeverMoreThanOneHas:
    def test_each_capability_is_given_to_oneself_as_far(self):
        assert may({"berth.edit": "all"}) == "allowed"
        assert may({"berth.remove": "own"}) == "beyond"
        assert may({"berth.edit": "all"}, lead=LEAD | {"berth.edit": "team"}) == "beyond"
        assert may({"berth.create": "all"}) == "allowed"  # any extent is as long
        assert may({"berth.remove": "withheld", "berth.move": "barred"}) == "allowed"

    def test_what_is_taken_from_the_role_it_builds_on_counts(self):
        assert may(Role("writer", {}, "base"), base={"berth.remove": "all"}) == "beyond"
        assert may(Role("writer", {}, "base"), base={"berth.edit": "all"}) == "allowed"

    def test_it_must_hold_wherever_the_role_would(self):
        here = Scope(branches=frozenset({"moorings"}))
        narrow = [give("lead", scope=here)]
        assert may({"berth.edit": "own"}, assignments=narrow) == "beyond"
        assert may({"berth.edit": "own"}, assignments=narrow, scope=here) == "allowed"

    def test_a_limit_on_oneself_counts(self):
        stop = Limit("l", "loft", ADA, Effect.STOP, "branch", frozenset({"edit"}))
        assert may({"berth.edit": "all", "berth.edit-live": "all"}, limits=[stop]) == "beyond"

    def test_what_they_have_already_does_not_count(self):
        single = DirectGrant("d", Subject.account("ben"), "roles.define", "yes")
        assert may({"berth.edit": "all"}, direct=[single]) == "allowed"


def test_both_readings_hand_out_the_same():
    answers: Counter[str] = Counter()

    @settings(max_examples=examples(40), suppress_health_check=list(HealthCheck), deadline=None)
    @given(policies(), st.integers(0, 2**32), scopes)
    def under_one_policy(policy, seed, scope):
        making = Making(seed)
        leads = Assignment("leads", "lead", Subject.account("cy"))
        everything = DirectGrant("able", Subject.account("cy"), "impersonate.start", "yes")
        receivers = making.one((None, "tenants", "pier-3"))
        delegations = {
            id: Delegation(id, to, making.among(("writer", "guest", "lead"), 3), making.scope(), receivers, ends)
            for id, to, ends in (
                ("h1", Subject.role("lead"), making.one((None, SOON, NOW))),
                ("h2", Subject.group("tenants"), None),
            )
        }
        policy = replace(
            policy,
            assignments={**policy.assignments, "leads": leads},
            direct_grants={**policy.direct_grants, "able": everything},
            delegations=delegations,
            sites=frozenset({"quay", "regatta"}),
        )
        asked, naive = Engine(policy, TREE), Naive(policy, TREE)
        for actor in ("cy", "ada", "key", "gone", HypotheticalSubject(("lead",), True)):
            for receiver in ("ada", "ben", "gone"):
                for role in ("writer", "guest"):
                    until = making.one((None, NOW + timedelta(hours=1), LATER))
                    given_to = Assignment("new", role, Subject.account(receiver), scope, Period(None, until))
                    question = Question(actor, "hand-out", at=NOW, given=given_to)
                    answer = str(asked.decide(question).reason)
                    assert answer == naive.hand_out(actor, given_to, NOW), question
                    answers[answer] += 1

    under_one_policy()
    assert {"allowed", "beyond", "not-delegated"} <= set(answers)


@settings(max_examples=examples(25), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), scopes, st.sampled_from(["writer", "guest", "lead"]))
def test_whoever_is_handed_something_ends_with_no_more_than_both_had(policy, scope, role):
    """Of nobody's raising oneself: with the assignment, the receiver may only what they could or the giver may."""
    delegation = Delegation("h", Subject.account("ada"), frozenset({role}))
    policy = replace(policy, delegations={"h": delegation})
    given_to = Assignment("new", role, Subject.account("ben"), scope)
    if not Engine(policy, TREE).may_hand_out("ada", given_to, NOW).allow:
        return
    before, after = (
        Naive(p, TREE) for p in (policy, replace(policy, assignments={**policy.assignments, "new": given_to}))
    )
    assert after.yeses("ben", NOW) <= before.yeses("ben", NOW) | before.yeses("ada", NOW)


def test_it_is_asked_as_a_document_writes_it():
    asked = engine(roles={"lead": LEAD, "writer": {"berth.edit": "own"}}, assignments=[give("lead")],
                   delegations=[TO_LEADS])  # fmt: skip
    question = {"account": "ada", "action": "hand-out", "role": "writer", "to": {"account": "ben"},
                "scope": {"branches": ["loft"]}, "until": "2026-12-31T00:00:00Z", "at": NOW.isoformat()}  # fmt: skip
    assert asked.decide(question).reason == "allowed"
    assert asked.decide(question | {"to": {"account": "cy"}}).reason == "not-delegated"
