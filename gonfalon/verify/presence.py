"""Who a request is from, and for whom it counts.

The *actor* signed in. The *subject* is whom decisions are about: the actor, unless the actor stands
in for someone. The ledger names both.
"""

from collections.abc import Container
from copy import copy
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

from django.utils.dateparse import parse_datetime

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.demands import missing
from gonfalon.access.holders import Holders
from gonfalon.access.sight import EVERYTHING, Sight
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.accounts.models import Account, SignIn
from gonfalon.accounts.sessions import arrive_session, begin_session, end_session, open_session, prove_session
from gonfalon.clock import now
from gonfalon.content.nodes import Content, InSight, cached_in_sight, content, engine_over, in_sight
from gonfalon.core import Engine, Question
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.ledger.models import By
from gonfalon.viewpoint.cookie import Cookie

SIGN_IN_KEY = "sign_in"
PROOF_KEY = "password_proof"
STAND_IN_KEY = "standing_in"
HALF_WAY_KEY = "half_way"
HALF_WAY_FOR = timedelta(minutes=5)
"""How long the second factor may take."""
PROVED_FOR = timedelta(minutes=15)
"""Whoever signed in longer ago is asked again before the riskiest acts."""


@dataclass(frozen=True, slots=True)
class StandingIn:
    """A stand-in under way: for whom, until when, and where to go back to."""

    account: str
    until: datetime
    came_from: str
    staged: bool = False
    """Whether decisions are made as they would be with what the actor has staged."""

    @classmethod
    def read(cls, data: dict[str, Any] | None) -> "StandingIn | None":
        if not data:
            return None
        until = parse_datetime(data["until"])
        return cls(data["account"], until, data["came_from"], data.get("staged", False)) if until else None

    def data(self) -> dict[str, Any]:
        return {
            "account": self.account,
            "until": self.until.isoformat(),
            "came_from": self.came_from,
            "staged": self.staged,
        }


