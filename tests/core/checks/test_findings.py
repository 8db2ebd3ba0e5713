"""Each warning with what earns it, and something close to it that does not."""

from dataclasses import replace

import pytest

from gonfalon.core.checks.findings import review
from gonfalon.core.model.policy import ANYWHERE, Account, Assignment, DirectGrant, Limit, Role, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import ADA, NODES, WRITER, give, harbour


def warned(**said):
    """What is warned of, by pointer; the harbour itself has a keyholder and nothing to warn of."""
    policy = replace(harbour(**said), tree=Tree.build(NODES))
    return {fault.pointer: fault.message for fault in review(policy)}


def scope(**lists):
    return Scope(**{name: frozenset(ids) for name, ids in lists.items()})


def direct(capability, where=ANYWHERE, *, to=ADA, says="all"):
    return warned(direct=[DirectGrant("d", to, capability, says, where)])


def limited(*limits):
    return warned(limits=limits, roles={"writer": {}})


def limit(effect, node, id="l", to=WRITER, applies="branch", actions=None):
    return Limit(id, node, to, effect, applies, actions)


def test_the_harbour_is_as_it_should_be():
    assert warned() == {}


class TestKeyholders:
    def test_one_who_is_disabled_does_not_count(self):
        assert warned(accounts=[Account("key", "disabled", keyholder=True)]) == {
            "/accounts": "no active account is a keyholder"
        }
        assert warned(accounts=[Account("key", "disabled", keyholder=True), Account("two", keyholder=True)]) == {}

    def test_what_is_given_to_one_alone_never_matters(self):
        assert "a keyholder may do everything" in direct("berth.edit", to=Subject.account("key"))["/direct_grants/0"]
        assert direct("berth.edit", to=Subject.group("tenants")) == {}


class TestScopes:
    @pytest.mark.parametrize("name", ["sites", "branches", "types", "topics"])
    def test_an_empty_list_covers_nothing(self, name):
        told = warned(roles={"writer": {}}, assignments=[give(scope=scope(**{name: ()}))])
        assert told == {f"/assignments/0/scope/{name}": "an empty list covers nothing"}

    @pytest.mark.parametrize(("says", "word"), [("yes", "given"), ("barred", "barred")])
    def test_what_is_about_the_whole_site_never_counts_within_a_branch(self, says, word):
        roles = {"writer": {"roles.define": says}}
        told = warned(roles=roles, assignments=[give(scope=scope(branches=["moorings"]))])
        assert told == {
            "/assignments/0/scope": f"roles.define is {word} here and never counts: it is about the whole site"
        }
        assert warned(roles=roles, assignments=[give(scope=scope(sites=["quay"]))]) == {}

    def test_several_of_one_role_are_told_together(self):
        writer = {"roles.define": "yes", "impersonate.start": "yes", "desk.open": "yes", "berth.edit": "own"}
        told = warned(roles={"writer": writer}, assignments=[give(scope=scope(branches=["moorings"]))])
        assert told == {
            "/assignments/0/scope": "impersonate.start and roles.define are given here and never count: "
            "they are about the whole site"
        }

    def test_nor_where_the_role_it_builds_on_says_so_but_it_does_where_that_is_withheld(self):
        base = Role("base", {"roles.define": "yes"})
        within = [give(scope=scope(types=["berth"]))]
        building = {"base": base, "writer": Role("writer", {}, "base")}
        assert "/assignments/0/scope" in warned(roles=building, assignments=within)
        withheld = Role("writer", {"roles.define": "withheld"}, "base")
        assert warned(roles={"base": base, "writer": withheld}, assignments=within) == {}

    def test_nor_given_directly(self):
        assert "/direct_grants/0/scope" in direct("roles.define", scope(topics=["tides"]), says="yes")


class TestDirectGrants:
    @pytest.mark.parametrize(
        ("capability", "where", "why"),
        [
            ("berth.edit", {"types": ["notice"]}, "leaves out the type “berth”"),
            ("account.see", {"sites": ["quay"]}, "a profile lies on no site"),
            ("account.see", {"branches": ["home"]}, "a profile lies on no site"),
            ("picture.see", {"branches": ["moorings", "home"]}, "in another tree than the type “picture”"),
            ("berth.edit", {"branches": ["moorings"], "sites": ["regatta"]}, "on none of its sites"),
        ],
    )
    def test_some_cover_nothing_there_could_be(self, capability, where, why):
        assert why in direct(capability, scope(**where))["/direct_grants/0/scope"]

    @pytest.mark.parametrize(
        ("capability", "where"),
        [
            ("berth.edit", {"types": ["notice", "berth"]}),
            ("account.see", {}),
            ("picture.see", {"branches": ["moorings", "pictures"]}),
            ("berth.edit", {"branches": ["moorings"], "sites": ["regatta", "quay"]}),
            ("discussion.moderate", {"types": ["notice"]}),
        ],
    )
    def test_others_cover_something(self, capability, where):
        assert direct(capability, scope(**where)) == {}


class TestLimits:
    def test_none_touches_a_keyholder(self):
        told = limited(limit(Effect.STOP, "home", to=Subject.account("key")))
        assert told == {"/limits/0": "this can never matter: no limit touches a keyholder"}

    def test_one_at_a_node_alone_never_meets_what_is_created_there(self):
        create = frozenset({"create"})
        assert "does not exist yet" in limited(limit(Effect.STOP, "home", applies="node", actions=create))["/limits/0"]
        assert limited(limit(Effect.STOP, "home", applies="branch", actions=create)) == {}
        assert limited(limit(Effect.STOP, "home", applies="node", actions=create | {"edit"})) == {}

    @pytest.mark.parametrize(
        "above",
        [
            limit(Effect.LIFT, "moorings", "above"),
            limit(Effect.STOP, "moorings", "above", to=ADA),
            limit(Effect.STOP, "moorings", "above", applies="node"),
            limit(Effect.STOP, "chandlery", "above"),
            limit(Effect.STOP, "loft", "above"),
            limit(Effect.STOP, "moorings", "above", actions=frozenset({"see"})),
        ],
    )
    def test_a_lift_with_nothing_to_lift(self, above):
        lift = limit(Effect.LIFT, "loft", actions=frozenset({"edit"}))
        assert limited(above, lift)["/limits/1"].endswith("there is no stop or bar above it to lift")

    @pytest.mark.parametrize("effect", [Effect.STOP, Effect.BAR])
    @pytest.mark.parametrize("actions", [None, frozenset({"edit", "publish"})])
    def test_a_lift_with_something_to_lift(self, effect, actions):
        lift = limit(Effect.LIFT, "loft", actions=frozenset({"edit"}))
        assert limited(limit(effect, "moorings", "above", applies="beneath", actions=actions), lift) == {}


def test_an_assignment_of_a_role_that_is_gone_is_left_to_the_reader_of_documents():
    assert warned(assignments=[Assignment("a", "nothing", ADA, scope(branches=["home"]))]) == {}
