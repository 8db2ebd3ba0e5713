"""Sentences of the rules that are easily passed over, each with an example (§2 to §7)."""

from dataclasses import replace

import pytest

from gonfalon.core import Engine, Question, Unreadable
from gonfalon.core.model.policy import ANYWHERE, Account, DirectGrant, FieldRule, Limit, Lock, Role, Subject
from gonfalon.core.model.tree import Tree, profile
from gonfalon.core.model.vocabulary import CHANGING, Effect, Kind
from tests.core.harbour import ADA, BEN, CREW, EDITS, NODES, NOW, WRITER, ask, ask_new, engine, give, harbour, only


def limit(effect, node="moorings", to=WRITER, *, id="l", applies="branch", actions=None):
    return Limit(id, node, to, effect, applies, None if actions is None else frozenset(actions))


class TestCapabilities:
    @pytest.mark.parametrize("action", ["publish", "retire", "remove", "move", "history", "restore"])
    def test_every_other_action_asks_its_own_capability(self, action):
        asked = engine(roles={"writer": {f"berth.{action}": "all"}}, assignments=[give()])
        assert ask(asked, "ada", action, "winter") == "allowed"
        assert ask(asked, "ada", "restore" if action == "move" else "move", "winter") == "not-granted"

    def test_a_placed_capability_is_asked_by_its_own_key_and_yes_covers_every_target(self):
        asked = engine(roles={"writer": {"discussion.moderate": "yes"}}, assignments=[give()])
        assert [ask(asked, "ada", "discussion.moderate", n) for n in ("home", "quayside")] == ["allowed", "allowed"]

    @pytest.mark.parametrize("extent", ["own", "team"])
    def test_a_node_without_author_is_nobodys_and_a_visitor_is_nobodys_author(self, extent):
        asked = engine(roles={"everyone": {"berth.see": extent}})
        assert ask(asked, "ada", "see", "moorings") == "out-of-extent"
        assert ask(asked, None, "see", "moorings") == ask(asked, None, "see", "loft") == "out-of-extent"

    def test_what_a_role_builds_on_speaks_where_it_says_nothing_and_so_on_up(self):
        roles = {"a": {"berth.retire": "all"}, "b": Role("b", {}, "a"), "writer": Role("writer", {}, "b")}
        assert ask(engine(roles=roles, assignments=[give()]), "ada", "retire", "loft") == "allowed"

    def test_a_failure_to_edit_what_is_public_is_live_only_where_it_is_not_given(self):
        roles = {"writer": {"berth.edit": "all"}}
        stopped = {"writer": EDITS, "other": {"berth.edit": "all"}}
        barred = {"everyone": {"berth.edit-live": "barred"}, "writer": EDITS}
        assert ask(engine(roles=roles, assignments=[give()]), "ada", "edit", "loft") == "live"
        stops = [limit(Effect.STOP)]
        both = [give(), give("other", id="a2")]
        assert ask(engine(roles=stopped, assignments=both, limits=stops), "ada", "edit", "loft") == "live"
        assert ask(engine(roles=barred, assignments=[give()]), "ada", "edit", "loft") == "barred"


class TestScope:
    @pytest.mark.parametrize(
        ("scope", "topics", "reason"),
        [
            (only(topics=["tides"]), ["tides", "trade"], "allowed"),
            (only(topics=["tides"]), [], "out-of-scope"),
            (only(branches=["fees"]), [], "allowed"),
            (only(branches=["loft"]), [], "out-of-scope"),
            (only(types=["notice"]), [], "out-of-scope"),
            (only(sites=["quay"]), [], "allowed"),
            (only(sites=["regatta"]), [], "out-of-scope"),
        ],
    )
    def test_a_new_node_lies_where_its_parent_does_with_its_own_type_and_topics(self, scope, topics, reason):
        asked = engine(roles={"writer": {"berth.create": "all"}}, assignments=[give(scope=scope)])
        assert ask_new(asked, "ada", "berth", "fees", topics) == reason

    def test_an_opening_bar_holds_whatever_its_scope_says(self):
        roles = {"writer": {"desk.open": "yes"}, "never": {"desk.open": "barred"}}
        barring = give("never", id="a2", scope=only(branches=[]))
        assert ask(engine(roles=roles, assignments=[give(), barring]), "ada", "desk.open") == "barred"

    def test_topics_change_only_where_the_page_may_be_edited_with_both(self):
        scope = only(topics=["trade"])
        asked = engine(roles={"writer": EDITS}, assignments=[give(scope=scope)])
        assert ask(asked, "ada", "edit", "chandlery", topics=frozenset({"trade", "tides"})) == "allowed"
        assert ask(asked, "ada", "edit", "chandlery", topics=frozenset({"tides"})) == "out-of-scope"


