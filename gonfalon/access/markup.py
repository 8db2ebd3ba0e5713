"""Markup sets: what each lets through into rich text, cleaning to one, and what is risky about it.

    cleaned = clean("<p onclick=x>Hi</p>", PLAIN)      # "<p>Hi</p>"
    best("<h3>Hi</h3>", [PROSE])                       # "<h3>Hi</h3>", whichever set leaves most of it

An element or attribute that no set names never comes through. Scripts that a set lets through are still not run by
the pages of this site, whose content security policy forbids them; other places where the text goes may run them.
"""

import re
from collections.abc import Container, Iterable, Mapping
from typing import NamedTuple
from urllib.parse import urlsplit

import nh3
from lxml.html import fragments_fromstring

from gonfalon.access.catalogue import MARKUP_PREFIX, Duty
from gonfalon.access.models import MarkupSet
from gonfalon.core.model.vocabulary import Kind

_NAME = re.compile(r"[a-z][a-z0-9-]*")
SAFE_SCHEMES = ("http", "https", "mailto", "tel")
_FRAMES = {"iframe", "frame", "frameset", "object", "embed", "applet", "portal"}
_STYLES = {"style", "link"}
_SCRIPTS = {"script"}
_FORMS = {"form", "input", "button", "select", "textarea"}
_NEVER = {"html", "head", "body", "base", "meta", "title", "plaintext", "noscript", "template", "frameset"}
_WHERE_LINKS = {"href", "src", "action", "formaction", "data", "srcset", "poster", "cite"}


class Markup(NamedTuple):
    """What may be in a text: elements with their attributes, and schemes of links."""

    elements: Mapping[str, Iterable[str]]
    schemes: Iterable[str]

    @classmethod
    def of(cls, row: MarkupSet) -> "Markup":
        return cls(row.elements, row.schemes)


PLAIN = Markup({"p": (), "br": ()}, ())
"""What is left to whoever may use no set."""


PROSE = Markup(
    {"p": (), "br": (), "strong": (), "em": (), "a": ("href",), "ul": (), "ol": (), "li": (), "h3": (), "h4": ()}
    | {"blockquote": ()},
    SAFE_SCHEMES,
)
"""What every site begins with: paragraphs, emphasis, lists, small headings, quotes and links."""


def best(html: str, usable: Iterable[Markup]) -> str:
    """A text cleaned to whichever of some sets leaves most of it."""
    return max((clean(html, markup) for markup in (PLAIN, *usable)), key=len)


_REOPENED = re.compile(r"<(?:a|b|big|code|em|font|i|nobr|s|small|strike|strong|tt|u)\b[^<]*", re.IGNORECASE)


def tangle(html: str) -> int:
    """How many elements a text could come to at most, of those that it opens: what cleaning it may cost.

    Emphasis that is left open is opened anew in every paragraph after it, once for each way in which it was written.
    """
    return len({opener.lower() for opener in _REOPENED.findall(html)}) * html.count("<")


def lost(given: str, cleaned: str) -> list[str]:
    """The elements and attributes that cleaning took, by name."""
    names = _names(given) - _names(cleaned) - {"rel", "target"}
    return sorted(name for name in names if _NAME.fullmatch(name))


def clean(html: str, markup: Markup) -> str:
    """A text with nothing in it but what a markup lets through."""
    elements, schemes = set(markup.elements), set(markup.schemes)

    def kept(_: str, attribute: str, value: str) -> str | None:
        links = (
            [part.split()[0] for part in value.split(",") if part.strip()] if attribute == "srcset" else [value.strip()]
        )
        return value if attribute not in _WHERE_LINKS or all(is_link(link, schemes) for link in links) else None

    return nh3.clean(
        html,
        tags=elements,
        clean_content_tags={"script", "style"} - elements,
        attributes={element: set(attributes) - {"rel"} for element, attributes in markup.elements.items()},
        attribute_filter=kept,
        url_schemes=schemes,
        link_rel="noopener noreferrer",
    )


def is_link(value: str, schemes: Container[str] = SAFE_SCHEMES) -> bool:
    """Whether a link leads to a page of this site, or elsewhere by one of some schemes.

    >>> [is_link(link) for link in ("/notices", "#top", "https://tides.example/", "mailto:pilot@skerrow.example")]
    [True, True, True, True]
    >>> [is_link(link) for link in ("//tides.example", "/\\\\tides.example", "java\tscript:x", "http://[", "https:/x")]
    [False, False, False, False, False]
    """
    if not all(character.isprintable() for character in value) or " " in value or "\\" in value:
        return False
    try:
        parts = urlsplit(value)
    except ValueError:
        return False
    if not parts.scheme:
        return not parts.netloc and not value.startswith("//")
    return parts.scheme in schemes and bool(parts.netloc) is (parts.scheme in ("http", "https"))


def faults(elements: Mapping[str, Iterable[str]], schemes: Iterable[str]) -> Iterable[tuple[str, str]]:
    """What is wrong with a set: the field and the reason."""
    for element, attributes in elements.items():
        if not element.isascii() or not element.isalnum() or element != element.lower():
            yield "elements", f"“{element}” is no element: write its name in small letters, such as p or h3."
        elif element in _NEVER:
            yield "elements", f"“{element}” belongs to a whole page, not to a text."
        for attribute in attributes:
            if attribute == "rel":
                yield "elements", "“rel” is written by the site itself, on every link."
            elif not attribute.replace("-", "").isalnum() or attribute != attribute.lower():
                yield "elements", f"“{attribute}” is no attribute: write its name in small letters, such as href."
    for scheme in schemes:
        if not scheme or not scheme.replace("+", "").isalnum() or scheme != scheme.lower():
            yield "schemes", f"“{scheme}” is no scheme: write it without a colon, such as https."


def risk_of(markup: Markup) -> str:
    """Why a set is risky, in a sentence for each way; empty when it is not."""
    attributes = {a for named in markup.elements.values() for a in named}
    schemes = set(markup.schemes)
    ways = [
        (
            not _SCRIPTS.isdisjoint(markup.elements)
            or any(a.startswith("on") for a in attributes)
            or not {"javascript", "data", "vbscript"}.isdisjoint(schemes),
            "Lets scripts through, which act as whoever reads the page.",
        ),
        (not _FRAMES.isdisjoint(markup.elements), "Lets frames through, which show other sites as if they were this."),
        (not _FORMS.isdisjoint(markup.elements), "Lets forms through, which can ask readers for passwords."),
        (
            not _STYLES.isdisjoint(markup.elements) or "style" in attributes,
            "Lets styles through, which can cover or hide parts of the page.",
        ),
        (
            not _WHERE_LINKS.isdisjoint(attributes) and not {"http", "https"}.isdisjoint(schemes),
            "Lets links to other sites through.",
        ),
    ]
    return " ".join(words for is_so, words in ways if is_so)


def duty_of(row: MarkupSet) -> Duty:
    """The capability to use a set, with its risk as it stands."""
    risk = risk_of(Markup.of(row))
    return Duty(MARKUP_PREFIX + row.key, Kind.PLACED, row.name, f"use the markup set {row.name}", "Markup sets", risk)


def _names(html: str) -> set[str]:
    if not html.strip():
        return set()
    names: set[str] = set()
    for part in fragments_fromstring(html):
        for element in () if isinstance(part, str) else part.iter():
            if isinstance(element.tag, str):  # a comment has none
                names |= {element.tag, *map(str, element.attrib)}
    return names
