"""Mail about pages: to those who may publish what was handed in, and to whoever wrote what was decided about."""

from datetime import timedelta

from django.conf import settings

from gonfalon.accounts.models import Account
from gonfalon.content.models import Node
from gonfalon.mail import outbox
from gonfalon.viewpoint.session import Session

MOST_TOLD = 30
LATELY = timedelta(days=90)


def tell_author(row: Node, what: str, session: Session, note: str = "") -> None:
    """Tell the author that a page was returned, published or retired, if they see it and did not do it themselves."""
    author, actor = row.author, session.actor
    if author is None or actor is None or author.id == actor.id:
        return
    if row.id not in session.viewpoint.seen_by(author.id).in_sight.named:
        return
    said = f":\n\n{note}" if note else "."
    text = f"Hello {author.name},\n\n{actor.name} {what} “{row.title}”{said}\n\n{_where(row)}\n"
    outbox.post(author.email, f"{what.capitalize()}: {row.title}", text)


def tell_reviewers(row: Node, session: Session, word: str) -> None:
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
        text = f"Hello {one.name},\n\n{session.actor.name} handed in “{row.title}”{said}\n\n{_where(row)}\n"
        outbox.post(one.email, f"Waits for you: {row.title}", text)


def _where(row: Node) -> str:
    return f"{settings.ADDRESS}/desk/{row.id}"
