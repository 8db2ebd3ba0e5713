"""How an installation begins: a first site, what visitors see of it, and roles to begin with.

begin("Slack Water Club", visitors=True, starters=True, by=by)
"""

from gonfalon.access.catalogue import installed
from gonfalon.access.entries import ANSWERS
from gonfalon.access.models import Role
from gonfalon.access.snapshot import current, raise_version
from gonfalon.access.starters import make_starters
from gonfalon.content.models import Site
from gonfalon.content.sites import make_site
from gonfalon.ledger.models import By, record
from gonfalon.work import NODES, POLICY, unit


class HasBegun(Exception):
    """There is a site already."""


@unit(POLICY, NODES)
def begin(name: str, by: By, *, visitors: bool, starters: bool) -> Site:
    """Make the first site; published pages are seen by everyone, or by whoever is signed in. Raises HasBegun."""
    if has_begun():
        raise HasBegun
    site = make_site(name, by)
    baseline = Role.objects.get(baseline="everyone" if visitors else "signed-in")
    kinds = {**installed().types, **current().words.made}.values()
    ANSWERS.put((((baseline.key, f"{type.key}.see"), "all") for type in kinds if type.tree), by)
    raise_version()
    record(by, "installation.begun", about=("role", baseline.key), way="visitors" if visitors else "")
    if starters:
        make_starters(by)
    return site


def has_begun() -> bool:
    """Whether there is a site. One query."""
    return Site.objects.exists()