class TestDecision:
    def test_a_bar_answers_even_where_nothing_is_given(self):
        asked = engine(direct=[DirectGrant("d", CREW, "berth.retire", "barred")])
        assert ask(asked, "ada", "retire", "loft") == "barred"
        assert ask(asked, None, "retire", "loft") == "not-granted"

    @pytest.mark.parametrize("to", [ADA, CREW, Subject.role("base"), WRITER])
    def test_a_bar_may_name_the_account_its_groups_and_the_roles_built_on(self, to):
        roles = {"base": {}, "writer": Role("writer", EDITS, "base")}
        asked = engine(roles=roles, assignments=[give()], limits=[limit(Effect.BAR, to=to)])
        assert ask(asked, "ada", "edit", "loft") == "barred"

    @pytest.mark.parametrize(
        ("to", "given_to"), [(Subject.role("base"), ADA), (CREW, Subject.group("pier-3")), (CREW, CREW)]
    )
    def test_a_stop_may_name_a_role_built_on_or_a_group_above(self, to, given_to):
        roles = {"base": {}, "writer": Role("writer", EDITS, "base")}
        asked = engine(roles=roles, assignments=[give(to=given_to)], limits=[limit(Effect.STOP, to=to)])
        assert ask(asked, "ada", "edit", "loft") == "stopped"

    def test_a_bar_of_a_role_out_of_its_scope_is_none(self):
        given = [give(scope=only(branches=["fees"])), give("other", id="a2")]
        asked = engine(roles={"writer": {}, "other": EDITS}, assignments=given, limits=[limit(Effect.BAR)])
        assert ask(asked, "ada", "edit", "loft") == "allowed"
        assert ask(asked, "ada", "edit", "winter") == "barred"

    def test_the_accounts_own_stop_comes_before_its_reach(self):
        confined = Account("ada", reach={"content": frozenset()})
        said = {"roles": {"writer": EDITS}, "assignments": [give()], "accounts": [confined]}
        assert ask(engine(**said), "ada", "edit", "loft") == "out-of-reach"
        assert ask(engine(**said, limits=[limit(Effect.STOP, to=ADA)]), "ada", "edit", "loft") == "stopped"

    def test_a_new_node_is_within_reach_where_its_parent_is(self):
        confined = Account("ada", reach={"content": frozenset({"fees"})})
        asked = engine(roles={"writer": {"berth.create": "all"}}, assignments=[give()], accounts=[confined])
        assert ask_new(asked, "ada", "berth", "fees") == "allowed"
        assert ask_new(asked, "ada", "berth", "moorings") == "out-of-reach"

    def test_reach_and_limits_do_not_touch_what_has_no_target(self):
        confined = Account("ada", reach={"content": frozenset(), "media": frozenset()})
        asked = engine(
            roles={"writer": {"roles.define": "yes", "desk.open": "yes"}},
            assignments=[give()],
            accounts=[confined],
            limits=[limit(Effect.BAR, "home", ADA)],
        )
        assert ask(asked, "ada", "roles.define") == ask(asked, "ada", "desk.open") == "allowed"

    def test_a_lock_closes_the_actions_that_change_and_no_other(self):
        every = {f"berth.{a}": "all" for a in (*CHANGING, "edit-live", "see", "history", "create")}
        asked = engine(roles={"writer": every}, assignments=[give()], locks=[Lock("k", "winter")])
        assert {ask(asked, "ada", action, "winter") for action in CHANGING} == {"locked"}
        assert ask(asked, "ada", "see", "winter") == ask(asked, "ada", "history", "winter") == "allowed"
        assert ask_new(asked, "ada", "berth", "winter") == "allowed"

    def test_opening_locks_is_a_question_of_its_own_by_that_key(self):
        roles = {"writer": EDITS | {"locks.open": "yes"}}
        said = {"roles": roles, "assignments": [give()], "locks": [Lock("k", "winter")]}
        assert ask(engine(**said), "ada", "edit", "winter") == "allowed"
        stopped = engine(**said, limits=[limit(Effect.STOP, actions={"locks.open"})])
        assert ask(stopped, "ada", "edit", "winter") == "locked"
        assert ask(stopped, "ada", "edit", "loft") == "allowed"

    def test_removing_asks_the_same_of_everything_beneath(self):
        asked = engine(roles={"writer": {"berth.remove": "own"}}, assignments=[give()])
        assert ask(asked, "ada", "remove", "fees") == "allowed"
        closed = engine(roles={"writer": {"berth.remove": "own"}}, assignments=[give()], locks=[Lock("k", "winter")])
        assert ask(closed, "ada", "remove", "fees") == "locked"


