"""From a yes to a no: the changes that end an answer."""

from hypothesis import given, settings

from gonfalon.core import Engine, Question
from gonfalon.core.checks.ending import endings
from gonfalon.core.checks.turning import NEW
from gonfalon.core.model.policy import DirectGrant, Limit, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import SetAnswer, SetLimit, SetMember, TakeCapability, TakeRole, apply
from tests.core.checks.test_turning import questions
from tests.core.harbour import ADA, EDITS, NOW, engine, give
from tests.core.strategies import TREE, policies
from tests.examples import examples


def ended(asked, action="edit", node="loft", who="ada"):
    return endings(asked, Question(who, action, TREE.target(node), NOW))


def test_one_page_for_one_person_then_all_that_gives_it_then_what_a_role_says():
    direct = DirectGrant("d1", ADA, "berth.edit", "all")
    asked = engine(roles={"writer": EDITS}, assignments=[give()], direct=[direct])
    stop = SetLimit(Limit(NEW, "loft", ADA, Effect.STOP, "node", frozenset({"edit"})))
    assert (stop,) in ended(asked)
    assert (TakeRole("a1"), TakeCapability("d1")) in ended(asked)
    # What one role says of editing ends nothing, for it is given directly too; of what is public it does.
    said = [way for way in ended(asked) if isinstance(way[0], SetAnswer)]
    assert said == [(SetAnswer("writer", "berth.edit-live", "withheld"),)]


def test_what_a_group_gives_ends_by_leaving_it():
    asked = engine(roles={"writer": EDITS}, assignments=[give(to=Subject.group("tenants"))])
    assert (SetMember("ada", "pier-3", False),) in ended(asked)


def test_what_everybody_is_given_is_stopped_for_one_or_for_all():
    asked = engine(roles={"everyone": {"berth.see": "all"}})
    assert not any(isinstance(way[0], TakeRole) for way in ended(asked, "see"))
    everybody = ended(asked, "see", who=None)
    assert everybody[0][0].limit.to == Subject.role("everyone")


def test_a_no_and_a_keyholder_s_yes_have_none():
    assert ended(engine()) == []
    assert ended(engine(), who="key") == []


@settings(max_examples=examples(300))
@given(policies(), questions())
def test_each_ends_it(policy, question):
    asked = Engine(policy, TREE)
    allowed = asked.decide(question).allow
    found = endings(asked, question)
    assert allowed or not found
    for way in found:
        assert not Engine(apply(policy, way), TREE).decide(question).allow
