"""Groups: made and renamed at once, since an empty group gives nothing; and all that ending one needs.

make_group("Night crew", by, parent="crew")
ending("night-crew", policy)        # operations to stage
"""

from typing import Any

from gonfalon.access.keys import key_for, spent
from gonfalon.access.roles import fold
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Group
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import POLICY, unit


class GroupNameTaken(Exception):
    """Another group has this name."""


def group_name_taken(name: str, but: str = "") -> bool:
    """Whether a group other than `but` has a name, as people read it."""
    return Group.objects.filter(name__iexact=fold(name)).exclude(key=but).exists()


@unit(POLICY)
def make_group(name: str, by: By, *, parent: str | None = None) -> Group:
    """A new group that nobody is in and nothing is given to. Raises GroupNameTaken."""
    if group_name_taken(name):
        raise GroupNameTaken(name)
    taken = spent("group").union(Group.objects.values_list("key", flat=True))
    group = Group.objects.create(key=key_for(name, taken), name=name, parent_id=parent)
    raise_version()
    record(by, "group.made", about=("group", group.key), name=name)
    return group


def rename_group(group: Group, name: str, by: By) -> None:
    """Give a group another name; belongs in a transaction that holds its row. Raises GroupNameTaken."""
    if group_name_taken(name, but=group.key):
        raise GroupNameTaken(name)
    if name == group.name:
        return
    change = Change(what="name", was=group.name, now=name)
    group.name, group.version = name, group.version + 1
    group.save(update_fields=["name", "version"])
    record(by, "group.changed", about=("group", group.key), changes=[change], name=change["was"])


def ending(key: str, policy: Policy) -> list[dict[str, Any]]:
    """All that ends a group: what it is given and narrowed by goes, its members leave, groups in it move up."""
    here = Subject.group(key)
    taken = [{"kind": "take-role", "assignment": a.id} for a in policy.assignments.values() if a.to == here]
    taken += [{"kind": "take-capability", "grant": d.id} for d in policy.direct_grants.values() if d.to == here]
    taken += [
        {"kind": "drop-delegation", "delegation": h.id}
        for h in policy.delegations.values()
        if here == h.to or h.receivers == key
    ]
    taken += [{"kind": "drop-limit", "limit": k.id} for k in policy.limits.values() if k.to == here]
    left = [
        {"kind": "set-member", "account": a.id, "group": key, "member": False}
        for a in policy.accounts.values()
        if key in a.groups
    ]
    parent = policy.groups[key].parent
    moved = [
        {"kind": "move-group", "group": g.key, "parent": parent} for g in policy.groups.values() if g.parent == key
    ]
    return [*taken, *left, *moved, {"kind": "drop-group", "group": key}]
