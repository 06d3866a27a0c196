"""How a look is drawn: the CSS of its three parts to the scale of the screen."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from davlo.core.site.declarations import Look
from davlo.css.properties import Token
from davlo.css.used_values import PHYSICAL, color_of, font_pixels, is_bold, longhands, pixels

from .ink import BLACK, WHITE
from .lettering import SMALLEST

USUAL_PIXELS, USUAL_SIZE = 16, 8.0
"""Letters of 16 pixels are drawn 8 points high."""
LARGEST = 14.0
MOST_GAP = 24.0
"""No margin, padding or gap is drawn larger than this, in points."""
THINNEST, THICKEST = 0.8, 6.0
"""A border is drawn at least and at most so thick, in points."""
LINES = {"dashed": "--", "dotted": ":", "double": "-", "solid": "-"}
_NONE = ("none", "hidden")
_ALIGNED = {"center": "center", "right": "right", "end": "right"}


class Edge(NamedTuple):
    """One side of a border: how thick, in which colour, and whether it is broken. No thickness: there is none."""

    thick: float = 0.0
    color: str = BLACK
    line: str = "-"


class Sides(NamedTuple):
    """A length for each side, in points."""

    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0
    left: float = 0.0


class DrawnBox(NamedTuple):
    """One part of a look at the scale of a screen; lengths in points."""

    margin: Sides = Sides()
    padding: Sides = Sides()
    border: tuple[Edge, ...] = (Edge(),) * 4  # its top, right, bottom and left
    gap: float = 0.0  # between the blocks in it
    back: str = ""  # `back`, `color`: its background, and the colour of its words; empty: nobody sets one
    color: str = ""
    size: float = 0.0  # how high its letters are; 0: nobody sets it
    bold: bool | None = None
    align: str = "left"  # `left`, `center` or `right`

    @property
    def has_border(self) -> bool:
        """Whether any side has a border."""
        return any(edge.thick for edge in self.border)


class DrawnLook(NamedTuple):
    """A look at the scale of a screen: its three parts, and whether it stays in view."""

    whole: DrawnBox = DrawnBox()
    each_block: DrawnBox = DrawnBox()
    headings: DrawnBox = DrawnBox()
    is_sticky: bool = False

    @property
    def words(self) -> str:
        """The colour of words on the background of the whole; empty where nothing sets one."""
        return self.whole.color or (readable_on(self.whole.back) if self.whole.back else "")

    @property
    def block_words(self) -> str:
        """The colour of words on the background of a block; empty where nothing sets one."""
        return self.each_block.color or (readable_on(self.each_block.back) if self.each_block.back else self.words)

    @property
    def heading_words(self) -> str:
        """The colour of headings; empty where nothing sets one."""
        return self.headings.color or (readable_on(self.headings.back) if self.headings.back else self.block_words)


PLAIN = DrawnLook()


def drawn_look(look: Look | None, scale: float) -> DrawnLook:
    """A look at a scale of points a pixel.

    Example
    -------
    >>> import davlo
    >>> usual = davlo.open_demo().declarations.looks["usual"]
    >>> found = drawn_look(usual, 0.25)
    >>> found.whole.margin.left, found.whole.has_border, found.whole.back
    (8.0, True, '')
    """
    if look is None:
        return PLAIN
    whole = longhands(look.whole)
    around = font_pixels(whole.get("font-size"))
    back = color_of(whole.get("background-color")) or WHITE
    position = whole.get("position")
    return DrawnLook(
        _box(look.whole, scale),
        _box(look.each_block, scale, around, back),
        _box(look.headings, scale, around, back),
        position is not None and position.lower_value == "sticky",
    )


def _box(said: Mapping[str, str], scale: float, around: float = USUAL_PIXELS, behind: str = WHITE) -> DrawnBox:
    """One part of a look; `around` is the size of the letters around it, in pixels."""
    found = longhands(said)
    font = font_pixels(found.get("font-size"), around)

    def length(name: str) -> float:
        return min(max(pixels(found.get(name), font), 0.0) * scale, MOST_GAP)

    def sides(family: str) -> Sides:
        return Sides(*(length(f"{family}-{side}") for side in PHYSICAL))

    is_set = "font-size" in found
    size = min(max(font / USUAL_PIXELS * USUAL_SIZE, SMALLEST), LARGEST) if is_set else 0.0
    weight, align = found.get("font-weight"), found.get("text-align")
    return DrawnBox(
        sides("margin"),
        sides("padding"),
        tuple(_edge(found, side, font, scale) for side in PHYSICAL),
        length("row-gap"),
        color_of(found.get("background-color"), behind),
        color_of(found.get("color"), behind),
        size,
        None if weight is None else is_bold(weight, False),
        _ALIGNED.get(align.lower_value, "left") if align is not None else "left",
    )


def _edge(found: Mapping[str, Token], side: str, font: float, scale: float) -> Edge:
    """One side of a border. It has none without a style; without a width it is of medium width."""
    style, width, color = (found.get(f"border-{side}-{part}") for part in ("style", "width", "color"))
    if style is None or style.lower_value in _NONE:
        return Edge()
    thick = 3.0 if width is None else pixels(width, font)
    if not thick:
        return Edge()
    drawn = color_of(color) or color_of(found.get("color")) or BLACK
    return Edge(min(max(thick * scale, THINNEST), THICKEST), drawn, LINES.get(style.lower_value, "-"))


def readable_on(color: str) -> str:
    """Black or white, whichever can be read on a colour.

    Example
    -------
    >>> readable_on("#ffffff"), readable_on("#102040") == WHITE
    ('#1c1c1a', True)
    """
    red, green, blue = (int(color[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return BLACK if 0.299 * red + 0.587 * green + 0.114 * blue > 0.5 else WHITE
