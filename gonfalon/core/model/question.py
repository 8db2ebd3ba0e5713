"""What is asked of the engine and what it answers (§4, §6).

Question("ada", "edit", tree.target("n2"))
Question(None, "see", tree.target("n1"))            # a visitor
Question(HypotheticalSubject(("writer",)), "roles.define")       # somebody who would hold these roles
"""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from gonfalon.core.model.policy import Assignment, Scope
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import Reason


@dataclass(frozen=True, slots=True)
class HypotheticalSubject:
    """A made-up active account that holds `roles` without scope, and those of `scoped` each within its own.

    It is a direct member of `groups`. With `as_author` it counts as the author of every target but one about to be
    made (§8).
    """

    roles: tuple[str, ...]
    as_author: bool = False
    scoped: tuple[tuple[str, Scope], ...] = ()
    groups: tuple[str, ...] = ()


Who = str | None | HypotheticalSubject
"""An account's id, None for a visitor, or a made-up holder of roles."""


@dataclass(frozen=True, slots=True)
class Question:
    """May `who` do `action` on `target` at `at`?

    `site` belongs to sitewide actions, `to` (the new parent) to `move`, `topics` (those it would then
    have) to `edit`, `subject` to `stand-in` (§7), `given` (the assignment that would be made, whatever its id)
    to `hand-out` (§9); `field`, `component`, `facet` and `component_id` to the
    actions on parts of a node (§5).
    """

    who: Who
    action: str
    target: Target | None = None
    at: datetime | None = None
    site: str | None = None
    to: Target | None = None
    topics: frozenset[str] | None = None
    subject: Who = None
    field: str | None = None
    component: str | None = None
    facet: str | None = None
    component_id: str | None = None
    given: Assignment | None = None


class NotInTree(LookupError):
    """A question about all that is beneath a node, asked where there is no tree with that node in it."""

    def __init__(self, action: str, node: str | None) -> None:
        super().__init__(f"{action} asks about what is beneath {node}, which is not in the tree at hand")


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that counted in a step: a source and how far it climbed, or a limit, lock or rule."""

    what: Literal["source", "limit", "bar", "own-limit", "reach", "lock", "field", "component", "facet"]
    id: str
    role: str | None = None
    group: str | None = None
    says: str | None = None
    said_by: str | None = None
    reason: Reason | None = None
    limits: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class TrailStep:
    """One step of §4 or §5 as it went: its number or name, what it asked, and what it found."""

    step: str
    capability: str | None
    passed: bool
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True, slots=True)
class Decision:
    """The answer. `trail` is empty unless it was asked for."""

    reason: Reason
    trail: tuple[TrailStep, ...] = field(default=())

    @property
    def allow(self) -> bool:
        """Yes or no."""
        return self.reason is Reason.ALLOWED
