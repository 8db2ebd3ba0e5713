"""What happened: one entry for each change of access or content, never altered afterwards.

    record(By("ada"), "role.made", about=("role", "gallery-tenant"), name="Gallery tenant")

Written in the unit of what it records, so that both are kept or neither.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NotRequired, TypedDict

from django.db import models

from gonfalon.clock import now
from gonfalon.ids import IdField
from gonfalon.ledger.sentences import sentence
from gonfalon.work import written_as


@dataclass(frozen=True, slots=True)
class By:
    """Who did it: the account that acted and, when standing in, for whom."""

    actor: str | None
    standing_for: str | None = None


class Change(TypedDict):
    """One thing that changed (`sentences.WHAT`, or in words), with what it was and what it is.

    `field` when it is a node's field; `needs` when only those may know of it who have that capability on the node;
    `nodes` when it names some, which only those may know of in whose sight all of them are.
    """

    what: str
    was: Any
    now: Any
    field: NotRequired[str]
    needs: NotRequired[str]
    nodes: NotRequired[list[str]]


class Entry(models.Model):
    number = models.BigAutoField(primary_key=True)
    at = models.DateTimeField(db_index=True)
    actor = IdField(null=True, db_index=True)
    standing_for = IdField(null=True)
    kind = models.CharField(max_length=40, db_index=True)
    summary = models.CharField(max_length=300)
    about_kind = models.CharField(max_length=20, blank=True)
    about_id = IdField(blank=True)
    changes = models.JSONField(default=list)
    """Where `data` does not say from what they are told."""
    data = models.JSONField(null=True)
    """What the sentence is made from when it is read: {"said": {"name": "Night crew"}, "way": "copy"}, or by reference:
    {"change_set": id}, {"request": id}; and what changed: {"page": id, "versions": [older, newer]} or the same of a
    "profile". Entries from before that was kept have their `summary`, by which the others are only found."""

    class Meta:
        ordering = ["-number"]
        indexes = [models.Index(fields=["about_kind", "about_id"])]

    def save(self, *args: Any, **kwargs: Any) -> None:
        if not self._state.adding:
            raise TypeError("A ledger entry is never changed")
        super().save(*args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> tuple[int, dict[str, int]]:
        raise TypeError("A ledger entry is never removed")


def record(
    by: By,
    kind: str,
    *,
    about: tuple[str, str] = ("", ""),
    changes: Sequence[Change] = (),
    data: Mapping[str, Any] | None = None,
    words: str | None = None,
    way: str = "",
    **said: Any,
) -> Entry:
    """Write an entry. `kind` is `thing.done`; `about` names what it concerns as (kind, id); `data` is as in `Entry`.

    `said` is what its sentence is made from (`sentences.SENTENCES`); `words` instead, of one that is told elsewhere.
    """
    kept = dict(data or {}) if words is not None else {**(data or {}), "said": said, **({"way": way} if way else {})}
    summary = sentence(kind, said, way) if words is None else words
    entry = Entry.objects.create(
        at=now(),
        actor=by.actor,
        standing_for=by.standing_for,
        kind=kind,
        summary=summary[:300],
        about_kind=about[0],
        about_id=about[1],
        changes=list(changes),
        data=kept or None,
    )
    written_as(entry)
    return entry
