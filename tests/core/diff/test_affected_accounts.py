"""Who gains and loses is told as an impact tells it, with less asked: `compare` holds both beside each other."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine
from gonfalon.core.diff import subtree_diff
from gonfalon.core.diff.affected_accounts import affected_accounts
from gonfalon.core.diff.node_classes import Places, Side
from gonfalon.core.diff.subtree_diff import SubtreeDiff
from gonfalon.core.model.policy import Account, Assignment, Limit, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import GiveRole, SetAnswer, SetBuildsOn, SetState, apply
from tests.core.diff.test_impact import FEW, compare, tell_apart_any_number
from tests.core.harbour import NOW, harbour
from tests.core.strategies import GRADED, PEOPLE, ROLES, TREE, operations, policies, scopes
from tests.examples import examples

given_to_many = st.builds(
    lambda n, role, to, scope: GiveRole(Assignment(f"more-{n}", role, to, scope)),
    st.integers(0, 9),
    st.sampled_from(ROLES[2:]),
    st.sampled_from(PEOPLE),
    scopes,
)
WORDS = ["barred", "withheld", None, "own", "team", "all"]
REMOVALS = [capability for capability in GRADED if capability.endswith((".remove", ".move"))]
TYPES = ("berth", "notice")
VERBS = ("history", "remove")


def told(before, *changes):
    was = Engine(before, TREE)
    return affected_accounts(was, was.changed(apply(before, changes)), NOW)


@settings(FEW, max_examples=examples(60))
@given(policies(), st.sampled_from(ROLES), st.sampled_from(GRADED), st.sampled_from(WORDS))
def test_one_word_in_one_cell_touches_whom_asking_everything_tells(policy, role, capability, word):
    compare(policy, apply(policy, [SetAnswer(role, capability, word)]))


@pytest.mark.usefixtures("of_many")
@FEW
@given(policies(), st.sampled_from(ROLES[:2]), st.sampled_from(REMOVALS), st.sampled_from(WORDS))
def test_so_does_a_word_of_the_baseline_about_whole_branches(policy, role, capability, word):
    compare(policy, apply(policy, [SetAnswer(role, capability, word)]))


@pytest.fixture
def of_many(monkeypatch):
    """However few, they are asked as many are."""
    tell_apart_any_number(monkeypatch)


@pytest.fixture
def branches_asked(monkeypatch):
    """Which accounts any branch is asked about, as they are."""
    asked = []
    unfailing = subtree_diff.unfailing

    def noting(evaluator, near, words):
        asked.extend(who.id for who in evaluator.holders)
        return unfailing(evaluator, near, words)

    monkeypatch.setattr(subtree_diff, "unfailing", noting)
    return asked


@pytest.mark.usefixtures("of_many")
def test_no_branch_is_asked_about_for_whom_a_node_with_nothing_beneath_turns(branches_asked):
    given = [Assignment("a", "stopped", Subject.account("ada"))]
    before = harbour(roles={"everyone": {}, "stopped": {"berth.remove": "barred"}}, assignments=given)
    affected = told(before, *(SetAnswer("everyone", f"{type}.remove", "all") for type in TYPES))
    assert {"ben", "cy", None} <= affected.gain
    assert branches_asked == []


@pytest.mark.parametrize("many", [True, False])
def test_whoever_is_known_to_gain_is_asked_nothing_more(branches_asked, monkeypatch, many):
    if many:
        tell_apart_any_number(monkeypatch)
    before = harbour(roles={"everyone": {}}, assignments=[], accounts=[Account(f"p{i}") for i in range(30)])
    affected = told(before, *(SetAnswer("everyone", f"{type}.{verb}", "all") for type in TYPES for verb in VERBS))
    assert affected.gain == {None, *before.accounts} - {"key", "gone"}
    assert branches_asked == []


def test_nobody_asked_about_branches_is_nobody_told():
    was = Engine(harbour(), TREE)
    sides = Side(was), Side(was.changed(harbour()))
    assert SubtreeDiff(sides, NOW, ("remove",), Places(TREE, None)).turns([]) == {}


def test_what_may_turn_is_told_by_account_action_and_kind_of_node():
    before = harbour(roles={"everyone": {}, "writer": {"berth.edit": "all"}}, assignments=[])
    affected = told(before, SetAnswer("everyone", "berth.history", "all"))
    assert {"ada", None} <= affected.gain
    assert affected.may_change("ada", "history", "loft")
    assert affected.may_change("ada", "history", None)
    assert not affected.may_change("ada", "history", "home"), "no berth"
    assert not affected.may_change("ada", "edit", "loft")
    assert not affected.may_change("key", "history", "loft"), "a keyholder gains nothing"


def test_a_role_that_says_no_instead_of_nothing_gives_more_where_it_builds_on_a_bar():
    roles = {"writer": {"berth.history": "barred"}, "guest": {}, "lead": {"berth.history": "all"}}
    given = [Assignment(role, role, Subject.account("ada")) for role in ("guest", "lead")]
    before = apply(harbour(roles=roles, assignments=given), [SetBuildsOn("guest", "writer")])
    says_no = SetAnswer("guest", "berth.history", "withheld")
    after = apply(before, [says_no])
    assert told(before, says_no).gain == {"ada"}
    assert told(after, SetAnswer("guest", "berth.history", None)).lose == {"ada"}


@settings(FEW, max_examples=examples(40))
@given(policies(), st.lists(given_to_many | operations, min_size=1, max_size=6))
def test_whatever_is_given_taken_or_disabled_it_is_told_for_whom(policy, changes):
    compare(policy, apply(policy, changes))


@pytest.mark.usefixtures("of_many")
@settings(FEW, max_examples=examples(20))
@given(policies(), st.sampled_from(ROLES[2:]), st.sampled_from(["active", "invited", "disabled"]))
def test_so_it_is_where_everybody_is_given_the_same_or_loses_all(policy, role, state):
    accounts = [id for id, account in policy.accounts.items() if not account.keyholder]
    compare(policy, apply(policy, [GiveRole(Assignment(f"to-{id}", role, Subject.account(id))) for id in accounts]))
    compare(policy, apply(policy, [SetState(id, state) for id in accounts]))


def test_nobody_loses_by_being_given_more_but_where_it_bars():
    roles = {"everyone": {}, "writer": {"berth.history": "all"}, "stopped": {"berth.history": "barred"}}
    before = harbour(roles=roles, assignments=[Assignment("a", "writer", Subject.account("ada"))])
    more = told(before, *(GiveRole(Assignment(f"b-{id}", "writer", Subject.account(id))) for id in ("ben", "cy")))
    assert (more.gain, more.lose) == ({"ben", "cy"}, frozenset())
    barred = told(before, GiveRole(Assignment("b", "stopped", Subject.account("ada"))))
    assert (barred.gain, barred.lose) == (frozenset(), {"ada"})


def test_a_limit_that_bars_a_role_takes_from_whoever_is_given_it():
    bar = Limit("bar", "home", Subject.role("guest"), Effect.BAR, "branch", frozenset({"history"}))
    roles = {"everyone": {}, "writer": {"berth.history": "all"}, "guest": {}}
    before = harbour(roles=roles, assignments=[Assignment("a", "writer", Subject.account("ada"))], limits=[bar])
    affected = told(before, GiveRole(Assignment("b", "guest", Subject.account("ada"))))
    assert (affected.gain, affected.lose) == (frozenset(), {"ada"})
