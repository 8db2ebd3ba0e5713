"""Values of fields over all pages: how many are filled in, and taking those of a purged field away for good."""

from gonfalon.content.models import Node, Version
from gonfalon.work import locked

_AT_ONCE = 500


def purge_values(type: str, field: str) -> int:
    """Take the values of a field out of all pages of a kind and all their versions; how many pages had one.

    Those in the bin too. Belongs in the transaction that purges the field.
    """
    pages = list(locked(Node.everywhere).filter(type=type, values__has_key=field))
    for page in pages:
        del page.values[field]
    Node.everywhere.bulk_update(pages, ["values"], batch_size=_AT_ONCE)
    kept = Version.objects.filter(node__type=type, data__values__has_key=field)
    changed = []
    for version in kept.iterator(chunk_size=_AT_ONCE):
        version.data["values"].pop(field, None)
        changed.append(version)
    Version.objects.bulk_update(changed, ["data"], batch_size=_AT_ONCE)
    return len(pages)
