"""What became of pages before today: their versions, and what the ledger says of them, from past.yaml.

A page of which past.yaml says nothing was made and published by its author on some day of the last year.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zlib import crc32

from gonfalon.content.models import Node, Version
from gonfalon.content.pages import version_data
from gonfalon.ledger.models import Change, Entry
from gonfalon.ledger.sentences import sentence

Data = dict[str, Any]

STATES = {
    "made": "draft",
    "handed-in": "review",
    "returned": "draft",
    "published": "published",
    "retired": "retired",
    "to-draft": "draft",
}


@dataclass(frozen=True)
class Step:
    at: datetime
    by: str
    did: str
    state: str
    note: str
    was: Data
    """What the page said then, where that is not what it says now."""


class Past:
    """The steps of each page; `record` writes them into the ledger, in the order of their days."""

    def __init__(self, listed: dict[str, list[list[Any]]], at: datetime) -> None:
        self.listed, self.at = listed, at
        self.entries: list[Entry] = []

    def of(self, data: Data) -> list[Step]:
        """The steps of the page that is so described, at least one."""
        state = data.get("state", "published")
        if listed := self.listed.get(data["id"]):
            steps = list(self._steps(listed))
            if steps[-1].state != state or steps[-1].was:
                raise ValueError(f"past.yaml does not lead to {data['id']} as it is")
            return steps
        days = 8 + crc32(data["id"].encode()) % 340
        return [Step(self._ago(days), data.get("by", "odile"), "made", state, "", {})]

    def keep(self, row: Node, steps: list[Step], then: Iterable[Data]) -> None:
        """Write a version for each step, with what the page said `then`, and keep what the ledger will say."""
        Version.objects.bulk_create(
            Version(
                node=row,
                number=n,
                at=step.at,
                by=step.by,
                data=version_data(row) | said | {"state": step.state, "note": step.note},
            )
            for n, (step, said) in enumerate(zip(steps, then, strict=True), 1)
        )
        if row.id in self.listed:
            self.entries += [
                self._entry(row, step, before) for step, before in zip(steps, [None, *steps], strict=False)
            ]

    def record(self, begun: str) -> None:
        """Write the ledger up to now, from the day when the site was `begun`."""
        first = Entry(at=self._ago(400), actor="odile", kind="site.begun", summary=begun)
        Entry.objects.bulk_create([first, *sorted(self.entries, key=lambda entry: entry.at)])

    def _steps(self, listed: list[list[Any]]) -> Iterator[Step]:
        was: Data = {}
        state = "draft"
        for n, (days, by, did, *more) in enumerate(listed):
            said = more[0] if more else {}
            was, state = said.get("was", was), STATES.get(did, state)
            yield Step(self._ago(days) + timedelta(minutes=4 * n), by, did, state, said.get("note", ""), was)

    def _ago(self, days: float) -> datetime:
        return self.at - timedelta(days=days)

    def _entry(self, row: Node, step: Step, before: Step | None) -> Entry:
        changes: list[Change] = []
        if before is not None and before.state != step.state:
            changes.append(Change(what="state", was=before.state, now=step.state))
        if step.note:
            changes.append(Change(what="note", was=None, now=step.note))
        kind, said = f"page.{step.did}", {"title": row.title}
        return Entry(
            at=step.at,
            actor=step.by,
            kind=kind,
            summary=sentence(kind, said),
            data={"said": said},
            about_kind="node",
            about_id=row.id,
            changes=changes,
        )