class TestLimitInForce:
    ROLES = {"writer": EDITS | {"berth.see": "all", "notice.see-draft": "all", "discussion.moderate": "yes"}}

    def asked(self, *limits):
        return engine(roles=self.ROLES, assignments=[give()], limits=limits)

    def test_every_action_counts_placed_ones_too(self):
        asked = self.asked(limit(Effect.STOP))
        assert ask(asked, "ada", "discussion.moderate", "loft") == "stopped"

    def test_whatever_see_asks_a_limit_says_see(self):
        asked = self.asked(limit(Effect.STOP, "home", actions={"see"}))
        assert ask(asked, "ada", "see", "draft") == ask(asked, "ada", "see", "loft") == "stopped"

    def test_stops_and_bars_add_up_from_above(self):
        bar, stop = limit(Effect.BAR, "home"), limit(Effect.STOP, "fees", id="s")
        assert ask(self.asked(bar, stop), "ada", "edit", "winter") == "barred"

    def test_a_lift_ends_a_bar_from_further_up_too(self):
        asked = self.asked(limit(Effect.BAR, "home"), limit(Effect.LIFT, "fees", id="u"))
        assert ask(asked, "ada", "edit", "winter") == "allowed"
        assert ask(asked, "ada", "edit", "loft") == "barred"

    def test_a_lift_further_up_ends_no_stop_below_it(self):
        asked = self.asked(limit(Effect.LIFT, "home"), limit(Effect.STOP, "fees", id="s"))
        assert ask(asked, "ada", "edit", "winter") == "stopped"

    def test_a_lift_where_it_does_not_apply_ends_nothing(self):
        asked = self.asked(limit(Effect.STOP), limit(Effect.LIFT, "fees", id="u", applies="node"))
        assert ask(asked, "ada", "edit", "fees") == "allowed"
        assert ask(asked, "ada", "edit", "winter") == "stopped"


class TestRoots:
    """Whoever passes `site.settings` makes the roots of trees; nothing else that is given does."""

    SETTINGS = {"site.settings": Kind.SITEWIDE}

    def asked(self, grants, scope=ANYWHERE):
        policy = harbour(roles={"writer": grants}, assignments=[give(scope=scope)])
        return Engine(replace(policy, capabilities={**policy.capabilities, **self.SETTINGS}), Tree.build(NODES))

    @pytest.mark.parametrize(
        ("scope", "allowed"), [(ANYWHERE, True), (only(branches=["home"]), False), (only(types=["notice"]), False)]
    )
    def test_site_settings_are_a_matter_of_the_whole_site(self, scope, allowed):
        asked = self.asked({"site.settings": "yes"}, scope)
        assert asked.decide({"account": "ada", "action": "site.settings"}).allow == allowed

    def test_a_page_that_is_created_lies_under_another(self):
        asked = self.asked({"notice.create": "all", "site.settings": "yes"})
        assert asked.decide({"account": "ada", "action": "create", "type": "notice", "node": "home"}).allow
        with pytest.raises(Unreadable):
            asked.decide({"account": "ada", "action": "create", "type": "notice", "node": None})


