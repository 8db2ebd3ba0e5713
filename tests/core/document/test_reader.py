"""Policy documents: read with every error at once, written so that reading gives the same again."""

import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

import gonfalon.core
from gonfalon.core import Engine, PolicyError, load_policy, write_policy
from gonfalon.core.checks.findings import review
from gonfalon.core.document.jsonl import read_json
from tests.core.documents import EVERYTHING, EXAMPLE, QUESTIONS
from tests.core.harbour import COMPONENTS, TYPES
from tests.core.strategies import TREE, policies
from tests.examples import examples

NEVER = "2027-01-01T00:00:00Z"
SCHEMA = json.loads(Path(gonfalon.core.__file__).with_name("policy.schema.json").read_text())


def faults(document):
    with pytest.raises(PolicyError) as error:
        load_policy(document)
    return {fault.pointer: fault.message for fault in error.value.faults}


def told_of(document):
    """The faults of a document; none when it is read."""
    try:
        load_policy(document)
    except PolicyError as error:
        return error.faults
    return ()


def changed(**parts):
    document = json.loads(EXAMPLE)
    for part, value in parts.items():
        document[part] = {**document[part], **value} if isinstance(value, dict) else [*document[part], *value]
    return document


def test_the_page_s_own_example_is_read_and_its_questions_are_answered():
    engine = Engine(load_policy(json.loads(EXAMPLE)))
    reasons = [str(engine.decide(json.loads(line)).reason) for line in QUESTIONS.splitlines() if "ben" not in line]
    assert reasons[:4] == ["stopped", "allowed", "locked", "not-granted"]
    assert len(reasons) == 15


@pytest.mark.parametrize("document", [json.loads(EXAMPLE), EVERYTHING, {"gonfalon": 1}])
def test_reading_what_was_written_gives_the_same(document):
    policy = load_policy(document)
    written = write_policy(policy)
    assert load_policy(json.loads(json.dumps(written))) == policy
    assert write_policy(load_policy(written)) == written
    Draft202012Validator(SCHEMA).validate(document)
    Draft202012Validator(SCHEMA).validate(written)


@settings(max_examples=examples(100), suppress_health_check=list(HealthCheck), deadline=None)
@given(policies())
def test_any_policy_is_written_and_read_again(policy):
    roles = {
        key: replace(role, facets={c: facets & set(COMPONENTS[c]) for c, facets in role.facets.items()})
        for key, role in policy.roles.items()
    }
    locks = {
        id: lock
        for id, lock in policy.locks.items()
        if lock.field in (None, *TYPES[TREE.target(lock.node).type].fields)
    }
    places = {"tree": TREE, "sites": frozenset({"quay", "regatta"}), "topics": frozenset({"tides", "trade"})}
    whole = replace(policy, roles=roles, locks=locks, **places)
    assert load_policy(json.loads(json.dumps(write_policy(whole)))) == whole


def test_entries_come_in_any_order():
    document = json.loads(EXAMPLE)
    for part in ("nodes", "limits", "locks", "assignments"):
        document[part].reverse()
    backwards = {key: document[key] for key in reversed(document)}
    assert load_policy(backwards) == load_policy(json.loads(EXAMPLE))


def test_every_error_is_told_at_once_and_where_it_is():
    document = changed(
        roles={"writer": {"builds_on": "lead", "grants": {"notice.edit": "yes", "notice.fly": "all"}}},
        groups={"crew": {"parent": "night-crew"}},
        accounts={"ben": {"state": "asleep", "groups": ["nobody"], "keyholder": "yes"}},
        assignments=[
            {"id": "a1", "role": "everyone", "to": {"account": "ada", "group": "crew"}},
            {
                "id": "a9",
                "role": "lead",
                "to": {"group": "crew"},
                "from": "2027-01-01T00:00:00Z",
                "until": "2027-01-01T00:00:00Z",
            },
        ],
        limits=[{"id": "l9", "node": "n9", "applies": "here", "to": {"role": "lead"}, "actions": [], "effect": "stop"}],
        capabilities={"notice.glow": "placed", "plain": "opening", "locks.open": "sitewide"},
        types={"a.b": {"tree": "garden"}},
        locks=[{"id": "k9", "node": "n1", "part": {"field": "colour"}}],
    )
    document["extra"] = document["nodes"][1]["colour"] = 1
    document["nodes"][1]["site"] = "moon"
    told = faults(document)
    assert told["/roles/writer/builds_on"] == "role builds on itself through writer → lead"
    assert told["/groups/crew/parent"] == "group sits inside itself through crew → night-crew"
    assert told["/nodes/1/site"] == "there is no site “moon”"
    assert told["/accounts/ben/groups/0"] == "there is no group “nobody”"
    assert told["/assignments/1/id"] == "there is another one with the id “a1”"
    assert told["/assignments/2/until"] == "this is not after “from”"
    assert told["/limits/1/actions"] == "this is a list; it should be “*” or a list of actions that is not empty"
    assert told["/locks/3/part/field"] == "there is no field of a notice “colour”"
    assert told.keys() >= {
        "/extra", "/nodes/1/colour", "/roles/writer/grants/notice.edit", "/roles/writer/grants/notice.fly",
        "/accounts/ben/state", "/accounts/ben/keyholder", "/assignments/1/role", "/assignments/1/to",
        "/limits/1/node", "/limits/1/applies", "/capabilities/notice.glow", "/capabilities/plain",
        "/capabilities/locks.open", "/types/a.b", "/types/a.b/tree",
    }  # fmt: skip


