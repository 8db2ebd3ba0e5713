"""The policy as of a moment is what was in force then, whatever changed it since and in whichever way."""

from datetime import timedelta
from random import Random

import pytest

from gonfalon.access import policy_changes
from gonfalon.access.models import PolicyChange
from gonfalon.access.policy_changes import NotKnown, as_of, known_since
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.core.document.entries import same_access
from gonfalon.core.model.policy import Policy
from gonfalon.work import POLICY, roll_back, run
from tests.api.support import apply, ok
from tests.api.writes import ANSWER, WRITES
from tests.examples import SEED, examples

ALONE = {
    "begin",
    "forgotten",
    "sign_out",
    "sign_in",
    "give_factor",
    "use_welcome",
    "stand_in",
    "step_out",
    "end_session",
}
"""They change who asks, or need an installation of their own."""


@pytest.fixture(autouse=True)
def kept():
    """The harbour was loaded as a whole: from here on it is known what changes."""
    PolicyChange.objects.all().delete()


@pytest.mark.parametrize("seed", range(SEED, SEED + examples(3)))
def test_whatever_was_changed_in_whichever_way(odile, seed):
    random = Random(seed)
    writes = [write for write in WRITES if write.account == "odile" and write.name not in ALONE]
    moments: list[tuple[object, Policy]] = []
    for write in random.sample(writes, len(writes)):
        try:
            write.ready(odile)()
        except (AssertionError, KeyError, IndexError, AttributeError):
            continue  # what it needs is gone by what came before
        finally:
            moments.append((now(), current().policy))
    assert len({id(policy) for _, policy in moments}) > 8
    for moment, policy in moments:
        assert same_access(as_of(moment), policy)


def test_one_change_is_one_entry_and_what_is_rolled_back_none(odile):
    apply(odile, ANSWER)
    [row] = PolicyChange.objects.all()
    assert row.changes == [["answer", ["pilot", "event.see"], None, "all"]]
    before = current().policy
    run(lambda: (odile.post("roles", {"name": "Crew"}), roll_back()), (POLICY,))
    assert PolicyChange.objects.count() == 1
    assert same_access(current().policy, before)


def test_what_is_loaded_as_a_whole_is_where_it_begins(odile, monkeypatch):
    before = now()
    monkeypatch.setattr(policy_changes, "MOST_ENTRIES", 0)
    apply(odile, ANSWER)
    monkeypatch.undo()
    ok(odile.post("roles", {"name": "Crew"}), 201)
    since = known_since()
    with pytest.raises(NotKnown) as told:
        as_of(before)
    assert told.value.since == since
    assert "crew" not in as_of(since).roles
    assert "crew" in as_of(now() + timedelta(days=1)).roles
