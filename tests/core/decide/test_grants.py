"""What somebody holds at a moment, and what a role says with all it builds on."""

from dataclasses import replace
from datetime import timedelta

import pytest

from gonfalon.core import HypotheticalSubject
from gonfalon.core.decide.grants import SubjectGrantsCache, allows_component, allows_facet, capability_of, gives
from gonfalon.core.model.policy import Account, Assignment, DirectGrant, Period, Policy, Role, Scope, Subject
from gonfalon.core.model.vocabulary import Extent, Kind
from gonfalon.core.operations import GiveRole, SetAnswer, TakeRole, apply
from tests.core.harbour import NOW, harbour

HOUR = timedelta(hours=1)


def holding(who="ada", *, at=NOW, **said):
    return SubjectGrantsCache(harbour(**said)).of(who, at)


def ids(held):
    return [source.id for source in held.sources]


class TestAnswers:
    POLICY = harbour(
        roles={
            "base": {"berth.see": "own", "berth.edit": "all", "berth.move": "barred"},
            "middle": Role("middle", {"berth.see": "team", "berth.edit": "withheld"}, "base"),
            "top": Role("top", {"berth.see": "all"}, "middle"),
        }
    )

    @pytest.mark.parametrize(
        ("role", "capability", "says", "said_by"),
        [
            ("top", "berth.see", "all", "top"),
            ("middle", "berth.see", "team", "middle"),
            ("top", "berth.edit", "withheld", "middle"),
            ("base", "berth.edit", "all", "base"),
            ("top", "berth.move", "barred", "base"),
        ],
    )
    def test_the_nearest_word_counts_and_its_speaker_is_known(self, role, capability, says, said_by):
        assert SubjectGrantsCache(self.POLICY).statements(role)[capability] == (says, said_by)

    def test_silence_all_the_way_up_is_silence(self):
        assert "berth.retire" not in SubjectGrantsCache(self.POLICY).statements("top")

    def test_only_extents_and_yes_give(self):
        assert [gives(word) for word in ("own", "team", "all", "yes")] == [True] * 4
        assert [gives(word) for word in ("withheld", "barred")] == [False] * 2

    def test_the_chain_runs_nearest_first(self):
        assert self.POLICY.role_chain("top") == ("top", "middle", "base")


class TestSources:
    def test_a_visitor_has_the_everyone_role_and_nothing_else(self):
        assert ids(holding(None)) == ["everyone"]

    def test_an_active_account_has_both_baselines(self):
        assert ids(holding()) == ["everyone", "signed-in"]

    def test_what_comes_through_groups_above_counts(self):
        through = [
            Assignment("a1", "signed-in", Subject.group("tenants")),
            Assignment("a2", "signed-in", Subject.group("pier-5")),
        ]
        assert ids(holding(assignments=through)) == ["everyone", "signed-in", "a1"]
        assert ids(holding("cy", assignments=through)) == ["everyone", "signed-in", "a2", "a1"]

    def test_a_source_knows_its_roles_and_groups_and_who_could_stop_it(self):
        roles = {"writer": Role("writer", {}, "everyone")}
        given = Assignment("a1", "writer", Subject.group("pier-3"))
        source = holding(roles=roles, assignments=[given]).sources[-1]
        assert (source.role, source.roles) == ("writer", ("writer", "everyone"))
        assert source.groups == (Subject.group("pier-3"), Subject.group("tenants"))
        assert [s.id for s in source.subjects] == ["writer", "everyone", "pier-3", "tenants"]

    def test_a_direct_grant_has_no_role(self):
        source = holding(direct=[DirectGrant("d1", Subject.account("ada"), "berth.move", "own")]).sources[-1]
        assert (source.role, source.statements["berth.move"].extent) == (None, Extent.OWN)

    def test_a_made_up_holder_is_in_no_group(self):
        held = holding(HypotheticalSubject(("signed-in",)))
        assert (held.subjects, held.active, held.keyholder) == ((), True, False)

    def test_nobody_and_no_role_of_that_name(self):
        with pytest.raises(KeyError):
            holding("nobody")
        with pytest.raises(KeyError):
            holding(HypotheticalSubject(("nothing",)))

    def test_limits_may_name_the_account_and_every_group_above(self):
        assert [s.id for s in holding().subjects] == ["ada", "pier-3", "tenants"]


