"""Expectations ask what their ranges mean, at once or one by one, with the same result."""

from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, HypotheticalSubject
from gonfalon.core.checks import runner
from gonfalon.core.checks.audience import Audience
from gonfalon.core.checks.expectations import newly_broken, prove, proved_again, resting_on
from gonfalon.core.diff.affected_accounts import affected_accounts
from gonfalon.core.document.writer import write_time
from gonfalon.core.model.policy import Account, Assignment, Expectation, Period, Scope, Subject
from gonfalon.core.model.question import Question
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.operations import GiveRole, SetAnswer
from tests.core.harbour import NOW, engine
from tests.core.naive import Naive
from tests.core.strategies import NODE_IDS, TREE, operations, policies
from tests.examples import examples

some_states = st.dictionaries(st.sampled_from(NODE_IDS), st.sampled_from(["published", "draft", "review", "retired"]))
ROLES = {"everyone": {"berth.see": "all"}, "writer": {"berth.edit": "own", "desk.open": "yes"}}
ASKED = engine(
    roles=ROLES,
    assignments=[
        Assignment("a1", "writer", Subject.group("tenants")),
        Assignment("a2", "writer", Subject.account("gone")),
        Assignment("a3", "writer", Subject.account("key"), period=Period(None, NOW)),
    ],
    accounts=[Account("gone", "disabled")],
)


def proved(expect="allow", reason=None, **question):
    [result] = prove(ASKED, [Expectation("e", question, expect, reason)], NOW)
    return result.asked, result.failed, result.against and (result.against.who, result.against.node)


@pytest.mark.parametrize(
    ("question", "asked"),
    [
        ({"account": "ada"}, ["ada"]),
        ({"account": None}, [None]),
        ({"roles": ["writer"], "own": True}, [HypotheticalSubject(("writer",), as_author=True)]),
        ({"holders_of": "writer"}, ["ada", "ben", "cy"]),
        ({"members_of": "pier-3"}, ["ada", "ben"]),
        ({"members_of": "tenants"}, ["ada", "ben", "cy"]),
        ({"except_holders_of": "writer"}, [None]),
        ({"except_members_of": "pier-3"}, ["cy", None]),
    ],
)
def test_whom_a_question_asks(question, asked):
    assert Audience(ASKED.policy).asked(question, NOW) == asked


def test_a_branch_narrowed_to_types_and_every_answer_against_is_counted():
    assert proved(holders_of="writer", action="see", branch="home", types=["berth"]) == (18, 0, None)
    assert proved("deny", members_of="pier-3", action="see", branch="fees") == (6, 6, ("ada", "fees"))
    assert proved(account=None, action="see", branch="home") == (8, 2, (None, "home"))


def test_parts_and_what_has_no_place_can_be_expected():
    assert proved(holders_of="writer", action="desk.open") == (3, 0, None)
    assert proved(members_of="pier-3", action="see-field", field="dues", branch="home") == (12, 0, None)
    assert proved("deny", account="ada", action="stand-in", **{"for": {"account": "ben"}}) == (1, 0, None)


def test_a_reason_has_to_be_the_one_expected():
    question = {"account": "cy", "action": "edit", "node": "loft"}
    assert proved("deny", Reason.OUT_OF_EXTENT, **question) == (1, 0, None)
    assert proved("deny", Reason.NOT_GRANTED, **question) == (1, 1, ("cy", "loft"))


def test_what_is_no_longer_there_is_asked_of_no_more():
    assert proved(account="ada", action="see", node="drained") == (0, 0, None)
    assert proved(account="ada", action="see", branch="drained") == (0, 0, None)
    assert proved(account="nobody", action="see", node="loft") == (0, 0, None)


RANGES = [
    {"account": "ada"}, {"account": None}, {"holders_of": "writer"}, {"except_holders_of": "lead"},
    {"members_of": "tenants"}, {"except_members_of": "pier-3"},
]  # fmt: skip


