"""Mail about pages: to those who may publish what was handed in, and to whoever wrote what was decided about."""

from dataclasses import dataclass
from datetime import timedelta

from django.conf import settings

from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.core import Question
from gonfalon.mail import outbox
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_TOLD = 30
LATELY = timedelta(days=90)


@dataclass(frozen=True, slots=True)
class Of:
    """What mail is about: how the page is named in it, and where one finds it."""

    words: str
    query: str = ""

    def named(self, row: Node) -> str:
        return f"{self.words}“{row.title}”"

    def where(self, row: Node) -> str:
        return f"{settings.ADDRESS}/desk/{row.id}{self.query}"


PAGE = Of("")
COPY = Of("the working copy of ", "?copy")


def tell_author(row: Node, what: str, session: Session, note: str = "") -> None:
    """Tell the author that a page was returned, published or retired, if they see it and did not do it themselves."""
    tell_about(row.author, row, what, session, note)


def tell_about(who: Account | None, row: Node, what: str, session: Session, note: str = "", *, of: Of = PAGE) -> None:
    """Tell somebody what was done with a page or its working copy, if they see it and did not do it themselves."""
    actor = session.actor
    if who is None or actor is None or who.id == actor.id:
        return
    if row.id not in session.viewpoint.seen_by(who.id).in_sight.named or not _finds(session.viewpoint, who, row, of):
        return
    said = f":\n\n{note}" if note else "."
    text = f"Hello {who.name},\n\n{actor.name} {what} {of.named(row)}{said}\n\n{of.where(row)}\n"
    outbox.post(who.email, f"{what.capitalize()}: {row.title}", text)


def tell_reviewers(row: Node, session: Session, word: str, *, of: Of = PAGE) -> None:
    """Tell those who may publish a page that it waits; keyholders, who may everything, and the long unseen are not."""
    viewpoint = session.viewpoint
    lately = Account.objects.filter(
        state=Account.State.ACTIVE, keyholder=False, last_seen__gte=viewpoint.at - LATELY
    ).exclude(pk=viewpoint.account)
    people = list(lately.only("id", "name", "email"))
    if not people or session.actor is None:
        return
    may = viewpoint.survey.allowed([one.id for one in people], [row.id], ["see", "publish"], viewpoint.at)
    said = f":\n\n{word}" if word else "."
    for one in [one for one, allowed in zip(people, may[:, 0], strict=True) if allowed.all()][:MOST_TOLD]:
        if _finds(viewpoint, one, row, of):
            text = f"Hello {one.name},\n\n{session.actor.name} handed in {of.named(row)}{said}\n\n{of.where(row)}\n"
            outbox.post(one.email, f"Waits for you: {row.title}", text)


def _finds(viewpoint: Viewpoint, who: Account, row: Node, of: Of) -> bool:
    """Whether somebody who sees a page sees what mail about it leads to."""
    theirs, copy = viewpoint.seen_by(who.id), viewpoint.nodes.tree.target(row.id).working_copy()
    return of is PAGE or theirs.engine.decide(Question(theirs.subject, "see", copy, viewpoint.at), trail=False).allow
