"""Nodes by their own rows and nodes by the whole tree: the same to the rules."""

from dataclasses import replace

from django.db import connection
from django.test.utils import CaptureQueriesContext

from gonfalon.access.names import titles
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content import nodes
from gonfalon.content.models import ContentVersion, Node
from gonfalon.content.nodes import (
    ancestors,
    as_target,
    content,
    engine_over,
    in_sight,
    raise_version,
    target,
)
from gonfalon.core import Engine, Question
from gonfalon.core.bulk.survey import REASONS
from tests.api.support import ok

ACTIONS = ["see", "edit", "publish", "retire", "history"]


def as_kept_meanwhile(before):
    """As a process has it that was not asked meanwhile."""
    nodes._kept._shared[str(connection.settings_dict["NAME"])] = before


def survey():
    return engine_over(content(), current()).surveyor


def test_a_row_and_the_tree_make_the_same_target():
    tree = content().tree
    for row in Node.objects.all():
        assert as_target(row, ancestors(row)) == tree.target(row.id)


def test_one_node_costs_two_queries_however_deep(django_assert_num_queries):
    with django_assert_num_queries(2):
        assert target("p3-sail-loft").path == ("home-harbour", "moorings", "directory", "pier-3-branch", "p3-sail-loft")
    with django_assert_num_queries(1):
        assert target("nowhere") is None


def test_the_whole_harbour_surveyed_is_the_whole_harbour_asked():
    """Every tenth person, every node, five actions: as if each had been asked alone."""
    snapshot, nodes, at = current(), content(), now()
    engine = Engine(snapshot.policy, nodes.tree)
    for account in [None, "ines", "aiko", *sorted(snapshot.policy.accounts)[::10]]:
        reasons = engine_over(nodes, snapshot).surveyor.reasons(account, ACTIONS, at)
        for i, node in enumerate(nodes.tree.nodes):
            for j, action in enumerate(ACTIONS):
                asked = engine.decide(Question(account, action, nodes.tree.target(node.id), at)).reason
                assert REASONS[reasons[i, j]] is asked, (account, action, node.id)


def test_the_tree_is_kept_until_the_version_is_raised(django_assert_num_queries):
    first = content()
    with django_assert_num_queries(1):
        assert content() is first
    raise_version()
    assert content() is not first
    assert content().version == ContentVersion.objects.get().number


def test_answers_are_kept_for_as_long_as_neither_side_changes():
    first = survey()
    assert survey() is first
    raise_version()
    assert survey() is first, "the nodes are as they were"
    Node.objects.filter(pk="p3-sail-loft").update(author="odile")
    raise_version()
    assert survey() is not first


def test_a_page_raises_the_version_by_what_is_kept_of_it(ask):
    """Its text is not; its title and its state are."""
    before, ines = content().version, ask("ines")
    ok(ines.patch("desk/pages/p3-sail-loft", {"values": {"telephone": "1"}}, **{"If-Match": '"1"'}))
    assert content().version == before
    ok(ines.patch("desk/pages/p3-sail-loft", {"title": "Sail loft, Pier 3"}, **{"If-Match": '"2"'}))
    assert content().version == before + 1
    ok(ines.post("desk/pages/p3-sail-loft/retire", **{"If-Match": '"3"'}))
    assert content().version == before + 2


def test_after_single_pages_changed_those_alone_are_read(odile):
    before, asked = content(), engine_over(content(), current())
    ok(odile.patch("desk/pages/fees", {"title": "What a berth costs"}, **{"If-Match": '"1"'}))
    ok(odile.post("desk/pages/p3-sail-loft/retire", **{"If-Match": '"1"'}))
    nodes._kept._shared[str(connection.settings_dict["NAME"])] = (
        before  # as a process has it that was not asked meanwhile
    )
    with CaptureQueriesContext(connection) as queries:
        after = content()
    assert len(queries) == 2
    assert "changed_in" in queries[1]["sql"]
    nodes._kept.clear()
    anew = content()
    assert after == replace(anew, tree=after.tree)
    assert after.tree.nodes == anew.tree.nodes
    assert after.tree.same_places(before.tree)
    told = engine_over(after, current())
    assert told is not asked
    for who in (None, "odile", "ines", "tomasz"):
        fresh = Engine(current().policy, anew.tree).surveyor
        assert (told.surveyor.reasons(who, ACTIONS, now()) == fresh.reasons(who, ACTIONS, now())).all()