def test_nodes_that_go_round_in_a_circle_or_hang_on_nothing():
    node = {"tree": "content", "site": "quay", "type": "notice", "state": "draft"}
    document = changed(
        nodes=[
            {**node, "id": "x", "parent": "y"},
            {**node, "id": "y", "parent": "x"},
            {**node, "id": "z", "parent": "gone"},
            {**node, "id": "z"},
            {**node, "id": "picture", "tree": "media", "parent": "n1"},
        ]
    )
    told = faults(document)
    assert told["/nodes/2/parent"] == "node lies beneath itself through x → y"
    assert told["/nodes/5/id"] == "there is another node with the id “z”"
    assert told["/nodes/6/tree"] == "this is not the tree of its parent, which is “content”"


@pytest.mark.parametrize(
    "value",
    [None, 3, 1.5, True, "text", [], {}, [[]], {"a": {}}, "\ud800", 10**400, {"\udfff": 1}, [None], {"id": None}],
)
@pytest.mark.parametrize("part", list(json.loads(EXAMPLE)))
def test_whatever_stands_in_a_part_s_place_it_is_read_or_refused_in_words(part, value):
    document = json.loads(EXAMPLE) | {part: value}
    assert all(fault.message and fault.pointer.encode() for fault in told_of(document))


everything = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats()
    | st.text(max_size=5)
    | st.sampled_from(["ada", "n1", "lead"]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4) | st.just("id"), inner, max_size=3),
    max_leaves=6,
)


@settings(max_examples=examples(300), deadline=None)
@given(st.data())
def test_no_value_anywhere_in_a_document_is_more_than_an_error(data):
    document = json.loads(EXAMPLE)
    place = document
    for _ in range(data.draw(st.integers(1, 4))):
        keys = list(place) if isinstance(place, dict) else list(range(len(place)))
        if not keys:
            break
        key = data.draw(st.sampled_from(keys))
        if not isinstance(place[key], dict | list) or data.draw(st.booleans()):
            place[key] = data.draw(everything)
            break
        place = place[key]
    if not told_of(document):
        policy = load_policy(document)
        assert load_policy(write_policy(policy)) == policy


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("[" * 200_000, "nested too deeply"),
        ('{"gonfalon": NaN}', "NaN is no number"),
        ('{"gonfalon": 1', "not JSON"),
        (b"\xff\xfe", "not UTF-8"),
        ('{"gonfalon": ' + "9" * 5000 + "}", "not JSON"),
    ],
)
def test_text_that_is_no_json_is_told(text, message):
    with pytest.raises(PolicyError, match=message):
        read_json(text)


def test_a_key_given_twice_is_an_error_and_not_passed_over():
    text = EXAMPLE.replace('"accounts": {', '"accounts": {"ada": {"state": "disabled"}, ')
    assert faults(read_json(text)) == {"/accounts/ada": "this key is given more than once"}


def test_a_hundred_thousand_unknown_keys_are_each_told():
    document = {"gonfalon": 1, "roles": {"lead": {f"key{i}": i for i in range(100_000)}}}
    assert len(faults(document)) == 100_000


def test_review_warns_of_what_can_hardly_be_meant():
    ada, lead, crew = {"account": "ada"}, {"role": "lead"}, {"group": "crew"}
    node = {"node": "n2", "applies": "node"}
    document = changed(
        assignments=[{"id": "a2", "role": "lead", "to": ada, "scope": {"sites": []}}],
        direct_grants=[
            {"id": "d2", "to": ada, "capability": "roles.define", "says": "yes", "scope": {"types": []}},
            {"id": "d3", "to": ada, "capability": "notice.edit", "says": "all", "scope": {"types": ["image"]}},
        ],
        limits=[
            {"id": "l2", **node, "to": crew, "actions": "*", "effect": "lift"},
            {"id": "l3", **node, "to": lead, "actions": ["create"], "effect": "stop"},
            {"id": "l4", **node, "to": lead, "actions": ["edit"], "effect": "lift"},
        ],
    )
    told = {fault.pointer for fault in review(load_policy(document))}
    assert told == {
        "/accounts", "/assignments/1/scope/sites", "/direct_grants/1/scope", "/direct_grants/1/scope/types",
        "/direct_grants/2/scope", "/limits/1", "/limits/2",
    }  # fmt: skip
