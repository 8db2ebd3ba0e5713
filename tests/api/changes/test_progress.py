"""How far long work has come is seen while it is under way, and gone when it is over."""

import pytest
from django.db import connection

from gonfalon.access import progress
from gonfalon.access.progress import counted, how_far
from gonfalon.content.models import Node
from tests.api.support import ok


def test_it_is_told_while_the_work_has_not_been_written_yet():
    """Over a connection of its own: what the work's has written is not seen yet, how far it has come is."""
    with counted("odile", 3_000) as count:
        count(1_500)
        assert how_far("odile") == (1_500, 3_000)
        assert how_far("tomasz") is None
        with connection.cursor() as cursor:
            cursor.execute("SELECT COUNT(*) FROM access_progress")
            assert cursor.fetchone() == (0,), "it belongs to the other connection"
    assert how_far("odile") is None


def test_work_that_fails_leaves_nothing_behind():
    def fails():
        with counted("odile", 3_000) as count:
            count(1_500)
            raise KeyError

    with pytest.raises(KeyError):
        fails()
    assert how_far("odile") is None


def test_short_work_is_not_told_of(django_assert_num_queries):
    with django_assert_num_queries(0), counted("odile", 20) as count:
        for _ in range(20):
            count()


def test_nothing_is_under_way_most_of_the_time(odile):
    assert ok(odile.get("change-set/progress")) == {"done": 0, "total": 0}


def test_a_branch_that_is_moved_removed_and_brought_back_tells_each_stage(odile, monkeypatch):
    """As if it were large."""
    told: list[tuple[int, int] | None] = []
    monkeypatch.setattr(progress, "LONG", 1)
    monkeypatch.setattr(progress, "STEP", 1)
    tell = progress._tell
    monkeypatch.setattr(progress, "_tell", lambda *stage: (tell(*stage), told.append(how_far("odile"))))
    page, season = "desk/pages/season-events", Node.objects.get(pk="season-events")
    size = Node.objects.get_descendants(season).count() + 1
    tag = {"If-Match": odile.get(page)["ETag"]}
    ok(odile.post(f"{page}/move", {"to": "museum"}, **tag))
    assert told == [(size, 3 * size), (2 * size, 3 * size), None]
    tag = {"If-Match": odile.get(page)["ETag"]}
    assert odile.post(f"{page}/remove", **tag).status_code == 204
    assert told[3:] == [(size, 2 * size), None]
    ok(odile.post(f"{page}/restore"))
    assert told[5:] == [(size, 3 * size), (2 * size, 3 * size), None]
