"""What entries of the ledger say and what they changed, in words, made when they are read: here and nowhere else.

    sentences(entries, viewpoint)[entry.number]             # "Granted: Renzo asked to edit Fees and dues"
    changes_of_entries(entries, viewpoint.catalogue)[entry.number]      # as Change has it

Of an entry from before data was kept both are its own words.

Values of fields stay where they are, in versions of pages and profiles: what is purged there is told no more.
"""

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.change_sets import changes_told
from gonfalon.access.describe import capital
from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.models import ProfileVersion
from gonfalon.accounts.names import names_of
from gonfalon.content.history import changes
from gonfalon.content.models import Node, Version
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.ledger.models import Change, Entry
from gonfalon.ledger.sentences import WHAT, sentence
from gonfalon.verify.models import AccessRequest
from gonfalon.verify.requests import request_words, words_for
from gonfalon.viewpoint.viewpoint import Viewpoint

Data = dict[str, Any]


def sentences(entries: Iterable[Entry], viewpoint: Viewpoint) -> dict[int, str]:
    """What some entries say to whoever reads them, by number. Two queries if there are requests among them."""
    every = list(entries)
    asked = [e.data["request"] for e in every if e.data and "request" in e.data]
    requests = {row.pk: row for row in AccessRequest.objects.filter(pk__in=asked)} if asked else {}
    names = names_of({row.account_id for row in requests.values()} - {""}) if requests else {}
    told: dict[int, str] = {}
    for entry in every:
        data = entry.data or {}
        if "said" in data:
            told[entry.number] = sentence(entry.kind, data["said"], data.get("way", ""))
        elif row := requests.get(data.get("request", "")):
            who = names[row.account_id] if row.account_id in viewpoint.sight.people else capital(HIDDEN_PERSON)
            told[entry.number] = request_words(entry.kind, who, words_for(row.question, viewpoint.sight, viewpoint))
        else:
            told[entry.number] = entry.summary
    return told


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
    return {number: [_worded(change) for change in changes] for number, changes in told.items()}


def _worded(change: Change) -> Change:
    return {**change, "what": WHAT.get(change["what"], change["what"])}


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
