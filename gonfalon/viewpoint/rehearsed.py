"""Who asks within a rehearsal: whoever rehearses, with the eyes of whom they stand in for, over what was done there.

    RehearsedSession(session, cookie).viewpoint

What is staged is applied in a rehearsal under it, and the moment is that of its clock: so both are part of what its
unit reads, and its viewpoint is a plain one.
"""

from datetime import datetime
from functools import cached_property

import numpy as np

from gonfalon.accounts.models import SignIn
from gonfalon.content.nodes import InSight
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.viewpoint.cookie import Cookie
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.standing_in import StandingIn
from gonfalon.viewpoint.viewpoint import Viewpoint


class RehearsedSession(Session):
    """The people behind one request of a rehearsal; who they are was found out before it began."""

    def __init__(self, outside: Session, cookie: Cookie) -> None:
        super().__init__(cookie)
        self.outside = outside

    @cached_property
    def viewpoint(self) -> Viewpoint:
        under_way = self.standing_in
        return Viewpoint(self.in_force, under_way.who, self.at, made_up=under_way.made_up)

    @cached_property
    def actors_viewpoint(self) -> Viewpoint:
        """Whoever signed in knows no more than they do outside."""
        return self.outside.actors_viewpoint

    @cached_property
    def actors_sight(self) -> InSight:
        """Nodes made there are known to whoever made them there."""
        mine, there = self.outside.actors_viewpoint, self.viewpoint
        before, seen = mine.nodes.tree, mine.in_sight
        theirs = there.in_sight.whole.tolist()
        whole = [
            bool(seen.whole[before.index[node.id]]) if node.id in before else theirs[i]
            for i, node in enumerate(there.nodes.tree.nodes)
        ]
        return InSight(np.array(whole, dtype=bool), seen.named | there.in_sight.named)

    def actor_sees(self, target: Target) -> bool:
        if target.id is not None and target.id not in self.outside.actors_viewpoint.nodes.tree:
            there = self.viewpoint
            return there.snapshot.engine.decide(Question(there.subject, "see", target, there.at)).allow
        return super().actor_sees(target)

    @cached_property
    def signed_in(self) -> SignIn | None:
        return self.outside.signed_in

    @cached_property
    def missing(self) -> frozenset[str]:
        return frozenset()

    @cached_property
    def standing_in(self) -> StandingIn:
        under_way = self.outside.standing_in
        assert under_way is not None
        return under_way

    @cached_property
    def stand_in_over(self) -> bool:
        return False

    @property
    def proved_lately(self) -> bool:
        """Nobody needs to be asked: nothing that is done here opens anything to anybody."""
        return True

    @property
    def outside_at(self) -> datetime:
        return self.outside.at

    @property
    def eyes(self) -> str:
        return self.outside.eyes

    def anew(self) -> "RehearsedSession":
        return RehearsedSession(self.outside, self.cookie.anew())
