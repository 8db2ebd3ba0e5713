"""Expectations, which should hold whatever anybody changes; requests of those who were refused; rehearsals."""

from django.db import models

from gonfalon.accounts.models import Account
from gonfalon.clock import new_id, now
from gonfalon.core.sentences.files import LONGEST_GROUP_NOTE, LONGEST_HEADING, LONGEST_NOTE
from gonfalon.ids import IdField


class ExpectationGroup(models.Model):
    """Expectations that belong together, as a client's contract or a policy of the house. An empty one is gone."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    name = models.CharField(max_length=LONGEST_HEADING)
    note = models.CharField(max_length=LONGEST_GROUP_NOTE, blank=True)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "id"]


class Expectation(models.Model):
    """A question as access-rules §8 writes it, the answer it should have, and a note."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    group = models.ForeignKey(ExpectationGroup, null=True, on_delete=models.SET_NULL, related_name="expectations")
    place = models.PositiveIntegerField(default=0)
    question = models.JSONField()
    expect = models.CharField(max_length=5, choices=[("allow", "allow"), ("deny", "deny")])
    reason = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=LONGEST_NOTE, blank=True)
    recorded_by = IdField(null=True)
    recorded_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["place", "recorded_at", "id"]


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


class WalkList(models.Model):
    """What a role is to be tried on, as its board was when the list was made: one for each role."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    role = IdField(unique=True)
    items = models.JSONField(default=list)
    """As `core.checks.walk.Item` has them."""
    made_by = IdField(null=True)
    made_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["made_at", "id"]


class WalkTick(models.Model):
    """Something of a list that was done in a rehearsal, with the questions it asked: the last time it went as the list
    says, and the last time it went otherwise."""

    written_apart = True
    walk_list = IdField(db_index=True)
    item = models.CharField(max_length=16)
    as_said = models.BooleanField()
    node = IdField(blank=True)
    by = IdField()
    at = models.DateTimeField()
    asked = models.JSONField()
    """As `core.checks.tries.Kept` has them."""

    class Meta:
        ordering = ["at", "id"]
        constraints = [models.UniqueConstraint(fields=["walk_list", "item", "as_said"], name="last_tick_of_an_item")]


class Report(models.Model):
    """A report that somebody asked for: about what, how far it has come, and, once it is made, what it tells."""

    class State(models.TextChoices):
        WAITING = "waiting"
        MAKING = "making"
        MADE = "made"
        CLOSED = "closed"
        """Whoever asked for it may not know any more what it is about."""

    id = IdField(primary_key=True, default=new_id, editable=False)
    owner = IdField(db_index=True)
    about_kind = models.CharField(max_length=10)
    about_id = IdField(blank=True)
    at = models.DateTimeField(null=True)
    reader = models.CharField(max_length=150, blank=True)
    """Whom it is for, in words."""
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    asked_at = models.DateTimeField(default=now)
    until = models.DateTimeField(db_index=True)
    made_at = models.DateTimeField(null=True)
    told = models.JSONField(null=True)

    class Meta:
        ordering = ["-asked_at", "-id"]
