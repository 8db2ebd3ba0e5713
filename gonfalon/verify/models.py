"""Expectations: what should hold, whatever anybody changes."""

from django.db import models

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
