"""Making roles: a key from the name, a cloth of its own, an empty board."""

from collections import Counter
from itertools import product
from unicodedata import normalize

from django.db import transaction
from django.db.models import Max
from django.utils.text import slugify

from gonfalon.access.models import Role
from gonfalon.access.snapshot import lock_version, raise_version
from gonfalon.ledger.models import By, record

COLOURS = ("azure", "fir", "ochre", "murrey", "tenne", "plum", "slate")
PATTERNS = ("plain", "halved", "slant", "band", "chevron", "disc", "head", "bars")


def key_for(name: str, taken: set[str]) -> str:
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


def cloth_for(worn: Counter[tuple[str, str]]) -> tuple[str, str]:
    """The cloth that fewest roles wear, preferring colours and then patterns that few wear.

    >>> cloth_for(Counter())
    ('azure', 'plain')
    """
    colours = Counter(colour for colour, _ in worn.elements())
    patterns = Counter(pattern for _, pattern in worn.elements())
    return min(product(COLOURS, PATTERNS), key=lambda c: (worn[c], colours[c[0]], patterns[c[1]]))


@transaction.atomic
def make_role(name: str, by: By, *, description: str = "") -> Role:
    """A new role that says nothing yet. The name must not be another role's; the caller has checked."""
    lock_version()
    roles = list(Role.objects.values_list("key", "colour", "pattern"))
    colour, pattern = cloth_for(Counter((c, p) for _, c, p in roles))
    role = Role.objects.create(
        key=key_for(name, {key for key, _, _ in roles}),
        name=name,
        description=description,
        colour=colour,
        pattern=pattern,
        position=(Role.objects.aggregate(last=Max("position"))["last"] or 0) + 1,
    )
    raise_version()
    record(by, "role.made", f"Made the role {name}", about=("role", role.key))
    return role
