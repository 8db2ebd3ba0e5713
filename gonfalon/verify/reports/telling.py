"""What every report tells alike: names, what is given, what narrows it, what is expected; each with its sentence.

Whatever its reader may not know is left out, and that it is.
"""

from collections.abc import Callable

from gonfalon.access.catalogue import VERB_WORDS
from gonfalon.core import Question
from gonfalon.core.checks.expectations import prove
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, DirectGrant, Limit, Subject
from gonfalon.core.model.vocabulary import Kind
from gonfalon.core.sentences.changes import SaidChange, write_change
from gonfalon.core.sentences.questions import Expected
from gonfalon.core.sentences.writing import Unsayable, Words, time_words, write_expectation
from gonfalon.verify.expectation_file import is_sayable
from gonfalon.verify.expectations import as_asked, as_said
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.verify.models import Expectation
from gonfalon.verify.reports.parts import Report, Row, Section
from gonfalon.viewpoint.viewpoint import Viewpoint

EVERYBODY = "for everybody"
Count = Callable[[int, int], None]
"""Told how many steps are done, and of how many."""


class Telling:
    """Tells of a viewpoint what its `reader` may know, who is there now."""

    def __init__(self, viewpoint: Viewpoint, reader: Viewpoint, count: Count = lambda done, total: None) -> None:
        self.viewpoint, self.reader, self._count = viewpoint, reader, count
        self.engine, self.policy, self.at = viewpoint.engine, viewpoint.snapshot.policy, viewpoint.at
        self.lexicon = lexicon_of(reader)
        self.words = Words(self.lexicon)
        self.left_out: dict[str, None] = {}

    def expected(self, question: dict[str, object], expect: str = "allow") -> str:
        try:
            return write_expectation(Expected(question, expect), self.lexicon)
        except Unsayable:
            self.left_out["Answers about what its maker does not see."] = None
            return ""

    def _where(self, given: Assignment | DirectGrant) -> str:
        try:
            return self.words.scope(write_scope(given.scope))
        except Unsayable:
            self.left_out["Where something is given, of what its maker does not see."] = None
            return "somewhere out of sight"

    def _change(self, change: SaidChange) -> str:
        try:
            return write_change(change, self.lexicon)
        except Unsayable:
            self.left_out["What is said of pages and people that its maker does not see."] = None
            return ""

    def _capability(self, capability: str) -> str:
        kind, _, verb = capability.partition(".")
        if self.policy.kind(capability) is Kind.GRADED:
            return f"{VERB_WORDS[verb][1]} {self._name('kind', kind)}"
        return self._name("placed", capability) if capability in self.policy.placed else self._name("duty", capability)

    def _assignments(self, title: str, given: list[Assignment]) -> Section:
        section = Section(title, ("Who", "Role", "Where", "Until"))
        for a in given:
            if a.to.kind == "account" and a.to.id not in self.reader.sight.people:
                self.left_out["People whom its maker does not know of."] = None
                continue
            who = self._name(a.to.kind, a.to.id)
            ends = time_words(a.period.ends) if a.period.ends else ""
            sentence = self._change(Assignment("", a.role, a.to, a.scope, a.period))
            cells = (who, self._name("role", a.role), self._where(a), ends)
            section.rows.append(Row(cells, [sentence], [a.role]))
        section.rows.sort(key=lambda row: row.cells)
        return section

    def _narrowed(self, to: Subject) -> list[Section]:
        section = Section("What narrows it", ("Where",))
        for limit in self.policy.limits.values():
            if limit.to != to:
                continue
            if limit.node not in self.reader.sight.nodes:
                self.left_out["Limits on what its maker does not see."] = None
                continue
            plain = Limit("", limit.node, limit.to, limit.effect, limit.applies, limit.actions)
            section.rows.append(Row((self._name("node", limit.node),), [self._change(plain)]))
        return [section] if section.rows else []

    def _grants(self, subjects: list[Subject]) -> list[Section]:
        section = Section("Single capabilities", ("Whom", "What", "Where"))
        for d in self.policy.direct_grants.values():
            if d.to in subjects and d.period.active(self.at):
                plain = DirectGrant("", d.to, d.capability, d.says, d.scope, d.period)
                cells = (self._name(d.to.kind, d.to.id), self._capability(d.capability), self._where(d))
                section.rows.append(Row(cells, [self._change(plain)]))
        return [section] if section.rows else []

    def _given_to(self, subjects: list[Subject]) -> list[Assignment]:
        return [a for a in self.policy.assignments.values() if a.to in subjects and a.period.active(self.at)]

    def _with_expectations(self, report: Report, wanted: Callable[[dict[str, object]], bool]) -> Report:
        if not may(self.reader, "expectations.keep"):
            self.left_out["What is expected: its maker does not keep expectations."] = None
            return report
        every = [row for row in Expectation.objects.all() if wanted(row.question)]
        rows = [row for row in every if is_sayable(row, self.lexicon)]
        if len(rows) < len(every):
            self.left_out["Expectations about what its maker does not see."] = None
        results = prove(self.engine, [as_asked(row) for row in rows], self.at)
        section = Section("What is expected to stay so", ("Why", "How it stands"))
        for row, result in zip(rows, results, strict=True):
            stands = f"holds, {result.asked} answers" if result.holds else "breaks"
            sentence = write_expectation(as_said(row), self.lexicon)
            section.rows.append(Row((row.note, stands), [sentence]))
        if rows:
            report.sections.append(section)
            report.facts.append((sum(result.holds for result in results), f"of {len(rows)} expectations hold"))
        return report

    def _name(self, sort: str, key: str) -> str:
        return self.lexicon.name(sort, key) or key

    def _names(self, sort: str, key: str) -> bool:
        return self.lexicon.name(sort, key) is not None


def may(here: Viewpoint, duty: str) -> bool:
    return here.engine.decide(Question(here.subject, duty, at=here.at)).allow
