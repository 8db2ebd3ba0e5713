"""Holders with an equal footing may do the same; who wrote what; sets of holders as bits."""

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.evaluate_pairs import evaluate_pairs
from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.node_batch import chunks
from gonfalon.core.bulk.policy_index import PolicyIndex
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.diff.node_classes import Places
from gonfalon.core.model.bits import Growing, members, or_by_group, or_by_pair, packed, words_of
from gonfalon.core.model.policy import Account, Limit, Subject
from gonfalon.core.model.question import HypotheticalSubject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import GiveRole, SetLimit, SetReach
from tests.core.harbour import NODES, NOW, engine, give, only
from tests.core.strategies import engines
from tests.examples import examples

PEOPLE = (None, "ada", "ben", "cy", "gone", "key")
ACTIONS = ("see", "edit", "publish", "history")


@settings(max_examples=examples(100), deadline=None)
@given(engines())
def test_holders_with_an_equal_footing_may_do_the_same_as_strangers(asked):
    survey = asked.surveyor
    batch = survey.batch(survey.columns(ACTIONS), np.arange(1, len(asked.tree)))
    holders = [asked.grants.of(who, NOW) for who in PEOPLE]
    evaluator = BatchEvaluator.of(batch, holders)
    told = zip(evaluator.equivalence_keys(), evaluator.alone(AuthorRelation.ALL), strict=True)
    for (key, said), (other, also) in combinations(told, 2):
        if key == other:
            assert (said == also).all()
    for minds, said, as_author in zip(
        evaluator.depends_on_author(),
        evaluator.alone(AuthorRelation.ALL),
        evaluator.alone(AuthorRelation.OWN),
        strict=True,
    ):
        if not minds:
            assert (said == as_author).all()
        assert ((said & ~as_author) == 0).all()


@settings(max_examples=examples(100), deadline=None)
@given(engines(), st.lists(st.sampled_from(range(1, len(NODES))), min_size=1, unique=True).map(sorted))
def test_holders_each_at_a_row_of_their_own_may_do_there_what_all_may_everywhere(asked, positions):
    survey = asked.surveyor
    holders = [asked.grants.of(who, NOW) for who in (*PEOPLE, HypotheticalSubject(("writer",), as_author=True))]
    evaluator = BatchEvaluator.of(survey.batch(survey.columns(ACTIONS), np.array(positions)), holders)
    holder, row = (each.ravel() for each in np.indices((len(holders), len(positions))))
    mixed = np.random.default_rng(len(positions)).permutation(len(holder))
    for relation in (None, AuthorRelation.OWN, AuthorRelation.TEAM, AuthorRelation.ALL):
        each = evaluate_pairs(evaluator, holder[mixed], row[mixed], relation)
        assert (each == evaluator.alone(relation)[holder[mixed], row[mixed]]).all()


@settings(max_examples=examples(60), deadline=None)
@given(engines(), st.lists(st.sampled_from(range(len(PEOPLE))), min_size=1))
def test_some_of_a_crowd_may_do_what_they_may_among_all(asked, which):
    survey = asked.surveyor
    holders = [asked.grants.of(who, NOW) for who in PEOPLE]
    evaluator = BatchEvaluator.of(survey.whole((*ACTIONS, "remove")), holders)
    some = evaluator.some(np.array(which))
    assert some.holders == [holders[i] for i in which]
    assert (allowed(some) == allowed(evaluator)[which]).all()
    assert some.equivalence_keys() == [evaluator.equivalence_keys()[i] for i in which]
    assert some.same_as(BatchEvaluator.of(survey.whole((*ACTIONS, "remove")), some.holders))


def test_crowds_are_the_same_only_on_one_sheet_and_with_the_same_entries():
    asked = engine(roles={"writer": {"berth.edit": "all"}}, assignments=[give()])
    batch = asked.surveyor.whole(("edit",))
    ada, ben = (asked.grants.of(who, NOW) for who in ("ada", "ben"))
    assert BatchEvaluator.of(batch, [ada]).same_as(BatchEvaluator.of(batch, [ada]))
    assert not BatchEvaluator.of(batch, [ada]).same_as(BatchEvaluator.of(batch, [ben]))
    assert not BatchEvaluator.of(batch, [ada]).same_as(BatchEvaluator.of(asked.surveyor.whole(("see",)), [ada]))


def test_bits_of_each_are_those_of_all_its_rows():
    whose, bits = np.array([1, 1, 1, 3]), np.array([1, 4, 4, 2], dtype=np.uint8)
    assert or_by_pair(whose, bits, 5).tolist() == [0, 5, 0, 2, 0]
    assert or_by_group(whose, np.stack((bits, bits * 0), axis=1), 5).tolist() == [
        [0, 0],
        [5, 0],
        [0, 0],
        [2, 0],
        [0, 0],
    ]
    nothing = whose[:0]
    assert or_by_pair(nothing, bits[:0], 2).tolist() == [0, 0]
    assert or_by_group(nothing, bits[:0], 2).tolist() == [0, 0]


