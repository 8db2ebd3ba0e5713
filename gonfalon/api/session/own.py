"""One's own account, as whoever signed in."""

from rest_framework.request import Request

from gonfalon.accounts.client import client_of
from gonfalon.accounts.models import Account
from gonfalon.accounts.signin import TooManyGuesses, account_for
from gonfalon.api.problems import Invalid, NotSignedIn, Refused, TooMany
from gonfalon.viewpoint.session import Session


def own(session: Session) -> Account:
    """Whoever signed in, arriving or arrived, as long as they stand in for nobody. Raises Refused."""
    if session.standing_in is not None:
        raise Refused("look-only", "Step out first: this is about your own account.")
    if session.arriving is None:
        raise NotSignedIn
    return session.arriving


def check_password(me: Account, password: str, request: Request, pointer: str) -> None:
    """Raise Invalid unless it is the password of an account; guesses are counted as when signing in."""
    try:
        known = account_for(me.email, password, client_of(request._request))
    except TooManyGuesses as wait:
        raise TooMany(wait.seconds) from None
    if known is None:
        raise Invalid({pointer: "This is not your password."})
