"""Sending what is in the outbox: tried again while the mail server is down, never sent twice.

    post("ada@skerrow.example", "Come aboard", "…")      # inside the transaction of what it is about

A worker (`manage.py db_worker`) sends it after the commit; nothing that anybody does waits for a mail server.
"""

from collections.abc import Sequence
from datetime import timedelta
from smtplib import SMTPException
from socket import gaierror

from django.conf import settings
from django.core.mail import EmailMessage, get_connection
from django_tasks import task

from gonfalon.clock import now
from gonfalon.mail.models import Letter
from gonfalon.work import locked, unit

WAITS: Sequence[timedelta] = tuple(timedelta(minutes=m) for m in (1, 2, 5, 15, 30, 60, 120, 240, 480, 720))
"""How long a letter waits after each failed try; after the last one it is given up."""


def post(to: str, subject: str, text: str) -> Letter:
    """Put a letter into the outbox. It is sent once the transaction it belongs to is kept."""
    letter = Letter.objects.create(to=to, subject=" ".join(subject.split())[:200], text=text)
    send.enqueue(letter.id)
    return letter


def send_again(letter: Letter) -> None:
    """Try a letter once more at once, one that was given up too. Belongs in a transaction that holds its row."""
    letter.state, letter.tries, letter.next_at = Letter.State.WAITING, 0, now()
    letter.save()
    send.enqueue(letter.id)


@task
def send(id: str) -> str:
    """Try to send one letter; its state afterwards. One that is sent, given up or under way is left alone."""
    letter = _taken(id)
    if letter is None:
        return Letter.objects.values_list("state", flat=True).get(pk=id)
    try:
        _hand_over(letter)
    except (SMTPException, OSError) as error:
        return _failed(letter, _in_words(error))
    return _sent(letter)


@unit()
def _sent(letter: Letter) -> str:
    """Keep that it is sent, and nothing of what it said."""
    letter.state, letter.sent_at, letter.text, letter.trouble = Letter.State.SENT, now(), "", ""
    letter.save()
    return letter.state


@unit()
def _taken(id: str) -> Letter | None:
    """The letter, ours alone from now on; None where there is nothing to send."""
    letter = locked(Letter.objects).filter(pk=id, state=Letter.State.WAITING).first()
    if letter is not None:
        letter.state, letter.tries = Letter.State.SENDING, letter.tries + 1
        letter.save()
    return letter


def _hand_over(letter: Letter) -> None:
    domain = settings.DEFAULT_FROM_EMAIL.rpartition("@")[2].rstrip(">")
    headers = {"Message-ID": f"<{letter.id}@{domain}>"}
    message = EmailMessage(letter.subject, letter.text, to=[letter.to], headers=headers)
    get_connection(fail_silently=False).send_messages([message])


def _in_words(error: Exception) -> str:
    """Why a letter could not be handed over, for whoever looks after the mail."""
    if isinstance(error, ConnectionRefusedError):
        return "Nothing answers at the address of the mail server."
    if isinstance(error, TimeoutError):
        return "The mail server did not answer in time."
    if isinstance(error, gaierror):
        return "The name of the mail server is not known."
    return str(error) or type(error).__name__


@unit()
def _failed(letter: Letter, trouble: str) -> str:
    """Wait for another try, or give the letter up."""
    letter.trouble = trouble[:300]
    if letter.tries > len(WAITS):
        letter.state = Letter.State.FAILED
    else:
        letter.state, letter.next_at = Letter.State.WAITING, now() + WAITS[letter.tries - 1]
        send.using(run_after=letter.next_at).enqueue(letter.id)
    letter.save()
    return letter.state
