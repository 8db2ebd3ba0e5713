"""Sentences that say who may, or may not, do what: read as questions of the rules (§8).

    said = read_expectation("Holders of Tenant editor may not publish berth pages in Moorings.", lexicon)
    said.question, said.expect              # {"holders_of": "tenant", "action": "publish", ...}, "deny"

The grammar is docs/sentences.md. Whether a question can be asked, `core.document.requests` tells.
"""

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

from gonfalon.core.document.writer import write_time
from gonfalon.core.model.vocabulary import PROFILE, Reason
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.scanner import Scanner

Said = dict[str, Any]

VERBS = {
    "see": "see",
    "edit": "edit",
    "publish": "publish",
    "retire": "retire",
    "remove": "remove",
    "move": "move",
    "history": "see the history of",
    "restore": "restore earlier versions of",
}
"""What is asked of a page, but for what has a sentence of its own."""
OF_FIELDS = {"see-field": "see the", "change-field": "change the"}
REASONS = {reason: f"because {reason.replace('-', ' ')}" for reason in Reason}
BUT = {
    "except_holders_of": ("nobody but holders of", "everyone but holders of"),
    "except_members_of": ("nobody but members of", "everyone but members of"),
}
"""Whoever is left, where all of them may not, and where they may."""
WHERE = (
    ("branches", "node", "on nothing", ("on",)),
    ("sites", "site", "on no site", ("on the sites", "on the site")),
    ("types", "kind", "for nothing", ("for",)),
    ("topics", "topic", "about nothing", ("about",)),
)
"""The lists of a scope: of what they are, how an empty one is told, what stands before one."""


class Expected(NamedTuple):
    """A question in its normal form, and the answer that is expected of it."""

    question: Said
    expect: str
    reason: Reason | None = None


def read_expectation(text: str, lexicon: Lexicon) -> tuple[Expected, str]:
    """What a sentence expects, and the note behind it. Raises Unclear."""
    scanner = Scanner(text, lexicon)
    reader = QuestionReader(scanner)
    expect = reader.who_may()
    if expect is None:
        raise scanner.fault()
    for look in reader.whats():
        if look() and reader.when() and reader.over():
            reason = reader.reason
            scanner.full_stop()
            if scanner.ended():
                note = text[scanner.at :].strip().removeprefix("#").strip()
                return Expected(normal(reader.said), expect, reason), note
    raise scanner.fault()


def read_asked(text: str, lexicon: Lexicon) -> Said:
    """The question that is asked as "may Ines Marrow publish Winter rates?". Raises Unclear."""
    scanner = Scanner(text, lexicon)
    reader = QuestionReader(scanner)
    if not (scanner.said("may") and reader.who()):
        raise scanner.fault()
    for look in reader.whats():
        if look() and reader.when():
            scanner.full_stop("?")
            if scanner.ended():
                return normal(reader.said)
    raise scanner.fault()


