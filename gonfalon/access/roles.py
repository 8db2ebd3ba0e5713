"""Making roles: a key from the name, a cloth of its own, an empty board."""

from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import product
from typing import Any
from unicodedata import category, normalize

from django.db.models import Max

from gonfalon.access.keys import key_for, spent
from gonfalon.access.models import Answer, FieldRule, Limit, Role
from gonfalon.access.snapshot import raise_version
from gonfalon.core.model.policy import Policy, Scope, Subject
from gonfalon.ledger.models import By, record
from gonfalon.work import POLICY, locked, unit

ADDRESSES = frozenset({"compare", "capability", "catalogue", "order", "starters"})
"""Words of addresses beneath roles: no role has one for its key."""
COLOURS = ("azure", "fir", "ochre", "murrey", "tenne", "plum", "slate")
PATTERNS = ("plain", "halved", "slant", "band", "chevron", "disc", "head", "bars")


START_PARTS = ("waits", "came_back", "asked_of_me", "asked", "drafts", "left_off", "ends_soon", "of_late")
"""What the start of the desk shows, in its usual order."""


def start_parts(roles: Iterable[str]) -> list[str]:
    """What the holder of some roles sees at the start: what these roles say, one after another; all if none does."""
    said = Role.objects.filter(pk__in=set(roles)).exclude(start=None).values_list("start", flat=True)
    parts = list(dict.fromkeys(part for start in said for part in start or () if part in START_PARTS))
    return parts or list(START_PARTS)


def cloth_for(worn: Counter[tuple[str, str]]) -> tuple[str, str]:
    """The cloth that fewest roles wear, preferring colours and then patterns that few wear.

    >>> cloth_for(Counter())
    ('azure', 'plain')
    """
    colours = Counter(colour for colour, _ in worn.elements())
    patterns = Counter(pattern for _, pattern in worn.elements())
    return min(product(COLOURS, PATTERNS), key=lambda c: (worn[c], colours[c[0]], patterns[c[1]]))


class NameTaken(Exception):
    """Another role has this name."""


def name_taken(name: str, but: str = "") -> bool:
    """Whether a role other than `but` has a name. Names are compared as people read them: case and spaces aside."""
    return Role.objects.filter(name__iexact=fold(name)).exclude(key=but).exists()


def fold(name: str) -> str:
    """A name as people read it: without spaces and characters that nobody sees.

    >>> fold("  Harbour \N{ZERO WIDTH SPACE} le\N{SOFT HYPHEN}ad ")
    'Harbour lead'
    """
    letters = normalize("NFKC", name)
    seen = (letter for letter in letters if letter.isspace() or category(letter) not in ("Cf", "Cc"))
    return " ".join("".join(seen).split())


@unit(POLICY)
def make_role(
    name: str,
    by: By,
    *,
    description: str = "",
    copy_of: str | None = None,
    builds_on: str | None = None,
    with_limits: bool = False,
) -> Role:
    """A new role that nobody holds: saying nothing yet, all that another says now, or building on another.

    A copy has the rows of the original in tables of fields, and `with_limits` its limits.

    Raises NameTaken when another role has the name, Role.DoesNotExist when the other is not there.
    """
    if name_taken(name):
        raise NameTaken(name)
    roles = list(Role.objects.values_list("key", "colour", "pattern"))
    colour, pattern = cloth_for(Counter((c, p) for _, c, p in roles))
    copied = Role.objects.get(pk=copy_of) if copy_of else None
    role = Role.objects.create(
        key=key_for(name, ADDRESSES.union(spent("role"), (key for key, _, _ in roles))),
        name=name,
        description=description or (copied.description if copied else ""),
        builds_on_id=copied.builds_on_id if copied else builds_on,
        components=copied.components if copied else None,
        facets=copied.facets if copied else {},
        colour=colour,
        pattern=pattern,
        position=(Role.objects.aggregate(last=Max("position"))["last"] or 0) + 1,
    )
    if copied:
        Answer.objects.bulk_create(
            Answer(role=role, capability=answer.capability, says=answer.says) for answer in copied.answers.all()
        )
        _copy_field_rows(copied.key, role.key)
        if with_limits:
            _copy_limits(copied.key, role.key, by)
    raise_version()
    way = ("copy-with-limits" if with_limits else "copy") if copied else "above" if role.builds_on else ""
    of = copied or role.builds_on
    record(by, "role.made", about=("role", role.key), way=way, name=name, of=of and of.name)
    return role


