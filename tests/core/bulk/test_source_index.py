"""Everybody's sources as numbered entries: what they are made of, who shares them, what they come to on a sheet."""

from threading import Thread

import numpy as np
import pytest
from hypothesis import given, settings

from gonfalon.core.bulk.grant_tables import AuthorRelation
from gonfalon.core.bulk.grants_on_nodes import GrantsOnNodes
from gonfalon.core.bulk.source_index import SourceColumn, SourceIndex
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.model.policy import Account, DirectGrant, Limit, Scope, Subject
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import NOW, engine, give, only
from tests.core.strategies import NODE_IDS, engines
from tests.examples import examples

CREWED = Limit("l", "moorings", Subject.group("tenants"), Effect.STOP)


def rolled(who=("ada",), **said):
    """A roll, with the facts of each holder's entries as lists."""
    asked = engine(**said)
    source_index = SourceIndex(asked.policy, asked.limits, asked.tree)
    numbers, counts = source_index.grants_of(source_index.intern([asked.grants.of(each, NOW) for each in who]))
    rows = iter(source_index.grant_rows[numbers].tolist())
    return source_index, [[next(rows) for _ in range(count)] for count in counts.tolist()]


def spans(grant_rows):
    return [(fact[SourceColumn.START], fact[SourceColumn.END]) for fact in grant_rows]


def test_a_source_without_branches_is_one_entry_for_the_whole_tree():
    source_index, [grant_rows] = rolled(roles={"writer": {"berth.edit": "all"}}, assignments=[give()])
    assert spans(grant_rows) == [(0, len(source_index.tree))] * len(grant_rows)
    assert [source_index.tables.every[fact[SourceColumn.STATEMENTS]].roles for fact in grant_rows] == [
        ("everyone",),
        ("signed-in",),
        ("writer",),
    ]


@pytest.mark.parametrize(
    ("branches", "runs"),
    [
        (["loft"], [["loft"]]),
        (["moorings", "fees", "winter"], [["moorings"]]),
        (["loft", "pictures"], [["loft"], ["pictures"]]),
        (["nowhere", "loft"], [["loft"]]),
        ([], []),
    ],
)
def test_each_branch_that_lies_in_no_other_is_an_entry_of_its_own(branches, runs):
    scope = Scope(branches=frozenset(branches))
    source_index, [grant_rows] = rolled(roles={"writer": {"berth.edit": "all"}}, assignments=[give(scope=scope)])
    written = [
        fact for fact in grant_rows if source_index.tables.every[fact[SourceColumn.STATEMENTS]].roles == ("writer",)
    ]
    assert spans(written) == [(source_index.tree.branch(id).start, source_index.tree.branch(id).stop) for [id] in runs]


def test_one_role_in_equal_scopes_is_one_entry_whoever_has_it():
    here = only(types=["berth"], branches=["moorings"])
    given_to = [give(scope=here, id="a1"), give(scope=here, id="a2", to=Subject.account("ben"))]
    source_index, [ada, ben, cy] = rolled(("ada", "ben", "cy"), roles={"writer": {}}, assignments=given_to)
    assert ada == ben
    assert len(source_index) == len(ada) == len(cy) + 1


def test_an_equal_direct_grant_says_the_same_to_all_who_have_it():
    direct = [DirectGrant(f"d{who}", Subject.account(who), "berth.move", "own") for who in ("ada", "ben")]
    _, [ada, ben] = rolled(("ada", "ben"), direct=direct)
    assert ada == ben


def test_groups_count_where_a_stop_names_them():
    through = [give(to=Subject.group("tenants"), id="a1"), give(to=Subject.account("ada"), id="a2")]
    source_index, [grant_rows] = rolled(roles={"writer": {}}, assignments=through, limits=[CREWED])
    assert {fact[SourceColumn.GROUPS] for fact in grant_rows} == {0, source_index.groups[(Subject.group("tenants"),)]}
    _, [unlimited] = rolled(roles={"writer": {}}, assignments=through)
    assert {fact[SourceColumn.GROUPS] for fact in unlimited} == {0}


def test_keyholders_and_those_who_are_not_active_have_no_entries():
    accounts = [Account("key", keyholder=True), Account("gone", "disabled")]
    _, [key, gone, visitor] = rolled(("key", "gone", None), accounts=accounts)
    assert (key, gone, len(visitor)) == ([], [], 1)


def test_nobody_at_all_has_no_entries():
    source_index, none = rolled(())
    assert (none, len(source_index)) == ([], 0)


def test_numbers_are_the_same_whoever_asks_first():
    """Several threads ask one roll at once: each entry is numbered once."""
    scopes = [only(branches=[id]) for id in NODE_IDS]
    given_to = [give(scope=scope, id=f"a{i}") for i, scope in enumerate(scopes)]
    asked = engine(roles={"writer": {"berth.edit": "all"}}, assignments=given_to)
    ada, source_index = asked.grants.of("ada", NOW), SourceIndex(asked.policy, asked.limits, asked.tree)
    found = []
    threads = [
        Thread(target=lambda: found.append(source_index.grants_of(source_index.intern([ada]))[0].tolist()))
        for _ in range(8)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == [found[0]] * len(threads)
    assert len(source_index) == len(set(found[0])) == len(scopes) + 2


def test_a_sheet_that_keeps_too_much_begins_anew_and_answers_the_same(monkeypatch):
    scopes = [only(branches=["moorings"]), only(types=["berth"]), only(topics=["trade"])]
    roles = {"writer": {"berth.edit": "own", "berth.see": "all"}}
    given_to = [give(scope=scope, id=who, to=Subject.account(who)) for scope, who in zip(scopes, "xyz", strict=True)]
    holder_rows = [Account(who) for who in "xyz"]
    survey = engine(roles=roles, assignments=given_to, accounts=holder_rows).surveyor
    kept = [survey.allowed([who], None, ["see", "edit"], NOW).tolist() for who in "xyz"]
    monkeypatch.setattr("gonfalon.core.bulk.grants_on_nodes.MOST_KEPT", 0)
    assert [survey.allowed([who], None, ["see", "edit"], NOW).tolist() for who in "xyz"] == kept
    nothing = np.array([], dtype=np.intp)
    assert len(survey.whole(("see", "edit")).kept(GrantsOnNodes).of(nothing).masks) == 1


@settings(max_examples=examples(60), deadline=None)
@given(engines())
def test_what_an_entry_comes_to_is_what_its_source_says_within_its_scope(asked):
    """Row by row, against each source looked at by itself."""
    survey = asked.surveyor
    batch = survey.batch(survey.columns(("see", "edit", "create:berth")), np.arange(1, len(asked.tree)))
    for who in (None, "ada", "ben"):
        for source in asked.grants.of(who, NOW).sources:
            numbers, _ = batch.policy_index.source_index.grants_of(
                batch.policy_index.source_index.intern([SubjectGrants(None, (source,))])
            )
            found = batch.kept(GrantsOnNodes).of(numbers)
            stopped = batch.in_force(source.subjects, Effect.STOP)
            for level in (AuthorRelation.OWN, AuthorRelation.TEAM, AuthorRelation.ALL):
                told = batch.nothing.copy()
                for i in found.said.nonzero()[0]:
                    told[found.first[i] : found.last[i]] |= found.along(level, i)
                said = batch.within(source.scope, batch.says(source.resolved)[level])
                assert (told == (said if stopped is None else said & ~stopped)).all()
