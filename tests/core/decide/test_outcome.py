"""What a role comes to for a capability, held beside what somebody who holds it may really do."""

from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, Question
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.decide.outcome import Outcomes
from gonfalon.core.model.policy import Account, Assignment, Role, Subject
from gonfalon.core.model.vocabulary import VERBS
from tests.core.harbour import NOW, harbour
from tests.core.strategies import GRADED, NODE_IDS, ROLES, TREE, policies
from tests.examples import examples


def outcome(own=None, above=None, everyone=None, signed_in=None, *, role="lead", capability="berth.edit"):
    def saying(word):
        return {} if word is None else {capability: word}

    policy = harbour(
        roles={
            "everyone": saying(everyone),
            "signed-in": saying(signed_in),
            "writer": saying(above),
            "lead": Role("lead", saying(own), "writer"),
        }
    )
    return Outcomes(RoleResolver(policy), role).of(capability)


@pytest.mark.parametrize(
    ("said", "counts"),
    [
        ({}, (None, "own", None)),
        ({"own": "team"}, ("team", "own", "lead")),
        ({"above": "team"}, ("team", "built-on", "writer")),
        ({"own": "own", "above": "all"}, ("own", "own", "lead")),
        ({"own": "withheld", "above": "all"}, ("withheld", "own", "lead")),
        ({"above": "withheld"}, ("withheld", "built-on", "writer")),
        ({"everyone": "own", "signed_in": "team"}, ("team", "baseline", "signed-in")),
        ({"own": "own", "everyone": "all"}, ("all", "baseline", "everyone")),
        ({"own": "all", "everyone": "all"}, ("all", "own", "lead")),
        ({"own": "withheld", "everyone": "own"}, ("own", "baseline", "everyone")),
        ({"everyone": "withheld"}, (None, "own", None)),
        ({"own": "all", "signed_in": "barred"}, ("barred", "baseline", "signed-in")),
        ({"own": "barred", "everyone": "barred"}, ("barred", "own", "lead")),
        ({"above": "barred", "everyone": "all"}, ("barred", "built-on", "writer")),
        ({"own": "all", "above": "barred"}, ("all", "own", "lead")),
    ],
)
def test_what_counts_and_whence_it_comes(said, counts):
    told = outcome(**said)
    assert (told.says, told.source, told.by) == counts
    assert told.given == (told.says in ("own", "team", "all"))


def test_the_baseline_counts_for_whom_it_reaches():
    """What every account has is nothing that visitors have; what visitors have, every account has too."""
    assert outcome(signed_in="all", role="everyone").says is None
    assert outcome(everyone="all", role="signed-in")[:3] == ("all", "baseline", "everyone")


def test_any_extent_makes_new_pages():
    making = outcome("own", everyone="all", capability="berth.create")
    assert (making.says, making.source, making.form) == ("own", "own", "create")
    assert outcome("yes", capability="roles.define").form == "yes"
    assert outcome(capability="roles.define").form == "nothing"


def test_each_kind_of_capability_has_its_words():
    outcomes = Outcomes(RoleResolver(harbour(roles={"writer": {}})), "writer")
    assert outcomes.words("berth.edit") == (None, "own", "team", "all", "withheld", "barred")
    assert outcomes.words("desk.open") == (None, "yes", "withheld", "barred")


ASKED = [c for c in GRADED if not c.startswith("account") and c.split(".")[1] not in ("see-draft", "edit", "edit-live")]


@settings(max_examples=examples(120), suppress_health_check=list(HealthCheck))
@given(policies(), st.sampled_from(ROLES[1:]), st.sampled_from(ASKED), st.sampled_from(["own", "team", "all", None]))
def test_it_is_what_somebody_may_who_holds_the_role_alone(policy, role, capability, word):
    """Held everywhere by an account in no group, under no limit: it may what the outcome gives, and nothing more."""
    type, _, verb = capability.partition(".")
    grants = {c: says for c, says in policy.roles[role].grants.items() if c != capability}
    said = Role(role, grants | ({} if word is None else {capability: word}), policy.roles[role].builds_on)
    alone = replace(
        policy,
        roles={**policy.roles, role: said},
        accounts={**policy.accounts, "dee": Account("dee")},
        assignments={"it": Assignment("it", role, Subject.account("dee"))} if role != "signed-in" else {},
        direct_grants={},
        limits={},
        locks={},
    )
    counts = Outcomes(RoleResolver(policy), role).if_said(capability, word)
    assert counts == Outcomes(RoleResolver(alone), role).of(capability)
    if verb in ("remove", "move") or verb not in VERBS:
        return
    engine = Engine(alone, TREE)
    for node in (TREE.target(id) for id in NODE_IDS):
        target = node.child(type) if verb == "create" else node
        if target.type == type and (verb != "see" or target.state == "published"):
            may = engine.decide(Question("dee", verb, target, NOW)).allow
            assert may == (counts.given if verb == "create" else counts.says == "all")
