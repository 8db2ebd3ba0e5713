"""The decision, sentence by sentence (§2 to §5)."""

from dataclasses import replace
from datetime import timedelta

import pytest

from gonfalon.core import Question
from gonfalon.core.model.policy import (
    Account,
    DirectGrant,
    FieldRule,
    Limit,
    Lock,
    Period,
    Role,
    Subject,
)
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import ADA, BEN, CREW, EDITS, NOW, WRITER, ask, engine, give, only


def test_no_grant_is_not_granted():
    assert ask(engine(), "ada", "edit", "loft") == "not-granted"


def test_a_keyholder_may_do_everything_and_nothing_bars_it():
    barred = engine(
        roles={"everyone": {"berth.edit": "barred"}},
        limits=[Limit("l", "home", Subject.account("key"), Effect.BAR)],
    )
    assert ask(barred, "key", "edit", "loft") == "allowed"
    assert ask(barred, "key", "roles.define") == "allowed"


def test_an_account_that_is_not_active_may_do_nothing():
    asked = engine(accounts=[Account("gone", "disabled", keyholder=True)])
    assert ask(asked, "gone", "see", "home") == "inactive"


@pytest.mark.parametrize(
    ("extent", "node", "reason"),
    [
        ("own", "loft", "allowed"),
        ("own", "chandlery", "out-of-extent"),
        ("team", "chandlery", "allowed"),
        ("team", "moorings", "out-of-extent"),
        ("all", "moorings", "allowed"),
    ],
)
def test_extents_own_team_all(extent, node, reason):
    grants = {"berth.edit": extent, "berth.edit-live": "all"}
    assert ask(engine(roles={"writer": grants}, assignments=[give()]), "ada", "edit", node) == reason


def test_team_means_one_same_group_directly():
    asked = engine(roles={"writer": {"berth.retire": "team"}}, assignments=[give(to=CREW)])
    assert ask(asked, "cy", "retire", "loft") == "out-of-extent"
    assert ask(asked, "ben", "retire", "loft") == "allowed"


def test_create_ignores_the_extent():
    asked = engine(roles={"writer": {"berth.create": "own"}}, assignments=[give()])
    new = asked.tree.target("moorings").child("berth")
    assert asked.decide(Question("ada", "create", new, NOW)).allow


def test_see_asks_for_drafts_apart():
    asked = engine(roles={"everyone": {"notice.see": "all"}})
    assert ask(asked, None, "see", "home") == "allowed"
    assert ask(asked, None, "see", "draft") == "not-granted"


def test_editing_what_is_public_is_its_own_capability():
    asked = engine(roles={"writer": {"berth.edit": "all"}}, assignments=[give()])
    assert ask(asked, "ada", "edit", "loft") == "live"
    assert (
        ask(engine(roles={"writer": {"berth.edit-live": "all"}}, assignments=[give()]), "ada", "edit", "loft")
        == "not-granted"
    )


def test_built_on_answers_flow_and_withheld_stops_them():
    roles = {
        "base": {"berth.retire": "all", "berth.move": "all", "berth.remove": "barred"},
        "writer": Role("writer", {"berth.move": "withheld"}, builds_on="base"),
    }
    asked = engine(roles=roles, assignments=[give()])
    assert ask(asked, "ada", "retire", "loft") == "allowed"
    assert ask(asked, "ada", "move", "loft") == "not-granted"
    assert ask(asked, "ada", "remove", "loft") == "barred"


def test_another_role_never_takes_anything_away_but_a_bar_does():
    roles = {"writer": EDITS, "quiet": {"berth.edit": "withheld"}, "never": {"berth.edit": "barred"}}
    quiet = engine(roles=roles, assignments=[give(), give("quiet", id="a2")])
    assert ask(quiet, "ada", "edit", "loft") == "allowed"
    barred = engine(roles=roles, assignments=[give(), give("never", id="a2")])
    assert ask(barred, "ada", "edit", "loft") == "barred"


def test_a_bar_holds_only_within_its_scope():
    roles = {"writer": EDITS, "never": {"berth.edit": "barred"}}
    asked = engine(roles=roles, assignments=[give(), give("never", id="a2", scope=only(branches=["fees"]))])
    assert ask(asked, "ada", "edit", "loft") == "allowed"
    assert ask(asked, "ada", "edit", "winter") == "barred"


