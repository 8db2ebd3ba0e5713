"""Roles a new site may begin with, made for whatever kinds of content are installed.

make_starters(By(None))     # the names of those made; one whose name is taken is left out
keep_as_shipped()           # what every role says now is what it shipped with
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from gonfalon.access.catalogue import installed
from gonfalon.access.entries import ANSWERS
from gonfalon.access.models import Role
from gonfalon.access.roles import make_role
from gonfalon.access.snapshot import current, raise_version
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By
from gonfalon.work import POLICY, unit


@dataclass(frozen=True, slots=True)
class Starter:
    """A role to begin with: what it says of pages and of media, by verb, and its duties."""

    name: str
    description: str
    pages: Mapping[str, str]
    media: Mapping[str, str]
    duties: tuple[str, ...] = ("desk.open", "content.open")


_KEEPING = {"see-draft": "own", "create": "all", "edit": "own", "history": "own"}
STARTERS = (
    Starter("Contributor of drafts", "Writes pages and hands them in; somebody else publishes.", _KEEPING, {}),
    Starter(
        "Keeper of own pages",
        "Keeps the pages they wrote up to date, published ones too.",
        {**_KEEPING, "edit-live": "own", "publish": "own", "restore": "own"},
        {"create": "all", "edit": "own", "edit-live": "own"},
        ("desk.open", "content.open", "media.open"),
    ),
    Starter(
        "Second pair of eyes",
        "Reads what is handed in, mends it and publishes it.",
        {**dict.fromkeys(("see-draft", "edit", "edit-live", "publish", "retire", "history", "restore"), "all")},
        {},
        ("desk.open", "content.open", "discussion.open", "discussion.moderate"),
    ),
    Starter(
        "Picture shelf",
        "Looks after pictures and documents, and touches no page.",
        {},
        dict.fromkeys(("see-draft", "create", "edit", "edit-live", "publish", "retire", "move"), "all"),
        ("desk.open", "media.open"),
    ),
)


@unit(POLICY)
def make_starters(by: By) -> list[str]:
    """Make the starter roles that are not there yet; nobody holds them. The names of those made."""
    made = []
    for starter in STARTERS:
        if Role.objects.filter(name__iexact=starter.name).exists():
            continue
        made.append(make_starter(starter, starter.name, by).name)
    return made


@unit(POLICY)
def make_starter(starter: Starter, name: str, by: By) -> Role:
    """Make one of them under a name, whether it was there before or not. Raises NameTaken."""
    role = make_role(name, by, description=starter.description)
    role.shipped = dict(_answers(starter))
    role.shipped_lists = _lists(role)
    role.save(update_fields=["shipped", "shipped_lists"])
    ANSWERS.put((((role.key, capability), says) for capability, says in role.shipped.items()), by)
    raise_version()
    return role


def keep_as_shipped() -> None:
    """Take what every role says now as what it came with. Two queries."""
    said: dict[str, dict[str, str]] = {}
    for (role, capability), says in ANSWERS.values().items():
        said.setdefault(role, {})[capability] = says
    roles = list(Role.objects.all())
    for row in roles:
        row.shipped, row.shipped_lists = said.get(row.key, {}), _lists(row)
    Role.objects.bulk_update(roles, ["shipped", "shipped_lists"])


def put_back(row: Role, policy: Policy) -> Iterator[dict[str, Any]]:
    """The operations that put back what a role builds on and its lists, as it came; answers aside."""
    came, now = row.shipped_lists, policy.roles[row.key]
    if came is None:
        return
    if came["builds_on"] != now.builds_on and (came["builds_on"] is None or came["builds_on"] in policy.roles):
        yield {"kind": "set-builds-on", "role": row.key, "builds_on": came["builds_on"]}
    if came["components"] != _listed(now.components):
        yield {"kind": "set-components", "role": row.key, "components": came["components"]}
    for component in sorted(policy.components.keys() & {*came["facets"], *now.facets}):
        facets = came["facets"].get(component)
        if facets != _listed(now.facets.get(component)):
            yield {"kind": "set-facets", "role": row.key, "component": component, "facets": facets}


def _lists(row: Role) -> dict[str, Any]:
    components = None if row.components is None else sorted(row.components)
    facets = {component: sorted(some) for component, some in row.facets.items()}
    return {"builds_on": row.builds_on_id, "components": components, "facets": facets}


def _listed(some: frozenset[str] | None) -> list[str] | None:
    return None if some is None else sorted(some)


def _answers(starter: Starter) -> Iterator[tuple[str, str]]:
    for type in {**installed().types, **current().words.made}.values():
        for verb, says in {"content": starter.pages, "media": starter.media}.get(type.tree or "", {}).items():
            yield f"{type.key}.{verb}", says
    yield from ((duty, "yes") for duty in starter.duties)
