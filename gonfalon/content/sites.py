"""Sites: each has a home page, from which all its pages hang, and a first folder for its media.

make_site("Skerrow Harbour", by)
change_site(site, {"footer": "Made in the harbour office"}, by)
"""

from collections.abc import Sequence
from typing import Any

from django.db.models import Max

from gonfalon.access.keys import key_for
from gonfalon.access.roles import fold
from gonfalon.access.snapshot import raise_version as raise_policy_version
from gonfalon.clock import new_id, now
from gonfalon.content.models import Node, Site
from gonfalon.content.nodes import raise_version
from gonfalon.content.pages import keep_version
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, POLICY, locked, unit

HOME, FOLDER = "home", "folder"
SETTINGS = ("name", "tagline", "footer", "language", "hosts", "bin_days")


class NameTaken(Exception):
    """Another site has this name."""


class HostTaken(Exception):
    """Another site answers to this host name."""


@unit(POLICY, NODES)
def make_site(name: str, by: By, tagline: str = "") -> Site:
    """A new site with a published home page and an empty first folder. Raises NameTaken."""
    _free(name)
    last = Site.objects.aggregate(last=Max("position"))["last"]
    key = key_for(name, set(Site.objects.values_list("key", flat=True)))
    site = Site.objects.create(key=key, name=name, tagline=tagline, position=0 if last is None else last + 1)
    for type, title in ((HOME, name), (FOLDER, f"Media of {name}")):
        row = Node(
            id=new_id(),
            type=type,
            site=site,
            title=title,
            author_id=by.actor,
            state=Node.State.PUBLISHED,
            saved_at=now(),
            saved_by_id=by.actor,
        )
        Node.objects.add_root(instance=row)
        keep_version(row, by)
    raise_version()
    raise_policy_version()
    record(by, "site.made", about=("site", site.key), name=name)
    return site


@unit(NODES)
def change_site(row: Site, new: dict[str, Any], by: By) -> Site:
    """Change settings of a site. Raises NameTaken and HostTaken."""
    if "name" in new:
        _free(new["name"], but=row.pk)
    for other in Site.objects.exclude(pk=row.pk) if new.get("hosts") else ():
        if taken := {*other.hosts} & {*new["hosts"]}:
            raise HostTaken(min(taken))
    changes = [
        Change(what=key, was=_told(getattr(row, key)), now=_told(value))
        for key, value in new.items()
        if getattr(row, key) != value
    ]
    if changes:
        for key, value in new.items():
            setattr(row, key, value)
        row.version += 1
        row.save()
        record(by, "site.changed", about=("site", row.pk), changes=changes, name=row.name)
    return row


@unit(NODES.shared)
def put_in_order(keys: Sequence[str], by: By) -> None:
    """Put all sites in an order; only for the eye. ValueError unless each is named once."""
    sites = {site.pk: site for site in locked(Site.objects)}
    if sorted(keys) != sorted(sites):
        raise ValueError("each site once")
    was = [site.name for site in sites.values()]
    for position, key in enumerate(keys):
        sites[key].position = position
    Site.objects.bulk_update(sites.values(), ["position"])
    order = Change(what="order", was=", ".join(was), now=", ".join(sites[key].name for key in keys))
    record(by, "site.ordered", changes=[order])


def site_at(host: str) -> Site | None:
    """The site that answers under a host name. One query."""
    return Site.objects.filter(hosts__contains=host).first()


def _free(name: str, but: str = "") -> None:
    if Site.objects.filter(name__iexact=fold(name)).exclude(pk=but).exists():
        raise NameTaken(name)


def _told(value: Any) -> Any:
    return ", ".join(value) if isinstance(value, list) else value
