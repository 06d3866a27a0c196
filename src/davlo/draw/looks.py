"""How a sidebar's look is drawn: its line, fill, colours, gaps and headings, to the scale of the screen."""

from __future__ import annotations

from typing import NamedTuple

from davlo.core.site.declarations import Look

from .ink import BLACK, WHITE
from .lettering import SMALLEST

USUAL_PIXELS, USUAL_SIZE = 16, 8.0
"""Letters of 16 pixels are drawn 8 points high."""
LARGEST = 14.0
MOST_GAP = 24.0
"""No gap and no padding is drawn larger than this, in points."""


class DrawnLook(NamedTuple):
    """A look at the scale of a screen; lengths in points.

    Attributes
    ----------
    padding, column_gap, row_gap : float
    line : str
        `none`, `between` (it and the content) or `around`.
    column, blocks : str
        What fills the whole column, and each block; empty: nothing does.
    heading_size : float
        0 if the look says nothing of headings; then they are drawn like other words.
    heading_color, heading_back : str
        A colour, and what is behind the heading; empty: nothing is.
    """

    padding: float = 0.0
    column_gap: float = 0.0
    row_gap: float = 0.0
    line: str = "none"
    column: str = ""
    blocks: str = ""
    heading_size: float = 0.0
    heading_color: str = BLACK
    heading_back: str = ""

    @property
    def words(self) -> str:
        """The colour of words on what is behind them."""
        return readable_on(self.blocks or self.column or WHITE)


PLAIN = DrawnLook()


def drawn_look(look: Look | None, scale: float) -> DrawnLook:
    """A look at a scale of points a pixel; a background that fills nothing in particular fills the column.

    Example
    -------
    >>> import davlo
    >>> usual = davlo.open_demo().declarations.looks["usual"]
    >>> found = drawn_look(usual, 0.25)
    >>> found.line, found.column_gap, found.heading_size
    ('around', 8.0, 0.0)
    """
    if look is None:
        return PLAIN
    said = {key: value for key, value in look.values.items() if isinstance(value, str)}

    def length(key: str) -> float:
        return min(float(said.get(key, 0)) * scale, MOST_GAP)

    background, fill = said.get("background", ""), said.get("fill", "column")
    size = 0.0
    if {"heading_font_size", "heading_color", "heading_background"} & said.keys():
        pixels = float(said.get("heading_font_size", USUAL_PIXELS))
        size = min(max(pixels / USUAL_PIXELS * USUAL_SIZE, SMALLEST), LARGEST)
    back = said.get("heading_background", "")
    behind = back or (background if fill != "none" else "") or WHITE
    return DrawnLook(
        length("padding"),
        length("column_gap"),
        length("row_gap"),
        said.get("line", "none"),
        background if fill == "column" else "",
        background if fill == "blocks" else "",
        size,
        said.get("heading_color", readable_on(behind)),
        back,
    )


def readable_on(color: str) -> str:
    """Black or white, whichever can be read on a colour.

    Example
    -------
    >>> readable_on("#fff"), readable_on("#102040") == WHITE
    ('#1c1c1a', True)
    """
    channels = color[1:] if len(color) == 7 else "".join(letter * 2 for letter in color[1:])
    red, green, blue = (int(channels[at : at + 2], 16) / 255 for at in (0, 2, 4))
    return BLACK if 0.299 * red + 0.587 * green + 0.114 * blue > 0.5 else WHITE
