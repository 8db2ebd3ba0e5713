"""Stepping out, from the application and from the public site."""

from gonfalon.ledger.models import record
from gonfalon.verify.rehearsals import end
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.standing_in import StandingIn


def step_out(session: Session) -> None:
    """End the standing in that is under way, if any; of a rehearsal nothing is left."""
    under_way = session.standing_in
    if under_way is not None:
        record(session.by, "stand-in.ended", about=about(under_way))
        if under_way.rehearsal:
            end(under_way.rehearsal)
    session.stand_in(None)


def about(standing_in: StandingIn) -> tuple[str, str]:
    """The account that an entry of the ledger is about, if there is one."""
    return ("account", standing_in.who) if isinstance(standing_in.who, str) else ("", "")
