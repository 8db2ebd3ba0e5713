"""All expectations as one text file, written and read back as far as whoever does so may know.

text, version = written(viewpoint)
read = ReadFile(text, viewpoint)        # its faults, by line
read.keep(by)                           # lines that stay keep their ids; what is out of sight stays as it is
"""

import json
from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256

from gonfalon.clock import now
from gonfalon.core.checks.runner import ExpectationRunner
from gonfalon.core.document.requests import faults_in
from gonfalon.core.sentences.files import Fault, Group, Line, read_file, write_file
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.questions import Expected
from gonfalon.core.sentences.scanner import Unclear
from gonfalon.core.sentences.writing import Unsayable, Words
from gonfalon.ledger.models import By, Change, record
from gonfalon.verify.expectations import as_said
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.verify.models import Expectation, ExpectationGroup
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_LINES = 12_000
MOST_ANSWERS = 50_000_000
"""So many questions one expectation may ask."""
TOO_MUCH = "This asks more than {:,} questions at once. Say it of fewer people, pages or days."
MOST_IN_A_FILE = 20 * MOST_ANSWERS
"""So many all of a file together: they are asked before every change of access."""
MOST_NOTED = 200
"""So many single expectations an entry of the ledger tells."""


def written(viewpoint: Viewpoint, *, keys: bool = False) -> str:
    """The file: groups in their order, those in none first; what is expected twice is said once. Seven queries."""
    lexicon, said = lexicon_of(viewpoint), set[str]()
    groups = {None: Group("")} | {row.id: Group(row.name, row.note) for row in ExpectationGroup.objects.all()}
    for row in Expectation.objects.all():
        key = key_of(as_said(row))
        if key not in said and is_sayable(row, lexicon):
            said.add(key)
            groups[row.group_id].lines.append(Line(as_said(row), row.note))
    return write_file(groups.values(), lexicon, keys=keys)


def version_of_file() -> str:
    """A mark that changes with anything the file says, for anybody. Two queries."""
    columns = ("id", "question", "expect", "reason", "note", "group", "place")
    rows = [list(Expectation.objects.values_list(*columns)), list(ExpectationGroup.objects.values_list())]
    return sha256(json.dumps(rows, sort_keys=True, default=str).encode()).hexdigest()[:20]


def key_of(said: Expected) -> str:
    """The same for all that expect the same."""
    return json.dumps([normal(said.question), said.expect, str(said.reason or "")], sort_keys=True)


def is_sayable(row: Expectation, lexicon: Lexicon) -> bool:
    """Whether everything that an expectation names is known to whoever would read it."""
    try:
        Words(lexicon).expectation(as_said(row)._replace(question=normal(row.question)))
    except Unsayable:
        return False
    return True


def answers(question: dict[str, object], viewpoint: Viewpoint) -> int:
    """How many questions one that can be asked is, at most; none of them is asked for that."""
    return ExpectationRunner(viewpoint.engine, viewpoint.at).answers(question)


def too_much(question: dict[str, object], viewpoint: Viewpoint) -> str | None:
    """Why a question that can be asked is too many, if it is."""
    if answers(question, viewpoint) <= MOST_ANSWERS:
        return None
    return TOO_MUCH.format(MOST_ANSWERS)