class TestTime:
    def given(self, starts, ends):
        return [Assignment("a1", "signed-in", Subject.account("ada"), period=Period(starts, ends))]

    def test_what_is_over_or_not_yet_is_no_source(self):
        assert "a1" in ids(holding(assignments=self.given(NOW - HOUR, NOW + HOUR)))
        assert "a1" not in ids(holding(assignments=self.given(None, NOW)))
        assert "a1" not in ids(holding(assignments=self.given(NOW + HOUR, None)))

    def test_what_is_kept_is_kept_until_something_begins_or_ends(self):
        holdings = SubjectGrantsCache(harbour(assignments=self.given(NOW, NOW + HOUR)))
        first = holdings.of("ada", NOW)
        assert holdings.of("ada", NOW + HOUR / 2) is first
        assert ids(holdings.of("ada", NOW + HOUR)) == ["everyone", "signed-in"]
        assert ids(holdings.of("ada", NOW - HOUR)) == ["everyone", "signed-in"]
        assert "a1" in ids(holdings.of("ada", NOW))


class TestParts:
    POLICY = harbour(
        roles={
            "base": Role("base", {}, None, frozenset({"text"}), {"text": frozenset({"wording"})}),
            "top": Role("top", {}, "base", None, {"table": frozenset({"layout"})}),
            "shut": Role("shut", {}, "base", frozenset()),
        }
    )

    def test_the_list_of_components_is_inherited_whole(self):
        assert allows_component(self.POLICY, self.POLICY.role_chain("top"), "text")
        assert not allows_component(self.POLICY, self.POLICY.role_chain("top"), "table")
        assert not allows_component(self.POLICY, self.POLICY.role_chain("shut"), "text")

    def test_facets_are_inherited_component_by_component(self):
        chain = self.POLICY.role_chain("top")
        assert allows_facet(self.POLICY, chain, "text", "wording")
        assert not allows_facet(self.POLICY, chain, "text", "style")
        assert allows_facet(self.POLICY, chain, "table", "layout")
        assert not allows_facet(self.POLICY, chain, "table", "wording")

    def test_said_nowhere_and_a_direct_grant_allow_all(self):
        assert allows_component(self.POLICY, ("everyone",), "table")
        assert allows_component(self.POLICY, (), "table")
        assert allows_facet(self.POLICY, (), "text", "links")


class TestWords:
    @pytest.mark.parametrize(
        ("action", "type", "state", "capability"),
        [
            ("see", "berth", "published", "berth.see"),
            ("see", "berth", "draft", "berth.see-draft"),
            ("see", "berth", "retired", "berth.see-draft"),
            ("see", "account", None, "account.see"),
            ("edit", "berth", "published", "berth.edit"),
            ("create", "berth", None, "berth.create"),
            ("discussion.moderate", "berth", "draft", "discussion.moderate"),
        ],
    )
    def test_the_capability_an_action_asks_first(self, action, type, state, capability):
        assert capability_of(action, type, state) == capability

    def test_kinds_listed_and_unlisted(self):
        policy = Policy(capabilities={"desk.open": Kind.OPENING})
        assert [policy.kind(c) for c in ("desk.open", "locks.open", "fields.private", "impersonate.start")] == [
            Kind.OPENING,
            Kind.PLACED,
            Kind.PLACED,
            Kind.SITEWIDE,
        ]
        assert policy.kind("berth.edit") is Kind.GRADED

    def test_an_empty_list_covers_nothing_and_an_absent_one_everything(self):
        place = {"site": "quay", "path": ("home",), "type": "berth", "topics": frozenset({"tides"})}
        assert Scope().covers(**place)
        for name in ("sites", "branches", "types", "topics"):
            assert not Scope(**{name: frozenset()}).covers(**place)

    def test_a_sitewide_scope(self):
        quay, nowhere = Scope(sites=frozenset({"quay"})), Scope(sites=frozenset())
        assert Scope().covers_sitewide(None, barring=False)
        assert not quay.covers_sitewide(None, barring=False)
        assert quay.covers_sitewide(None, barring=True)
        assert not nowhere.covers_sitewide(None, barring=True)
        assert not Scope(topics=frozenset({"tides"})).covers_sitewide("quay", barring=True)

    def test_accounts_know_every_group_above_their_own(self):
        policy = harbour(accounts=[Account("dee", groups=frozenset({"pier-3", "pier-5"}))])
        assert policy.all_groups(policy.accounts["dee"]) == {"pier-3", "pier-5", "tenants"}


