"""Applying is all or nothing, also when something fails in its middle or two people apply at once."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection

from gonfalon.access import change_sets, operations
from gonfalon.access.models import Answer, ChangeSet, Limit, PolicyVersion
from gonfalon.access.snapshot import current
from gonfalon.ledger.models import By, Entry
from tests.api.changes.test_change_sets import EDIT, GIVE, STOP
from tests.api.support import ok, stage


def test_a_failure_in_the_middle_leaves_nothing_behind(odile, monkeypatch):
    stage(odile, EDIT, STOP, GIVE)
    before, entries = current().policy, Entry.objects.count()

    def fail(data, by):
        raise ZeroDivisionError

    monkeypatch.setattr(operations.KINDS["give-role"], "write", fail)
    with pytest.raises(ZeroDivisionError):
        change_sets.apply_staged("odile", By("odile"))
    monkeypatch.undo()
    assert current().policy == before
    assert (Entry.objects.count(), Limit.objects.count()) == (entries, 10)
    assert len(ok(odile.get("change-set"))["operations"]) == 3
    ok(odile.post("change-set/apply"))
    assert Limit.objects.count() == 11


@pytest.mark.django_db(transaction=True)
def test_of_two_who_apply_at_once_one_is_told_and_neither_is_lost():
    """Both say something else about one answer. Whoever comes second is refused, whole."""
    sayings = {"odile": "team", "ludo": "all"}
    for owner, says in sayings.items():
        change_sets.stage(owner, [EDIT | {"says": says}], current().policy)
    version = PolicyVersion.objects.get().number
    together = threading.Barrier(2)

    def apply_as(owner):
        try:
            together.wait()
            return change_sets.apply_staged(owner, By(owner)).actor
        except change_sets.StaleOperations:
            return None
        finally:
            connection.close()

    with ThreadPoolExecutor(2) as pool:
        applied = list(pool.map(apply_as, sayings))
    [winner] = [owner for owner in applied if owner]
    assert Answer.objects.get(role="tenant-editor", capability="event.edit").says == sayings[winner]
    assert PolicyVersion.objects.get().number == version + 1
    assert Entry.objects.filter(kind="change-set.applied").count() == 1
    assert ChangeSet.objects.filter(state="open").count() == 1