class QuestionReader:
    """The parts of a sentence. Each goes over what it finds, adds that to what is `said`, and tells whether it did."""

    def __init__(self, scanner: Scanner) -> None:
        self.scanner, self.said = scanner, dict[str, Any]()
        self.reason: Reason | None = None

    def whats(self) -> Iterator[Callable[[], bool]]:
        """What somebody may do, one way after the other, each looked for behind whoever it is about."""
        behind, who = self.scanner.at, self.said
        for look in (
            self.stand_in, self.hand_out, self.move_to, self.create, self.fill, self.field_of, self.insert,
            self.arrange, self.facet_of, self.change_topics, self.verb, self.placed, self.duty,
        ):  # fmt: skip
            self.scanner.at, self.said = behind, dict(who)
            yield look

    # -- who -----------------------------------------------------------------------------------

    def who_may(self) -> str | None:
        """Whoever it is about, and whether they may; None where that is not said."""
        s = self.scanner
        for key, (nobody, everyone) in BUT.items():
            sort = "role" if key.endswith("holders_of") else "group"
            for phrase, expect in ((nobody, "deny"), (everyone, "")):
                if s.said(phrase):
                    self.said[key] = s.name(sort)
                    if self.said[key] is None or not s.said("may"):
                        return None
                    return expect or "allow"
        if not self.who() or not s.said("may"):
            return None
        return "deny" if s.said("not") else "allow"

    def who(self) -> bool:
        """One account, a visitor, those who hold a role or are in a group, or somebody made up."""
        s = self.scanner
        for phrase, key, sort in (("holders of", "holders_of", "role"), ("members of", "members_of", "group")):
            if s.said(phrase):
                self.said[key] = s.name(sort)
                return self.said[key] is not None
        return self.one(self.said)

    def one(self, said: Said) -> bool:
        """One account, a visitor, or somebody made up."""
        s = self.scanner
        if s.first_of(("visitors", "a visitor")):
            said["account"] = None
            return True
        if s.said("somebody with"):
            return self.made_up(said)
        said["account"] = s.name("account")
        return said["account"] is not None

    def made_up(self, said: Said) -> bool:
        """Whoever holds some roles and nothing else."""
        s = self.scanner
        said["roles"] = []
        if not s.said("no role"):
            said["roles"] = s.several(self.role_within, again=True)
            if not said["roles"]:
                return False
        if s.first_of(("in the groups", "in the group")):
            said["groups"] = s.names("group")
            if not said["groups"]:
                return False
        said["own"] = s.said("as the author")
        return True

    def role_within(self) -> Any:
        """A role, and in brackets within which scope it is held."""
        s = self.scanner
        key = s.name("role")
        if key is None or not s.said("("):
            return key
        scope = self.scope()
        return {"role": key, "scope": scope} if scope is not None and s.said(")") else None

    def scope(self) -> Said | None:
        """Where something holds (§3); None where that is not said."""
        s, scope = self.scanner, Said()
        if s.said("everywhere"):
            return scope
        for key, sort, nothing, phrases in WHERE:
            if s.said(nothing):
                scope[key] = []
                continue
            back = s.at
            if s.first_of(phrases) and (named := s.names(sort)):
                scope[key] = named
            else:
                s.at = back
        return scope or None

    # -- what ----------------------------------------------------------------------------------

    def stand_in(self) -> bool:
        """Stand in for somebody (§7)."""
        self.said |= {"action": "stand-in", "for": {}}
        return self.scanner.said("stand in for") and self.one(self.said["for"])

    def hand_out(self) -> bool:
        """Give a role to somebody (§9)."""
        s = self.scanner
        if not s.said("give"):
            return False
        role = s.name("role")
        to = s.name("account") if role is not None and s.said("to") else None
        if to is None:
            return False
        self.said |= {"action": "hand-out", "role": role, "to": {"account": to}}
        if (scope := self.scope()) is not None:
            self.said["scope"] = scope
        return not s.said("ending") or self._time("until")

    def move_to(self) -> bool:
        """Move something to another place."""
        s = self.scanner
        self.said["action"] = "move"
        if not (s.said("move") and self.place() and s.said("to")):
            return False
        self.said["to"] = s.name("node")
        return self.said["to"] is not None

    def create(self) -> bool:
        """Create something of a kind."""
        self.said["action"] = "create"
        return self.scanner.said("create") and self._new()

    def fill(self) -> bool:
        """Fill a field of something new."""
        s = self.scanner
        self.said["action"] = "fill-field"
        return s.said("fill the") and self._named("field", "field") and s.said("of new") and self._new()

    def field_of(self) -> bool:
        """See or change a field."""
        s = self.scanner
        for action, phrase in OF_FIELDS.items():
            if s.said(phrase):
                self.said["action"] = action
                return self._named("field", "field") and s.said("of") and self.place()
        return False

    def insert(self) -> bool:
        """Put a component in."""
        s = self.scanner
        self.said["action"] = "insert-component"
        return s.said("put") and self._named("component", "component") and s.said("into") and self.place()

    def arrange(self) -> bool:
        """Take a component out, or put it elsewhere."""
        s = self.scanner
        self.said["action"] = "arrange-component"
        return s.said("arrange") and self._component() and s.said("on") and self.place()

    def facet_of(self) -> bool:
        """Change a facet of a component."""
        s = self.scanner
        self.said["action"] = "change-facet"
        return (
            s.said("edit the")
            and self._named("facet", "facet")
            and s.said("of")
            and self._component()
            and s.said("on")
            and self.place()
        )

    def change_topics(self) -> bool:
        """Edit something so that it has other topics."""
        s = self.scanner
        self.said["action"] = "edit"
        if not (s.said("edit") and self.place()):
            return False
        if s.said("with no topics"):
            self.said["topics"] = []
            return True
        return s.said("with the topics") and self._listed(self.said, "topics", "topic")

    def verb(self) -> bool:
        """Do something with a page."""
        for action in sorted(VERBS, key=lambda action: -len(VERBS[action])):
            if self.scanner.said(VERBS[action]):
                self.said["action"] = action
                return self.place()
        return False

    def placed(self) -> bool:
        """Do a duty on a page."""
        s = self.scanner
        return self._named("action", "placed") and s.said("on") and self.place()

    def duty(self) -> bool:
        """Do a duty that is asked of no page, or of a site."""
        if not self._named("action", "duty"):
            return False
        return not self.scanner.said("on the site") or self._named("site", "site")

    def _named(self, key: str, sort: str) -> bool:
        self.said[key] = self.scanner.name(sort)
        return self.said[key] is not None

    def _component(self) -> bool:
        if not self._named("component", "component"):
            return False
        if self.scanner.said("with the id"):
            self.said["component_id"] = self.scanner.quoted_text()
            return self.said["component_id"] is not None
        return True

    def _new(self) -> bool:
        """The kind of something new, its topics, and where it is made."""
        s = self.scanner
        if not self._named("type", "kind"):
            return False
        if s.said("about nothing"):
            self.said["topics"] = []
        elif s.said("about") and not self._listed(self.said, "topics", "topic"):
            return False
        if s.said("anywhere in"):
            return self._named("branch", "node")
        return s.said("in") and self.place()

    def _listed(self, into: Said, key: str, sort: str) -> bool:
        into[key] = self.scanner.names(sort)
        return bool(into[key])

    # -- where and when ------------------------------------------------------------------------

    def place(self) -> bool:
        """A page, its working copy, a profile, or what of a branch is meant."""
        self.said["working"] = self.scanner.said("the working copy of")
        return self._profile() or self._in_branch() or self._named("node", "node")

    def _profile(self) -> bool:
        s = self.scanner
        if not s.said("the profile of"):
            return False
        author = s.name("account")
        self.said["node"] = {"type": PROFILE, "author": author}
        return author is not None

    def _in_branch(self) -> bool:
        for look in (self._anything, self._kinds):
            kept, back = dict(self.said), self.scanner.at
            if look() and self.scanner.said("in") and self._named("branch", "node"):
                return True
            self.said, self.scanner.at = kept, back
        return False

    def _anything(self) -> bool:
        s = self.scanner
        if s.said("nothing"):
            self.said["types"] = []
            return True
        if not s.said("anything"):
            return False
        if s.said("of their own"):
            self.said["whose"] = "own"
        elif s.said("of their team's"):
            self.said["whose"] = "team"
        return True

    def _kinds(self) -> bool:
        s = self.scanner
        if s.said("their own"):
            self.said["whose"] = "own"
        elif s.said("their team's"):
            self.said["whose"] = "team"
        return self._listed(self.said, "types", "kind")

    def when(self) -> bool:
        """At one time, or from one time until another."""
        s = self.scanner
        if s.said("at"):
            return self._time("at")
        if self.said["action"] == "hand-out":
            return True  # `until` is when what would be given ends
        if s.said("from") and not self._time("from"):
            return False
        return not s.said("until") or self._time("until")

    def over(self) -> bool:
        """The reason that is expected, if one is."""
        phrase = self.scanner.first_of(sorted(REASONS.values(), key=len, reverse=True))
        self.reason = next((reason for reason, words in REASONS.items() if words == phrase), None)
        return True

    def _time(self, key: str) -> bool:
        time = self.scanner.time()
        self.said[key] = write_time(time)
        return time is not None
