"""Entries as data: what differs between two policies, and either made of the other by it."""

import json

from hypothesis import given, settings

from gonfalon.core import load_policy
from gonfalon.core.document.entries import KINDS, EntryChange, changes_between, same_access, taken_back
from gonfalon.core.operations import SetAnswer
from tests.core.strategies import policies
from tests.examples import examples


def through_json(changes: list[EntryChange]) -> list[EntryChange]:
    return [EntryChange(kind, tuple(key), was, now) for kind, key, was, now in json.loads(json.dumps(changes))]


@settings(max_examples=examples(60))
@given(policies(), policies())
def test_what_was_is_what_is_with_the_changes_taken_back(before, after):
    changes = through_json(list(changes_between(before, after)))
    assert same_access(taken_back(after, reversed(changes)), before)
    back = [EntryChange(kind, key, now, was) for kind, key, was, now in changes]
    assert same_access(taken_back(before, back), after)


@settings(max_examples=examples(20))
@given(policies())
def test_a_policy_does_not_differ_from_itself(policy):
    assert list(changes_between(policy, policy)) == []
    assert same_access(taken_back(policy, []), policy)


def test_one_answer_is_one_entry():
    document = {"gonfalon": 1, "types": {"page": {"tree": "content"}}, "roles": {"writer": {"grants": {}}}}
    before = load_policy(document)
    after = SetAnswer("writer", "page.edit", "own").apply(before)
    assert list(changes_between(before, after)) == [EntryChange("answer", ("writer", "page.edit"), None, "own")]


def test_every_mapping_of_access_has_its_kind():
    assert len({kind.mapping for kind in KINDS}) == len(KINDS) == 12