@pytest.mark.parametrize(
    ("scope", "reason"),
    [
        (only(branches=["moorings"]), "allowed"),
        (only(branches=["fees"]), "out-of-scope"),
        (only(types=["berth"]), "allowed"),
        (only(sites=["regatta"]), "out-of-scope"),
        (only(topics=["trade"]), "out-of-scope"),
        (only(branches=[]), "out-of-scope"),
        (only(branches=["moorings"], types=["notice"]), "out-of-scope"),
    ],
)
def test_scope_for_a_node(scope, reason):
    asked = engine(roles={"writer": EDITS}, assignments=[give(scope=scope)])
    assert ask(asked, "ada", "edit", "loft") == reason


def test_scope_for_sitewide_and_opening():
    roles = {"writer": {"roles.define": "yes", "desk.open": "yes"}}
    on_quay = engine(roles=roles, assignments=[give(scope=only(sites=["quay"]))])
    assert ask(on_quay, "ada", "roles.define") == "out-of-scope"
    assert ask(on_quay, "ada", "roles.define", site="quay") == "allowed"
    on_branch = engine(roles=roles, assignments=[give(scope=only(branches=["fees"]))])
    assert ask(on_branch, "ada", "roles.define", site="quay") == "out-of-scope"
    assert ask(on_branch, "ada", "desk.open") == "allowed"


def test_a_sitewide_bar_on_one_site_bars_a_request_that_names_none():
    roles = {"writer": {"roles.define": "yes"}, "never": {"roles.define": "barred"}}
    asked = engine(roles=roles, assignments=[give(), give("never", id="a2", scope=only(sites=["quay"]))])
    assert ask(asked, "ada", "roles.define") == "barred"
    assert ask(asked, "ada", "roles.define", site="regatta") == "allowed"


def test_periods_include_their_start_and_exclude_their_end():
    hour = timedelta(hours=1)
    for period, reason in [
        (Period(NOW, NOW + hour), "allowed"),
        (Period(NOW - hour, NOW), "not-granted"),
        (Period(NOW + hour, None), "not-granted"),
    ]:
        assert ask(engine(roles={"writer": EDITS}, assignments=[give(period=period)]), "ada", "edit", "loft") == reason


def test_a_role_given_to_a_group_reaches_the_groups_beneath():
    asked = engine(roles={"writer": EDITS}, assignments=[give(to=CREW)])
    assert ask(asked, "ada", "edit", "loft") == "allowed"


def test_a_direct_grant_gives_without_a_role():
    asked = engine(direct=[DirectGrant("d", ADA, "berth.retire", "own")])
    assert ask(asked, "ada", "retire", "loft") == "allowed"
    assert ask(asked, "ada", "retire", "chandlery") == "out-of-extent"


def test_the_reason_is_that_of_the_source_that_came_furthest():
    roles = {"writer": {"berth.retire": "own"}, "other": {"berth.retire": "all"}}
    asked = engine(roles=roles, assignments=[give(), give("other", id="a2", scope=only(branches=["fees"]))])
    assert ask(asked, "ada", "retire", "chandlery") == "out-of-extent"


