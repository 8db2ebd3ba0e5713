"""Trails and advice as the command line tells them."""

import pytest

from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.checks.suggestions import Advice, Advised, advise
from gonfalon.core.cli.text import advised, explained
from gonfalon.core.diff.impact import impact
from gonfalon.core.model.policy import Account, Assignment, DirectGrant, FieldRule, Limit, Lock, Role, Scope, Subject
from gonfalon.core.model.vocabulary import Effect
from gonfalon.core.operations import (
    DropLimit,
    GiveRole,
    OpenLock,
    SetAnswer,
    SetBuildsOn,
    SetFieldRule,
    SetLimit,
    SetReach,
)
from tests.core.harbour import ADA, CREW, EDITS, NOW, WRITER, engine, give


def told(asked, action, node="loft", who="ada", **parts):
    question = Question(who, action, asked.tree.target(node), NOW, **parts)
    return [line.strip() for line in explained(asked.decide(question, trail=True))]


class TestExplained:
    def test_each_source_with_how_far_it_came(self):
        asked = engine(
            roles={
                "base": EDITS,
                "writer": Role("writer", {"berth.edit": "own"}, "base"),
                "reader": {"berth.edit": "own"},
            },
            assignments=[
                give(to=CREW, id="crew"),
                give("reader", id="own"),
                give("base", id="else", scope=Scope(branches=frozenset({"races"}))),
            ],
            direct=[DirectGrant("d1", ADA, "berth.edit", "all")],
            limits=[Limit("l1", "moorings", WRITER, Effect.STOP)],
        )
        lines = told(asked, "edit", "loft")
        assert lines[0] == "no: live"
        assert "grants for berth.edit: passed" in lines
        assert "role writer, crew through group tenants (own) gives it, but is stopped by limit l1" in lines
        assert "role reader, own (own) gives it" in lines
        assert "role base, else (all) gives it, but not here" in lines
        assert "d1 (all) gives it" in lines
        live = "role writer, crew through group tenants (all, said by base) gives it, but is stopped by limit l1"
        assert lines[-1] == live
        assert "role reader, own (own) gives it, but not on what this author wrote" in told(asked, "edit", "chandlery")

    def test_what_a_role_takes_from_another_is_told_as_that_one_s_word(self):
        asked = engine(roles={"base": EDITS, "writer": Role("writer", {}, "base")}, assignments=[give()])
        assert "role writer, a1 (all, said by base) gives it" in told(asked, "edit")

    def test_bars_of_roles_and_of_limits(self):
        asked = engine(
            roles={"writer": {"berth.edit": "barred"}},
            assignments=[give()],
            limits=[Limit("l1", "home", CREW, Effect.BAR)],
        )
        lines = told(asked, "edit")
        assert lines[:2] == ["no: barred", "bars for berth.edit: failed"]
        assert "role writer, a1 (barred) bars it" in lines
        assert "bar on tenants by limit l1" in lines

    def test_what_narrows_an_account_itself(self):
        stop = Limit("l1", "home", ADA, Effect.STOP)
        asked = engine(roles={"writer": EDITS}, assignments=[give()], limits=[stop])
        assert told(asked, "edit")[-1] == "own limit on ada by limit l1"
        confined = Account("ada", reach={"content": frozenset({"races"})})
        asked = engine(roles={"writer": EDITS}, assignments=[give()], accounts=[confined])
        assert told(asked, "edit")[-1] == "outside the reach of ada"

    def test_locks_and_parts(self):
        asked = engine(
            roles={"writer": Role("writer", EDITS, components=frozenset({"text"}), facets={"text": frozenset()})},
            assignments=[give()],
            locks=[Lock("k1", "fees")],
            fields={("berth", "dues"): FieldRule("author")},
        )
        assert told(asked, "edit", "fees")[-2:] == ["locks for locks.open: failed", "lock k1"]
        assert told(asked, "insert-component", component="table")[-1] == "component table closed to role writer"
        assert (
            told(asked, "change-facet", component="text", facet="links")[-1] == "facet text.links closed to role writer"
        )
        assert told(asked, "change-field", "chandlery", field="dues")[-2:] == [
            "the field's rule: failed",
            "field berth.dues",
        ]

    def test_those_who_are_decided_at_once(self):
        asked = engine(accounts=[Account("gone", "disabled")])
        assert told(asked, "edit", who="gone") == ["no: inactive", "the account: failed"]
        assert told(asked, "edit", who="key") == ["yes: allowed", "keyholder: may do everything"]
        assert told(asked, "see", who=HypotheticalSubject(("signed-in",)))[0] == "no: not-granted"


class TestAdvised:
    @pytest.mark.parametrize(
        ("operation", "words"),
        [
            (GiveRole(Assignment("new", "writer", ADA)), "give role writer to account ada, everywhere"),
            (
                GiveRole(Assignment("new", "writer", CREW, Scope(branches=frozenset({"loft"})))),
                "give role writer to group tenants, branches loft",
            ),
            (SetAnswer("writer", "berth.edit", "all"), "let role writer say all about berth.edit"),
            (SetLimit(Limit("new", "loft", WRITER, Effect.LIFT)), "lift at loft for role writer"),
            (DropLimit("l1"), "drop limit l1"),
            (SetReach("ada", "content", frozenset({"loft", "home"})), "let ada reach home, loft in content"),
            (OpenLock("k1"), "open lock k1"),
            (SetFieldRule("berth", "dues", FieldRule()), "widen the rule of berth.dues"),
        ],
    )
    def test_each_change_with_what_else_it_turns(self, operation, words):
        asked = engine(
            roles={"writer": {}}, limits=[Limit("l1", "home", WRITER, Effect.STOP)], locks=[Lock("k1", "fees")]
        )
        nothing = impact(asked, asked.changed(asked.policy), NOW)
        assert list(advised(Advice((Advised((operation,), nothing),)))) == [f"  {words} (0 accounts, +0 -0 answers)"]

    def test_several_changes_at_once_and_what_is_never_advised(self):
        asked = engine(roles={"writer": EDITS, "reader": {}})
        after = asked.changed(GiveRole(give()).apply(asked.policy))
        change = Advised((OpenLock("k1"), OpenLock("k2")), impact(asked, after, NOW))
        [line] = advised(Advice((change,)))
        assert line.startswith("  open lock k1, and open lock k2 (1 account, +")
        with pytest.raises(TypeError, match="is not advised"):
            list(advised(Advice((Advised((SetBuildsOn("writer", None),), change.impact),))))

    def test_bars_are_named_and_nothing_is_advised_against_them(self):
        barring = engine(roles={"writer": {"berth.edit": "barred"}}, assignments=[give(to=Subject.account("cy"))])
        advice = advise(barring, Question("cy", "edit", barring.tree.target("loft")), NOW)
        assert list(advised(advice)) == ["  nothing but lifting what bars it would turn this"]
