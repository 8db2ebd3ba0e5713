"""Applying is all or nothing, also when something fails in its middle."""

import pytest

from gonfalon.access import change_sets, operations
from gonfalon.access.models import Limit
from gonfalon.access.snapshot import current
from gonfalon.ledger.models import By, Entry
from tests.api.changes.test_change_sets import EDIT, GIVE, STOP
from tests.api.support import ok, stage


def test_a_failure_in_the_middle_leaves_nothing_behind(odile, monkeypatch):
    stage(odile, EDIT, STOP, GIVE)
    before, entries = current().policy, Entry.objects.count()

    def fail(data, by):
        raise ZeroDivisionError

    monkeypatch.setattr(operations.KINDS["give-role"], "write_all", fail)
    with pytest.raises(ZeroDivisionError):
        change_sets.apply_staged("odile", By("odile"))
    monkeypatch.undo()
    assert current().policy == before
    assert (Entry.objects.count(), Limit.objects.count()) == (entries, 10)
    assert len(ok(odile.get("change-set"))["operations"]) == 3
    ok(odile.post("change-set/apply"))
    assert Limit.objects.count() == 11
