"""The outbox: sent once, tried again while the mail server is down, given up in the end, never sent twice."""

from datetime import timedelta
from smtplib import SMTPRecipientsRefused, SMTPServerDisconnected
from socket import gaierror

import pytest
from django.core import mail
from django.db import transaction
from django_tasks_db.models import DBTaskResult

from gonfalon.clock import now
from gonfalon.mail.models import Letter
from gonfalon.mail.outbox import WAITS, post, send
from tests.api.support import ok, refused
from tests.api.worker import work


@pytest.fixture
def server(monkeypatch):
    """A mail server that fails as it is told, and otherwise takes what it is sent."""

    class Server:
        trouble: Exception | None = None
        taken: list = []

        def send_messages(self, messages):
            if self.trouble:
                raise self.trouble
            self.taken.extend(messages)

    server = Server()
    server.taken = []
    monkeypatch.setattr("gonfalon.mail.outbox.get_connection", lambda **_: server)
    return server


def due() -> None:
    """Let the time of every waiting task come."""
    DBTaskResult.objects.filter(run_after__gt=now()).update(run_after=now() - timedelta(seconds=1))


def test_a_letter_is_sent_once_and_its_text_goes(server):
    letter = post("ada@post.example", "Come\naboard", "A secret link")
    assert server.taken == []
    work()
    [message] = server.taken
    assert (message.subject, message.body, message.to) == ("Come aboard", "A secret link", ["ada@post.example"])
    letter.refresh_from_db()
    assert (letter.state, letter.text) == ("sent", "")
    assert send.call(letter.id) == "sent"
    assert len(server.taken) == 1


def test_a_server_that_is_down_is_tried_again_later(server):
    server.trouble = SMTPServerDisconnected("gone")
    letter = post("ada@post.example", "Come aboard", "text")
    work()
    letter.refresh_from_db()
    assert (letter.state, letter.tries, letter.trouble) == ("waiting", 1, "gone")
    work()
    letter.refresh_from_db()
    assert letter.tries == 1  # not due yet
    server.trouble = None
    due()
    work()
    letter.refresh_from_db()
    assert (letter.state, letter.trouble) == ("sent", "")
    assert len(server.taken) == 1


@pytest.mark.parametrize(
    ("trouble", "told"),
    [
        (ConnectionRefusedError(111, "Connection refused"), "Nothing answers at the address of the mail server."),
        (TimeoutError(), "The mail server did not answer in time."),
        (gaierror(-2, "Name or service not known"), "The name of the mail server is not known."),
        (SMTPRecipientsRefused({}), "{}"),
    ],
)
def test_it_is_given_up_in_the_end_and_says_why(server, trouble, told):
    server.trouble = trouble
    letter = post("ada@post.example", "Come aboard", "text")
    for _ in range(len(WAITS) + 3):
        work()
        due()
    letter.refresh_from_db()
    assert (letter.state, letter.tries) == ("failed", len(WAITS) + 1)
    assert letter.trouble == told


def test_one_that_the_server_had_when_the_worker_died_is_never_sent_again(server):
    letter = post("ada@post.example", "Come aboard", "text")
    Letter.objects.update(state="sending")
    work()
    assert server.taken == []
    letter.refresh_from_db()
    assert letter.state == "sending"


@pytest.mark.django_db(transaction=False)
def test_what_is_rolled_back_is_never_sent(server):
    with transaction.atomic():
        post("ada@post.example", "Come aboard", "text")
        transaction.set_rollback(True)
    work()
    assert server.taken == []
    assert mail.outbox == []


def test_the_outbox_tells_what_waits_and_why_but_not_what_a_letter_says(odile, lone, server):
    server.trouble = SMTPServerDisconnected("gone")
    post("ada@post.example", "Come aboard", "A secret link")
    work()
    [told] = ok(odile.get("letters"))
    assert (told["to"], told["state"], told["trouble"]) == ("ada@post.example", "waiting", "gone")
    assert "secret" not in str(told)
    assert ok(odile.get("letters", state="failed")) == []
    refused(odile.get("letters", state="lost"), "invalid", 422)
    refused(lone("accounts.invite").get("letters"), "not-granted")


def test_a_letter_that_was_given_up_is_tried_again_by_hand(odile, server):
    letter = post("ada@post.example", "Come aboard", "A secret link")
    Letter.objects.filter(pk=letter.pk).update(state="failed", tries=11, trouble="gone")
    ok(odile.post(f"letters/{letter.pk}/again"), 204)
    work()
    assert [message.body for message in server.taken] == ["A secret link"]
    refused(odile.post(f"letters/{letter.pk}/again"), "conflict", 409)
    refused(odile.post("letters/no-such-letter/again"), "not-found", 404)
