"""Extensions: packages with a `manifest.toml` that says what they bring to the catalogue.

    read_manifest("gonfalon_extensions.tide_table")

docs/extensions.md shows a manifest. What is wrong with one is told with its file and the place in it.
"""

import tomllib
from collections.abc import Mapping
from importlib.resources import files
from typing import Any

from django.core.exceptions import ImproperlyConfigured

from gonfalon.access.catalogue.drawn import Drawn
from gonfalon.access.catalogue.things import (
    FIELD_KINDS,
    PROPERTY_KINDS,
    Choice,
    Component,
    ContentType,
    Duty,
    Extension,
    Field,
    Property,
)
from gonfalon.core.model.vocabulary import FACETS, Kind

Table = Mapping[str, Any]
_KINDS = {"placed": Kind.PLACED, "opening": Kind.OPENING, "sitewide": Kind.SITEWIDE}


def read_manifest(package: str) -> Extension:
    """What a package brings. Raises ImproperlyConfigured, saying what is wrong with its manifest."""
    try:
        with (files(package) / "manifest.toml").open("rb") as file:
            return _extension(tomllib.load(file))
    except ModuleNotFoundError:
        raise ImproperlyConfigured(f"There is no extension {package}: is the package installed?") from None
    except KeyError as missing:
        raise ImproperlyConfigured(f"{package}/manifest.toml: {missing.args[0]} is missing") from None
    except (OSError, ValueError) as wrong:
        raise ImproperlyConfigured(f"{package}/manifest.toml: {wrong}") from None


def _extension(said: Table) -> Extension:
    return Extension(
        said["key"],
        said["name"],
        said["version"],
        said["description"],
        tuple(_type(type) for type in said.get("type", ())),
        tuple(_component(component) for component in said.get("component", ())),
        tuple(_duty(said["name"], duty) for duty in said.get("duty", ())),
    )


def _type(said: Table) -> ContentType:
    fields = tuple(
        Field(f["key"], f["name"], _one_of(FIELD_KINDS, f.get("kind", "text")), tuple(f.get("choices", ())))
        for f in said.get("fields", ())
    )
    tree = _one_of(("content", "media"), said["tree"])
    return ContentType(said["key"], said["name"], said["plural"], tree, fields, tuple(said["under"]))


def _component(said: Table) -> Component:
    properties = {
        p["key"]: Property(
            p["name"],
            _one_of(FACETS, p["facet"]),
            _one_of(PROPERTY_KINDS, p.get("kind", "text")),
            p.get("needs"),
            tuple(Choice(c["value"], c["name"]) for c in p.get("choices", ())),
        )
        for p in said["properties"]
    }
    drawn = tuple(_drawn(shape) for shape in said.get("drawn", ()))
    if not drawn and "template" not in said:
        raise KeyError("drawn")
    return Component(said["key"], said["name"], properties, drawn, said.get("template", ""))


def _drawn(said: Table) -> Drawn:
    fixed = {"shape", "label", "heads", "numbered"}
    filled = {slot: key for slot, key in said.items() if slot not in fixed}
    heads, numbered = tuple(said.get("heads", ())), said.get("numbered", False)
    return Drawn(said["shape"], filled, said.get("label", ""), heads, numbered)


def _duty(area: str, said: Table) -> Duty:
    kind = _KINDS[_one_of(tuple(_KINDS), said["kind"])]
    return Duty(said["key"], kind, said["name"], said["phrase"], area, said.get("risk", ""))


def _one_of(choices: tuple[str, ...], said: str) -> str:
    if said not in choices:
        raise ValueError(f"“{said}” is none of: {', '.join(choices)}")
    return said