class Presence:
    """The people behind one request. The session is read at the first look, not before."""

    def __init__(self, cookie: Cookie) -> None:
        self._session = cookie
        self.at = now()

    @cached_property
    def in_force(self) -> Snapshot:
        """The policy in force."""
        return current()

    @cached_property
    def snapshot(self) -> Snapshot:
        """The policy that decides: the one in force, or what the actor has staged while they try that out."""
        if self.standing_in is None or not self.standing_in.staged or self.actor is None:
            return self.in_force
        proposed = staged_policy(self.actor.id, self.in_force.policy)
        return Snapshot(-self.in_force.version - 1, proposed, Engine(proposed), self.in_force.words)

    @property
    def holders(self) -> Holders:
        """Who holds what, by the policy that decides."""
        return self.snapshot.holders(self.at)

    @cached_property
    def nodes(self) -> Content:
        return content()

    @cached_property
    def engine(self) -> Engine:
        """An engine over all nodes, under the policy that decides."""
        if self.snapshot is self.in_force:
            return engine_over(self.nodes, self.snapshot)
        return Engine(self.snapshot.policy, self.nodes.tree)

    @property
    def survey(self) -> Surveyor:
        """Answers for whole trees, under the policy that decides."""
        return self.engine.surveyor

    @cached_property
    def in_sight(self) -> InSight:
        """The nodes that whoever asks may be told of."""
        return self._in_sight(self.who)

    @cached_property
    def in_sight_of_actor(self) -> InSight:
        """The same for whoever signed in, whomever they stand in for."""
        return self._in_sight(self.actor.id if self.actor else None)

    def _in_sight(self, who: str | None) -> InSight:
        if self.snapshot is not self.in_force:
            return in_sight(self.engine, who, self.at)
        return cached_in_sight(self.engine, who, self.at)

    def in_sight_of(self, who: str) -> Container[str]:
        """The nodes that somebody else may be told of by name."""
        return in_sight(self.engine, who, self.at).named

    @property
    def sees_all_nodes(self) -> bool:
        """Whether nodes may be counted for whoever asks: all of them are in sight."""
        return bool(self.in_sight.whole.all())

    @cached_property
    def sight(self) -> Sight:
        """The nodes and people whose names whoever asks may read."""
        return Sight(self.in_sight.named, self._people(self.who, self.who))

    @cached_property
    def sight_of_actor(self) -> Sight:
        """The same for whoever signed in, whomever they stand in for."""
        if not self.standing_in or self.actor is None:
            return self.sight
        return Sight(self.in_sight_of_actor.named, self._people(self.actor.id, self.actor.id, self.who))

    def _people(self, who: str | None, *known: str | None) -> Container[str]:
        """The accounts known to somebody: all to whoever sees the roster, else those known anyway."""
        if self.snapshot.engine.decide(Question(who, "roster.see", at=self.at)).allow:
            return EVERYTHING
        return frozenset(id for id in known if id is not None)

    @cached_property
    def signed_in(self) -> SignIn | None:
        """The signing in that this is, as long as the account is active and has the password it signed in with."""
        id = self._session.get(SIGN_IN_KEY)
        row = open_session(id) if id else None
        if row and self._session.get(PROOF_KEY) != row.account.get_session_auth_hash():
            return None
        return row

    @cached_property
    def missing(self) -> frozenset[str]:
        """What whoever signed in must have first: `factor`, or fields of their profile.

        It is asked when they come, never of somebody at work.
        """
        if self.signed_in is None or self.signed_in.arrived:
            return frozenset()
        lacks = missing(self.in_force, self.signed_in.account, self.at)
        if not lacks:
            arrive_session(self.signed_in.id)
        return lacks

    @property
    def arriving(self) -> Account | None:
        """Whoever signed in, also while something is missing: for what is only about their own account."""
        return self.signed_in.account if self.signed_in else None

    @property
    def actor(self) -> Account | None:
        """The account that signed in, once it has all that is asked of it."""
        return None if self.missing else self.arriving

    @property
    def proved_lately(self) -> bool:
        """Whether whoever is there showed a while ago at most that it is them."""
        return self.signed_in is not None and self.at - self.signed_in.proved_at <= PROVED_FOR

    @cached_property
    def standing_in(self) -> StandingIn | None:
        """The stand-in under way; over when its time is up or the actor may no longer do it."""
        stand_in = StandingIn.read(self._session.get(STAND_IN_KEY)) if self.actor else None
        if stand_in is None or self.actor is None or stand_in.until <= self.at:
            return None
        may = engine_over(self.nodes, self.in_force).may_stand_in(self.actor.id, stand_in.account, self.at)
        return stand_in if may.allow and (self.actor.keyholder or not stand_in.staged) else None

    @cached_property
    def stand_in_over(self) -> bool:
        """Whether a stand-in has ended by itself and the screen may not know it yet."""
        return STAND_IN_KEY in self._session and self.standing_in is None

    @cached_property
    def subject(self) -> Account | None:
        """Whom decisions are about; None is a visitor."""
        if self.standing_in is None:
            return self.actor
        return Account.objects.get(pk=self.standing_in.account)

    @property
    def who(self) -> str | None:
        return self.subject.id if self.subject else None

    @property
    def by(self) -> By:
        """Both names, for the ledger."""
        return By(self.arriving.id if self.arriving else None, self.standing_in.account if self.standing_in else None)

    def afresh(self) -> "Presence":
        """The same, under the policy and the nodes as they are now that something was changed."""
        for kept in ("in_force", "snapshot", "nodes", "engine", "in_sight", "sight", "sight_of_actor"):
            self.__dict__.pop(kept, None)
        return self

    def again(self) -> "Presence":
        """Whoever is there now that they signed in or out."""
        return Presence(self._session)

    def as_visitor(self) -> "Presence":
        """The same moment and policy, asked by somebody who is not signed in."""
        visitor = copy(self)
        for kept in ("in_sight", "sight", "sight_of_actor"):
            visitor.__dict__.pop(kept, None)
        visitor.__dict__ |= {"snapshot": self.snapshot, "nodes": self.nodes, "engine": self.engine, "subject": None}
        return visitor

    @property
    def session_id(self) -> str | None:
        """Which of the actor's sessions this is."""
        return self._session.get(SIGN_IN_KEY)

    def sign_in(self, account: Account, client: str, agent: str) -> None:
        self._session.begin_anew()
        arrived = not missing(self.in_force, account, self.at)
        self._session[SIGN_IN_KEY] = begin_session(account, client, agent, arrived=arrived)
        self.prove(account)

    def prove(self, account: Account) -> None:
        """Go on with this session under the password that the account has now."""
        self._session[PROOF_KEY] = account.get_session_auth_hash()

    def prove_again(self) -> None:
        """Note that whoever is there has just shown that it is them."""
        if self.signed_in is not None:
            prove_session(self.signed_in.id)

    def ask_factor(self, account: Account) -> None:
        """The password was right: what is missing is the second factor."""
        self._session.begin_anew()
        until = self.at + HALF_WAY_FOR
        self._session[HALF_WAY_KEY] = [account.id, account.get_session_auth_hash(), until.isoformat()]

    @property
    def half_way(self) -> Account | None:
        """Whoever gave their password here lately, and still has to give the second factor."""
        id, proof, until = self._session.get(HALF_WAY_KEY) or ("", "", "")
        if not id or datetime.fromisoformat(until) <= self.at:
            return None
        account = Account.objects.filter(pk=id, state=Account.State.ACTIVE).first()
        return account if account and account.get_session_auth_hash() == proof else None

    def keep(self, what: str, value: str) -> None:
        """Keep something until the next step here: a challenge, a secret that is not confirmed."""
        self._session[f"kept_{what}"] = value

    def kept(self, what: str) -> str | None:
        """What was kept, once."""
        return self._session.pop(f"kept_{what}")

    def sign_out(self) -> None:
        if self.arriving and self.session_id:
            end_session(self.arriving.id, self.session_id)
        self._session.begin_anew()

    def stand_in(self, stand_in: StandingIn | None) -> None:
        """Begin standing in, or with None step out."""
        if stand_in is None:
            self._session.pop(STAND_IN_KEY)
        else:
            self._session[STAND_IN_KEY] = stand_in.data()
