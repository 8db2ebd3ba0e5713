"""Questions and what is expected of them, written as the sentences that `questions` reads.

    write_expectation(Expected({"account": None, "action": "see", "branch": "office"}, "deny"), lexicon)
    # "Visitors may not see anything in Harbour office."

What is written reads back as the same: names that would not, being odd or alike, are quoted with their keys.
"""

from collections.abc import Callable, Iterable, Mapping
from datetime import datetime
from typing import Any, NamedTuple

from gonfalon.core.document.errors import read_time
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.questions import (
    BUT,
    OF_FIELDS,
    REASONS,
    VERBS,
    WHERE,
    Expected,
    read_asked,
    read_expectation,
)
from gonfalon.core.sentences.scanner import MONTHS, Unclear, in_quotes, quoted

Question = Mapping[str, Any]


class Unsayable(ValueError):
    """Something that no sentence can say: whoever would read it knows nothing of a `sort` that has the `key`."""

    def __init__(self, sort: str, key: str) -> None:
        self.sort, self.key = sort, key
        super().__init__(f"{key} has no name")


class Part(NamedTuple):
    """A piece of a sentence: a name with what it is a name of, or, where `sort` is empty, the words between names."""

    text: str
    sort: str = ""
    key: str = ""


def write_expectation(expected: Expected, lexicon: Lexicon, *, keys: bool = False) -> str:
    """The sentence, with its full stop. With `keys` every name is quoted with its key. Raises Unsayable."""
    wanted = expected._replace(question=normal(expected.question))

    def reads_back(text: str) -> bool:
        return read_expectation(text, lexicon)[0] == wanted

    return written(lambda words: words.expectation(wanted), reads_back, lexicon, keys=keys)


def parts_of(expected: Expected, lexicon: Lexicon) -> list[Part]:
    """The same sentence in pieces, its names told apart. Raises Unsayable."""
    text = write_expectation(expected, lexicon)
    wanted = expected._replace(question=normal(expected.question))
    for keys in (False, True):
        marked = Marked(lexicon, keys=keys)
        parts = marked.parts(marked.expectation(wanted))
        if "".join(part.text for part in parts) == text:
            return parts
    return [Part(text)]


def write_asked(question: Question, lexicon: Lexicon) -> str:
    """The question as one asks it: "May Ines Marrow publish Winter rates?". Raises Unsayable."""
    wanted = normal(question)
    return written(lambda words: words.asked(wanted), lambda text: read_asked(text, lexicon) == wanted, lexicon)


def written(
    say: "Callable[[Words], str]", reads_back: Callable[[str], bool], lexicon: Lexicon, *, keys: bool = False
) -> str:
    """The plain sentence where it reads back, else the one with keys where that does.

    Where neither does, it is only told, in a lexicon that has words for what has no name in it.
    """
    plain = say(Words(lexicon))
    if not keys and len(plain.splitlines()) == 1 and _does(reads_back, plain):
        return plain
    with_keys = say(Words(lexicon, keys=True))
    return with_keys if _does(reads_back, with_keys) else plain


def _does(reads_back: Callable[[str], bool], text: str) -> bool:
    try:
        return reads_back(text)
    except Unclear:
        return False


def capital(text: str) -> str:
    """Words as a sentence begins with them."""
    return text[:1].upper() + text[1:]


