"""Expectations, which should hold whatever anybody changes; requests of those who were refused; rehearsals."""

from django.db import models

from gonfalon.accounts.models import Account
from gonfalon.clock import new_id, now
from gonfalon.ids import IdField


class Expectation(models.Model):
    """A question as access-rules §8 writes it, the answer it should have, and a note."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    question = models.JSONField()
    expect = models.CharField(max_length=5, choices=[("allow", "allow"), ("deny", "deny")])
    reason = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=200, blank=True)
    recorded_by = IdField(null=True)
    recorded_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["recorded_at", "id"]


class AccessRequest(models.Model):
    """Somebody who was refused asks for it: the question as the rules have it, a word of theirs, and the outcome."""

    class State(models.TextChoices):
        OPEN = "open"
        GRANTED = "granted"
        DECLINED = "declined"

    id = IdField(primary_key=True, default=new_id, editable=False)
    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="+")
    question = models.JSONField()
    open_key = models.CharField(max_length=64, null=True, unique=True)
    """Of whom and what, while it is open: asking twice is one request."""
    word = models.CharField(max_length=500, blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.OPEN, db_index=True)
    asked_at = models.DateTimeField(default=now)
    decided_at = models.DateTimeField(null=True)
    decided_by = IdField(null=True)
    answer = models.CharField(max_length=500, blank=True)
    until = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-asked_at", "-id"]


LONGEST_PATH, LONGEST_HEADER = 2_000, 200
"""Of a request that is kept to be done again, in characters."""


class Rehearsal(models.Model):
    """A rehearsal under way: whose, and until when. What is kept of it is what was asked, never what came of it."""

    written_apart = True
    id = IdField(primary_key=True)
    actor = IdField(db_index=True)
    until = models.DateTimeField(db_index=True)


class RehearsedRequest(models.Model):
    """A writing request of a rehearsal, to be done again whenever it is looked at; or one that was refused."""

    written_apart = True
    rehearsal = IdField(db_index=True)
    step = models.PositiveIntegerField()
    method = models.CharField(max_length=10)
    path = models.CharField(max_length=LONGEST_PATH)
    media_type = models.CharField(max_length=LONGEST_HEADER, blank=True)
    body = models.BinaryField(blank=True)
    if_match = models.CharField(max_length=LONGEST_HEADER, blank=True)
    on_top = models.BooleanField(default=False)
    """Whether it is done on top of whatever version there is: something before it was taken back."""
    at = models.DateTimeField()
    ids = models.JSONField(default=list)
    """Ids and secrets it was given, in order."""
    said = models.JSONField(default=list)
    """What it did, in sentences; of what was refused the title of the page."""
    refused = models.JSONField(null=True)
    """The `reason` and `detail` of a refusal: nothing is done again of that."""

    class Meta:
        ordering = ["id"]
