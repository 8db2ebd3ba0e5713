"""From a no to a yes: the smallest changes that turn an answer, and that nothing smaller does."""

from dataclasses import replace
from itertools import combinations

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, Question
from gonfalon.core.checks.turning import NEW, ways
from gonfalon.core.model.policy import (
    ANYWHERE,
    Account,
    Assignment,
    DirectGrant,
    FieldRule,
    Limit,
    Lock,
    Role,
    Scope,
    Subject,
)
from gonfalon.core.model.vocabulary import Effect, Reason
from gonfalon.core.operations import (
    DropLimit,
    GiveCapability,
    GiveRole,
    OpenLock,
    SetAnswer,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetReach,
    apply,
)
from tests.core.harbour import NOW, engine
from tests.core.strategies import NODE_IDS, TREE, policies
from tests.examples import examples

EDIT = {"berth.edit": "all", "berth.edit-live": "all"}
CY = Subject.account("cy")
TO_CY = Assignment("a1", "writer", CY)
WRITER = Subject.role("writer")
HERE = Scope(branches=frozenset({"loft"}))


def turning(asked, action="edit", node="loft", who="cy", **parts):
    return ways(asked, Question(who, action, TREE.target(node), NOW, **parts))


def given_here(capability, says="all", id=NEW, scope=HERE):
    return GiveCapability(DirectGrant(id, CY, capability, says, scope))


def test_what_is_missing_is_given_to_this_person_here_then_a_role_here():
    asked = engine(roles={"writer": EDIT, "reader": {"berth.see": "all"}})
    assert turning(asked) == [
        (GiveRole(Assignment(NEW, "writer", CY, HERE)),),
        (given_here("berth.edit"), given_here("berth.edit-live", id=f"{NEW}-1")),
    ]


def test_what_is_given_reaches_no_longer_than_it_must():
    """Cy is nobody's team mate here, but the author of the races."""
    asked = engine()
    races = Scope(branches=frozenset({"races"}))
    assert turning(asked, "remove", "races") == [(given_here("notice.remove", "own", scope=races),)]
    assert turning(asked, "remove", "fees") == [
        (given_here("berth.remove", "all", scope=Scope(branches=frozenset({"fees"}))),)
    ]


def test_an_extent_is_widened_and_only_what_a_role_lacks_is_added():
    own = {"berth.edit": "own", "berth.edit-live": "own"}
    asked = engine(roles={"writer": own}, assignments=[TO_CY])
    assert (SetAnswer("writer", "berth.edit", "all"), SetAnswer("writer", "berth.edit-live", "all")) in turning(asked)
    asked = engine(roles={"writer": {"berth.edit": "all"}}, assignments=[TO_CY])
    assert turning(asked) == [(given_here("berth.edit-live"),), (SetAnswer("writer", "berth.edit-live", "all"),)]


def test_a_scope_or_a_reach_is_widened_by_one_branch():
    elsewhere = replace(TO_CY, scope=Scope(branches=frozenset({"fees"}), sites=frozenset({"regatta"})))
    asked = engine(roles={"writer": EDIT}, assignments=[elsewhere])
    wider = Scope(branches=frozenset({"fees", "loft"}), sites=frozenset({"regatta", "quay"}))
    assert (GiveRole(replace(elsewhere, scope=wider)),) in turning(asked)
    confined = Account("cy", groups=frozenset({"pier-5"}), reach={"content": frozenset({"fees"})})
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], accounts=[confined])
    assert turning(asked) == [(SetReach("cy", "content", frozenset({"fees", "loft"})),)]


def test_a_scope_by_topics_is_widened_by_those_of_the_page():
    about = replace(TO_CY, scope=Scope(topics=frozenset({"tides"})))
    asked = engine(roles={"writer": EDIT}, assignments=[about])

    def wider(node):
        return [w[0].assignment.scope for w in turning(asked, node=node) if isinstance(w[0], GiveRole)]

    assert wider("chandlery") == [Scope(topics=frozenset({"tides", "trade"}))]
    assert wider("loft") == [ANYWHERE], "a page without topics lies in no scope by topics"


def test_a_limit_further_up_is_lifted_here_for_whom_it_was_set_and_for_what_is_asked():
    limit = Limit("l1", "home", WRITER, Effect.STOP, actions=frozenset({"edit", "create"}))
    asked = engine(roles={"writer": {**EDIT, "berth.create": "all"}}, assignments=[TO_CY], limits=[limit])
    lift = SetLimit(Limit(NEW, "loft", WRITER, Effect.LIFT, "node", frozenset({"edit"})))
    assert (lift,) in turning(asked, "insert-component", component="text")
    new = ways(asked, Question("cy", "create", TREE.target("loft").child("berth"), NOW))
    assert (SetLimit(replace(lift.limit, applies="beneath", actions=frozenset({"create"}))),) in new