class Words:
    """The parts of sentences, with the names of a lexicon."""

    def __init__(self, lexicon: Lexicon, *, keys: bool = False) -> None:
        self.lexicon, self.keys = lexicon, keys

    # -- names ---------------------------------------------------------------------------------

    def name(self, sort: str, key: str) -> str:
        """A name, with its key where it has to be. Raises Unsayable."""
        name = self.lexicon.name(sort, key)
        if name is None:
            raise Unsayable(sort, key)
        known = key in self.lexicon.names.get(sort, {})
        return quoted(name, key) if known and (self.keys or self.lexicon.is_alike(sort, name)) else name

    def names(self, sort: str, keys: Iterable[str]) -> str:
        """Several names, one after the other."""
        return ", ".join(self.name(sort, key) for key in keys)

    # -- whole sentences -----------------------------------------------------------------------

    def expectation(self, expected: Expected) -> str:
        """Who may, or may not, what, where, when."""
        q, may = expected.question, "may" if expected.expect == "allow" else "may not"
        who = self.who(q)
        for key, (nobody, everyone) in BUT.items():
            if key in q:
                sort, but = "role" if key.endswith("holders_of") else "group", may == "may not"
                who, may = f"{nobody if but else everyone} {self.name(sort, q[key])}", "may"
        reason = f" {REASONS[expected.reason]}" if expected.reason else ""
        return f"{capital(who)} {may} {self.what(q)}{self.when(q)}{reason}."

    def asked(self, q: Question) -> str:
        """A question to one, with its mark."""
        return f"May {self.who(q)} {self.what(q)}{self.when(q)}?"

    # -- who -----------------------------------------------------------------------------------

    def who(self, q: Question) -> str:
        """Whoever is asked about."""
        if "holders_of" in q:
            return f"holders of {self.name('role', q['holders_of'])}"
        if "members_of" in q:
            return f"members of {self.name('group', q['members_of'])}"
        if "roles" in q:
            return self.made_up(q)
        account = q.get("account")
        return "visitors" if account is None else self.name("account", account)

    def made_up(self, said: Question) -> str:
        """Somebody who holds some roles and nothing else."""
        roles = ", ".join(self.held(role) for role in said["roles"]) or "no role"
        groups = said.get("groups") or ()
        within = f" in the group{'s' * (len(groups) > 1)} {self.names('group', groups)}" if groups else ""
        return f"somebody with {roles}{within}{' as the author' if said.get('own') else ''}"

    def held(self, role: Any) -> str:
        """A role that is held, and in brackets where."""
        if isinstance(role, str):
            return self.name("role", role)
        return f"{self.name('role', role['role'])} ({self.scope(role['scope'])})"

    def scope(self, scope: Mapping[str, list[str]]) -> str:
        """Where something holds (§3)."""
        parts = []
        for key, sort, nothing, phrases in WHERE:
            if (listed := scope.get(key)) is not None:
                phrase = phrases[-1] if len(listed) == 1 else phrases[0]
                parts.append(f"{phrase} {self.names(sort, listed)}" if listed else nothing)
        return " ".join(parts) or "everywhere"

    # -- what ----------------------------------------------------------------------------------

    def what(self, q: Question) -> str:
        """What is done, and where."""
        action: str = q["action"]
        if action == "stand-in":
            said = q["for"]
            return f"stand in for {self.made_up(said) if 'roles' in said else self.one(said.get('account'))}"
        if action == "hand-out":
            scope = f" {self.scope(q['scope'])}" if "scope" in q else ""
            ends = f" ending {time_words(q['until'])}" if "until" in q else ""
            return f"give {self.name('role', q['role'])} to {self.name('account', q['to']['account'])}{scope}{ends}"
        if action == "create":
            return f"create {self.new(q)}"
        if action == "fill-field":
            return f"fill the {self.name('field', q['field'])} of new {self.new(q)}"
        if action in OF_FIELDS:
            return f"{OF_FIELDS[action]} {self.name('field', q['field'])} of {self.place(q)}"
        if action == "insert-component":
            return f"put {self.name('component', q['component'])} into {self.place(q)}"
        if action == "arrange-component":
            return f"arrange {self.component(q)} on {self.place(q)}"
        if action == "change-facet":
            return f"edit the {self.name('facet', q['facet'])} of {self.component(q)} on {self.place(q)}"
        if action in VERBS:
            return f"{VERBS[action]} {self.place(q)}{self.onto(q)}"
        if "node" in q or "branch" in q:
            return f"{self.name('placed', action)} on {self.place(q)}"
        site = f" on the site {self.name('site', q['site'])}" if "site" in q else ""
        return f"{self.name('duty', action)}{site}"

    def one(self, account: str | None) -> str:
        """One account, or a visitor."""
        return "a visitor" if account is None else self.name("account", account)

    def component(self, q: Question) -> str:
        """A kind of component, and which one, where that is said."""
        which = f" with the id {in_quotes(q['component_id'])}" if "component_id" in q else ""
        return f"{self.name('component', q['component'])}{which}"

    def new(self, q: Question) -> str:
        """Something to be made, with its topics, and where."""
        about = ""
        if (topics := q.get("topics")) is not None:
            about = f" about {self.names('topic', topics)}" if topics else " about nothing"
        anywhere = "branch" in q and "types" not in q and "whose" not in q and not q.get("working")
        where = f"anywhere in {self.name('node', q['branch'])}" if anywhere else f"in {self.place(q)}"
        return f"{self.name('kind', q['type'])}{about} {where}"

    def onto(self, q: Question) -> str:
        """What it comes to be: elsewhere, or about other topics."""
        if "to" in q:
            return f" to {self.name('node', q['to'])}"
        if (topics := q.get("topics")) is None:
            return ""
        return f" with the topics {self.names('topic', topics)}" if topics else " with no topics"

    # -- where and when ------------------------------------------------------------------------

    def place(self, q: Question) -> str:
        """A page, its working copy, a profile, or what of a branch is meant."""
        copy = "the working copy of " if q.get("working") else ""
        if "branch" in q:
            return f"{copy}{self.some(q)} in {self.name('node', q['branch'])}"
        node = q["node"]
        if isinstance(node, Mapping):
            return f"{copy}the profile of {self.name('account', node['author'])}"
        return copy + self.name("node", node)

    def some(self, q: Question) -> str:
        """Those of a branch that are meant."""
        types, whose = q.get("types"), q.get("whose")
        if types is None:
            return {None: "anything", "own": "anything of their own", "team": "anything of their team's"}[whose]
        if not types:
            return "nothing"
        return {None: "", "own": "their own ", "team": "their team's "}[whose] + self.names("kind", types)

    def when(self, q: Question) -> str:
        """At one time, or from one time until another."""
        if q["action"] == "hand-out":
            return f" at {time_words(q['at'])}" if "at" in q else ""
        return "".join(f" {word} {time_words(q[word])}" for word in ("at", "from", "until") if word in q)


