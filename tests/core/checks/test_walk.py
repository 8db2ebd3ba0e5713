"""What a role is to be tried on, and what a try comes to."""

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, Question
from gonfalon.core.checks.tries import Kept, again, keep, of_holder
from gonfalon.core.checks.walk import Item, covers, fits, outcome, walk
from gonfalon.core.model.policy import FieldRule, Limit, Lock, Role, Subject
from gonfalon.core.model.question import HypotheticalSubject
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from tests.core.harbour import NOW, engine
from tests.core.naive import Naive
from tests.core.strategies import NODE_IDS, ROLES, TREE, engines

ALL = {"berth.see": "all", "berth.see-draft": "own", "berth.edit": "own", "berth.edit-live": "own", "desk.open": "yes"}


def said(items):
    return {(i.action, i.types, i.public, i.own): i.expect for i in items if i.types and i.field is None}


def tried(asked, role, action, node="loft", *, own=True, **part):
    """What trying something as a holder of the role alone comes to."""
    question = Question(HypotheticalSubject((role,), own), action, asked.tree.target(node), NOW, **part)
    kept = keep(question, own, str(asked.decide(question).reason), asked.tree)
    return again(kept, role, asked, NOW)


def test_what_is_given_is_tried_by_kind_and_what_is_refused_by_what_is_done():
    asked = engine(roles={"writer": {**ALL, "notice.see": "all"}})
    items = said(walk("writer", asked, NOW))
    assert items["edit", ("berth",), None, True]
    assert items["edit", ("berth",), None, False] is False
    assert items["see", ("berth",), True, None]
    assert items["see", ("berth",), False, True]
    assert items["see", ("berth",), False, False] is False
    assert items["publish", ("notice", "berth"), None, None] is False
    assert not any("picture" in types for _, types, _, _ in items), "of what it gives nothing about"


def test_duties_that_it_gives_and_those_that_it_says_are_not_given():
    asked = engine(roles={"writer": {**ALL, "roles.define": "withheld", "discussion.moderate": "yes"}})
    duties = {item.action: item.expect for item in walk("writer", asked, NOW) if not item.types and not item.limit}
    assert duties == {"desk.open": True, "roles.define": False, "discussion.moderate": True}


def test_fields_with_a_rule_are_seen_changed_and_filled():
    rule = FieldRule("table", {"writer": frozenset({"see-own", "fill"})})
    asked = engine(roles={"writer": {**ALL, "berth.create": "all"}}, fields={("berth", "dues"): rule})
    fields = {(i.action, i.own): i.expect for i in walk("writer", asked, NOW) if i.field}
    assert fields == {
        ("see-field", True): True,
        ("see-field", False): False,
        ("change-field", True): False,
        ("fill-field", None): True,
    }


def test_components_are_tried_where_some_of_them_are_closed():
    writer = Role("writer", ALL, components=frozenset({"text"}), facets={"text": frozenset({"wording"})})
    items = [i for i in walk("writer", engine(roles={"writer": writer}), NOW) if i.components]
    assert {(i.action, i.components, i.facet): i.expect for i in items} == {
        ("insert-component", ("text",), None): True,
        ("insert-component", ("table",), None): False,
        ("change-facet", ("text",), "links"): False,
        ("change-facet", ("text",), "style"): False,
    }
    assert not [i for i in walk("writer", engine(roles={"writer": ALL}), NOW) if i.components], "all of it is open"


def test_what_a_limit_refuses_is_tried_on_what_it_reaches_and_so_is_what_it_lets_be_again():
    stop = Limit("l1", "fees", Subject.role("writer"), Effect.STOP, "branch", frozenset({"edit", "publish"}))
    lift = Limit("l2", "winter", Subject.role("writer"), Effect.LIFT, "node", frozenset({"edit"}))
    other = Limit("l3", "moorings", Subject.role("guest"), Effect.STOP)
    asked = engine(roles={"writer": ALL, "guest": ALL}, limits=[stop, lift, other])
    items = {i.limit: i for i in walk("writer", asked, NOW) if i.limit}
    assert {id: (i.action, i.expect) for id, i in items.items()} == {"l1": ("edit", False), "l2": ("edit", True)}
    on_fees, on_winter, on_loft = (tried(asked, "writer", "edit", node) for node in ("fees", "winter", "loft"))
    assert [outcome(items["l1"], [one]) for one in (on_fees, on_winter, on_loft)] == [True, None, None]
    edits = Item("edit", True, ("berth",), own=True)
    assert [outcome(edits, [one]) for one in (on_fees, on_loft)] == [None, True], "what a limit refuses is no fault"


def test_a_lift_is_proved_only_where_it_reaches():
    stop = Limit("l1", "fees", Subject.role("writer"), Effect.STOP)
    lift = Limit("l2", "winter", Subject.role("writer"), Effect.LIFT)
    asked = engine(roles={"writer": ALL}, limits=[stop, lift])
    item = next(i for i in walk("writer", asked, NOW) if i.limit == "l2" and i.action == "edit")
    assert outcome(item, [tried(asked, "writer", "edit", "winter")]) is True
    assert outcome(item, [tried(asked, "writer", "edit", "loft")]) is None


