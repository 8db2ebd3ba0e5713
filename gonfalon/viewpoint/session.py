"""Who signed in and how, what they must have first, and for whom they stand in. It makes the viewpoints of a request.

session = Session(cookie)
session.viewpoint               # whose eyes decisions are made with: of whom the actor stands in for, or their own
session.by                      # both names, for the ledger

The *actor* signed in. The *subject* is whom decisions are about: the actor, unless the actor stands in for someone.
"""

import json
from datetime import datetime, timedelta
from functools import cached_property
from hashlib import sha256

from gonfalon.access.demands import missing
from gonfalon.access.policy_changes import NotKnown
from gonfalon.access.snapshot import Snapshot, current
from gonfalon.access.walks import is_walking
from gonfalon.accounts.models import Account, SignIn
from gonfalon.accounts.sessions import arrive_session, begin_session, end_session, open_session, prove_session
from gonfalon.clock import now
from gonfalon.content.nodes import InSight, content, engine_over
from gonfalon.core import Decision, Engine, Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import REHEARSE, STAND_IN, Reason
from gonfalon.ledger.models import By
from gonfalon.viewpoint.cookie import Cookie
from gonfalon.viewpoint.standing_in import StandingIn
from gonfalon.viewpoint.viewpoint import Viewpoint, with_staged

SIGN_IN_KEY = "sign_in"
PROOF_KEY = "password_proof"
STAND_IN_KEY = "standing_in"
HALF_WAY_KEY = "half_way"
HALF_WAY_FOR = timedelta(minutes=5)
"""How long the second factor may take."""
PROVED_FOR = timedelta(minutes=15)
"""Whoever signed in longer ago is asked again before the riskiest acts."""


