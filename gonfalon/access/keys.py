"""Keys made from names. One that was ever given is not given again: what names it never comes to mean something else.

key_for("Gallery tenant", taken | spent("role"))
spend("role", {"gallery-tenant": "Gallery tenant"})     # in the unit that takes the role away
"""

from collections.abc import Mapping, Set
from unicodedata import normalize

from django.utils.text import slugify

from gonfalon.access.models import SpentKey


def key_for(name: str, taken: Set[str]) -> str:
    """A key derived from a name: lower case, valid, and not yet taken.

    >>> key_for("Gallery  tenant", set())
    'gallery-tenant'
    >>> key_for("Gallery tenant", {"gallery-tenant"})
    'gallery-tenant-2'
    >>> key_for("港", set())
    'role'
    """
    base = slugify(normalize("NFKD", name))[:50] or "role"
    key, n = base, 1
    while key in taken:
        n += 1
        key = f"{base}-{n}"
    return key


def spent(kind: str) -> set[str]:
    """The keys of what there was once of a kind. One query."""
    return set(SpentKey.objects.filter(kind=kind).values_list("key", flat=True))


def spend(kind: str, names: Mapping[str, str]) -> None:
    """Let keys of a kind never be given again, and keep what they were called. One query."""
    gone = (SpentKey(kind=kind, key=key, name=name) for key, name in names.items())
    SpentKey.objects.bulk_create(gone, update_conflicts=True, update_fields=["name"])


def was_called() -> Mapping[tuple[str, str], str]:
    """What was called how that is gone, by kind and key. One query."""
    named = SpentKey.objects.exclude(name="").values_list("kind", "key", "name")
    return {(kind, key): name for kind, key, name in named}