def test_after_more_than_that_all_are_read(odile):
    before = content()
    Node.objects.filter(pk="p3-sail-loft").update(author="odile")
    raise_version()
    ok(odile.post("desk/pages/p3-sail-loft/retire", **{"If-Match": '"1"'}))
    as_kept_meanwhile(before)
    assert content().tree.nodes[before.tree.index["p3-sail-loft"]].author == "odile"


def test_saving_what_is_there_already_changes_nothing(ask):
    before = content().version
    page = ok(ask("ines").patch("desk/pages/p3-sail-loft", {"title": "Pier 3, Sail loft"}, **{"If-Match": '"1"'}))
    assert (page["version"], content().version) == (1, before)


def test_sight_reaches_as_far_as_seeing_and_no_further():
    engine, nodes = engine_over(content(), current()), content().tree.nodes
    visitor = in_sight(engine, None, now())
    assert all(node.state == "published" for node, seen in zip(nodes, visitor.whole, strict=True) if seen)
    assert {"home-harbour", "events", "season-events"} <= visitor.named
    assert "harbour-office" not in visitor.named
    assert len(in_sight(engine, "odile", now()).named) == len(nodes)


def test_media_are_in_sight_only_where_their_section_is_open():
    engine, nodes = engine_over(content(), current()), content().tree.nodes
    media = {node.id for node in nodes if node.tree == "media"}
    may_see = {node.id for node in nodes if engine.decide(Question("kwame", "see", engine.tree.target(node.id))).allow}
    assert media & may_see
    assert not engine.decide(Question("kwame", "media.open")).allow
    assert not in_sight(engine, "kwame", now()).named & media


def test_titles_of_many_in_one_query(django_assert_num_queries):
    with django_assert_num_queries(1):
        assert titles({"fees", "events", "nowhere"}) == {"fees": "Fees and dues", "events": "Events"}


def test_what_is_read_on_is_what_would_be_read_anew(odile):
    """Whatever comes, goes or moves, from one reading to the next or several at once."""

    def on(page, doing, data=None):
        ok(odile.post(f"desk/pages/{page}/{doing}", data, **{"If-Match": odile.get(f"desk/pages/{page}")["ETag"]}))

    def remove(page):
        tag = odile.get(f"desk/pages/{page}")["ETag"]
        assert odile.post(f"desk/pages/{page}/remove", **{"If-Match": tag}).status_code == 204

    ok(odile.get("desk/children"))
    whole = ContentVersion.objects.get().whole
    steps = [
        [lambda: ok(odile.post("desk/pages", {"parent": "events", "type": "event", "title": "Supper"}), 201)],
        [lambda: on("season-events", "move", {"to": "museum"})],
        [lambda: on("knot-night", "move", {"before": "open-day"})],
        [lambda: remove("pier-3-branch"), lambda: on("open-day", "retire")],
        [lambda: ok(odile.post("desk/pages/pier-3-branch/restore", {"to": "events"}))],
        [lambda: remove("museum"), lambda: ok(odile.post("desk/pages/museum/restore"))],
    ]
    for step in steps:
        for do in step:
            do()
        read_on, anew = content(), nodes._read(0, None, current().words.types)
        assert read_on.tree.nodes == anew.tree.nodes
        assert (read_on.titles, read_on.addresses) == (anew.titles, anew.addresses)
    assert ContentVersion.objects.get().whole == whole
