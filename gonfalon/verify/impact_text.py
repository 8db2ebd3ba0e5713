"""What a change of access does, in words: the keys of an impact as people read them."""

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.vocabulary import kind_of
from gonfalon.core import Policy
from gonfalon.core.model.vocabulary import Kind


def has_places(key: str, policy: Policy) -> bool:
    return kind_of(key, policy) not in (Kind.SITEWIDE, Kind.OPENING) and not key.endswith(" account")


def has_pages(key: str, policy: Policy) -> bool:
    return has_places(key, policy) and " " not in key


def turn_words(key: str, policy: Policy, catalogue: Catalogue) -> str:
    """A key of an impact after "may": "edit pages", "create events", "see Annual dues of berth pages"."""
    action, _, part = key.partition(" ")
    thing, _, rest = part.partition(".")
    if action.endswith("-field"):
        type = catalogue.type(thing)
        return f"{action.removesuffix('-field')} {type.field_name(rest)} of {type.plural}"
    if action.endswith("-component") or action.endswith("-facet"):
        name = catalogue.component_name(thing).lower()
        return f"change {rest} of {name}" if rest else f"insert {name}"
    if part:
        return f"{action} profiles"
    verb, _, type_key = action.partition(":")
    if type_key:
        return f"create {catalogue.type(type_key).plural}"
    if kind_of(key, policy):
        return catalogue.phrase(key)
    return catalogue.action(verb).removesuffix(" this") + " pages"
