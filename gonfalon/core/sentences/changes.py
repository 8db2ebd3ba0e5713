"""Sentences that say how a policy should be: answers of roles, what is given, limits, rows of fields.

    read_change("Ines Marrow holds Tenant editor on Pier 3 until 30 June 2027.", lexicon)
    # Assignment("", "tenant", Subject.account("ines"), Scope(branches={"pier-3"}), Period(None, ...))

What is given and limits come without an id: whoever puts them into a policy gives them one.
"""

from collections.abc import Callable
from datetime import datetime
from typing import NamedTuple

from gonfalon.core.document.scopes import plain_scope
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, DirectGrant, Limit, Period, Scope, Subject
from gonfalon.core.model.vocabulary import BARRED, FIELD_MARKS, WITHHELD, Effect
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.questions import QuestionReader
from gonfalon.core.sentences.scanner import Scanner
from gonfalon.core.sentences.writing import Words, capital, time_words, written

CREATE = "create"
EXTENTS = {"own": "they wrote themselves", "team": "written by anyone in their team"}
MARKS = {
    "see-own": "see their own",
    "see-all": "see all",
    "change-own": "change their own",
    "change-all": "change all",
    "fill": "fill",
}
APPLIES = {"node": "here only", "beneath": "beneath only", "branch": "here and beneath"}
_BY_ROLE, _BY_RULE = "by this role", "by the rule of this field"
_WHATEVER = ", whatever else they hold"


class Answer(NamedTuple):
    """What a role says about a capability; `says` None: nothing."""

    role: str
    capability: str
    says: str | None


class FieldRow(NamedTuple):
    """The marks of a role in the table of a field."""

    type: str
    field: str
    role: str
    marks: frozenset[str]


SaidChange = Answer | Assignment | DirectGrant | Limit | FieldRow


def read_change(text: str, lexicon: Lexicon) -> SaidChange:
    """What a sentence says should be. Raises Unclear."""
    reader = ChangeReader(text, lexicon)
    for look in reader.looks:
        reader.scanner.at = 0
        change = look()
        if change is not None:
            reader.scanner.full_stop()
            if reader.scanner.ended():
                return change
    raise reader.scanner.fault()


def write_change(change: SaidChange, lexicon: Lexicon, *, keys: bool = False) -> str:
    """The sentence, with its full stop. Raises Unsayable."""
    return written(
        lambda words: _said(change, words), lambda text: read_change(text, lexicon) == change, lexicon, keys=keys
    )


class ChangeReader:
    """The kinds of sentences, each read from its beginning."""

    def __init__(self, text: str, lexicon: Lexicon) -> None:
        self.scanner = Scanner(text, lexicon)
        self._questions = QuestionReader(self.scanner)
        self.looks: tuple[Callable[[], SaidChange | None], ...] = (
            self.field_row,
            self.answer,
            self.assignment,
            self.direct_grant,
            self.limit,
        )

    def answer(self) -> Answer | None:
        """What a role says about a capability."""
        s, role = self.scanner, self._holders()
        if role is None:
            return None
        if s.said("are not given"):
            capability = self._capability() if s.said("“") else None
            return Answer(role, capability, WITHHELD) if capability and s.said(f"” {_BY_ROLE}") else None
        if not s.said("may"):
            return None
        if s.said("not"):
            capability = self._capability()
            return Answer(role, capability, None) if capability and s.said(_BY_ROLE) else None
        said = self._given()
        if said is None or (said[1] == BARRED and not s.said(_WHATEVER)):
            return None
        return Answer(role, *said)

    def assignment(self) -> Assignment | None:
        """A role that somebody holds."""
        s, to = self.scanner, self._receiver()
        if to is None or not s.said("hold" if to.kind == "group" else "holds"):
            return None
        role = s.name("role")
        if role is None:
            return None
        scope, period = self._scope(), self._period()
        return None if period is None else Assignment("", role, to, scope, period)

    def direct_grant(self) -> DirectGrant | None:
        """A single capability that somebody is given."""
        s, to = self.scanner, self._receiver()
        if to is None or not s.said("may"):
            return None
        said = self._given()
        if said is None:
            return None
        scope, period = self._scope(), self._period()
        return None if period is None else DirectGrant("", to, *said, scope, period)

    def limit(self) -> Limit | None:
        """What is narrowed where, for whom."""
        s = self.scanner
        effect = s.first_of(effect.value for effect in Effect)
        if effect is None:
            return None
        actions = None if s.said("everything") else s.names("action")
        if actions == [] or not s.said("for"):
            return None
        role = s.name("role") if s.said("holders of") else None
        to = Subject.role(role) if role is not None else self._receiver()
        node = s.name("node") if to is not None and s.said("on") else None
        applies = s.first_of(APPLIES.values()) if node is not None and s.said(",") else None
        if to is None or node is None or applies is None:
            return None
        where = next(key for key, words in APPLIES.items() if words == applies)
        named = None if actions is None else frozenset(actions)
        return Limit("", node, to, Effect(effect), where, named)  # type: ignore[arg-type]

    def field_row(self) -> FieldRow | None:
        """What a role may do with a field of a kind."""
        s, role = self.scanner, self._holders()
        if role is None or not s.said("may"):
            return None
        marks = list[str]()
        if not s.said("do nothing with"):
            words = {phrase: mark for mark, phrase in MARKS.items()}
            marks = [words[found] for found in s.several(lambda: s.first_of(words))]
            if not marks:
                return None
        field = s.name("field") if s.said("the") else None
        type = s.name("kind") if field is not None and s.said("of") else None
        if field is None or type is None or not s.said(_BY_RULE):
            return None
        return FieldRow(type, field, role, frozenset(marks))

    def _holders(self) -> str | None:
        s = self.scanner
        return s.name("role") if s.said("holders of") else s.name("baseline")

    def _receiver(self) -> Subject | None:
        s = self.scanner
        if s.said("members of"):
            group = s.name("group")
            return None if group is None else Subject.group(group)
        account = s.name("account")
        return None if account is None else Subject.account(account)

    def _given(self) -> tuple[str, str] | None:
        """A capability and the word that is said about it, behind "may"."""
        s = self.scanner
        if s.said("never"):
            capability = self._capability()
            return None if capability is None else (capability, BARRED)
        back = s.at
        verb = s.name("verb")
        if verb == CREATE and (kind := s.name("kind")) is not None:
            return f"{kind}.{verb}", "all"
        if verb is not None:
            whole = s.said("all")
            kind = s.name("kind")
            if kind is not None and whole:
                return f"{kind}.{verb}", "all"
            words = {phrase: extent for extent, phrase in EXTENTS.items()}
            found = s.first_of(words) if kind is not None else None
            if found is not None:
                return f"{kind}.{verb}", words[found]
        s.at = back
        duty = s.name("duty") or s.name("placed")
        return None if duty is None else (duty, "yes")

    def _capability(self) -> str | None:
        s = self.scanner
        back = s.at
        verb = s.name("verb")
        kind = s.name("kind") if verb is not None else None
        if kind is not None:
            return f"{kind}.{verb}"
        s.at = back
        return s.name("duty") or s.name("placed")

    def _scope(self) -> Scope:
        return plain_scope(self._questions.scope() or {})

    def _period(self) -> Period | None:
        """When it holds; None where a time is begun and makes no sense."""
        s, times = self.scanner, list[datetime | None]()
        for word in ("from", "until"):
            begun = s.said(word)
            times.append(s.time() if begun else None)
            if begun and times[-1] is None:
                return None
        return Period(*times)