class TestLimits:
    def stop(self, node="fees", to=WRITER, **more):
        return Limit("stop", node, to, Effect.STOP, **more)

    def asked(self, *limits, **more):
        return engine(roles={"writer": EDITS, "other": EDITS}, limits=limits, **({"assignments": [give()]} | more))

    def test_a_stop_narrows_the_role_it_names_there_and_beneath(self):
        asked = self.asked(self.stop())
        assert [ask(asked, "ada", "edit", n) for n in ("loft", "fees", "winter")] == [
            "allowed",
            "stopped",
            "stopped",
        ]

    def test_a_stop_narrows_only_the_grants_that_came_the_same_way(self):
        asked = self.asked(self.stop(), assignments=[give(), give("other", id="a2")])
        assert ask(asked, "ada", "edit", "winter") == "allowed"

    def test_a_bar_beats_every_grant(self):
        bar = Limit("bar", "fees", WRITER, Effect.BAR)
        asked = self.asked(bar, assignments=[give(), give("other", id="a2")])
        assert ask(asked, "ada", "edit", "winter") == "barred"

    @pytest.mark.parametrize(
        ("applies", "at", "below"),
        [("node", "stopped", "allowed"), ("beneath", "allowed", "stopped"), ("branch", "stopped", "stopped")],
    )
    def test_where_a_limit_applies(self, applies, at, below):
        asked = self.asked(self.stop(applies=applies))
        assert (ask(asked, "ada", "edit", "fees"), ask(asked, "ada", "edit", "winter")) == (at, below)

    def test_a_lift_ends_what_comes_from_further_up(self):
        lift = Limit("lift", "hardship", WRITER, Effect.LIFT)
        asked = self.asked(self.stop(), lift)
        assert ask(asked, "ada", "edit", "hardship") == "allowed"
        assert ask(asked, "ada", "edit", "winter") == "stopped"

    def test_a_lift_beside_a_stop_does_nothing(self):
        asked = self.asked(self.stop("winter"), Limit("lift", "winter", WRITER, Effect.LIFT))
        assert ask(asked, "ada", "edit", "winter") == "stopped"

    def test_a_lift_never_gives(self):
        asked = engine(limits=[Limit("lift", "home", ADA, Effect.LIFT)])
        assert ask(asked, "ada", "edit", "loft") == "not-granted"

    def test_a_limit_speaks_of_actions_not_capabilities(self):
        asked = self.asked(self.stop(actions=frozenset({"publish"})))
        assert ask(asked, "ada", "edit", "winter") == "allowed"

    def test_a_stop_on_a_group_stops_what_came_through_it(self):
        through = self.asked(self.stop(to=CREW), assignments=[give(to=Subject.group("pier-3"))])
        assert ask(through, "ada", "edit", "winter") == "stopped"
        direct = self.asked(self.stop(to=CREW))
        assert ask(direct, "ada", "edit", "winter") == "allowed"

    def test_a_stop_on_the_account_stops_all_of_it(self):
        asked = self.asked(self.stop(to=ADA), assignments=[give(), give("other", id="a2")])
        assert ask(asked, "ada", "edit", "winter") == "stopped"

    def test_for_a_new_node_the_parent_counts_as_an_ancestor(self):
        grants = {"berth.create": "all"}
        for applies, reason in [("node", "allowed"), ("beneath", "stopped")]:
            asked = engine(roles={"writer": grants}, assignments=[give()], limits=[self.stop(applies=applies)])
            new = asked.tree.target("fees").child("berth")
            assert str(asked.decide(Question("ada", "create", new, NOW)).reason) == reason


def test_reach_confines_a_tree_and_an_absent_tree_is_not_confined():
    confined = Account("ada", groups=frozenset({"pier-3"}), reach={"content": frozenset({"fees"})})
    roles = {"writer": EDITS | {"picture.retire": "all"}}
    asked = engine(roles=roles, assignments=[give()], accounts=[confined])
    assert ask(asked, "ada", "edit", "winter") == "allowed"
    assert ask(asked, "ada", "edit", "loft") == "out-of-reach"
    assert ask(asked, "ada", "retire", "quayside") == "allowed"


def test_a_lock_closes_changes_to_that_node_alone():
    roles = {"writer": EDITS | {"berth.history": "all"}, "opener": {"locks.open": "yes"}}
    asked = engine(
        roles=roles,
        assignments=[give(), give("opener", BEN, id="a2"), give(to=BEN, id="a3")],
        locks=[Lock("k", "fees")],
    )
    assert ask(asked, "ada", "edit", "fees") == "locked"
    assert ask(asked, "ada", "history", "fees") == "allowed"
    assert ask(asked, "ada", "edit", "winter") == "allowed"
    assert ask(asked, "ben", "edit", "fees") == "allowed"


def test_moving_asks_the_new_parent_and_everything_beneath():
    roles = {"writer": {"berth.move": "own", "berth.create": "all"}}
    asked = engine(roles=roles, assignments=[give(scope=only(branches=["moorings"]))])
    assert ask(asked, "ada", "move", "fees", to=asked.tree.target("moorings")) == "allowed"
    assert ask(asked, "ada", "move", "fees", to=asked.tree.target("home")) == "out-of-scope"
    assert ask(asked, "ada", "move", "moorings") == "out-of-extent"


