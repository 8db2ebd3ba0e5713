"""Whether a rehearsal may go on: asked before it begins, and after each of its steps (§7).

going_on = GoingOn(session)                 # whoever rehearses, as they are in force, now
going_on.stopped(there, made)               # None, or why not, in words
"""

from collections.abc import Container

from gonfalon.access.words import REASON_WORDS
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Question
from gonfalon.core.model.vocabulary import REHEARSE, STAND_IN, Reason
from gonfalon.verify.excess import beyond_words
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.standing_in import StandingIn
from gonfalon.viewpoint.viewpoint import Viewpoint


class GoingOn:
    """Compares whom one rehearses as, there, with whoever rehearses, as they are outside of it."""

    def __init__(self, session: Session, under_way: StandingIn) -> None:
        """To be made before the rehearsal's unit begins: what is read in it is not what is in force."""
        self.under_way, self.session = under_way, session
        self.actor = session.actor.id if session.actor else ""
        self._engine = engine_over(content(session.in_force), session.in_force)
        self._mine = session.actors_viewpoint
        self._mine.in_sight  # noqa: B018

    @property
    def roles(self) -> frozenset[str]:
        """What whoever is rehearsed as holds outside, or is made up of."""
        grants = self._engine.grants.of(self.under_way.who, self.session.at)
        return frozenset(source.role for source in grants.sources if source.role is not None)

    def stopped(self, there: Viewpoint, made: Container[str]) -> str | None:
        """Why it cannot go on as it is there by now; nodes `made` there are nobody's question."""
        mine, under_way, at = self._engine, self.under_way, self.session.at
        if not under_way.known_in(there.snapshot.policy):
            return "There is nobody left to rehearse as."
        if not there.snapshot.engine.grants.of(there.subject, there.at).active:
            return REASON_WORDS[Reason.INACTIVE]
        oneself = under_way.who == self.actor
        allowed = mine.decide(Question(self.actor, REHEARSE if oneself else STAND_IN, at=at)).allow
        if not (allowed or (oneself and self.session.walks)):
            return "You may not rehearse any more."
        if mine.grants.of(self.actor, at).keyholder:
            return None
        if mine.within(there.engine, self.actor, there.subject, at, there.at, made):
            return None
        excess = list(mine.excess_under(there.engine, self.actor, there.subject, at, there.at))
        further = beyond_words(excess, self._mine) if excess else "What came back there is more theirs than yours."
        return f"With this, they would go further than you do. {further}"
