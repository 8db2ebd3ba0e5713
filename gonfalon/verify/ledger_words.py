"""What entries of the ledger changed, in words, made when they are read: here and nowhere else.

    told = changes_of_entries(entries, viewpoint.catalogue)
    told[entry.number]                      # as Change has it; of an entry from before its own words

Values of fields stay where they are, in versions of pages and profiles: what is purged there is told no more.
"""

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.change_sets import changes_told
from gonfalon.accounts.models import ProfileVersion
from gonfalon.content.history import changes
from gonfalon.content.models import Node, Version
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.ledger.models import Change, Entry

Data = dict[str, Any]


def changes_of_entries(entries: Iterable[Entry], catalogue: Catalogue) -> dict[int, Sequence[Change]]:
    """The changes of some entries, by number. A fixed number of queries for each sort of data among them."""
    every = list(entries)
    sets = [e.data["change_set"] for e in every if e.data and "change_set" in e.data]
    of_sets = changes_told(sets, catalogue) if sets else {}
    pages, profiles = _versions(every, "page"), _versions(every, "profile")
    types = dict(Node.everywhere.filter(pk__in={id for id, _ in pages}).values_list("pk", "type")) if pages else {}
    told: dict[int, Sequence[Change]] = {}
    for entry in every:
        data = entry.data or {}
        if "change_set" in data:
            told[entry.number] = of_sets.get(data["change_set"], [])
        elif "page" in data:
            told[entry.number] = list(_of_page(data, pages, types, catalogue))
        elif "profile" in data:
            told[entry.number] = [*entry.changes, *_of_profile(data, profiles, catalogue)]
        else:
            told[entry.number] = entry.changes
    return told


def _versions(entries: list[Entry], of: str) -> dict[tuple[str, int], Data]:
    """What there was and is of pages or profiles, by id and version: a version that changed none of it is as the one
    before it."""
    asked = {(e.data[of], number) for e in entries if e.data and of in e.data for number in e.data["versions"]}
    if not asked:
        return {}
    ids = {id for id, _ in asked}
    kept: Any = Version.objects.filter(node__in=ids) if of == "page" else ProfileVersion.objects.filter(account__in=ids)
    id_of = "node_id" if of == "page" else "account_id"
    numbers: dict[str, list[int]] = {}
    for id, number in kept.order_by("number").values_list(id_of, "number"):
        numbers.setdefault(id, []).append(number)
    meant = {(id, n): numbers[id][i - 1] for id, n in asked if (i := bisect_right(numbers.get(id, []), n))}
    rows = kept.filter(number__in=set(meant.values())).values_list(id_of, "number", "data")
    data = {(id, number): said for id, number, said in rows}
    return {(id, n): data[id, number] for (id, n), number in meant.items()}


def _of_page(
    data: Data, versions: dict[tuple[str, int], Data], types: dict[str, str], catalogue: Catalogue
) -> Iterator[Change]:
    was, now = (versions.get((data["page"], number)) for number in data["versions"])
    if was is not None and now is not None:
        yield from changes(types[data["page"]], was, now, catalogue)


def _of_profile(data: Data, versions: dict[tuple[str, int], Data], catalogue: Catalogue) -> Iterator[Change]:
    was, now = (versions.get((data["profile"], number), {}) for number in data["versions"])
    for field in catalogue.type(PROFILE).fields:
        if was.get(field.key) != now.get(field.key):
            yield Change(what=field.name, was=was.get(field.key), now=now.get(field.key), field=field.key)