def test_a_limit_at_the_place_itself_lets_go_of_what_is_asked_here_and_keeps_the_rest():
    limit = Limit("l1", "loft", WRITER, Effect.STOP, "branch", frozenset({"edit", "remove"}))
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[limit])
    less = SetLimit(replace(limit, actions=frozenset({"remove"})))
    beneath = SetLimit(replace(limit, id=NEW, applies="beneath", actions=frozenset({"edit"})))
    assert (less, beneath) in turning(asked)
    alone = replace(limit, applies="node", actions=frozenset({"edit"}))
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[alone])
    assert (DropLimit("l1"),) in turning(asked)


def test_limits_on_the_account_itself_are_ended_for_it_alone():
    limits = [
        Limit("l1", "home", CY, Effect.STOP),
        Limit("l2", "moorings", CY, Effect.STOP, actions=frozenset({"edit"})),
    ]
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=limits)
    assert turning(asked) == [(SetLimit(Limit(NEW, "loft", CY, Effect.LIFT, "node", frozenset({"edit"}))),)]


def test_two_obstacles_are_ended_together():
    """What a role does not give, and a limit stops."""
    limit = Limit("l1", "moorings", WRITER, Effect.STOP)
    asked = engine(roles={"writer": {}}, assignments=[TO_CY], limits=[limit])
    lift = SetLimit(Limit(NEW, "loft", WRITER, Effect.LIFT, "node", frozenset({"remove"})))
    assert turning(asked, "remove") == [
        (given_here("berth.remove"),),
        (SetAnswer("writer", "berth.remove", "all"), lift),
    ]
    locked = engine(locks=[Lock("k1", "loft"), Lock("k2", "loft", field="dues")])
    assert (given_here("berth.remove"), OpenLock("k1")) in turning(locked, "remove")


def test_one_lock_or_one_row_of_a_field_is_opened():
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], locks=[Lock("k1", "loft"), Lock("k2", "fees")])
    assert turning(asked) == [(given_here("locks.open", "yes"),), (OpenLock("k1"),)]
    rule = FieldRule("table", {"writer": frozenset({"see-all"})})
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], fields={("berth", "dues"): rule})
    widened = FieldRule("table", {"writer": frozenset({"see-all", "change-all"})})
    assert turning(asked, "change-field", field="dues") == [(SetFieldRule("berth", "dues", widened),)]
    asked = engine(roles={"writer": EDIT}, assignments=[TO_CY], fields={("berth", "dues"): FieldRule("author")})
    assert turning(asked, "change-field", field="dues") == [(given_here("fields.private", "yes"),)]


def test_one_facet_of_one_component_is_opened_for_a_role_or_the_edit_given_whole():
    writer = Role("writer", EDIT, components=frozenset({"table"}), facets={"text": frozenset({"links"})})
    asked = engine(roles={"writer": writer}, assignments=[TO_CY])
    assert turning(asked, "change-facet", component="text", facet="wording") == [
        (given_here("berth.edit"),),
        (SetFacets("writer", "text", frozenset({"links", "wording"})),),
    ]
    assert turning(asked, "insert-component", component="text") == [
        (given_here("berth.edit"),),
        (SetComponents("writer", frozenset({"table", "text"})),),
    ]


def test_of_roles_those_that_say_least_come_first_and_one_that_is_held_is_not_given_again():
    roles = {"wide": {**EDIT, "berth.remove": "all", "notice.edit": "all"}, "narrow": EDIT, "guest": {}}
    asked = engine(roles=roles, assignments=[replace(TO_CY, role="guest")])
    given_roles = [way[0].assignment.role for way in turning(asked) if isinstance(way[0], GiveRole)]
    assert given_roles == ["narrow", "wide"]


def test_what_nobody_in_particular_may_do_is_turned_for_everybody():
    asked = engine(limits=[Limit("l1", "home", Subject.role("everyone"), Effect.STOP)])
    lift = SetLimit(Limit(NEW, "loft", Subject.role("everyone"), Effect.LIFT, "node", frozenset({"see"})))
    assert turning(asked, "see", who=None) == [(SetAnswer("everyone", "berth.see", "all"), lift)]


@pytest.mark.parametrize("action", ["desk.open", "roles.define"])
def test_what_has_no_place_is_given_whole(action):
    asked = engine(roles={"writer": {action: "yes"}})
    assert ways(asked, Question("cy", action, at=NOW)) == [
        (given_here(action, "yes", scope=ANYWHERE),),
        (GiveRole(Assignment(NEW, "writer", CY)),),
    ]


def test_what_is_barred_or_nobody_s_is_not_worked_around():
    bar = Limit("l1", "loft", Subject.group("tenants"), Effect.BAR)
    assert not turning(engine(roles={"writer": EDIT}, assignments=[TO_CY], limits=[bar]))
    live = Limit("l1", "loft", CY, Effect.BAR, actions=frozenset({"publish"}))
    assert not turning(engine(limits=[live]), "publish")
    assert not turning(engine(accounts=[Account("gone", "disabled")]), who="gone")


