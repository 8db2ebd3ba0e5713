"""What must hold for every policy, whatever is said in it."""

from dataclasses import replace

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Assignment, Limit, Scope, Subject
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import NODES, NOW
from tests.core.strategies import NODE_IDS, TREE, anyone, policies
from tests.examples import examples

ACTIONS = ["see", "edit", "publish", "remove", "history", "create:berth", "discussion.moderate"]
WHO = [None, "ada", "ben", "cy"]
many = settings(max_examples=examples(60), suppress_health_check=list(HealthCheck))


def allowed(policy):
    return Engine(policy, TREE).surveyor.allowed(WHO, None, ACTIONS, NOW)


def without_bars(policy):
    """The same policy with nothing barred in it."""
    roles = {
        key: replace(role, grants={c: says for c, says in role.grants.items() if says != "barred"})
        for key, role in policy.roles.items()
    }
    limits = {id: limit for id, limit in policy.limits.items() if limit.effect is not Effect.BAR}
    return replace(policy, roles=roles, limits=limits)


@many
@given(policies(), st.sampled_from(["writer", "lead", "guest"]))
def test_one_more_role_never_takes_anything_away_unless_it_bars(policy, role):
    policy = without_bars(policy)
    more = Assignment("more", role, Subject.account("ada"))
    after = replace(policy, assignments={**policy.assignments, "more": more})
    assert (allowed(after) >= allowed(policy)).all()


@many
@given(policies(), st.sampled_from(NODE_IDS), anyone, st.sampled_from([Effect.STOP, Effect.BAR]))
def test_a_stop_or_bar_never_gives(policy, node, to, effect):
    limit = Limit("more", node, to, effect)
    after = replace(policy, limits={**policy.limits, "more": limit})
    assert (allowed(after) <= allowed(policy)).all()


@many
@given(policies(), st.sampled_from(NODE_IDS), anyone)
def test_a_lift_alone_never_gives_what_no_limit_took(policy, node, to):
    bare = replace(policy, limits={})
    lifted = replace(policy, limits={"more": Limit("more", node, to, Effect.LIFT)})
    assert (allowed(lifted) == allowed(bare)).all()


@many
@given(policies(), st.sampled_from(NODE_IDS), st.sampled_from(["writer", "lead"]))
def test_a_narrower_scope_never_gives_more(policy, branch, role):
    policy = without_bars(policy)

    def given_within(scope):
        more = Assignment("more", role, Subject.account("cy"), scope)
        return allowed(replace(policy, assignments={**policy.assignments, "more": more}))

    wide, narrow = given_within(Scope()), given_within(Scope(branches=frozenset({branch})))
    narrower = given_within(Scope(branches=frozenset({branch}), sites=frozenset({"quay"})))
    assert (narrow <= wide).all()
    assert (narrower <= narrow).all()


@many
@given(policies())
def test_a_group_above_a_branch_of_one_holds_as_the_account_would(policy):
    """Given to the group one is alone in, a role gives what it gives to oneself, where no limit names the group."""
    policy = replace(policy, limits={})

    def given_to(subject):
        more = Assignment("more", "writer", subject)
        return allowed(replace(policy, assignments={**policy.assignments, "more": more}))[WHO.index("cy")]

    assert (given_to(Subject.group("pier-5")) == given_to(Subject.account("cy"))).all()


def test_the_harbour_is_large_enough_to_tell_things_apart():
    assert len({node.type for node in NODES}) == 3
    assert len({node.site for node in NODES}) == 2
    assert any(node.topics for node in NODES)
    assert any(node.state == "draft" for node in NODES)