def _said(change: SaidChange, words: Words) -> str:
    if isinstance(change, Answer):
        return _answer(change, words)
    if isinstance(change, FieldRow):
        marks = ", ".join(MARKS[mark] for mark in FIELD_MARKS if mark in change.marks) or "do nothing with"
        thing = f"the {words.name('field', change.field)} of {words.name('kind', change.type)}"
        return f"{_holders(change.role, words)} may {marks} {thing} {_BY_RULE}."
    if isinstance(change, Limit):
        actions = "everything" if change.actions is None else words.names("action", sorted(change.actions))
        whom = f"holders of {words.name('role', change.to.id)}" if change.to.kind == "role" else _to(change.to, words)
        place = words.name("node", change.node)
        return f"{capital(change.effect)} {actions} for {whom} on {place}, {APPLIES[change.applies]}."
    scope = "" if change.scope.unrestricted else f" {words.scope(write_scope(change.scope))}"
    period = change.period
    ends = (("from", period.starts), ("until", period.ends))
    when = "".join(f" {word} {time_words(time)}" for word, time in ends if time is not None)
    if isinstance(change, Assignment):
        holds = "hold" if change.to.kind == "group" else "holds"
        return f"{capital(_to(change.to, words))} {holds} {words.name('role', change.role)}{scope}{when}."
    given = _given(change.capability, change.says, words)
    return f"{capital(_to(change.to, words))} may {given}{scope}{when}."


def _answer(change: Answer, words: Words) -> str:
    who = _holders(change.role, words)
    if change.says is None:
        return f"{who} may not {_done(change.capability, words)} {_BY_ROLE}."
    if change.says == WITHHELD:
        return f"{who} are not given “{_done(change.capability, words)}” {_BY_ROLE}."
    whatever = _WHATEVER if change.says == BARRED else ""
    return f"{who} may {_given(change.capability, change.says, words)}{whatever}."


def _given(capability: str, says: str, words: Words) -> str:
    if says == BARRED:
        return f"never {_done(capability, words)}"
    if says == "yes":
        return _done(capability, words)
    kind, _, verb = capability.partition(".")
    verb_words, things = words.name("verb", verb), words.name("kind", kind)
    if verb == CREATE:
        return f"{verb_words} {things}"
    return f"{verb_words} all {things}" if says == "all" else f"{verb_words} {things} {EXTENTS[says]}"


def _done(capability: str, words: Words) -> str:
    for sort in ("duty", "placed"):
        if words.lexicon.name(sort, capability) is not None:
            return words.name(sort, capability)
    kind, _, verb = capability.partition(".")
    return f"{words.name('verb', verb)} {words.name('kind', kind)}"


def _holders(role: str, words: Words) -> str:
    if words.lexicon.name("baseline", role) is not None:
        return words.name("baseline", role)
    return f"Holders of {words.name('role', role)}"


def _to(to: Subject, words: Words) -> str:
    return f"members of {words.name('group', to.id)}" if to.kind == "group" else words.name("account", to.id)