def test_standing_in_is_turned_only_where_the_duty_is_all_that_lacks():
    roles = {"writer": {"impersonate.start": "yes"}, "guest": {"berth.edit": "own"}}
    asked = Question("cy", "stand-in", subject="ben", at=NOW)
    assert (given_here("impersonate.start", "yes", scope=ANYWHERE),) in ways(engine(roles=roles), asked)
    beyond = engine(roles=roles, assignments=[TO_CY, Assignment("b1", "guest", Subject.account("ben"))])
    assert not ways(beyond, asked)


# -- that each does turn the answer, and nothing smaller does ----------------------------------------

ACTIONS = ("see", "edit", "publish", "remove", "move", "restore", "discussion.moderate")
PARTS = (
    ("see-field", {"field": "title"}),
    ("change-field", {"field": "title"}),
    ("insert-component", {"component": "text"}),
    ("arrange-component", {"component": "text", "component_id": "c1"}),
    ("change-facet", {"component": "text", "facet": "wording", "component_id": "c1"}),
)


@st.composite
def questions(draw):
    action, parts = draw(
        st.sampled_from([*((action, {}) for action in ACTIONS), *PARTS, ("create", {}), ("plain", {})])
    )
    who = draw(st.sampled_from(["ada", "ben", "cy"]))
    if action == "plain":
        return Question(who, draw(st.sampled_from(["desk.open", "roles.define"])), at=NOW)
    target = TREE.target(draw(st.sampled_from(NODE_IDS)))
    if action == "create":
        target = target.child("picture" if target.tree == "media" else "berth")
    if parts.get("field") and target.type == "picture":
        parts = {"field": "alt"}
    return Question(who, action, target, NOW, **parts)


def smaller(operation):
    """The same entry with a shorter extent, or fewer nodes covered; of what is held already nothing is taken."""
    words = ("own", "team", "all")
    made = isinstance(operation, GiveCapability) and operation.grant.id.startswith(NEW)
    if made and operation.grant.says in words:
        for word in words[: words.index(operation.grant.says)]:
            yield GiveCapability(replace(operation.grant, says=word))
    if isinstance(operation, SetAnswer) and operation.says in words:
        for word in words[: words.index(operation.says)]:
            yield replace(operation, says=word)
    if (
        isinstance(operation, SetLimit)
        and operation.limit.effect is Effect.LIFT
        and operation.limit.applies == "branch"
    ):
        for applies in ("node", "beneath"):
            yield SetLimit(replace(operation.limit, applies=applies))


def parts_of(way):
    """Its proper parts, but those that leave out what keeps something closed: they open more."""
    closing = [one for one in way if isinstance(one, SetLimit) and one.limit.effect is not Effect.LIFT]
    for size in range(1, len(way)):
        yield from (part for part in combinations(way, size) if all(one in part for one in closing))


def turns(asked, operations, question):
    return Engine(apply(asked.policy, operations), TREE).decide(question).allow


@settings(max_examples=examples(600), suppress_health_check=[HealthCheck.filter_too_much])
@given(policies(), questions())
def test_each_way_turns_the_answer_and_nothing_smaller_does(policy, question):
    asked = Engine(policy, TREE)
    reason = asked.decide(question).reason
    assume(reason is not Reason.ALLOWED)
    found = ways(asked, question)
    if reason in (Reason.BARRED, Reason.INACTIVE):
        assert not found
    assert all(one not in found[:at] for at, one in enumerate(found))
    for way in found:
        assert turns(asked, way, question)
        for part in parts_of(way):
            assert not turns(asked, part, question), way
        for at, operation in enumerate(way):
            for less in smaller(operation):
                assert not turns(asked, (*way[:at], less, *way[at + 1 :]), question), (way, less)


MISSING = {
    *(Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED),
    *(Reason.LIVE, Reason.COMPONENT, Reason.FACET),
}


@settings(max_examples=examples(600), suppress_health_check=[HealthCheck.filter_too_much])
@given(policies(), questions())
def test_what_is_missing_given_to_this_person_here_is_among_them(policy, question):
    """Wherever all that could be asked, given to them here, would turn the answer by itself."""
    asked = Engine(policy, TREE)
    assume(asked.decide(question).reason in MISSING)
    target = question.target
    scope = ANYWHERE if target is None else Scope(branches=frozenset({target.path[-1]}))
    capabilities = [question.action]
    if target is not None and "." not in question.action:
        types = {node.type for node in TREE.nodes} if question.action in ("remove", "move") else {target.type}
        verb = {"see-field": "see", "fill-field": "create"}.get(
            question.action, "edit" if "-" in question.action else question.action
        )
        verbs = {"see": ("see", "see-draft"), "edit": ("edit", "edit-live")}.get(verb, (verb,))
        capabilities = [f"{type}.{verb}" for type in types for verb in verbs]
    whole = [
        GiveCapability(DirectGrant(f"all-{i}", Subject.account(question.who), capability, "all", scope))
        for i, capability in enumerate(capabilities)
    ]
    assume(turns(asked, whole, question))
    found = ways(asked, question)
    assert any(
        all(
            isinstance(one, GiveCapability)
            and one.grant.to == Subject.account(question.who)
            and one.grant.scope == scope
            for one in way
        )
        for way in found
    ), found