@settings(max_examples=examples(40), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), st.sampled_from(RANGES), st.sampled_from(["see", "edit", "remove", "move", "discussion.moderate"]))
def test_many_nodes_at_once_and_one_by_one_give_the_same(policy, who, action):
    expected = Expectation("e", {**who, "action": action, "branch": "home"}, "allow")
    asked = Engine(policy, TREE)
    [one_by_one] = prove(asked, [expected], NOW)
    kept, runner._FEW_NODES = runner._FEW_NODES, 0
    try:
        [at_once] = prove(asked, [expected], NOW)
    finally:
        runner._FEW_NODES = kept
    assert one_by_one == at_once


@settings(max_examples=examples(60), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), st.sampled_from(["allow", "deny"]))
def test_many_people_at_one_node_each_and_everyone_by_themselves_give_the_same(policy, expect):
    asked = Engine(policy, TREE)
    actions = ["see", "edit", "publish", "locks.open", "discussion.moderate"]
    questions = [
        {**who, "action": action, "node": node}
        for who in RANGES[2:]
        for action, node in zip(actions, ["home", "loft", "home", "loft", "home"], strict=True)
    ]
    results = prove(asked, [Expectation(f"e{i}", q, expect) for i, q in enumerate(questions)], NOW)
    for question, result in zip(questions, results, strict=True):
        plain = {"action": question["action"], "node": question["node"]}
        everyone = asked.derived(Audience).asked(question, NOW)
        each = prove(asked, [Expectation("e", {**plain, "account": person}, expect) for person in everyone], NOW)
        against = [one.against for one in each if one.against]
        assert (result.asked, result.failed) == (len(everyone), len(against))
        assert result.against == (against[0] if against else None)


WHOM = [
    {"account": "ada"},
    {"account": None},
    {"holders_of": "writer"},
    {"members_of": "pier-3"},
    {"roles": ["writer"]},
]


@st.composite
def anything_expected(draw):
    """A question about the harbour of the two readings, of whomever and wherever."""
    whom = draw(st.sampled_from(WHOM))
    place = draw(st.sampled_from([{"node": node} for node in NODE_IDS] + [{"branch": "home"}]))
    action = draw(
        st.sampled_from(
            [{"action": a} for a in ("see", "edit", "remove", "locks.open")]
            + [{"action": "create", "type": "berth"}]
            + [{"action": action, "field": "dues"} for action in ("see-field", "change-field")]
            + [{"action": "insert-component", "component": "text"}]
            + [{"action": "change-facet", "component": "text", "facet": "wording"}]
        )
    )
    if draw(st.booleans()):
        place, action = {}, {"action": draw(st.sampled_from(["roles.define", "desk.open"]))}
    elif draw(st.booleans()):
        place = {"node": {"type": "account", "author": draw(st.sampled_from(["ada", "ben"]))}}
        action = draw(st.sampled_from([{"action": "see"}, {"action": "see-field", "field": "phone"}]))
    reason = draw(st.sampled_from([None, None, Reason.NOT_GRANTED]))
    return Expectation(
        "e", {**whom, **action, **place}, "deny" if reason else draw(st.sampled_from(["allow", "deny"])), reason
    )


@settings(max_examples=examples(150), suppress_health_check=list(HealthCheck))
@given(policies(), operations, st.lists(anything_expected(), min_size=12, max_size=12))
def test_what_a_change_breaks_is_what_held_before_and_does_not_after(policy, operation, expected):
    """Asking only what a change can turn, held beside asking everything on both sides."""
    sides = Engine(policy, TREE), Engine(operation.apply(policy), TREE)
    expected = [Expectation(f"e{i}", e.question, e.expect, e.reason) for i, e in enumerate(expected)]
    expected = [_holding(result) for result in prove(sides[0], expected, NOW)]
    before, after = (prove(side, expected, NOW) for side in sides)
    broken = [w.expectation.id for w, n in zip(before, after, strict=True) if w.holds and not n.holds]
    told = newly_broken(before, affected_accounts(*(side for side in sides), NOW))
    assert [e.id for e in told] == broken