class TestParts:
    def asked(self, rule=None, **more):
        roles = {
            "everyone": {"berth.see": "all"},
            "writer": EDITS,
            "reader": Role("reader", {}, builds_on="writer"),
        }
        fields = {("berth", "dues"): rule} if rule else {}
        return engine(**({"roles": roles, "assignments": [give()], "fields": fields} | more))

    def test_a_table_names_the_roles_that_may_see_and_change(self):
        rule = FieldRule("table", {"writer": frozenset({"see-all", "change-own"})})
        asked = self.asked(rule)
        assert ask(asked, None, "see-field", "loft", field="dues") == "field"
        assert ask(asked, "ada", "see-field", "chandlery", field="dues") == "allowed"
        assert ask(asked, "ada", "change-field", "chandlery", field="dues") == "field"
        assert ask(asked, "ada", "change-field", "loft", field="dues") == "allowed"

    def test_rows_add_up_along_the_roles_built_on(self):
        rule = FieldRule("table", {"writer": frozenset({"see-all"})})
        assert (
            ask(self.asked(rule, assignments=[give("reader")]), "ada", "see-field", "loft", field="dues") == "allowed"
        )

    def test_author_only(self):
        asked = self.asked(FieldRule("author"))
        assert ask(asked, "ada", "see-field", "loft", field="dues") == "allowed"
        assert ask(asked, "ada", "see-field", "chandlery", field="dues") == "field"

    def test_a_locked_field(self):
        asked = self.asked(locks=[Lock("k", "loft", field="dues")])
        assert ask(asked, "ada", "change-field", "loft", field="dues") == "locked"
        assert ask(asked, "ada", "change-field", "loft", field="title") == "allowed"

    def test_components_are_listed_whole_and_facets_one_by_one(self):
        writer = Role("writer", EDITS, components=frozenset({"text"}), facets={"table": frozenset({"wording"})})
        asked = self.asked(roles={"writer": writer})
        assert ask(asked, "ada", "insert-component", "loft", component="text") == "allowed"
        assert ask(asked, "ada", "insert-component", "loft", component="table") == "component"
        assert ask(asked, "ada", "change-facet", "loft", component="table", facet="wording") == "allowed"
        assert ask(asked, "ada", "change-facet", "loft", component="table", facet="layout") == "facet"
        assert ask(asked, "ada", "change-facet", "loft", component="text", facet="style") == "allowed"

    def test_a_locked_component(self):
        asked = self.asked(locks=[Lock("k", "loft", component="c1")])
        part = {"component": "text", "facet": "wording"}
        assert ask(asked, "ada", "change-facet", "loft", component_id="c1", **part) == "locked"
        assert ask(asked, "ada", "change-facet", "loft", **part) == "allowed"

    def test_arranging_a_component_asks_what_inserting_it_asks_and_its_lock(self):
        writer = Role("writer", EDITS, components=frozenset({"text"}))
        asked = self.asked(roles={"writer": writer}, locks=[Lock("k", "loft", component="c1")])
        may = [
            ask(asked, "ada", "arrange-component", "loft", component=component, component_id=id)
            for component, id in (("text", "c2"), ("text", "c1"), ("table", "c2"), ("table", "c1"))
        ]
        assert may == ["allowed", "locked", "component", "locked"]
        assert ask(asked, "ben", "arrange-component", "loft", component="text") == "not-granted"

    def test_a_profile_is_its_own_authors_and_no_limit_touches_it(self):
        stop = Limit("l", "home", ADA, Effect.STOP)
        asked = engine(roles={"signed-in": {"account.see": "all", "account.edit": "own"}}, limits=[stop])
        assert asked.decide(Question("ada", "edit", profile("ada"), NOW)).allow
        assert not asked.decide(Question("ada", "edit", profile("ben"), NOW)).allow


def test_the_trail_names_what_decided():
    asked = engine(
        roles={"writer": EDITS},
        assignments=[give(to=CREW)],
        limits=[Limit("l1", "fees", WRITER, Effect.STOP)],
    )
    decision = asked.decide(Question("ada", "edit", asked.tree.target("winter"), NOW), trail=True)
    [bars, grants] = decision.trail
    assert bars.passed
    [finding] = grants.findings
    assert (finding.id, finding.role, finding.group, finding.limits) == ("a1", "writer", "tenants", ("l1",))


def test_one_engine_asked_at_two_times_answers_for_each():
    """What is given counts from its beginning until its end, whatever the engine was asked before (§3)."""
    grants = {"berth.edit": "all", "berth.edit-live": "all"}
    soon, late = NOW + timedelta(hours=1), NOW + timedelta(hours=2)
    asked = engine(roles={"writer": grants}, assignments=[replace(give(), period=Period(soon, late))])
    question = Question("ada", "edit", asked.tree.target("loft"), NOW)
    for at, allow in ((NOW, False), (soon, True), (NOW, False), (late, False), (soon, True)):
        assert asked.decide(replace(question, at=at)).allow == allow
        [[[surveyed]]] = asked.surveyor.allowed(["ada"], ["loft"], ["edit"], at).tolist()
        assert surveyed == allow
