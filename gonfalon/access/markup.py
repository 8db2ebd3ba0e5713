"""Markup sets: what each lets through into rich text, cleaning to one, and what is risky about it.

    cleaned = clean("<p onclick=x>Hi</p>", PLAIN)      # "<p>Hi</p>"
    best("<h3>Hi</h3>", [PROSE])                       # "<h3>Hi</h3>", whichever set leaves most of it

An element or attribute that no set names never comes through. Scripts that a set lets through are still not run by
the pages of this site, whose content security policy forbids them; other places where the text goes may run them.
"""

from collections.abc import Iterable, Mapping
from html.parser import HTMLParser
from typing import NamedTuple

import nh3

from gonfalon.access.catalogue import Duty
from gonfalon.access.models import MarkupSet
from gonfalon.core.model.vocabulary import Kind

PREFIX = "markup."
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


def lost(given: str, cleaned: str) -> list[str]:
    """The elements and attributes that cleaning took, by name."""
    return sorted((_names(given) - _names(cleaned)) - {"rel", "target"})


def clean(html: str, markup: Markup) -> str:
    """A text with nothing in it but what a markup lets through."""
    elements = set(markup.elements)
    return nh3.clean(
        html,
        tags=elements,
        clean_content_tags={"script", "style"} - elements,
        attributes={element: set(attributes) for element, attributes in markup.elements.items()},
        url_schemes=set(markup.schemes),
        link_rel=None if "rel" in markup.elements.get("a", ()) else "noopener noreferrer",
    )


def faults(elements: Mapping[str, Iterable[str]], schemes: Iterable[str]) -> Iterable[tuple[str, str]]:
    """What is wrong with a set: the field and the reason."""
    for element, attributes in elements.items():
        if not element.isascii() or not element.isalnum() or element != element.lower():
            yield "elements", f"“{element}” is no element: write its name in small letters, such as p or h3."
        elif element in _NEVER:
            yield "elements", f"“{element}” belongs to a whole page, not to a text."
        for attribute in attributes:
            if not attribute.replace("-", "").isalnum() or attribute != attribute.lower():
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
    return Duty(PREFIX + row.key, Kind.PLACED, row.name, f"use the markup set {row.name}", "Markup sets", risk)


def _names(html: str) -> set[str]:
    names: set[str] = set()

    class Names(HTMLParser):
        def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
            names.add(tag)
            names.update(name for name, _ in attrs)

    Names().feed(html)
    return names
