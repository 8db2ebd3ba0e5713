"""Work shared out among processors: in its order, however much it is, and a killed process told."""

import os
import signal

import pytest

from gonfalon.core.cli import parallel
from gonfalon.core.cli.parallel import Killed, shared_out
from gonfalon.core.diff.impact import impact
from gonfalon.core.operations import SetAnswer, apply
from tests.core.harbour import NOW, engine, give


def numbered(line: bytes) -> str:
    return f"{int(line)}\n"


@pytest.fixture(autouse=True)
def two_processors(monkeypatch):
    monkeypatch.setattr(parallel.os, "sched_getaffinity", lambda _: {0, 1})


@pytest.mark.parametrize("count", [0, 9, 10, 11, 995])
def test_every_line_is_answered_in_its_order(count):
    lines = (b"%d" % i for i in range(count))
    assert list(shared_out(numbered, lines, share=10)) == [f"{i}\n" for i in range(count)]


def test_lines_are_read_only_as_their_answers_are_taken():
    read = 0

    def lines():
        nonlocal read
        for read in range(1, 10_001):
            yield b"%d" % read

    answers = shared_out(numbered, lines(), share=10)
    assert next(answers) == "1\n"
    assert read <= 50, "what waits for the processes is bounded"
    answers.close()


def test_a_killed_process_is_told_and_not_waited_for():
    here = os.getpid()

    def dying(line: bytes) -> str:
        if int(line) == 30 and os.getpid() != here:
            os.kill(os.getpid(), signal.SIGKILL)
        return numbered(line)

    with pytest.raises(Killed, match="killed"):
        list(shared_out(dying, (b"%d" % i for i in range(1_000)), share=10))


def test_an_impact_is_the_same_whoever_asks_its_parts():
    before = engine(roles={"writer": {"notice.see": "all"}}, assignments=[give()])
    operations = [SetAnswer("everyone", "notice.see", "all"), SetAnswer("writer", "berth.edit", "all")]
    sides = before, before.changed(apply(before.policy, operations))
    asked_by = []

    def work(ask, parts):
        here = os.getpid()
        for by, found in shared_out(lambda i: (os.getpid() != here, ask(i)), parts, share=1):
            asked_by.append(by)
            yield found

    shared = impact(*sides, NOW, work=work)
    assert len(asked_by) > 1
    assert all(asked_by), "other processes asked every part"
    assert shared.deltas
    assert shared.deltas == impact(*sides, NOW).deltas
