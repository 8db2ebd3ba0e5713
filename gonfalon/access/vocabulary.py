"""The capabilities, types and components there are: those installed, or those that a document brought."""

from dataclasses import dataclass
from typing import Any

from gonfalon.access import catalogue
from gonfalon.access.models import Vocabulary
from gonfalon.core.policy import NodeType, Policy
from gonfalon.core.vocabulary import PROFILE, Kind

_ROW = 1


@dataclass(frozen=True, slots=True)
class Words:
    capabilities: dict[str, Kind]
    types: dict[str, NodeType]
    components: dict[str, tuple[str, ...]]


def vocabulary() -> Words:
    """What there is to say something about. One query."""
    row = Vocabulary.objects.filter(pk=_ROW).values_list("data", flat=True).first()
    return _installed() if row is None else _read(row)


def keep_vocabulary(policy: Policy) -> None:
    """From now on what a policy names is what there is; nothing is kept where that is what is installed."""
    words = Words(dict(policy.capabilities), dict(policy.types), dict(policy.components))
    if words == _installed():
        Vocabulary.objects.filter(pk=_ROW).delete()
    else:
        Vocabulary.objects.update_or_create(pk=_ROW, defaults={"data": _data(words)})


def _installed() -> Words:
    return Words(catalogue.capabilities(), catalogue.core_types(), catalogue.core_components())


def _data(words: Words) -> dict[str, Any]:
    return {
        "capabilities": {key: str(kind) for key, kind in words.capabilities.items()},
        "types": {key: {"tree": type.tree, "fields": list(type.fields)} for key, type in words.types.items()},
        "components": {key: list(facets) for key, facets in words.components.items()},
    }


def _read(data: dict[str, Any]) -> Words:
    types = {key: NodeType(key, type["tree"], tuple(type["fields"])) for key, type in data["types"].items()}
    types.setdefault(PROFILE, NodeType(PROFILE, None))
    return Words(
        {key: Kind(kind) for key, kind in data["capabilities"].items()},
        types,
        {key: tuple(facets) for key, facets in data["components"].items()},
    )
