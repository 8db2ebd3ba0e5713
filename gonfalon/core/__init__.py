"""The rules of access, and nothing else.

    engine = Engine(load_policy(document))
    engine.decide({"account": "ada", "action": "edit", "node": "n2"}).reason

Knows no Django, no database, no clock of its own and, but for the command line, no words for people. See
docs/access-rules.md for the rules it implements, section by section.
"""

from gonfalon.core.document.errors import PolicyError, Unreadable
from gonfalon.core.document.reader import load_policy
from gonfalon.core.document.writer import write_policy
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import Decision, HypotheticalSubject, Question

__all__ = [
    "Decision",
    "Engine",
    "HypotheticalSubject",
    "Policy",
    "PolicyError",
    "Question",
    "Unreadable",
    "load_policy",
    "write_policy",
]