@settings(max_examples=examples(150), suppress_health_check=list(HealthCheck))
@given(policies(), operations, st.lists(anything_expected(), min_size=12, max_size=12))
def test_what_is_proved_again_is_what_all_asked_anew_would_be(policy, operation, expected):
    was = Engine(policy, TREE)
    now = was.changed(operation.apply(policy))
    expected = [Expectation(f"e{i}", e.question, e.expect, e.reason) for i, e in enumerate(expected)]
    assert proved_again(prove(was, expected, NOW), was, now, NOW) == prove(Engine(now.policy, TREE), expected, NOW)


@settings(max_examples=examples(150), suppress_health_check=list(HealthCheck))
@given(policies(), operations, some_states, st.lists(anything_expected(), min_size=12, max_size=12))
def test_so_it_is_where_nodes_have_other_states(policy, operation, states, expected):
    was, tree = Engine(policy, TREE), TREE.with_states(states)
    expected = [Expectation(f"e{i}", e.question, e.expect, e.reason) for i, e in enumerate(expected)]
    before = prove(was, expected, NOW)
    for after in (policy, operation.apply(policy)):
        told = proved_again(before, was, was.changed(after, tree), NOW)
        assert told == prove(Engine(after, tree), expected, NOW)


@settings(max_examples=examples(150), suppress_health_check=list(HealthCheck))
@given(policies(), operations, st.lists(anything_expected(), min_size=12, max_size=12))
def test_what_a_change_answers_otherwise_rests_on_it(policy, operation, expected):
    was = Engine(policy, TREE)
    now = was.changed(operation.apply(policy))
    assume(now.policy.assignments is policy.assignments)
    expected = [Expectation(f"e{i}", e.question, e.expect, e.reason) for i, e in enumerate(expected)]
    before, after = (prove(side, expected, NOW) for side in (was, now))
    resting = {result.expectation.id for result in resting_on(before, was, now, NOW)}
    deltas = [(b, a) for b, a in zip(before, after, strict=True) if (b.holds, b.failed) != (a.holds, a.failed)]
    assert {result.expectation.id for result, _ in deltas} <= resting


@pytest.mark.parametrize(
    ("capability", "question", "rests"),
    [
        ("berth.remove", {"action": "remove", "node": "loft"}, True),
        ("berth.remove", {"action": "remove", "node": "home"}, True),
        ("notice.remove", {"action": "remove", "node": "home"}, True),
        ("notice.remove", {"action": "remove", "node": "moorings"}, False),
        ("notice.remove", {"action": "remove", "branch": "moorings"}, False),
        ("notice.remove", {"action": "edit", "node": "home"}, False),
        ("berth.edit", {"action": "edit", "branch": "home", "types": ["berth"]}, True),
        ("berth.edit", {"action": "edit", "branch": "home", "types": ["notice"]}, False),
        ("berth.edit", {"action": "see-field", "field": "dues", "node": "loft"}, True),
        ("berth.edit", {"action": "see-field", "field": "dues", "node": "races"}, False),
        ("berth.edit", {"action": "insert-component", "component": "text", "node": "loft"}, True),
        ("berth.edit", {"action": "insert-component", "component": "text", "node": "races"}, False),
        ("berth.edit-live", {"action": "edit", "node": "loft"}, True),
        ("notice.edit-live", {"action": "edit", "node": "draft"}, False),
        ("fields.private", {"action": "see-field", "field": "dues", "node": "loft"}, True),
        ("fields.private", {"action": "edit", "node": "loft"}, False),
        ("fields.private", {"action": "edit", "branch": "home"}, False),
        ("berth.create", {"action": "move", "node": "loft", "to": "fees"}, True),
        ("roles.define", {"action": "roles.define"}, True),
        ("roles.define", {"action": "accounts.invite"}, False),
    ],
)
@pytest.mark.parametrize("whom", [{"account": "ada"}, {"holders_of": "writer"}, {"except_holders_of": "guest"}])
def test_an_expectation_rests_on_what_its_question_asks_for(capability, question, rests, whom):
    was = ASKED
    now = was.changed(SetAnswer("writer", capability, "barred").apply(was.policy))
    for asked, so in (({**whom, **question}, rests), ({"account": None, **question}, rests and "to" in question)):
        results = prove(was, [Expectation("e", asked, "allow")], NOW)
        assert resting_on(results, was, now, NOW) == (results if so else [])


