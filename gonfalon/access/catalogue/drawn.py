"""How a component is drawn, as data: shapes that the desk and the public site both draw, and which property fills what.

Drawn("table", {"rows": "rows", "caption": "station"}, label="Tides at", heads=("Day", "High water", "Low water"))
"""

from collections.abc import Mapping
from dataclasses import dataclass

SHAPES: Mapping[str, tuple[str, ...]] = {
    "heading": ("text", "level"),
    "prose": ("html",),
    "figure": ("picture", "caption", "width"),
    "table": ("rows", "caption", "head"),
    "button": ("label", "link", "tone"),
    "notice": ("text", "tone"),
    "line": ("text",),
    "quote": ("text", "by"),
    "pages": ("heading", "of"),
}
"""The shapes, and what each can be filled with. One whose first has nothing in it is not drawn."""


@dataclass(frozen=True, slots=True)
class Drawn:
    """One shape of a component, filled from its properties. Raises ValueError for what there is no place for."""

    shape: str
    filled: Mapping[str, str]
    """From what the shape can be filled with to the key of a property."""
    label: str = ""
    """Words before the text of a line, or the caption of a table."""
    heads: tuple[str, ...] = ()
    """The heads of a table whose rows have none of their own."""
    numbered: bool = False
    """The rows of a table are counted."""

    def __post_init__(self) -> None:
        if self.shape not in SHAPES:
            raise ValueError(f"“{self.shape}” is none of: {', '.join(SHAPES)}")
        for filled in self.filled:
            if filled not in SHAPES[self.shape]:
                raise ValueError(f"a {self.shape} has no “{filled}”, but: {', '.join(SHAPES[self.shape])}")
        if SHAPES[self.shape][0] not in self.filled:
            raise ValueError(f"a {self.shape} is to say “{SHAPES[self.shape][0]}”")

    @property
    def main(self) -> str:
        """The property without which there is nothing to draw."""
        return self.filled[SHAPES[self.shape][0]]
