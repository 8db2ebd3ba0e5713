"""Values of fields over all pages: how many are filled in, and taking those of a purged field away for good."""

from typing import Any

from gonfalon.accounts.models import Account, ProfileVersion
from gonfalon.content.models import CopyVersion, Node, Version, WorkingCopy
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.work import locked

_AT_ONCE = 500


def purge_values(type: str, field: str) -> int:
    """Take the values of a field out of all pages of a kind, their working copies and versions; how many pages had one.

    Those in the bin too. Belongs in the transaction that purges the field.
    """
    if type == PROFILE:
        return _purge_profiles(field)
    pages = list(locked(Node.everywhere).filter(type=type, values__has_key=field))
    for page in pages:
        del page.values[field]
    Node.everywhere.bulk_update(pages, ["values"], batch_size=_AT_ONCE)
    copies = list(WorkingCopy.objects.filter(node__type=type, values__has_key=field))
    for copy in copies:
        del copy.values[field]
    WorkingCopy.objects.bulk_update(copies, ["values"], batch_size=_AT_ONCE)
    _purge_versions(Version, {"node__type": type}, field)
    _purge_versions(CopyVersion, {"copy__node__type": type}, field)
    return len(pages)


def _purge_versions(model: Any, of: dict[str, str], field: str) -> None:
    kept = model.objects.filter(**of, data__values__has_key=field)
    changed = []
    for version in kept.iterator(chunk_size=_AT_ONCE):
        version.data["values"].pop(field, None)
        changed.append(version)
    model.objects.bulk_update(changed, ["data"], batch_size=_AT_ONCE)


def _purge_profiles(field: str) -> int:
    people = list(locked(Account.objects).filter(profile__has_key=field))
    for account in people:
        del account.profile[field]
    Account.objects.bulk_update(people, ["profile"], batch_size=_AT_ONCE)
    versions = list(ProfileVersion.objects.filter(data__has_key=field))
    for version in versions:
        del version.data[field]
    ProfileVersion.objects.bulk_update(versions, ["data"], batch_size=_AT_ONCE)
    return len(people)