class Marked(Words):
    """Words in which names are marked, so that a sentence can be taken apart into its pieces."""

    def __init__(self, lexicon: Lexicon, *, keys: bool = False) -> None:
        super().__init__(lexicon, keys=keys)
        self._marked: list[Part] = []

    def name(self, sort: str, key: str) -> str:
        self._marked.append(Part(super().name(sort, key), sort, key))
        return f"\0{len(self._marked) - 1}\0"

    def parts(self, sentence: str) -> list[Part]:
        """The pieces of a sentence made of these words."""
        pieces = sentence.split("\0")
        parts = [self._marked[int(piece)] if i % 2 else Part(piece) for i, piece in enumerate(pieces)]
        first, *rest = (part for part in parts if part.text)
        return [first._replace(text=capital(first.text)), *rest]


def time_words(time: str | datetime) -> str:
    """A time in UTC: the day alone where it is its first moment.

    >>> time_words("2027-06-30T00:00:00Z"), time_words("2027-06-30T18:00:00Z")
    ('30 June 2027', '30 June 2027 18:00 UTC')
    """
    at = read_time(time) if isinstance(time, str) else time
    day = f"{at.day} {MONTHS[at.month - 1]} {at.year:04}"
    if not (at.hour or at.minute or at.second or at.microsecond):
        return day
    fraction = f".{at.microsecond:06}" if at.microsecond else ""
    seconds = f":{at.second:02}{fraction}" if at.second or fraction else ""
    return f"{day} {at.hour:02}:{at.minute:02}{seconds} UTC"
