"""Units of work: whole or not at all, tried again where somebody was in the way; what was undone was never there."""

import ast
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.apps import apps
from django.db import OperationalError
from drf_spectacular.generators import SchemaGenerator

from gonfalon.access import snapshot
from gonfalon.access.models import PolicyVersion, Role
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account, Guesses
from gonfalon.api.verify import stand_in
from gonfalon.clock import new_id, now
from gonfalon.content import nodes
from gonfalon.content.models import Node
from gonfalon.ledger.models import By, Entry, record
from gonfalon.verify.models import Rehearsal
from gonfalon.work import NODES, POLICY, after_commit, apart, roll_back, run, unit
from gonfalon.work.units import Unit
from tests.api.support import Asking
from tests.api.writes import WRITES, Write

GONFALON = Path(snapshot.__file__).parents[1]


@pytest.fixture(autouse=True)
def _no_pauses(monkeypatch):
    monkeypatch.setattr("gonfalon.work.units.PAUSES", (0, 0, 0))


class Failing:
    """What the work meets: an error for each try until they are used up."""

    def __init__(self, *codes: int) -> None:
        self.codes, self.tries = list(codes), 0

    def __call__(self) -> int:
        self.tries += 1
        if self.codes:
            raise OperationalError(self.codes.pop(0), "in the way")
        return self.tries


@pytest.mark.parametrize("code", [1205, 1213, 1020, 2006, 2013])
def test_what_somebody_was_in_the_way_of_is_tried_again(code):
    assert run(Failing(code, code, code)) == 4


def test_it_is_given_up_after_three_more_tries():
    failing = Failing(*[1213] * 9)
    with pytest.raises(OperationalError):
        run(failing)
    assert failing.tries == 4


def test_other_errors_are_not_tried_again():
    failing = Failing(1146)
    with pytest.raises(OperationalError):
        run(failing)
    assert failing.tries == 1


def test_each_try_gets_the_same_ids_and_one_moment_and_writes_apart_once():
    seen: list[Any] = []
    failing = Failing(1213, 1020)

    def work() -> None:
        moment = now()
        seen.append(
            (new_id(), new_id(), apart(lambda: Guesses.objects.create(key=f"k{len(seen)}", last_at=moment).key))
        )
        assert now() == moment
        failing()

    run(work)
    assert seen == [seen[0]] * 3
    assert seen[0][0] != seen[0][1]
    assert Guesses.objects.count() == 1


def test_what_follows_a_commit_follows_it_once_and_never_a_rollback():
    done: list[str] = []
    failing = Failing(1213)
    run(lambda: (after_commit(lambda: done.append("kept")), failing()))
    run(lambda: after_commit(lambda: done.append("refused")), keeps=lambda _: False)
    run(lambda: (after_commit(lambda: done.append("undone")), roll_back()))
    with pytest.raises(KeyError):
        run(lambda: (after_commit(lambda: done.append("failed")), {}["x"]))
    assert done == ["kept"]


def test_a_failure_after_the_commit_is_logged_and_undoes_nothing(caplog):
    def fails() -> None:
        raise KeyError("gone")

    entry = run(lambda: (after_commit(fails), record(By(None), "test.done", words="Done"))[1])
    assert Entry.objects.filter(pk=entry.pk).exists()
    assert "follows a commit" in caplog.text


def test_a_commit_that_nothing_was_heard_of_is_looked_up(monkeypatch):
    """The connection is lost once all is written: the entry tells whether it was kept."""
    commits, tries = Unit.commits, []

    def lost(self: Unit) -> None:
        commits(self)
        tries.append(self)
        if len(tries) == 1:
            raise OperationalError(2013, "lost")

    monkeypatch.setattr(Unit, "commits", lost)
    run(lambda: record(By(None), "test.done", words="Rolled back with the connection"))
    assert len(tries) == 2, "it was not kept, so it is done again"
    assert Entry.objects.filter(kind="test.done").count() == 1
    monkeypatch.setattr(Unit, "was_kept", lambda self: True)
    tries.clear()
    assert run(lambda: record(By(None), "test.done", words="Kept") and "answer") == "answer"
    assert len(tries) == 1


def test_part_of_a_unit_needs_what_the_whole_one_holds():
    raising = unit(POLICY)(raise_version)
    run(raising, (POLICY,))
    with pytest.raises(RuntimeError, match="policy exclusively"):
        run(raising, (POLICY.shared,))
    with pytest.raises(RuntimeError, match="nodes"):
        run(lambda: run(lambda: None, (NODES.shared,)), (POLICY,))
    with pytest.raises(RuntimeError, match="nodes"):
        run(nodes.raise_version, (NODES.shared,))


def test_a_version_that_is_rolled_back_was_never_there():
    """Somebody is disabled in a unit that is undone: the version it raised comes again, and says otherwise."""
    before = current()

    def disabling() -> None:
        Account.objects.filter(pk="ines").update(state="disabled")
        raise_version()
        assert current().policy.accounts["ines"].state == "disabled"
        roll_back()

    run(disabling, (POLICY,))
    assert current() is before
    run(raise_version, (POLICY,))
    assert current().version == before.version + 1
    assert current().policy.accounts["ines"].state == "active"


def test_a_policy_that_was_read_in_a_unit_is_everybodys_once_that_is_kept(django_assert_num_queries):
    current()
    read: list[Any] = []
    run(lambda: (raise_version(), read.append(current())), (POLICY,))
    with django_assert_num_queries(1):
        assert current() is read[0]