class TestOfAPolicyThatCameFromAnother:
    """What both have the same is the same object; what differs is compiled anew."""

    GIVEN = [Assignment("a1", "writer", Subject.account("ada")), Assignment("a2", "reader", Subject.group("tenants"))]
    BEFORE = harbour(
        roles={"writer": {"berth.edit": "own"}, "reader": {"berth.see": "all"}, "everyone": {"home.see": "all"}},
        assignments=GIVEN,
    )

    def both(self, who, *operations):
        before = SubjectGrantsCache(self.BEFORE)
        after = SubjectGrantsCache(apply(self.BEFORE, operations), previous=before)
        return before.of(who, NOW), after.of(who, NOW)

    def test_whoever_is_given_the_same_holds_the_same(self):
        was, now = self.both("cy", SetAnswer("writer", "berth.edit", "all"))
        assert now is was

    def test_a_role_that_says_something_else_is_another_source_for_all_who_hold_it(self):
        was, now = self.both("ada", SetAnswer("writer", "berth.edit", "all"))
        assert [source.id for source in now.sources] == [source.id for source in was.sources]
        assert [a is b for a, b in zip(was.sources, now.sources, strict=True)] == [True, True, False, True]
        assert now.sources[2].statements["berth.edit"].says == "all"

    def test_another_baseline_leaves_all_else_as_it_was(self):
        was, now = self.both("ada", SetAnswer("everyone", "home.see", None))
        assert now.sources[1:] == was.sources[1:]
        assert now.sources[0].statements == {}

    def test_what_comes_and_goes_counts_for_those_it_was_given_to(self):
        assert ids(self.both("ada", TakeRole("a1"))[1]) == ["everyone", "signed-in", "a2"]
        assert ids(self.both("cy", TakeRole("a2"))[1]) == ["everyone", "signed-in"]
        new = GiveRole(Assignment("a3", "writer", Subject.group("tenants")))
        assert ids(self.both("cy", new)[1]) == ["everyone", "signed-in", "a2", "a3"]

    def test_groups_that_lie_elsewhere_are_looked_at_anew(self):
        before = SubjectGrantsCache(self.BEFORE)
        apart = replace(self.BEFORE.groups["pier-5"], parent=None)
        after = SubjectGrantsCache(
            replace(self.BEFORE, groups={**self.BEFORE.groups, "pier-5": apart}), previous=before
        )
        assert (ids(before.of("cy", NOW))[-1], ids(after.of("cy", NOW))[-1]) == ("a2", "signed-in")

    def test_an_account_that_is_disabled_now_keeps_only_what_visitors_have(self):
        before = SubjectGrantsCache(self.BEFORE)
        gone = replace(self.BEFORE.accounts["cy"], state="disabled")
        after = SubjectGrantsCache(replace(self.BEFORE, accounts={**self.BEFORE.accounts, "cy": gone}), previous=before)
        assert not after.of("cy", NOW).active
        assert "signed-in" not in ids(after.of("cy", NOW))
