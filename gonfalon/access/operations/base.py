"""What every kind of operation has: how it is read, what it does in memory and in rows, how it is told and taken back.

A kind puts and drops one kind of policy entry (`access/entries`): one with an id of its own (`OnEntry`), or what is
said of something (`OnCell`).
"""

import threading
from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from django.utils.dateparse import parse_datetime
from rest_framework import serializers

from gonfalon.access.describe import Names, capital
from gonfalon.access.entries import Cells, Entries
from gonfalon.access.names import titles
from gonfalon.access.sight import EVERYTHING, Sight
from gonfalon.clock import new_id
from gonfalon.core.model.policy import Policy
from gonfalon.inputs import Bounded, Input
from gonfalon.ledger.models import By, Change

Data = dict[str, Any]


class OperationKind:
    """One kind of operation. `duty` is the capability whoever stages or applies it must have."""

    duty: str
    reader: "type[Reader]"
    staged = True
    """Whether it may wait among what is staged; else it is only done at once, as a part of something."""

    def asked_at(self, data: Data, policy: Policy) -> str | None:
        """The node on which the duty is asked, as data that is sent names it; None where it is asked of the site."""
        return None

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        """The operation's data, checked and complete. Raises ValidationError naming the field.

        Nodes and accounts out of sight are as good as not there.
        """
        reader = _readers.of(self.reader)
        reader.context.update(policy=policy, sight=sight)
        try:
            checked = reader.run_validation(data)
        finally:
            reader.context.clear()
        return {"kind": data["kind"], **self.complete(canonical_json(checked))}

    def complete(self, data: Data) -> Data:
        return dict(data)

    def operation(self, data: Data) -> Any:
        """The same for the core."""
        raise NotImplementedError

    def write_all(self, every: Sequence[Data], by: By) -> None:
        """Make several so in rows, inside the caller's unit. None of them touches the part of another."""
        raise NotImplementedError

    def told(self, data: Data, was: Any, names: Names) -> Change:
        """What it changes, what that was and what it becomes, in words."""
        raise NotImplementedError

    def reverse(self, data: Data, was: Any) -> Data:
        """The operation that takes this one back, given how its part stood. Asked before it is written."""
        raise NotImplementedError

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        """What in a policy forbids this operation, in words; None when nothing does."""
        return None


class OnEntry(OperationKind):
    """A kind that puts an entry or drops one, as its operation says. The way back is to put what was."""

    entries: Entries[Any]
    dropped_by: tuple[str, str]
    """The kind that drops such an entry, and the name by which it names it."""
    key = "id"
    """How data that puts one names it."""

    def as_it_was(self, was: Any) -> Data:
        """The operation that puts an entry as it stood."""
        raise NotImplementedError

    def reverse(self, data: Data, was: Any) -> Data:
        kind, named = self.dropped_by
        return {"kind": kind, named: data[self.key]} if was is None else self.as_it_was(was)

    def write_all(self, every: Sequence[Data], by: By) -> None:
        changed = dict(self.operation(data).entry for data in every)
        self.entries.put((entry for entry in changed.values() if entry is not None), by)
        if gone := [key for key, entry in changed.items() if entry is None]:
            self.entries.drop(gone)

    def told(self, data: Data, was: Any, names: Names) -> Change:
        kind, named = self.dropped_by
        if data["kind"] != kind:
            return self.entries.told(data, was, names)
        if was is None:  # it was gone before it was dropped
            return Change(what=f"{capital(named)} {data[named]}", was=None, now=self.entries.gone)
        return self.entries.told(None, was, names)


class OnCell(OperationKind):
    """A kind that says one thing of something, or nothing any more. The way back is to say what was said."""

    entries: Cells[Any]
    says: str
    """The name of what is said, in data and in the core's operation."""

    def said(self, data: Data) -> Any:
        """What is said, as the core has it; None to say nothing."""
        return getattr(self.operation(data), self.says)

    def write_all(self, every: Sequence[Data], by: By) -> None:
        said = {self.operation(data).part[1:]: self.said(data) for data in every}
        self.entries.put(((cell, value) for cell, value in said.items() if value is not None), by)
        if unsaid := [cell for cell, value in said.items() if value is None]:
            self.entries.drop(unsaid)

    def told(self, data: Data, was: Any, names: Names) -> Change:
        was, now = (self.entries.heard(value, data, names) for value in (was, self.heard(data)))
        return Change(what=self.entries.what(data, names), was=was, now=now)

    def heard(self, data: Data) -> Any:
        """What is said, as data."""
        return data[self.says]

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, self.says: was}


class WithId(OperationKind):
    """A kind that makes a thing with an id of its own."""

    def complete(self, data: Data) -> Data:
        return {**data, "id": new_id()}


class Reader(Bounded):
    """Reads and checks one operation against the policy it is for."""

    @property
    def policy(self) -> Policy:
        return self.context["policy"]

    @property
    def sight(self) -> Sight:
        return self.context["sight"]

    def validate_role(self, key: str) -> str:
        return known(key, self.policy.roles, "role")

    def known_subject(self, to: Data) -> Data:
        """Whom an operation names, if whoever asks may know of them. Raises ValidationError."""
        if to["kind"] == "account" and to["id"] not in self.sight.people:
            raise serializers.ValidationError({"id": f"There is no account “{to['id']}”."})
        every: Any = {"account": self.policy.accounts, "group": self.policy.groups, "role": self.policy.roles}
        try:
            known(to["id"], every[to["kind"]], to["kind"])
        except serializers.ValidationError as missing:
            raise serializers.ValidationError({"id": missing.detail}) from None
        return to


class _Readers(threading.local):
    """One reader of each kind for each thread: to make a serializer costs far more than to read by it."""

    def __init__(self) -> None:
        self._made: dict[type[Reader], Reader] = {}

    def of(self, kind: type[Reader]) -> Reader:
        if kind not in self._made:
            self._made[kind] = kind(context={})
        return self._made[kind]


_readers = _Readers()


class Subject(Input):
    kind = serializers.ChoiceField(choices=["account", "group", "role"])
    id = serializers.CharField()


def scope_as_it_was(was: Any) -> Data:
    """The scope of an entry as it stood, as an operation says it."""
    return {name: values for name, values in was["scope"].items() if values is not None}


def known_nodes(ids: list[str], what: str, sight: Sight) -> list[str]:
    """Some nodes, if there are such and whoever asks may know of them. Raises ValidationError."""
    there = titles(ids) if sight.nodes is EVERYTHING else sight.nodes
    return [known(id, there, what) for id in ids]


def known(value: str, known: Any, what: str) -> str:
    """The value, if there is such a thing. Raises ValidationError."""
    if value not in known:
        raise serializers.ValidationError(f"There is no {what} “{value}”.")
    return value


def plain(standing: Any) -> Any:
    """How a part stands, as JSON, for keeping and comparing."""
    if standing is None or isinstance(standing, str):
        return standing
    return canonical_json(standing if isinstance(standing, frozenset) else asdict(standing))


def canonical_json(value: Any) -> Any:
    """Values as JSON can hold them: sets as sorted lists, named tuples as objects, times as text."""
    if hasattr(value, "_asdict"):
        return canonical_json(value._asdict())
    if isinstance(value, dict):
        return {key: canonical_json(inner) for key, inner in value.items()}
    if isinstance(value, frozenset | set | tuple | list):
        return sorted(canonical_json(inner) for inner in value)
    return value.isoformat() if isinstance(value, datetime) else value


def read_time(text: Any) -> datetime | None:
    return parse_datetime(text) if text else None