def test_nodes_that_are_rolled_back_were_never_there():
    before = nodes.content()

    def renaming() -> None:
        row = Node.objects.get(pk="fees")
        row.title = "Dues"
        nodes.raise_version_of(row)
        row.save()
        assert nodes.content().titles["fees"] == "Dues"
        roll_back()

    run(renaming, (NODES,))
    assert nodes.content() is before
    run(nodes.raise_version, (NODES,))
    assert nodes.content().titles["fees"] == before.titles["fees"]


def test_a_version_that_is_held_is_not_asked_for_again(django_assert_num_queries):
    current(), nodes.content()
    with django_assert_num_queries(4):  # two locks, and the savepoint
        run(lambda: (current(), nodes.content()), (POLICY.shared, NODES.shared))


def test_the_unit_alone_begins_transactions_and_locks_rows():
    found = [
        f"{path.relative_to(GONFALON)}:{node.lineno} {name}"
        for path in GONFALON.rglob("*.py")
        if "migrations" not in path.parts and GONFALON / "work" not in path.parents
        for node in ast.walk(ast.parse(path.read_text()))
        if (name := getattr(node, "attr", getattr(node, "id", None))) in ("atomic", "select_for_update", "on_commit")
    ]
    assert found == []


# What holds of every address that writes.


@pytest.fixture(scope="module")
def addresses() -> set[str]:
    schema = SchemaGenerator().get_schema(request=None, public=True)
    return {one["operationId"] for path in schema["paths"].values() for way, one in path.items() if way != "get"}


READING = {"invitation_letter", "take_on_foreseen", "preview", "preview_touched", "preview_many",
           "scope_covers", "markup_risk", "welcome",
           "check_password", "preview_page", "preview_working_copy", "limit_cells", "why_changes",
           "handing_out_foreseen", "disabling_foreseen", "read_together", "take_step_back", "sentences"}  # fmt: skip
WITH_A_PASSKEY = {"passkey_challenge", "passkey_challenge_again"}
"""They write nothing but what the browser's session keeps; tests/api/session/test_factors.py has them."""


def test_every_address_that_writes_is_tried(addresses):
    assert {write.name for write in WRITES} == addresses - READING - WITH_A_PASSKEY


def written() -> dict[str, int]:
    """How many rows there are of everything that a unit writes."""
    return {
        model._meta.label: model._base_manager.count()
        for model in apps.get_models()
        if not getattr(model, "written_apart", False) and model._meta.label != "sessions.Session"
    }


@pytest.fixture(params=WRITES, ids=lambda write: write.name)
def sender(request, harbour) -> tuple[Asking, Callable[[], Any]]:
    write: Write = request.param
    asking = Asking(write.account)
    asking.client.raise_request_exception = False
    return asking, write.ready(asking)


def files_in(folder: str) -> list[Path]:
    return sorted(path for path in Path(folder).rglob("*") if path.is_file())


def difference(before: dict[str, int], after: dict[str, int]) -> dict[str, int]:
    return {label: after[label] - count for label, count in before.items() if after[label] != count}


def test_a_deadlock_after_the_last_write_changes_nothing_of_what_comes(sender, monkeypatch):
    """Once in a unit that is undone to see what comes of it, then with a deadlock: the same, once."""
    _, send = sender
    commits, met = Unit.commits, []
    before = written()
    seen: list[Any] = []

    def looking(self: Unit) -> None:
        commits(self)
        seen.append(difference(before, written()))
        met.append(self)
        if len(met) == 1:
            raise OperationalError(1213, "Deadlock found")

    monkeypatch.setattr(Unit, "commits", looking)
    response = send()
    assert response.status_code < 300, response.content
    assert len(met) == 2, "tried once more, and kept"
    assert seen[0] == seen[1] == difference(before, written())


def test_an_error_after_the_last_write_leaves_nothing(sender, monkeypatch, settings):
    asking, send = sender
    before, files = written(), files_in(settings.MEDIA_ROOT)
    session = dict(asking.client.session.items())
    version = PolicyVersion.objects.get().number, current(), nodes.content()
    roles = set(Role.objects.values_list("key", flat=True))

    def fails(self: Unit) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(Unit, "commits", fails)
    response = send()
    assert response.status_code == 500
    assert difference(before, written()) == {}
    assert dict(asking.client.session.items()) == session
    assert (PolicyVersion.objects.get().number, current(), nodes.content()) == version
    assert set(Role.objects.values_list("key", flat=True)) == roles
    assert files_in(settings.MEDIA_ROOT) == files


def test_a_rehearsal_begins_once_however_often_its_unit_is_tried(odile, monkeypatch):
    """It is written apart: what is tried again, or refused in the end, leaves none of it."""
    failing, record_once = Failing(1213, 1020), stand_in.record

    def record_or_fail(*args: Any, **said: Any) -> Any:
        failing()
        return record_once(*args, **said)

    monkeypatch.setattr(stand_in, "record", record_or_fail)
    assert odile.post("stand-in", {"account": "ines", "mode": "rehearse"}).status_code == 204
    assert failing.tries == 3
    assert Rehearsal.objects.count() == 1
    failing.codes = [1213] * 9
    assert odile.patch("stand-in", {"mode": "look"}).status_code == 409
    assert Rehearsal.objects.count() == 1, "it goes on: nothing was changed"