def test_what_goes_otherwise_is_told():
    asked = engine(roles={"writer": ALL}, locks=[Lock("k1", "loft")])
    item = Item("edit", True, ("berth",), own=True)
    assert outcome(item, [tried(asked, "writer", "edit")]) is False
    assert outcome(item, [tried(asked, "writer", "edit", "fees"), tried(asked, "writer", "edit")]) is False
    assert outcome(item, [tried(asked, "writer", "edit", own=False)]) is None, "it asks about what they wrote"
    assert outcome(item, [tried(asked, "writer", "see")]) is None


@pytest.mark.parametrize(
    ("applies", "reached"), [("node", {"fees"}), ("beneath", {"winter"}), ("branch", {"fees", "winter"})]
)
def test_what_a_limit_covers(applies, reached):
    limit = Limit("l1", "fees", Subject.role("writer"), Effect.STOP, applies)
    assert {node for node in ("moorings", "fees", "winter") if covers(limit, TREE.target(node).path)} == reached


def test_a_page_made_there_is_asked_about_as_it_was():
    asked = engine(roles={"writer": ALL})
    made = replace(asked.tree.target("moorings"), id="new", path=("home", "moorings", "new"), state="draft", leaf=True)
    kept = keep(Question("ada", "edit", made), True, "allowed", asked.tree)
    assert kept.said["made"] == {"beneath": "moorings", "type": "berth", "state": "draft", "topics": []}
    assert again(kept, "writer", asked, NOW).decision.allow
    assert fits(Item("edit", True, ("berth",), public=False, own=True), again(kept, "writer", asked, NOW))
    under = replace(made, id="newer", path=(*made.path, "newer"))
    assert keep(Question("ada", "edit", under), True, "allowed", asked.tree) is None
    gone = Kept({**kept.said, "made": {**kept.said["made"], "beneath": "gone"}}, True, "allowed")
    assert again(gone, "writer", asked, NOW) is None


def test_what_is_gone_is_asked_no_more():
    asked = engine(roles={"writer": ALL})
    assert again(Kept({"action": "edit", "node": "gone"}, True, "allowed"), "writer", asked, NOW) is None
    assert again(Kept({"action": "edit", "node": "loft"}, True, "allowed"), "gone", asked, NOW) is None


def test_keys_are_of_what_is_tried_whatever_is_expected():
    assert Item("edit", True, ("berth",)).key == Item("edit", False, ("berth",)).key
    every = [Item("edit", True, ("berth",)), Item("edit", True, ("berth",), True), Item("edit", True, limit="berth")]
    assert len({item.key for item in every}) == 3


@settings(max_examples=80, deadline=None)
@given(engines(), st.sampled_from(ROLES[2:]))
def test_every_action_on_what_is_seen_is_in_one_item_and_is_as_a_second_reading_has_it(asked: Engine, role):
    items = [i for i in walk(role, asked, NOW) if i.types and i.field is None]
    board = Naive(replace(asked.policy, limits={}, locks={}), asked.tree)

    def may(kind, action, state, own):
        id = None if state is None else "somewhere"
        target = Target(id, ("somewhere",), kind, asked.policy.types[kind].tree, None, None, state, leaf=True)
        return board.answer(Question(of_holder(role, own=own), action, target, NOW)) == "allowed"

    kinds = {type for item in items for type in item.types}
    for kind, action, state, own in product(kinds, ACTIONS, ("published", "draft"), (True, False)):
        state = None if action == "create" else state
        if action not in ("see", "create") and not may(kind, "see", state, own):
            continue  # of what is not seen nothing else can be tried
        [item] = [
            i
            for i in items
            if kind in i.types
            and i.action == action
            and i.public in (None, state == "published")
            and i.own in (None, own)
        ]
        assert item.expect == may(kind, action, state, own), (kind, action, state, own)


@settings(max_examples=80, deadline=None)
@given(engines(), st.sampled_from(ROLES[2:]), st.sampled_from(NODE_IDS), st.booleans(), st.data())
def test_what_is_kept_of_a_question_asks_the_same(asked: Engine, role, node, own, data):
    target = asked.tree.target(node)
    parts = {
        "create": {"target": target.child("berth")},
        "move": {"target": target, "to": asked.tree.target("races")},
        "see-field": {"target": target, "field": "title"},
        "change-facet": {"target": target, "component": "text", "facet": "wording"},
        "discussion.moderate": {"target": target},
        "roles.define": {},
    }
    action = data.draw(st.sampled_from([*ACTIONS, *parts]))
    question = Question(of_holder(role, own=own), action, at=NOW, **parts.get(action, {"target": target}))
    if question.field == "title" and "title" not in asked.policy.types[target.type].fields:
        return
    kept = keep(question, own, str(asked.decide(question).reason), asked.tree)
    assert kept is not None
    assert str(again(kept, role, asked, NOW).decision.reason) == kept.reason