class Session:
    """The people behind one request. What the browser keeps is read at the first look, not before."""

    def __init__(self, cookie: Cookie) -> None:
        self.cookie = cookie
        self.at = now()

    @cached_property
    def in_force(self) -> Snapshot:
        """The policy in force."""
        return current()

    @cached_property
    def viewpoint(self) -> Viewpoint:
        """How whoever the request counts for sees the site: as the one they stand in for would, if they do."""
        if self.standing_in is not None:
            return self.as_seen_by(self.standing_in)
        return Viewpoint(self.in_force, self.subject.id if self.subject else None, self.at, at_work=True)

    def as_seen_by(self, other: StandingIn) -> Viewpoint:
        """How somebody else sees the site, with what the actor has staged if that is tried out, at its moment.

        Raises NotKnown for a moment from before the policy is known.
        """
        here = self.with_staged if other.staged else Viewpoint(self.in_force, other.who, self.at)
        theirs = here.seen_by(other.who, made_up=other.made_up)
        if other.at is None:
            return theirs
        return theirs.at_moment(other.at) if other.at >= self.at else theirs.as_of(other.at)

    @cached_property
    def with_staged(self) -> Viewpoint:
        """How whoever signed in would see the site with what they have staged."""
        who = self.actor.id if self.actor else None
        return with_staged(Viewpoint(self.in_force, who, self.at), who or "")

    def may_stand_in(self, other: StandingIn, *, rehearses: bool = False, beside: bool = False) -> Decision | None:
        """Whether whoever signed in may stand in for somebody: as that one is there, and they themselves now (§7).

        As themselves they may rehearse, where they pass `rehearsal.start` or were given a walk list, and look `beside`
        others at another moment.

        None where there is no such account, role or group then. Raises NotKnown.
        """
        actor, engine = self.actor.id if self.actor else "", engine_over(content(self.in_force), self.in_force)
        if other.who == actor and (rehearses or beside):
            return self._may_as_oneself(other, engine, REHEARSE if rehearses else STAND_IN)
        if not other.staged and other.at is None:
            known = other.known_in(self.in_force.policy)
            return engine.may_stand_in(actor, other.who, self.at) if known else None
        theirs = self.as_seen_by(other)
        if not other.known_in(theirs.snapshot.policy):
            return None
        return engine.may_stand_in_under(theirs.engine, actor, other.who, self.at, theirs.at)

    def _may_as_oneself(self, other: StandingIn, engine: Engine, capability: str) -> Decision | None:
        actor, theirs = self.actor.id if self.actor else "", self.as_seen_by(other)
        if not other.known_in(theirs.snapshot.policy):
            return None
        answer = engine.decide(Question(actor, capability, at=self.at))
        if capability == REHEARSE and not answer.allow and self.walks:
            answer = Decision(Reason.ALLOWED)
        otherwise = other.staged or other.at is not None
        if answer.allow and otherwise and not engine.within(theirs.engine, actor, actor, self.at, theirs.at):
            return Decision(Reason.BEYOND)
        return answer

    @cached_property
    def walks(self) -> bool:
        """Whether whoever signed in was asked to try what a role can do."""
        return self.actor is not None and self.actor.state == Account.State.ACTIVE and is_walking(self.actor.id)

    @cached_property
    def actors_viewpoint(self) -> Viewpoint:
        """The same for whoever signed in, who knows of the one they stand in for."""
        if self.standing_in is None or self.actor is None:
            return self.viewpoint
        now = self.viewpoint if self.standing_in.at is None else Viewpoint(self.in_force, None, self.at)
        them = self.standing_in.who
        return now.seen_by(self.actor.id, knows=frozenset({them} if isinstance(them, str) else ()))

    @property
    def actors_sight(self) -> InSight:
        """What whoever signed in may be told of the nodes that whom they stand in for may meet."""
        return self.actors_viewpoint.in_sight

    def actor_sees(self, target: Target) -> bool:
        """Whether whoever signed in may see a node that whom they stand in for may meet, as they are now."""
        mine = self.actors_viewpoint
        return mine.snapshot.engine.decide(Question(mine.subject, "see", target, mine.at)).allow

    @property
    def arriving_viewpoint(self) -> Viewpoint:
        """The same for whoever signed in and lacks what is asked of them: for what is about their own account."""
        if not self.missing or self.arriving is None:
            return self.viewpoint
        return self.viewpoint.seen_by(self.arriving.id)

    @cached_property
    def signed_in(self) -> SignIn | None:
        """The signing in that this is, as long as the account is active and has the password it signed in with."""
        id = self.cookie.get(SIGN_IN_KEY)
        row = open_session(id) if id else None
        if row and self.cookie.get(PROOF_KEY) != row.account.get_session_auth_hash():
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
        stand_in = StandingIn.read(self.cookie.get(STAND_IN_KEY)) if self.actor else None
        if stand_in is None or self.actor is None or stand_in.until <= self.at:
            return None
        try:
            answer = self.may_stand_in(stand_in, rehearses=bool(stand_in.rehearsal))
        except NotKnown:
            return None
        return stand_in if answer is not None and answer.allow else None

    @property
    def outside_at(self) -> datetime:
        """The moment for whoever signed in, also where it is another for whom they stand in for."""
        return self.at

    @property
    def rehearses(self) -> bool:
        """Whether a rehearsal is under way; found out from the browser's session alone where none was begun."""
        kept = StandingIn.read(self.cookie.get(STAND_IN_KEY))
        return kept is not None and bool(kept.rehearsal) and self.standing_in is not None

    @cached_property
    def stand_in_over(self) -> bool:
        """Whether a stand-in has ended by itself and the screen may not know it yet."""
        return STAND_IN_KEY in self.cookie and self.standing_in is None

    @cached_property
    def subject(self) -> Account | None:
        """The account that decisions are about; None for a visitor, and for somebody made up."""
        if self.standing_in is None:
            return self.actor
        who = self.standing_in.who
        return Account.objects.get(pk=who) if isinstance(who, str) else None

    @property
    def as_visitor(self) -> bool:
        """Whether whoever asks counts as nobody signed in: they are not, or stand in for a visitor."""
        return self.actor is None or (self.standing_in is not None and self.standing_in.who is None)

    @property
    def by(self) -> By:
        """Both names, for the ledger."""
        return By(self.arriving.id if self.arriving else None, self.standing_in.account if self.standing_in else None)

    @property
    def eyes(self) -> str:
        """Whose eyes these are, in a word that a screen drawn for them sends back with all that it writes."""
        standing_in = self.standing_in
        theirs = {**standing_in.data(), "until": ""} if standing_in else {}
        whose = [self.arriving.id if self.arriving else "", json.dumps(theirs, sort_keys=True)]
        return sha256("\0".join(whose).encode()).hexdigest()[:16]

    def again(self) -> "Session":
        """Whoever is there now that they signed in or out."""
        return Session(self.cookie)

    def anew(self) -> "Session":
        """Whoever asks, found out anew for another try of the same request."""
        return Session(self.cookie.anew())

    @property
    def session_id(self) -> str | None:
        """Which of the actor's sessions this is."""
        return self.cookie.get(SIGN_IN_KEY)

    def sign_in(self, account: Account, client: str, agent: str) -> None:
        self.cookie.begin_anew()
        arrived = not missing(self.in_force, account, self.at)
        self.cookie[SIGN_IN_KEY] = begin_session(account, client, agent, arrived=arrived)
        self.prove(account)

    def prove(self, account: Account) -> None:
        """Go on with this session under the password that the account has now."""
        self.cookie[PROOF_KEY] = account.get_session_auth_hash()

    def prove_again(self) -> None:
        """Note that whoever is there has just shown that it is them."""
        if self.signed_in is not None:
            prove_session(self.signed_in.id)

    def ask_factor(self, account: Account) -> None:
        """The password was right: what is missing is the second factor."""
        self.cookie.begin_anew()
        self.cookie[HALF_WAY_KEY] = [account.id, account.get_session_auth_hash(), self.at.isoformat()]

    @property
    def half_way(self) -> Account | None:
        """Whoever gave their password here lately, and still has to give the second factor."""
        id, proof, begun = self.cookie.get(HALF_WAY_KEY) or ("", "", "")
        if not id or datetime.fromisoformat(begun) + HALF_WAY_FOR <= self.at:
            return None
        account = Account.objects.filter(pk=id, state=Account.State.ACTIVE).first()
        if account is None or account.get_session_auth_hash() != proof:
            return None
        ended = account.disabled_at is not None and account.disabled_at >= datetime.fromisoformat(begun)
        return None if ended else account

    def keep(self, what: str, value: str) -> None:
        """Keep something until the next step here: a challenge, a secret that is not confirmed."""
        self.cookie[f"kept_{what}"] = value

    def kept(self, what: str) -> str | None:
        """What was kept, once."""
        return self.cookie.pop(f"kept_{what}")

    def sign_out(self) -> None:
        if self.arriving and self.session_id:
            end_session(self.arriving.id, self.session_id)
        self.cookie.begin_anew()

    def stand_in(self, stand_in: StandingIn | None) -> None:
        """Begin standing in, or with None step out."""
        if stand_in is None:
            self.cookie.pop(STAND_IN_KEY)
        else:
            self.cookie[STAND_IN_KEY] = stand_in.data()
