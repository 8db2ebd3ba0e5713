"""The outbox: letters to send, written in the transaction of what they are about."""

from django.db import models

from gonfalon.clock import new_id, now
from gonfalon.ids import IdField


class Letter(models.Model):
    """One mail to one address. Its text is kept until it is sent, and no longer: it may hold a link that lets in.

    `sending` while the mail server has it: where the worker dies at that moment nobody can tell whether it went out,
    and it is not sent again.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        SENDING = "sending"
        SENT = "sent"
        FAILED = "failed"

    id = IdField(primary_key=True, default=new_id, editable=False)
    to = models.EmailField()
    subject = models.CharField(max_length=200)
    text = models.TextField(blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING, db_index=True)
    tries = models.PositiveIntegerField(default=0)
    trouble = models.CharField(max_length=300, blank=True)
    """Why the last try failed."""
    written_at = models.DateTimeField(default=now)
    next_at = models.DateTimeField(default=now)
    sent_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-written_at", "id"]
