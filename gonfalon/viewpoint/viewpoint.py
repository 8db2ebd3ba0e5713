"""Whose eyes, under which policy, over which nodes, when: what every answer is asked of. It never changes.

    here = viewpoint("ada", now())
    here.engine.decide(Question(here.subject, "edit", target, here.at))
    here.seen_by(None)                      # the same moment for a visitor
    here.under(policy)                      # as it would be
    here.at_moment(next_year)
    here.renewed()                          # after something was written

Whatever answers takes a viewpoint; who signed in, and how, is the session's.
"""

from collections.abc import Container
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.holders import Holders
from gonfalon.access.policy_changes import as_of
from gonfalon.access.sight import EVERYTHING, Sight
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.content.nodes import Content, InSight, cached_in_sight, content, engine_over, in_sight, without
from gonfalon.core import Engine, Question
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import HypotheticalSubject, Who
from gonfalon.core.model.vocabulary import SECTION_OF_TREE


@dataclass(frozen=True, eq=False)
class Viewpoint:
    """What somebody sees of the site at a moment. What is worked out of it is worked out once."""

    in_force: Snapshot
    """The policy in force."""
    subject: Who
    """Whose eyes: an account, None for a visitor, or a made-up holder of roles."""
    at: datetime
    proposed: Snapshot | None = None
    """The policy that decides instead of the one in force."""
    knows: frozenset[str] = frozenset()
    """Accounts that may be named whoever sees the roster, besides the subject's own."""
    made_up: str = ""
    """What stands for the account of a made-up holder where something is kept by account."""
    at_work: bool = False
    """Whether these are an account's own eyes, so that what it uses of what it is given is noted."""
    _nodes: list[Content] = field(default_factory=list)
    _engine: list[Engine] = field(default_factory=list)
    """Read and made when first asked for, and then shared with all other viewpoints of the same."""

    @property
    def snapshot(self) -> Snapshot:
        """The policy that decides."""
        return self.proposed or self.in_force

    @property
    def account(self) -> str | None:
        """Under which account something is whoever's these eyes are; None for a visitor.

        Decisions are about the `subject`: somebody made up has an account of which no policy knows.
        """
        return self.made_up if isinstance(self.subject, HypotheticalSubject) else self.subject

    def wrote(self, author: str | None) -> bool:
        """Whether somebody is the author, for the rules, of what an account wrote."""
        if isinstance(self.subject, HypotheticalSubject):
            return self.subject.as_author
        return author is not None and author == self.subject

    @property
    def catalogue(self) -> Catalogue:
        """What there is to say something about, by the policy that decides."""
        return self.snapshot.catalogue

    @property
    def holders(self) -> Holders:
        """Who holds what, by the policy that decides."""
        return self.snapshot.holders(self.at)

    @property
    def nodes(self) -> Content:
        if not self._nodes:
            self._nodes.append(content(self.in_force))
        return self._nodes[0]

    @property
    def engine(self) -> Engine:
        """An engine over all nodes, under the policy that decides."""
        if not self._engine and self.proposed is None:
            self._engine.append(engine_over(self.nodes, self.in_force))
        elif not self._engine:
            self._engine.append(Engine(self.snapshot.policy, self.nodes.tree))
        return self._engine[0]

    @property
    def keyholder(self) -> bool:
        """Whether the subject may do everything."""
        account = self.snapshot.policy.accounts.get(self.subject) if isinstance(self.subject, str) else None
        return account is not None and account.keyholder

    @property
    def survey(self) -> Surveyor:
        """Answers for whole trees, under the policy that decides."""
        return self.engine.surveyor

    @cached_property
    def in_sight(self) -> InSight:
        """The nodes that the subject may be told of."""
        if self.proposed is not None:
            return in_sight(self.engine, self.subject, self.at)
        return cached_in_sight(self.engine, self.subject, self.at)

    @cached_property
    def on_desk(self) -> InSight:
        """Those of them that the desk shows, where its content is closed none of that."""
        if self.snapshot.engine.decide(Question(self.subject, SECTION_OF_TREE["content"], at=self.at)).allow:
            return self.in_sight
        return without(self.nodes.tree, self.in_sight, "content")

    @property
    def sees_all_nodes(self) -> bool:
        """Whether nodes may be counted: all of them are in sight."""
        return bool(self.in_sight.whole.all())

    @property
    def sees_roster(self) -> bool:
        """Whether everybody may be named to the subject."""
        return self._people is EVERYTHING

    @cached_property
    def sight(self) -> Sight:
        """The nodes and people whose names the subject may read."""
        return Sight(self.in_sight.named, self._people)

    @property
    def _people(self) -> Container[str]:
        """The accounts known: all to whoever sees the roster, else those known anyway."""
        if self.snapshot.engine.decide(Question(self.subject, "roster.see", at=self.at)).allow:
            return EVERYTHING
        return self.knows | ({self.subject} if isinstance(self.subject, str) else set())

    def seen_by(self, who: Who, *, knows: frozenset[str] = frozenset(), made_up: str = "") -> "Viewpoint":
        """The same for other eyes."""
        return replace(self, subject=who, knows=knows, made_up=made_up, at_work=False)

    def at_moment(self, at: datetime) -> "Viewpoint":
        """The same at another time, under the same policy."""
        return replace(self, at=at)

    def under(self, policy: Policy) -> "Viewpoint":
        """The same as it would be under another policy."""
        return replace(self, proposed=proposal(policy, self.in_force), at_work=False, _engine=[])

    def as_of(self, moment: datetime) -> "Viewpoint":
        """How it was at a moment, over the nodes as they are now. Raises NotKnown."""
        return self.under(as_of(moment)).at_moment(moment)

    def renewed(self) -> "Viewpoint":
        """The same under the policy and over the nodes as they are now that something was written."""
        return replace(self, in_force=current(), _nodes=[], _engine=[])


def viewpoint(who: Who, at: datetime) -> Viewpoint:
    """How somebody sees the site under what is in force."""
    return Viewpoint(current(), who, at)


def with_staged(here: Viewpoint, owner: str) -> Viewpoint:
    """How it would be with all that somebody has staged and that still can be applied."""
    return here.under(staged_policy(owner, here.in_force.policy))


def proposal(policy: Policy, in_force: Snapshot) -> Snapshot:
    """A policy that nobody has applied, with a version that none in force has."""
    return Snapshot(-in_force.version - 1, policy, Engine(policy), in_force.words)
