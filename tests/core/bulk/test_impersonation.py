"""Standing in: sentence by sentence, and against the second reading of §7 on made-up policies."""

from collections import Counter
from dataclasses import replace
from datetime import timedelta

from hypothesis import HealthCheck, given, settings

from gonfalon.core import Engine, HypotheticalSubject
from gonfalon.core.model.policy import (
    Account,
    Assignment,
    DirectGrant,
    FieldRule,
    Limit,
    Period,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.tree import EMPTY_TREE
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import BEN, NOW, engine, give, harbour, only
from tests.core.naive import Naive
from tests.core.strategies import TREE, policies
from tests.examples import examples

LEAD = {"impersonate.start": "yes", "berth.edit": "all", "berth.edit-live": "all", "berth.create": "own"}


def asked(theirs, *, lead=LEAD, **said):
    """Ada leads, Ben holds something else."""
    said.setdefault("assignments", [give("lead"), give(to=BEN, id="a2")])
    return engine(roles={"lead": lead, "writer": theirs}, **said)


def may(theirs, subject="ben", actor="ada", **said):
    return str(asked(theirs, **said).may_stand_in(actor, subject, NOW).reason)


def beyond(theirs, subject="ben", **said):
    """What Ben may do and Ada may not, as action and node."""
    every = asked(theirs, **said).excess("ada", subject, NOW)
    return [(e.question.action, e.question.target and e.question.target.path[-1:]) for e in every]


class TestWhoMay:
    def test_nobody_without_the_duty_and_for_nobody_inactive(self):
        assert may({}, assignments=[]) == "not-granted"
        assert may({}, "gone", accounts=[Account("gone", "invited")]) == "inactive"
        assert may({}, lead=LEAD | {"impersonate.start": "barred"}) == "barred"
        scoped = [give("lead", scope=only(sites=["quay"]))]
        assert may({}, assignments=scoped) == "out-of-scope", "it is asked without a site"

    def test_nobody_for_themselves_nor_a_visitor_for_a_visitor(self):
        assert may({}, "ada") == "beyond"
        assert may({}, "key", actor="key") == "beyond"
        everyone = engine(roles={"everyone": {"impersonate.start": "yes"}})
        assert str(everyone.may_stand_in(None, None, NOW).reason) == "beyond"
        assert str(everyone.may_stand_in("ada", None, NOW).reason) == "allowed"

    def test_a_keyholder_for_anyone_and_nobody_else_for_a_keyholder(self):
        assert may({"berth.remove": "all"}, actor="key") == "allowed"
        everything = {f"{t}.{v}": "all" for t in ("notice", "berth", "picture") for v in ("see", "see-draft")}
        assert may({}, "key", lead=everything | LEAD) == "beyond"


class TestNothingMore:
    def test_every_action_on_every_node(self):
        assert may({"berth.edit": "all", "berth.edit-live": "all"}) == "allowed"
        assert may({"berth.retire": "own"}) == "beyond", "Ben wrote the chandlery"
        assert beyond({"berth.retire": "own"}) == [("retire", ("chandlery",))]

    def test_about_the_nodes_that_there_are(self):
        assert may({"picture.retire": "own", "notice.edit": "own"}) == "beyond"
        nowhere = [give("lead"), give(to=BEN, id="a2", scope=only(types=["notice"], sites=["regatta"]))]
        assert may({"notice.edit": "own"}, assignments=nowhere) == "allowed", "Cy wrote the only notice there"
        theirs = asked({"berth.remove": "all"})
        assert str(Engine(theirs.policy, EMPTY_TREE).may_stand_in("ada", "ben", NOW).reason) == "allowed"

    def test_one_place_less_is_enough(self):
        stop = [Limit("l", "fees", Subject.role("lead"), Effect.STOP, "node", frozenset({"edit"}))]
        assert may({"berth.edit": "all", "berth.edit-live": "all"}, limits=stop) == "beyond"
        assert may({"berth.edit": "own", "berth.edit-live": "all"}, limits=stop) == "allowed", "Ada wrote it"
        confined = [Account("ada", reach={"content": frozenset({"moorings"})})]
        elsewhere = {"notice.history": "all"}
        assert may(elsewhere, lead=LEAD | elsewhere, accounts=confined) == "beyond"
        assert may({"berth.edit": "all", "berth.edit-live": "all"}, accounts=confined) == "allowed"

    def test_creating_without_topics_and_within_its_own_tree(self):
        assert may({"berth.create": "all"}) == "allowed"
        assert beyond({"notice.create": "own"}) == [("create", ("home",))]
        tides = [give("lead"), give(to=BEN, id="a2", scope=only(topics=["tides"]))]
        assert may({"notice.create": "own"}, assignments=tides) == "allowed"
        tree = asked({"picture.create": "all"})
        [excess] = tree.excess("ada", "ben", NOW)
        assert [tree.tree.nodes[i].id for i in excess.positions] == ["pictures", "quayside"]

    def test_parts_of_nodes(self):
        rule = {("berth", "dues"): FieldRule("table", {"writer": frozenset({"see-all"})})}
        sees = {"berth.see": "all"}
        assert may(sees, lead=LEAD | sees, fields=rule) == "beyond"
        assert may({}, lead=LEAD | sees, fields=rule) == "allowed", "Ben sees no berth"
        narrow = Role("lead", LEAD, components=frozenset({"text"}), facets={"text": frozenset({"wording"})})
        assert beyond(sees | LEAD, lead=narrow) == [
            *(("see", ("moorings",)),),
            ("insert-component", ("moorings",)),
            *(("change-facet", ("moorings",)),) * 2,
        ]

    def test_duties_without_a_site_and_for_each(self):
        assert may({"desk.open": "yes"}) == "beyond"
        at_the_quay = [give("lead"), give(to=BEN, id="a2", scope=only(sites=["quay"]))]
        policy = asked({"roles.define": "yes"}, assignments=at_the_quay).policy
        there = Engine(replace(policy, sites=frozenset({"quay", "regatta"})), TREE)
        [excess] = there.excess("ada", "ben", NOW)
        assert (excess.question.action, excess.question.site) == ("roles.define", "quay")

    def test_profiles(self):
        assert may({"account.edit": "own"}) == "beyond", "Ben's own"
        assert may({"account.edit": "own"}, lead=LEAD | {"account.edit": "team"}) == "allowed", "both are of pier 3"
        assert may({"account.edit": "team"}, lead=LEAD | {"account.edit": "team"}) == "allowed"
        away = [Account("ben", groups=frozenset({"pier-3", "pier-5"}))]
        assert may({"account.edit": "team"}, lead=LEAD | {"account.edit": "team"}, accounts=away) == "beyond", "Cy's"
        phone = {("account", "phone"): FieldRule("author")}
        assert may({"account.see": "own"}, lead=LEAD | {"account.see": "all"}, fields=phone) == "beyond"

    def test_a_made_up_holder_wrote_nothing_or_all_of_it(self):
        own = {"berth.retire": "own"}
        assert may(own, HypotheticalSubject(("writer",))) == "allowed"
        assert may(own, HypotheticalSubject(("writer",), as_author=True)) == "beyond"

    def test_a_made_up_actor_is_nobodys_author(self):
        own = LEAD | {"berth.retire": "own"}
        question = {"roles": ["lead"], "own": True, "action": "stand-in", "for": {"roles": ["lead"], "own": True}}
        assert str(asked({}, lead=own).decide(question).reason) == "beyond"
        assert str(asked({}, lead=own).decide(question | {"for": {"roles": ["lead"]}}).reason) == "allowed"


def test_what_was_answered_holds_until_something_given_begins_or_ends():
    later = NOW.replace(hour=NOW.hour + 1)
    gives = harbour(
        roles={"lead": LEAD, "writer": {"berth.retire": "all"}},
        assignments=[give("lead"), give(to=BEN, id="a2", period=replace(give().period, starts=later))],
    )
    asked = Engine(gives, TREE)
    answers = [str(asked.may_stand_in("ada", "ben", at).reason) for at in (NOW, later, NOW)]
    assert answers == ["allowed", "beyond", "allowed"]


MADE_UP = HypotheticalSubject((), scoped=(("lead", Scope(branches=frozenset({"moorings"}))),), groups=("pier-3",))
OTHERS = (
    "ada",
    "ben",
    "gone",
    "key",
    None,
    HypotheticalSubject(("writer",), True),
    HypotheticalSubject(("lead",)),
    MADE_UP,
)


def test_both_readings_let_the_same_people_stand_in():
    answers: Counter[str] = Counter()

    @settings(max_examples=examples(40), suppress_health_check=list(HealthCheck), deadline=None)
    @given(policies())
    def under_one_policy(policy):
        more = Assignment("leads", "lead", Subject.account("cy"))
        able = DirectGrant("able", Subject.account("cy"), "impersonate.start", "yes")
        policy = replace(
            policy,
            assignments={**policy.assignments, "leads": more},
            direct_grants={**policy.direct_grants, "able": able},
            sites=frozenset({"quay", "regatta"}),
        )
        asked, naive = Engine(policy, TREE), Naive(policy, TREE)
        for actor in ("cy", "ada", "key", HypotheticalSubject(("lead",), True), MADE_UP):
            for subject in OTHERS:
                answer = str(asked.may_stand_in(actor, subject, NOW).reason)
                assert answer == naive.stand_in(actor, subject, NOW), (actor, subject)
                answers[answer] += 1

    under_one_policy()
    assert {"allowed", "beyond", "inactive", "not-granted", "barred"} <= set(answers)
    assert answers["allowed"] > 50


@settings(max_examples=examples(15), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies())
def test_every_excess_is_a_question_with_two_answers_and_none_is_left_out(policy):
    asked, naive = Engine(policy, TREE), Naive(policy, TREE)
    for actor, subject in (("cy", "ada"), ("ada", "ben")):
        found = list(asked.excess(actor, subject, NOW))
        for excess in found:
            assert naive.answer(excess.question) == "allowed"
            assert naive.answer(replace(excess.question, who=actor)) != "allowed"
        assert bool(found) == bool(naive.yeses(subject, NOW) - naive.yeses(actor, NOW))


def test_under_another_policy_and_at_another_time_both_readings_agree():
    """Ben as he would be then, Ada as she is now (§7)."""
    answers: Counter[str] = Counter()
    then = NOW + timedelta(days=40)

    @settings(max_examples=examples(25), suppress_health_check=list(HealthCheck), deadline=None)
    @given(policies(), policies())
    def two_policies(policy, other):
        able = DirectGrant("able", Subject.account("cy"), "impersonate.start", "yes")
        lead = Assignment("leads", "lead", Subject.account("cy"))
        sites = frozenset({"quay", "regatta"})
        policy = replace(
            policy,
            assignments={**policy.assignments, "leads": lead},
            direct_grants={**policy.direct_grants, "able": able},
            sites=sites,
        )
        other = replace(
            other, capabilities=policy.capabilities, types=policy.types, components=policy.components, sites=sites
        )
        now, staged = Engine(policy, TREE), Engine(other, TREE)
        ours, theirs = Naive(policy, TREE), Naive(other, TREE)
        for actor in ("cy", "ada", "key"):
            for subject in OTHERS:
                answer = str(now.may_stand_in_under(staged, actor, subject, NOW, then).reason)
                assert answer == ours.stand_in_under(theirs, actor, subject, NOW, then), (actor, subject)
                answers[answer] += 1
                if answer == "beyond" and subject not in ("key", actor):
                    found = list(now.excess_under(staged, actor, subject, NOW, then))
                    for excess in found[:4]:
                        assert theirs.answer(excess.question) == "allowed"
                        assert ours.answer(replace(excess.question, who=actor, at=NOW)) != "allowed"

    two_policies()
    assert {"allowed", "beyond", "inactive"} <= set(answers)
    assert answers["allowed"] > 20


class TestUnderAnotherPolicy:
    """Ben as he would be, Ada as she is (§7), sentence by sentence."""

    @staticmethod
    def reason(now, staged, then=NOW):
        return str(now.may_stand_in_under(staged, "ada", "ben", NOW, then).reason)

    def test_a_rule_that_would_be_dropped_closes_the_field_to_whoever_stands_in(self):
        sees = {"berth.see": "all"}
        rule = {("berth", "dues"): FieldRule("table", {"guest": frozenset({"see-all"})})}
        closed, opened = (asked(sees, lead=LEAD | sees, fields=fields) for fields in (rule, {}))
        assert self.reason(closed, opened) == "beyond"
        assert self.reason(opened, closed) == "allowed"
        assert self.reason(closed, closed) == "allowed"

    def test_what_one_holds_only_then_does_not_count(self):
        then = NOW + timedelta(days=30)
        later = [give("lead"), give(to=BEN, id="a2"), give(id="a3", period=Period(NOW + timedelta(days=10), None))]
        for theirs in ({"notice.history": "all"}, {"desk.open": "yes"}, {"account.history": "all"}):
            both = asked(theirs, assignments=later)
            assert self.reason(both, both, then) == "beyond"
            at_once = asked(theirs, assignments=[*later[:2], give(id="a3")])
            assert self.reason(at_once, both, then) == "allowed"

    def test_fellows_are_those_each_has_on_their_side(self):
        """Under what is staged two strangers are Ben's fellows; Ada is the fellow of one of them only, now."""
        team = {"account.see": "team"}
        near = [Account(id, groups=frozenset({"pier-3"})) for id in ("cy", "dot")]
        now = asked(team, lead=LEAD | team, accounts=[*near, Account("eli")])
        joined = [Account(id, groups=frozenset({"pier-5"})) for id in ("ben", "cy", "dot", "eli")]
        assert self.reason(now, asked(team, lead=LEAD | team, accounts=joined)) == "beyond"
        known = asked(team, lead=LEAD | team, accounts=[*near, Account("eli", groups=frozenset({"pier-3"}))])
        assert self.reason(known, asked(team, lead=LEAD | team, accounts=joined)) == "allowed"

    def test_whoever_would_be_disabled_and_whoever_would_be_keyholder(self):
        now = asked({})
        assert self.reason(now, asked({}, accounts=[Account("ben", state="disabled")])) == "inactive"
        assert self.reason(now, asked({}, accounts=[Account("ben", keyholder=True)])) == "beyond"
        assert str(now.may_stand_in_under(now, "key", "ben", NOW, NOW).reason) == "allowed"
        assert str(now.may_stand_in_under(now, "ada", "ada", NOW, NOW).reason) == "beyond"


class TestWorkingCopies:
    def test_what_is_public_is_asked_about_as_a_draft_too(self):
        sees = {"notice.see": "all", "berth.see": "all"}
        assert may(sees | {"berth.see-draft": "own"}, lead=LEAD | sees) == "beyond", "of the chandlery, which is Ben's"
        [excess] = asked(sees | {"berth.see-draft": "own"}, lead=LEAD | sees).excess("ada", "ben", NOW)
        assert (excess.question.action, excess.question.target.state) == ("see", "draft")
        assert excess.question.target.path[-1] == "chandlery"
        assert (
            may(sees | {"berth.edit": "all"}, lead=sees | {"impersonate.start": "yes", "berth.edit": "own"}) == "beyond"
        )

    def test_their_parts_too(self):
        both = {"berth.see": "all", "berth.see-draft": "all"}
        rule = {("berth", "dues"): FieldRule("table", {"writer": frozenset({"see-all"})})}
        assert beyond(both, lead=LEAD | both, fields=rule) == [("see-field", ("moorings",))]

    def test_where_nothing_is_public_there_is_none(self):
        tree = TREE.with_states(dict.fromkeys(TREE.index, "draft"))
        theirs = asked({"berth.see-draft": "own"}, lead=LEAD | {"berth.see-draft": "all"})
        assert Engine(theirs.policy, tree).impersonation.copies is None
        assert str(Engine(theirs.policy, tree).may_stand_in("ada", "ben", NOW).reason) == "allowed"
