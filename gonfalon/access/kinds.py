"""Kinds of content made here, and what is changed of those that ship: names, where they stand, fields, components.

    make_kind(NewKind("Berth page", "berth pages", under=("section",)), by)
    add_field("berth-page", NewField("Annual dues", "number"), by)
    change_field("berth-page", "annual-dues", {"retired": True}, by, expected=3)

They are kept in the row of the vocabulary, so that a policy and its kinds are read together. What is new is given to
nobody. A retired field is shown nowhere; its values stay until it is purged. Of a retired kind nothing new is made;
what there is stays.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from gonfalon.access.catalogue import ContentType, installed
from gonfalon.access.entries import FIELD_RULES
from gonfalon.access.keys import key_for
from gonfalon.access.models import Vocabulary
from gonfalon.access.roles import fold
from gonfalon.access.snapshot import raise_version
from gonfalon.access.vocabulary import ONLY_ROW, keep_kind
from gonfalon.core.model.policy import FieldRule, Policy
from gonfalon.core.model.vocabulary import PROFILE, VERBS
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import POLICY, unit

Data = dict[str, Any]

OF_PROFILES = ("text", "long", "number", "yes", "date", "choice", "link")
"""A profile sits in no tree: its fields name no nodes and hold no markup."""
NEEDED = frozenset({"home", "folder", PROFILE})
"""Every site and every account needs one of these: they are not retired."""
MOST_FIELDS = 100


class NameTaken(Exception):
    """Another kind, or another field of it, has this name."""


class ChangedSince(Exception):
    """The kind was changed by somebody else meanwhile."""


class NotHere(Exception):
    """There is no such kind or field, or it comes with an extension."""


class Needed(Exception):
    """A kind that sites or accounts cannot do without."""


class TooMany(Exception):
    """A kind has as many fields as it may."""


@dataclass(frozen=True, slots=True)
class NewKind:
    name: str
    plural: str
    tree: str = "content"
    under: tuple[str, ...] = ()
    components: tuple[str, ...] | None = None


@dataclass(frozen=True, slots=True)
class NewField:
    name: str
    kind: str
    help: str = ""
    required: bool = False
    choices: tuple[str, ...] = ()


def kind_rows() -> dict[str, Data]:
    """Every kind as it is kept, by key, retired fields included; those of extensions left out. One query."""
    kept = Vocabulary.objects.filter(pk=ONLY_ROW).values_list("kinds", flat=True).first()
    made = {row["key"]: {"retired": False, **row} for row in kept or ()}
    there = installed()
    shipped = {key: _row(t) for key, t in there.types.items() if key not in there.brought_types and key not in made}
    return {**shipped, **made}


@unit(POLICY)
def make_kind(new: NewKind, by: By) -> Data:
    """A new kind without fields, given to nobody. Raises NameTaken."""
    rows = _locked()
    _free_kind(rows, new.name)
    taken = {*rows, *installed().brought}
    row = {"key": key_for(new.name, taken), **asdict(new), "fields": [], "version": 1}
    _keep(row)
    record(by, "kind.made", about=("kind", row["key"]), name=new.name)
    return row


def answers_like(key: str, like: str, policy: Policy) -> list[Data]:
    """What lets every role say of one kind what it says of another, as operations."""
    return [
        {"kind": "set-answer", "role": role.key, "capability": f"{key}.{verb}", "says": says}
        for role in policy.roles.values()
        for verb in VERBS
        if (says := role.grants.get(f"{like}.{verb}")) is not None
    ]


@unit(POLICY)
def change_kind(key: str, new: Data, by: By, *, expected: int) -> Data:
    """Change names, where it stands, what it is built of; retire it or bring it back.

    Raises NameTaken, ChangedSince, NotHere, and Needed where it cannot be retired.
    """
    rows = _locked()
    row = _kind(rows, key, expected)
    if "name" in new:
        _free_kind(rows, new["name"], but=key)
    if new.get("retired") and key in NEEDED:
        raise Needed(key)
    changes = _changes(row, new)
    if changes:
        row = {**row, **new, "version": row["version"] + 1}
        _keep(row)
        record(by, "kind.changed", about=("kind", key), changes=changes, name=row["name"])
    return row


@unit(POLICY)
def add_field(key: str, new: NewField, by: By, *, expected: int, rule: FieldRule | None = None) -> Data:
    """A new field at the end, open to all who see the page unless a rule says otherwise.

    Raises NameTaken, ChangedSince, NotHere and TooMany.
    """
    rows = _locked()
    row = _kind(rows, key, expected)
    if len(row["fields"]) >= MOST_FIELDS:
        raise TooMany
    _free_field(row, new.name)
    taken = {*(f["key"] for f in row["fields"]), *row.get("purged", ())}
    field = {"key": _field_key(new.name, taken), **asdict(new), "retired": False}
    if rule is not None:
        FIELD_RULES.put([((key, field["key"]), rule)], by)
    row = {**row, "fields": [*row["fields"], field], "version": row["version"] + 1}
    _keep(row)
    changes = [Change(what="field", was=None, now=new.name)]
    record(by, "field.added", about=("kind", key), changes=changes, name=new.name, of=row["plural"])
    return row


@unit(POLICY)
def change_field(key: str, field: str, new: Data, by: By, *, expected: int) -> Data:
    """Rename a field, change its help, whether it is required, its choices; retire it or bring it back.

    Raises NameTaken, ChangedSince and NotHere.
    """
    rows = _locked()
    row = _kind(rows, key, expected)
    was = _field(row, field)
    if "name" in new:
        _free_field(row, new["name"], but=field)
    if changes := _changes(was, new):
        fields = [{**f, **new} if f["key"] == field else f for f in row["fields"]]
        row = {**row, "fields": fields, "version": row["version"] + 1}
        _keep(row)
        record(by, "field.changed", about=("kind", key), changes=changes, name=was["name"], of=row["plural"])
    return row


@unit(POLICY)
def order_fields(key: str, order: Sequence[str], by: By, *, expected: int) -> Data:
    """Put the fields in an order. ValueError unless each is named once; raises ChangedSince and NotHere."""
    rows = _locked()
    row = _kind(rows, key, expected)
    fields = {f["key"]: f for f in row["fields"]}
    if sorted(order) != sorted(fields):
        raise ValueError("each field once")
    row = {**row, "fields": [fields[k] for k in order], "version": row["version"] + 1}
    _keep(row)
    names = ", ".join(fields[k]["name"] for k in order)
    changes = [Change(what="order", was=None, now=names)]
    record(by, "field.ordered", about=("kind", key), changes=changes, of=row["plural"])
    return row


@unit(POLICY)
def drop_field(key: str, field: str, by: By, *, expected: int) -> Data:
    """Take a retired field away, with what is said of who sees it. Its values are for the caller to purge.

    Raises ChangedSince, and NotHere where it is not retired.
    """
    rows = _locked()
    row = _kind(rows, key, expected)
    was = _field(row, field)
    if not was["retired"]:
        raise NotHere(field)
    FIELD_RULES.drop([(key, field)])
    # Its key is never another field's: what the ledger says of its values stays closed.
    purged = [*row.get("purged", ()), field]
    left = [f for f in row["fields"] if f["key"] != field]
    row = {**row, "fields": left, "purged": purged, "version": row["version"] + 1}
    _keep(row)
    record(by, "field.purged", about=("kind", key), name=was["name"], of=row["plural"])
    return row


def _locked() -> dict[str, Data]:
    return kind_rows()


def _keep(row: Data) -> None:
    keep_kind(row)
    raise_version()


def _kind(rows: dict[str, Data], key: str, expected: int) -> Data:
    if key not in rows:
        raise NotHere(key)
    if rows[key]["version"] != expected:
        raise ChangedSince
    return rows[key]


def _field(row: Data, key: str) -> Data:
    found = next((f for f in row["fields"] if f["key"] == key), None)
    if found is None:
        raise NotHere(key)
    return found


def _free_kind(rows: dict[str, Data], name: str, but: str = "") -> None:
    if any(fold(row["name"]).casefold() == fold(name).casefold() and key != but for key, row in rows.items()):
        raise NameTaken(name)


def _free_field(row: Data, name: str, but: str = "") -> None:
    if any(fold(f["name"]).casefold() == fold(name).casefold() and f["key"] != but for f in row["fields"]):
        raise NameTaken(name)


def _field_key(name: str, taken: set[str]) -> str:
    """A key from a name; as people read it, one underscore between words."""
    return key_for(name.replace("_", " "), {key.replace("_", "-") for key in taken}).replace("-", "_")


def _changes(was: Data, new: Data) -> list[Change]:
    return [
        Change(what=key, was=_told(was.get(key)), now=_told(value))
        for key, value in new.items()
        if was.get(key) != value
    ]


def _told(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(value) if isinstance(value, list | tuple) else value


def _row(type: ContentType) -> Data:
    """An installed kind as a row that can be changed."""
    fields = [{**asdict(field), "choices": list(field.choices), "retired": False} for field in type.fields]
    return {
        "key": type.key,
        "name": type.name,
        "plural": type.plural,
        "tree": type.tree,
        "under": list(type.under),
        "components": None if type.components is None else list(type.components),
        "fields": fields,
        "retired": False,
        "version": 1,
    }


def fits_profile(kind: str, type: str) -> bool:
    """Whether a kind of content can have fields of a kind."""
    return type != PROFILE or kind in OF_PROFILES
