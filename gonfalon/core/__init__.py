"""The rules of access, and nothing else.

Knows no Django, no database, no clock and no words for people. See
docs/access-rules.md for the rules it implements, section by section.
"""

from gonfalon.core.engine import Engine
from gonfalon.core.policy import Policy
from gonfalon.core.question import Decision, MadeUp, Question

__all__ = ["Decision", "Engine", "MadeUp", "Policy", "Question"]
