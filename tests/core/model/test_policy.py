"""A policy read from rows again is made of what the one before had, wherever that is equal."""

from dataclasses import fields, replace

from hypothesis import HealthCheck, given, settings

from gonfalon.core import Engine
from gonfalon.core.model.policy import Assignment, FieldRule, Limit, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import SetAnswer
from tests.core.harbour import NOW, harbour
from tests.core.strategies import TREE, operations, policies
from tests.examples import examples

EDIT = SetAnswer("writer", "berth.edit", "all")


def read():
    """The same policy, of other objects each time."""
    return harbour(
        roles={"everyone": {"berth.see": "all"}, "writer": {"berth.edit": "own", "berth.remove": "team"}},
        assignments=[Assignment("a1", "writer", Subject.group("tenants"))],
        limits=[Limit("l1", "loft", Subject.role("writer"), Effect.STOP, "node", frozenset({"remove"}))],
        fields={("berth", "dues"): FieldRule("table", {"writer": frozenset({"see-all"})})},
    )


def test_what_is_equal_is_the_very_same():
    before, now = read(), read()
    again = now.like(before)
    assert again == now
    for part in fields(before):
        assert getattr(again, part.name) is getattr(before, part.name), part.name


def test_what_differs_is_as_it_was_read_and_the_rest_of_its_part_the_same():
    before, now = read(), EDIT.apply(read())
    again = now.like(before)
    assert again == now
    assert again.roles["writer"] is now.roles["writer"]
    assert all(again.roles[key] is before.roles[key] for key in before.roles if key != "writer")
    assert again.assignments is before.assignments


def test_what_came_and_went_does_and_the_order_is_that_read():
    before = read()
    now = replace(read(), accounts=dict(reversed([*before.accounts.items()][1:])))
    again = now.like(before)
    assert list(again.accounts) == list(now.accounts)
    assert all(again.accounts[id] is before.accounts[id] for id in now.accounts)
    assert before.like(now).accounts == before.accounts


@settings(max_examples=examples(60), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies(), operations)
def test_an_engine_that_stands_alone_answers_as_it_would_have(before, operation):
    """Whatever it has asked the one it came from by then."""
    now = operation.apply(before)
    engine = Engine(before, TREE).changed(now)
    who = [None, *now.accounts]
    some = engine.survey(who[:2], None, ["edit", "remove"], NOW)
    engine.detach()
    told = engine.survey(who, None, ["edit", "remove"], NOW)
    assert (told[:2] == some).all()
    assert (told == Engine(now, TREE).survey(who, None, ["edit", "remove"], NOW)).all()