def test_a_refusal_has_another_reason_once_the_same_is_given_elsewhere():
    asked = [{"account": "cy", "action": "edit", "node": "fees"}, {"account": "ben", "action": "edit", "node": "fees"}]
    expected = [Expectation(f"e{i}", question, "allow") for i, question in enumerate(asked)]
    was = engine(roles=ROLES)
    given = Assignment("a1", "writer", Subject.account("cy"), Scope(branches=frozenset({"loft"})))
    now = was.changed(GiveRole(given).apply(was.policy))
    again = proved_again(prove(was, expected, NOW), was, now, NOW)
    assert [result.against.reason for result in again] == [Reason.OUT_OF_SCOPE, Reason.NOT_GRANTED]


def test_only_what_rests_on_a_node_in_another_state_is_asked_again():
    """A wrong result stays where nothing has changed that the answer rests on."""
    places = [{"node": "loft"}, {"node": "moorings"}, {"node": "fees"}, {"branch": "moorings"}, {"branch": "fees"}]
    asked = [
        *({"account": "ada", "action": "see", **place} for place in places),
        {"account": "ada", "action": "remove", "node": "moorings"},
        {"account": "ada", "action": "remove", "node": "fees"},
        {"account": "ada", "action": "desk.open"},
    ]
    before = prove(ASKED, [Expectation(f"e{i}", question, "allow") for i, question in enumerate(asked)], NOW)
    wrong = [replace(result, failed=100) for result in before]
    again = proved_again(wrong, ASKED, ASKED.changed(ASKED.policy, ASKED.tree.with_states({"loft": "draft"})), NOW)
    assert [result.failed != 100 for result in again] == [True, False, False, True, False, True, False, False]


@pytest.mark.parametrize("field", [{}, {"field": "phone"}])
def test_what_is_expected_of_profiles_is_asked_again_too(field):
    action = "see-field" if field else "see"
    seen = Expectation(
        "seen", {"account": "ada", "action": action, "node": {"type": "account", "author": "ben"}, **field}, "allow"
    )
    was = engine(roles={"everyone": {"account.see": "all"}})
    now = was.changed(SetAnswer("everyone", "account.see", None).apply(was.policy))
    [before] = prove(was, [seen], NOW)
    [after] = proved_again([before], was, now, NOW)
    assert (before.holds, after.holds) == (True, False)
    assert newly_broken([before], affected_accounts(was, now, NOW)) == [seen]


def test_what_a_change_cannot_touch_is_not_asked_again():
    """The result of another expectation put in its place is given back as it is."""
    edit = Expectation("edit", {"account": "ada", "action": "edit", "node": "loft"}, "allow")
    see = Expectation("see", {"account": "ada", "action": "see", "node": "loft"}, "allow")
    after = ASKED.changed(SetAnswer("writer", "berth.edit", None).apply(ASKED.policy))
    before = prove(ASKED, [edit, see], NOW)
    before[1] = replace(before[1], failed=1)
    again = proved_again(before, ASKED, after, NOW)
    assert [result.failed for result in again] == [1, 1]
    assert [result.holds for result in prove(after, [edit, see], NOW)] == [False, True]


def _holding(result):
    """An expectation turned round if all its answers are against it: what holds is what can be broken."""
    e = result.expectation
    against = result.failed == result.asked and e.reason is None
    return Expectation(e.id, e.question, "deny" if e.expect == "allow" else "allow") if against else e


def test_what_is_expected_of_standing_in_rests_on_every_node():
    asked = {"account": "ada", "action": "stand-in", "for": {"account": None}}
    expected = [Expectation("e", asked, "allow")]
    roles = {
        "everyone": {"notice.see": "all"},
        "writer": {"impersonate.start": "yes", "notice.see": "barred"},
    }
    was = engine(roles=roles, assignments=[Assignment("a1", "writer", Subject.account("ada"))])
    drafts = was.changed(was.policy, was.tree.with_states(dict.fromkeys(("home", "races"), "draft")))
    published = was.changed(was.policy, drafts.tree.with_states({"home": "published"}))
    before = prove(drafts, expected, NOW)
    again = proved_again(before, drafts, published, NOW)
    assert [result.holds for result in (*before, *again)] == [True, False]


