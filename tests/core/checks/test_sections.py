"""Sections of the desk that a role opens around nothing, and what it gives for those that stay closed."""

from dataclasses import replace

import pytest

from gonfalon.core.checks.findings import review
from gonfalon.core.checks.sections import Amiss, section_of, sections_amiss
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.model.policy import Role
from gonfalon.core.model.vocabulary import DESK_OPEN, SECTIONS, Kind
from tests.core.harbour import harbour

LISTED = {
    **dict.fromkeys(("desk.open", *SECTIONS), Kind.OPENING),
    **dict.fromkeys(("discussion.moderate", "listing.edit", "locks.open"), Kind.PLACED),
    **dict.fromkeys(("topics.add", "site.settings", "roles.define"), Kind.SITEWIDE),
}
OPEN = {"desk.open": "yes", "content.open": "yes"}


def policy(capabilities=LISTED, **roles):
    return replace(harbour(roles=roles), capabilities=capabilities)


def amiss(role="writer", capabilities=LISTED, **roles):
    return list(sections_amiss(role, RoleResolver(policy(capabilities, **roles))))


@pytest.mark.parametrize(
    ("capability", "section"),
    [
        ("berth.edit", "content.open"),
        ("berth.see-draft", "content.open"),
        ("picture.create", "media.open"),
        ("account.see", "accounts.open"),
        ("listing.edit", "content.open"),
        ("discussion.moderate", "discussion.open"),
        ("topics.add", "topics.open"),
        ("site.settings", "settings.open"),
        ("media.open", "desk.open"),
        ("berth.see", None),
        ("picture.see-draft", None),
        ("roles.define", None),
        ("locks.open", None),
        ("desk.open", None),
    ],
)
def test_where_each_is_done(capability, section):
    assert section_of(capability, policy()) == section


def test_what_fits_together_is_not_told():
    assert amiss(writer={**OPEN, "berth.edit": "own"}) == []
    assert amiss(writer={"berth.see": "all", "roles.define": "yes", "account.edit": "own"}) == []


@pytest.mark.parametrize("nothing", [{}, {"berth.see": "all"}, {"berth.edit": "withheld"}, {"berth.edit": "barred"}])
def test_a_section_with_nothing_to_do_in_it(nothing):
    assert amiss(writer={**OPEN, **nothing}) == [Amiss("content.open")]


def test_a_desk_with_no_section_open():
    assert amiss(writer={"desk.open": "yes"}) == [Amiss("desk.open")]


def test_what_is_given_for_a_section_that_is_closed():
    said = {**OPEN, "berth.edit": "own", "topics.add": "yes", "picture.edit": "all", "picture.create": "all"}
    assert amiss(writer=said) == [
        Amiss("topics.open", ("topics.add",)),
        Amiss("media.open", ("picture.edit", "picture.create")),
    ]
    assert amiss(writer={"content.open": "yes", "berth.edit": "own"}) == [Amiss(DESK_OPEN, ("content.open",))]


def test_what_everybody_has_counts_but_is_told_of_the_baseline_alone():
    everyone = Role("everyone", {**OPEN, "topics.add": "yes"})
    assert amiss(writer={"berth.edit": "own"}, everyone=everyone) == []
    assert amiss("everyone", everyone=everyone) == [Amiss("content.open"), Amiss("topics.open", ("topics.add",))]


def test_what_a_role_takes_from_another_is_told_of_that_one():
    writer = Role("writer", {"berth.edit": "own"})
    assert amiss("lead", writer=writer, lead=Role("lead", OPEN, "writer")) == []
    assert amiss("writer", writer=writer, lead=Role("lead", OPEN, "writer")) == [Amiss("content.open", ("berth.edit",))]
    assert amiss("lead", writer=writer, lead=Role("lead", {}, "writer")) == []
    shut = Role("lead", {"content.open": "barred"}, "base")
    assert amiss("lead", base=Role("base", {**OPEN, "berth.edit": "all"}), lead=shut) == []


def test_sections_that_a_policy_does_not_list_are_the_desk_or_none():
    old = {"desk.open": Kind.OPENING}
    assert amiss(capabilities=old, writer={"berth.edit": "own"}) == [Amiss("desk.open", ("berth.edit",))]
    assert amiss(capabilities=old, writer={"desk.open": "yes", "berth.edit": "own"}) == []
    assert amiss(capabilities={}, writer={"berth.edit": "own"}) == []


def test_a_document_is_told_where_each_stands():
    told = {f.pointer: f.message for f in review(policy(writer={**OPEN, "topics.add": "yes", "media.open": "yes"}))}
    assert told == {
        "/roles/writer/grants/content.open": "this opens a section without anything to do in it",
        "/roles/writer/grants/media.open": "this opens a section without anything to do in it",
        "/roles/writer/grants/topics.add": "topics.add is given for a section that is closed: topics.open is not given",
    }