def _copy_field_rows(copied: str, role: str) -> None:
    for rule in FieldRule.objects.all():
        if copied in rule.table:
            rule.table = {**rule.table, role: rule.table[copied]}
            rule.save(update_fields=["table"])


def _copy_limits(copied: str, role: str, by: By) -> None:
    of_role = Limit.objects.filter(subject_kind="role", subject_id=copied)
    said = of_role.values("node", "subject_kind", "effect", "applies", "actions")
    Limit.objects.bulk_create(Limit(**limit, subject_id=role, set_by=by.actor) for limit in said)


@unit(POLICY.shared)
def put_in_order(keys: Sequence[str], by: By) -> None:
    """Put the roles in this order; those not named keep theirs, after the others. It decides nothing."""
    rank = {key: i for i, key in enumerate(keys)}
    roles = sorted(locked(Role.objects), key=lambda role: rank.get(role.key, len(rank)))
    if [role.position for role in roles] == list(range(len(roles))):
        return
    for position, role in enumerate(roles):
        role.position = position
    Role.objects.bulk_update(roles, ["position"])
    record(by, "role.ordered")


def removal(role: str, hand_to: str | None, policy: Policy) -> list[dict[str, Any]]:
    """The operations that take a role away: its holders are handed to another role or lose it, and what
    else names it goes first. Roles that build on it build on what it built on."""
    subject = Subject.role(role)
    ops: list[dict[str, Any]] = []
    giving: list[dict[str, Any]] = []
    for a in policy.assignments.values():
        if a.role == role:
            ops.append({"kind": "take-role", "assignment": a.id})
            if hand_to:
                given = {
                    "to": a.to._asdict(),
                    "scope": _lists(a.scope),
                    "starts": a.period.starts,
                    "ends": a.period.ends,
                }
                giving.append({"kind": "give-role", "role": hand_to, **given})
    ops += giving  # those of one kind after another, since they are written together
    ops += [{"kind": "drop-limit", "limit": k.id} for k in policy.limits.values() if k.to == subject]
    ops += _delegated_otherwise(role, hand_to, policy)
    for (type, field), rule in policy.fields.items():
        if role in rule.table:
            table = {key: sorted(marks) for key, marks in rule.table.items() if key != role}
            ops.append({"kind": "set-field-rule", "type": type, "field": field, "mode": "table", "table": table})
    above = policy.roles[role].builds_on
    for other in policy.roles.values():
        if other.builds_on == role:
            ops.append({"kind": "set-builds-on", "role": other.key, "builds_on": above})
    return [*ops, {"kind": "drop-role", "role": role}]


def _delegated_otherwise(role: str, hand_to: str | None, policy: Policy) -> list[dict[str, Any]]:
    """What makes delegations name a role no more: one to it ends, others let the other role be given instead."""
    ops: list[dict[str, Any]] = []
    for d in policy.delegations.values():
        others = sorted((d.roles - {role}) | ({hand_to} if hand_to else set()))
        if d.to == Subject.role(role) or (role in d.roles and not others):
            ops.append({"kind": "drop-delegation", "delegation": d.id})
        elif role in d.roles:
            said = {"to": d.to._asdict(), "scope": _lists(d.scope), "receivers": d.receivers, "ends": d.ends}
            ops.append({"kind": "put-delegation", "delegation": d.id, "roles": others, **said})
    return ops


def _lists(scope: Scope) -> dict[str, list[str]]:
    return {name: sorted(values) for name, values in scope._asdict().items() if values is not None}