class TestPartsOfANode:
    def test_the_fields_lock_comes_before_its_rule(self):
        rule, locks = FieldRule("table", {}), [Lock("k", "loft", field="dues")]
        said = {"roles": {"writer": EDITS}, "assignments": [give()], "fields": {("berth", "dues"): rule}}
        assert ask(engine(**said), "ada", "change-field", "loft", field="dues") == "field"
        assert ask(engine(**said, locks=locks), "ada", "change-field", "loft", field="dues") == "locked"
        assert ask(engine(**said, locks=locks), "key", "change-field", "loft", field="dues") == "allowed"

    def test_filling_asks_create_and_passes_where_only_authors_may_see(self):
        said = {"assignments": [give()], "fields": {("berth", "dues"): FieldRule("author")}}
        filling = {"action": "fill-field", "field": "dues"}
        asked = engine(roles={"writer": {"berth.create": "all"}}, **said)
        assert ask_new(asked, "ada", "berth", "fees", **filling) == "allowed"
        assert ask_new(asked, "ben", "berth", "fees", **filling) == "not-granted"
        table = engine(
            roles={"writer": {"berth.create": "all"}},
            assignments=[give()],
            fields={("berth", "dues"): FieldRule("table", {"writer": frozenset({"see-all"})})},
        )
        assert ask_new(table, "ada", "berth", "fees", **filling) == "field"

    def test_who_may_see_private_fields_passes_where_only_authors_may(self):
        roles = {"everyone": {"berth.see": "all"}, "writer": {"fields.private": "yes"}}
        author = {("berth", "dues"): FieldRule("author")}
        asked = engine(roles=roles, assignments=[give(to=BEN)], fields=author)
        assert ask(asked, "ben", "see-field", "loft", field="dues") == "allowed"
        assert ask(asked, "cy", "see-field", "loft", field="dues") == "field"

    def test_a_row_counts_where_its_role_is_kept_even_where_that_is_stopped(self):
        roles = {"everyone": {"berth.see": "all"}, "writer": {}}
        rule = {("berth", "dues"): FieldRule("table", {"writer": frozenset({"see-all"})})}
        asked = engine(
            roles=roles, assignments=[give(scope=only(branches=["fees"]))], fields=rule, limits=[limit(Effect.STOP)]
        )
        assert ask(asked, "ada", "see-field", "winter", field="dues") == "allowed"
        assert ask(asked, "ada", "see-field", "loft", field="dues") == "field"

    def test_components_count_only_of_sources_that_reach_the_top(self):
        roles = {"writer": Role("writer", EDITS, components=frozenset()), "other": {"berth.edit": "all"}}
        given = [give(), give("other", id="a2")]
        part = {"component": "text"}
        assert ask(engine(roles=roles, assignments=given), "ada", "insert-component", "loft", **part) == "allowed"
        stop = limit(Effect.STOP, to=Subject.role("other"))
        stopped = engine(roles=roles, assignments=given, limits=[stop])
        assert ask(stopped, "ada", "insert-component", "loft", **part) == "component"

    def test_a_direct_grant_allows_all_components(self):
        direct = [DirectGrant("d1", ADA, "berth.edit", "all"), DirectGrant("d2", ADA, "berth.edit-live", "all")]
        assert ask(engine(direct=direct), "ada", "insert-component", "loft", component="table") == "allowed"

    def test_limits_reach_and_locks_do_not_touch_a_profile(self):
        asked = engine(
            roles={"signed-in": {"account.edit": "team"}},
            accounts=[Account("ada", groups=frozenset({"pier-3"}), reach={"content": frozenset()})],
            limits=[limit(Effect.BAR, "home", ADA)],
            locks=[Lock("k", "home")],
        )
        about = [asked.decide(Question("ada", "edit", profile(id), NOW)).reason for id in ("ada", "ben", "cy")]
        assert [str(reason) for reason in about] == ["allowed", "allowed", "out-of-extent"]