@pytest.mark.parametrize("few", [0, 40])
def test_working_copies_of_a_branch_are_asked_about_as_drafts(few, monkeypatch):
    monkeypatch.setattr(runner, "_FEW_NODES", few)
    told = proved(account="ada", action="edit", branch="home", types=["berth"])
    copies = proved(account="ada", action="edit", branch="home", types=["berth"], working=True)
    assert (told[0], copies[0]) == (6, 6)
    assert told[1] > copies[1]


def test_a_branch_narrowed_to_what_each_wrote_themselves_or_their_team_did():
    by_tenants = {"holders_of": "writer", "action": "edit", "branch": "home"}
    assert proved("deny", **by_tenants, whose="own") == (6, 0, None), "all of it is public"
    whole = {"members_of": "pier-3", "action": "see", "branch": "home"}
    assert proved(**whole, whose="team") == (12, 2, ("ada", "draft"))
    assert proved(account=None, action="see", branch="home", whose="own") == (0, 0, None)
    assert proved(roles=["writer"], own=True, action="edit", branch="home", types=["berth"], whose="own")[0] == 6


THEN, LATER, LAST = NOW + timedelta(days=1), NOW + timedelta(days=2), NOW + timedelta(days=9)


def test_from_one_time_until_another_it_is_asked_wherever_something_of_theirs_turns():
    asked = engine(
        roles=ROLES,
        assignments=[
            Assignment("a1", "writer", Subject.group("tenants"), period=Period(THEN, LATER)),
            Assignment("a2", "writer", Subject.account("key"), period=Period(None, NOW + timedelta(days=5))),
        ],
    )

    def over(expect, **question):
        [result] = prove(asked, [Expectation("e", {"action": "desk.open", **question}, expect)], NOW)
        return result.asked, result.failed, result.against and result.against.at

    times = {"from": write_time(NOW), "until": write_time(LAST)}
    assert over("allow", account="ada", **times) == (4, 3, NOW)
    assert over("allow", account="ada", **{"from": write_time(THEN), "until": write_time(LATER)}) == (2, 0, None)
    assert over("deny", account="ada", until=write_time(THEN)) == (2, 0, None)
    assert over("deny", account="ada", **{"from": write_time(LATER)}) == (1, 0, None), "nothing turns after it"
    assert over("allow", account="ada", until=write_time(NOW)) == (0, 0, None), "it is over"
    assert over("allow", holders_of="writer", **times)[:2] == (6, 0), "one of them thrice, the three of the group once"
    everyone_else = over("deny", except_members_of="pier-3", **times)
    assert everyone_else == (10, 1, THEN), "cy and a visitor, at each of the five moments at which anything turns"


@settings(max_examples=examples(60), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), st.sampled_from(RANGES), st.sampled_from([None, "own", "team"]), st.integers(-4, 4))
def test_over_a_time_it_holds_where_it_does_all_the_time(policy, who, whose, begin):
    """A second, naive reading: every half day, of each person and each page by itself."""
    half = timedelta(hours=12)
    first, last = NOW + begin * half, NOW + (begin + 3) * half
    question = {**who, "action": "edit", "branch": "home"} | ({"whose": whose} if whose else {})
    expected = Expectation("e", question | {"from": write_time(first), "until": write_time(last)}, "deny")
    naive, holds, asked = Naive(policy, TREE), True, Engine(policy, TREE)
    for at in (first, first + half, first + 2 * half, last - timedelta(microseconds=1)):
        for person in asked.derived(Audience).asked(question, at):
            for node in TREE.nodes[TREE.branch("home")]:
                target = TREE.target(node.id)
                if not whose or naive.extent_covers(person, whose, target, "edit"):
                    holds &= naive.answer(Question(person, "edit", target, at)) != "allowed"
    [result] = prove(asked, [expected], NOW)
    assert result.holds == holds
