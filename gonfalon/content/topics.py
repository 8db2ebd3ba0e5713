"""Topics: added, renamed, merged into another, removed. Pages and scopes that name one follow.

    add("Tides", by)
    merge(old, into, by)
    remove(topic, by)           # a scope for nothing but it then covers nothing

A scope that names a topic is part of the policy, so both versions are raised.
"""

from collections.abc import Iterator
from typing import Any, NamedTuple

from django.db import models
from django.db.models import F

from gonfalon.access.keys import key_for, spend, spent
from gonfalon.access.models import Assignment, Delegation, DirectGrant
from gonfalon.access.roles import fold
from gonfalon.access.snapshot import raise_version as raise_policy_version
from gonfalon.content.models import Node, Topic, WorkingCopy
from gonfalon.content.nodes import raise_version
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, POLICY, unit

_SCOPED: tuple[type[models.Model], ...] = (Assignment, DirectGrant, Delegation)


class NameTaken(Exception):
    """Another topic has this name."""


class Uses(NamedTuple):
    """What names a topic: pages by id, those in the bin too, and how many things given only about it."""

    pages: list[str]
    given: int


def uses_of(topic: Topic) -> Uses:
    """What names a topic. Four queries."""
    pages = list(_pages(topic.pk).values_list("pk", flat=True))
    return Uses(pages, sum(1 for _ in _scoped(topic.pk)))


@unit(POLICY)
def add(name: str, by: By) -> Topic:
    """A new topic, which no page is about yet. Raises NameTaken."""
    _free(name)
    taken = spent("topic").union(Topic.objects.values_list("key", flat=True))
    topic = Topic.objects.create(key=key_for(name, taken), name=name)
    raise_policy_version()
    record(by, "topic.added", about=("topic", topic.key), name=name)
    return topic


@unit(POLICY)
def rename(row: Topic, name: str, by: By) -> None:
    """Another name for the same topic. Raises NameTaken."""
    _free(name, but=row.pk)
    was, row.name, row.version = row.name, name, row.version + 1
    row.save()
    changes = [Change(what="name", was=was, now=name)]
    record(by, "topic.renamed", about=("topic", row.pk), changes=changes, was=was, name=name)


@unit(POLICY, NODES)
def merge(topic: Topic, into: Topic, by: By) -> None:
    """Let everything about one topic be about another, and remove the first."""
    _replace(topic.pk, into.pk)
    record(by, "topic.merged", about=("topic", into.pk), name=topic.name, into=into.name)


@unit(POLICY, NODES)
def remove(topic: Topic, by: By) -> None:
    """Take a topic off everything that names it, and away."""
    _replace(topic.pk, None)
    record(by, "topic.removed", about=("topic", topic.pk), name=topic.name)


def _replace(key: str, instead: str | None) -> None:
    pages = list(_pages(key))
    for page in pages:
        page.topics = _without(page.topics, key, instead)
    Node.everywhere.bulk_update(pages, ["topics"], batch_size=500)
    Node.everywhere.filter(pk__in=[page.pk for page in pages]).update(version=F("version") + 1)
    copies = list(WorkingCopy.objects.filter(topics__contains=key))
    for copy in copies:
        copy.topics, copy.version = _without(copy.topics, key, instead), copy.version + 1
    WorkingCopy.objects.bulk_update(copies, ["topics", "version"], batch_size=500)
    for row in list(_scoped(key)):
        row.scope = {**row.scope, "topics": _without(row.scope["topics"], key, instead)}
        row.save(update_fields=["scope"])
    gone = Topic.objects.filter(pk=key)
    spend("topic", dict(gone.values_list("key", "name")))
    gone.delete()
    if pages:
        raise_version()
    raise_policy_version()


def _without(keys: list[str], key: str, instead: str | None) -> list[str]:
    return sorted({*keys} - {key} | ({instead} if instead else set()))


def _pages(key: str) -> models.QuerySet[Node]:
    return Node.everywhere.filter(topics__contains=key).order_by("path")


def _scoped(key: str) -> Iterator[Any]:
    for model in _SCOPED:
        yield from model._default_manager.filter(scope__topics__contains=key)


def _free(name: str, but: str = "") -> None:
    if Topic.objects.filter(name__iexact=fold(name)).exclude(pk=but).exists():
        raise NameTaken(name)