def test_work_is_told_by_author_and_by_the_groups_of_the_author():
    asked = engine()
    authors, tree = PolicyIndex(asked.policy, asked.limits, asked.tree).authors, asked.tree
    accounts = [asked.policy.accounts["ada"], None, asked.policy.accounts["cy"]]
    numbered, work = authors.numbered(accounts), authors.everything
    by_ada = work.by_author[work.author == numbered.author[0]]
    assert {tree.nodes[i].author for i in by_ada} == {"ada"}
    assert numbered.author[1] == -1
    team = work.by_group[np.isin(work.group, numbered.group[numbered.member == 0])]
    assert {tree.nodes[i].author for i in team} == {"ada", "ben"}
    assert not (numbered.member == 1).any()


def test_whole_branches_are_not_asked_about_row_by_row():
    asked = engine()
    evaluator = BatchEvaluator.of(asked.surveyor.whole(("remove",)), [asked.grants.of("ada", NOW)])
    with pytest.raises(ValueError, match="whole branches"):
        evaluate_pairs(evaluator, np.array([0]), np.array([0]))


@given(
    st.integers(1, 150).flatmap(
        lambda n: st.lists(st.lists(st.booleans(), min_size=3, max_size=3), min_size=n, max_size=n)
    )
)
def test_sets_of_holders_as_bits_hold_whoever_is_in_them(lines):
    holds = np.array(lines, dtype=bool)
    words = packed(holds)
    assert words.shape == (3, -(-len(holds) // 64))
    column, holder = members(words)
    assert list(zip(column, holder, strict=True)) == list(zip(*holds.T.nonzero(), strict=True))
    assert (words_of(column, holder, 3, len(holds)) == words).all()


@pytest.mark.parametrize(
    "change",
    [
        SetLimit(Limit("l", "loft", Subject.role("writer"), Effect.STOP)),
        SetReach("ben", "content", frozenset({"loft"})),
        GiveRole(give(id="new", scope=only(branches=["loft"]))),
    ],
)
def test_where_something_begins_or_ends_is_looked_up_for_what_is_new(change):
    before = engine(roles={"writer": {}}, assignments=[give(scope=only(branches=["fees"]))])
    was = before.surveyor.policy_index.edges
    after = before.changed(change.apply(before.policy))
    assert after.surveyor.policy_index.edges == PolicyIndex(after.policy, after.limits, after.tree).edges > was > set()


def test_places_that_are_not_asked_have_no_row():
    asked = engine()
    where = np.zeros(len(asked.tree), dtype=bool)
    where[[2, 4]] = True
    places = Places(asked.tree, where)
    assert places.positions.tolist() == [2, 4]
    assert places.row_of[[1, 2, 3, 4]].tolist() == [-1, 0, -1, 1]


def test_what_one_wrote_and_what_ones_team_did():
    asked = engine(accounts=[Account("dee", groups=frozenset({"tenants"}))])
    authors = PolicyIndex(asked.policy, asked.limits, asked.tree).authors
    wrote = {who: {n.id for n in asked.tree.nodes if n.author == who} for who in ("ada", "ben", "cy")}
    accounts = asked.policy.accounts

    def ids(rows):
        return {asked.tree.nodes[i].id for i in rows}

    assert ids(authors.by(accounts["ada"])) == wrote["ada"]
    assert ids(authors.near(accounts["ada"])) == wrote["ada"] | wrote["ben"]
    assert ids(authors.near(accounts["cy"])) == wrote["cy"]
    assert ids(authors.near(accounts["dee"])) == set()  # a group above is no team


def test_holders_are_asked_in_pieces_that_hold_all_of_them():
    asked = engine()
    batch = asked.surveyor.whole(("see",))
    pieces = list(chunks(batch, 500_000))
    assert len(pieces) > 1
    assert [i for piece in pieces[:2] for i in range(500_000)[piece]] == list(range(pieces[1].stop))
    assert pieces[-1].stop >= 500_000


@given(st.lists(st.lists(st.integers(0, 2**40), max_size=1500), max_size=4))
def test_rows_that_are_added_are_kept_in_their_order(added):
    growing = Growing()
    for some in added:
        growing.add(some)
    other = growing.copy()
    growing.add([1, 2])
    assert other.rows.tolist() == [number for some in added for number in some]
    assert growing.rows.tolist() == [*other.rows.tolist(), 1, 2]
