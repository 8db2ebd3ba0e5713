"""Viewpoints: the same questions for other eyes, under another policy, at another time. None of them ever changes."""

from dataclasses import FrozenInstanceError
from datetime import timedelta

import pytest

from gonfalon.access.sight import EVERYTHING
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.model.policy import Scope
from gonfalon.core.operations import SetAnswer
from gonfalon.viewpoint.viewpoint import viewpoint, with_staged
from tests.api.support import apply, stage
from tests.api.writes import ANSWER

WIDER = {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"}


def may(here, action: str, node: str) -> bool:
    question = Question(here.subject, action, here.nodes.tree.target(node), here.at)
    return here.engine.decide(question).allow


@pytest.fixture
def ines(harbour):
    return viewpoint("ines", now())


def test_it_never_changes(ines):
    with pytest.raises(FrozenInstanceError):
        ines.subject = "odile"


def test_an_account_a_visitor_and_somebody_made_up_see_what_the_rules_show_them(ines):
    visitor = ines.seen_by(None)
    keyholder = ines.seen_by("odile")
    made_up = ines.seen_by(HypotheticalSubject((), scoped=(("pilot", Scope(branches=frozenset({"notices"}))),)))
    for here in (ines, visitor, keyholder, made_up):
        shown = {node.id for node in here.nodes.tree.nodes if may(here, "see", node.id)}
        assert {n.id for n, seen in zip(here.nodes.tree.nodes, here.in_sight.whole, strict=True) if seen} <= shown
    assert keyholder.sees_all_nodes
    assert not visitor.sees_all_nodes
    assert keyholder.sight.people is EVERYTHING
    assert set(ines.sight.people) == {"ines"}
    assert set(visitor.sight.people) == set()
    assert (keyholder.keyholder, ines.keyholder, made_up.keyholder) == (True, False, False)
    assert (ines.account, visitor.account, ines.seen_by(made_up.subject, made_up="m1").account) == ("ines", None, "m1")
    assert ines.seen_by("renzo", knows=frozenset({"ines"})).knows == {"ines"}


def test_all_of_the_same_share_what_was_read(ines):
    _ = ines.nodes, ines.engine
    other = ines.seen_by(None).at_moment(ines.at + timedelta(days=1))
    assert other.nodes is ines.nodes
    assert other.engine is ines.engine


def test_under_another_policy(ines):
    assert not may(ines, "publish", "p3-sail-loft")
    wider = ines.under(SetAnswer("tenant-editor", "berth.publish", "own").apply(ines.in_force.policy))
    assert may(wider, "publish", "p3-sail-loft")
    assert not may(ines, "publish", "p3-sail-loft"), "the first is as it was"
    assert wider.snapshot.version < 0, "no version in force is taken for it"


def test_with_what_somebody_staged(ines, odile):
    stage(odile, WIDER)
    assert may(with_staged(ines, "odile"), "publish", "p3-sail-loft")
    assert not may(with_staged(ines, "renzo"), "publish", "p3-sail-loft")


def test_as_of_a_moment_and_renewed(ines, odile):
    apply(odile, ANSWER)
    before = now()
    apply(odile, WIDER)
    assert may(ines.renewed(), "publish", "p3-sail-loft")
    then = ines.renewed().as_of(before)
    assert then.at == before
    assert not may(then, "publish", "p3-sail-loft")
    Account.objects.filter(pk="ines").update(name="Somebody else")
    assert then.snapshot is not ines.snapshot