@dataclass
class ReadFile:
    """A file that is to be kept."""

    text: str
    viewpoint: Viewpoint

    @cached_property
    def lexicon(self) -> Lexicon:
        return lexicon_of(self.viewpoint)

    @cached_property
    def _read(self) -> tuple[list[Group], list[Fault]]:
        if self.text.count("\n") >= MOST_LINES:
            return [], [Fault(MOST_LINES, Unclear(0, 0, f"A file has at most {MOST_LINES:,} lines."))]
        return read_file(self.text, self.lexicon)

    @property
    def faults(self) -> list[Fault]:
        """All that makes no sense, or cannot be asked, by its line."""
        groups, faults = self._read
        policy, tree = self.viewpoint.snapshot.policy, self.viewpoint.nodes.tree
        unasked, together = [], 0
        runner = ExpectationRunner(self.viewpoint.engine, self.viewpoint.at)
        for line in (line for group in groups for line in group.lines):
            question = line.expected.question
            wrong = faults_in(question, policy, tree)
            asks = 0 if wrong else runner.answers(question)
            together += asks
            if wrong:
                unasked.append(Fault(line.number, Unclear(0, 0, wrong[0].message)))
            elif asks > MOST_ANSWERS:
                unasked.append(Fault(line.number, Unclear(0, 0, TOO_MUCH.format(MOST_ANSWERS))))
            elif together > MOST_IN_A_FILE:
                unasked.append(Fault(line.number, Unclear(0, 0, "With this line the file asks too much altogether.")))
                break
        return sorted([*faults, *unasked], key=lambda fault: fault.number)

    def keep(self, by: By) -> tuple[int, int]:
        """Write what it says, and tell how many are new and how many are dropped."""
        groups, _ = self._read
        seen = {row.id: row for row in Expectation.objects.all() if is_sayable(row, self.lexicon)}
        there = {key_of(as_said(row)): row for row in reversed(seen.values())}
        known = self._groups([group for group in groups if group.name and group.lines])
        put, place = list[Expectation](), 0
        for group in groups:
            for line in group.lines:
                place += 1
                row = there.pop(key_of(line.expected), None) or _new(line.expected, by)
                row.place, row.note, row.group = place, line.note, known.get(group.name.casefold())
                put.append(row)
        new = [row for row in put if row.id not in seen]
        gone = [row for row in seen.values() if row not in put]
        self._note(by, new, gone)
        Expectation.objects.bulk_update([row for row in put if row.id in seen], ["place", "note", "group"], 500)
        Expectation.objects.bulk_create(new, batch_size=500)
        Expectation.objects.filter(pk__in=[row.pk for row in gone]).delete()
        sweep_groups()
        return len(new), len(gone)

    def _groups(self, said: list[Group]) -> dict[str, ExpectationGroup]:
        there = {row.name.casefold(): row for row in ExpectationGroup.objects.all()}
        for place, group in enumerate(said, 1):
            row = there.setdefault(group.name.casefold(), ExpectationGroup())
            row.name, row.note, row.place = group.name, group.note, place
            row.save()
        return there

    def _note(self, by: By, new: list[Expectation], gone: list[Expectation]) -> None:
        if not new and not gone:
            return
        told = [(row, None, "expected") for row in new] + [(row, "expected", "no longer") for row in gone]
        words = Words(self.lexicon)
        record(
            by,
            "expectations.written",
            added=len(new),
            dropped=len(gone),
            changes=[change_of(row, words.expectation(as_said(row)), was, now) for row, was, now in told[:MOST_NOTED]],
        )


def change_of(row: Expectation, words: str, was: str | None, now: str) -> Change:
    """What the ledger keeps of an expectation that was recorded or dropped."""
    places = [row.question[key] for key in ("node", "branch") if isinstance(row.question.get(key), str)]
    return Change(what=words.removesuffix("."), was=was, now=now, nodes=places)


def group_named(name: str) -> ExpectationGroup | None:
    """The group of a name, made if there is none; None for no name."""
    if not name:
        return None
    found = next((row for row in ExpectationGroup.objects.all() if row.name.casefold() == name.casefold()), None)
    return found or ExpectationGroup.objects.create(name=name, place=ExpectationGroup.objects.count() + 1)


def sweep_groups() -> None:
    """Take away groups in which nothing is any more."""
    ExpectationGroup.objects.filter(expectations=None).delete()


def _new(said: Expected, by: By) -> Expectation:
    reason = str(said.reason or "")
    return Expectation(
        question=said.question, expect=said.expect, reason=reason, recorded_by=by.actor, recorded_at=now()
    )
