"""Colours and hatches. Both say the same, so that a picture can be read without colours, and printed in grey.

The eight colours were searched for: without very bright ones, the least distance of any two in CIE L*a*b* is as large
as could be found, seen with usual eyes and with those that lack one kind of cones, as Machado, Oliveira and Fernandes
tell it (A physiologically-based model for simulation of color vision deficiency, 2009); their lightness goes down in
even steps. A test measures both.
"""

from __future__ import annotations

from typing import NamedTuple

BLACK, DARK, GREY, PALE, WHITE = "#1c1c1a", "#55554f", "#8c8c84", "#ecebe6", "#ffffff"


class Ink(NamedTuple):
    """How one thing is filled: a colour, and a hatch in another that stands out on it."""

    color: str
    hatch: str = ""
    hatch_color: str = WHITE

    @property
    def tint(self) -> str:
        """The colour, so pale that black words can be read on it."""
        return mixed(self.color, WHITE, 0.82)


INKS = (
    Ink("#aacba0"),
    Ink("#2854b3", "////"),
    Ink("#ffd76f", "....", BLACK),
    Ink("#b44a5f", "xxxx"),
    Ink("#5aa6fb", "----", BLACK),
    Ink("#683d09", "\\\\\\\\"),
    Ink("#ba873d", "||||", BLACK),
    Ink("#8777a6", "oo"),
)
"""For up to eight kinds of things, the first for most of them."""
BY_LIGHTNESS = tuple(INKS[i] for i in (2, 0, 4, 6, 7, 3, 1, 5))
"""These colours from light to dark, for values that have an order."""
OTHER = Ink("#c9c8c2", "++++", DARK)
LACKS = Ink(WHITE, "..", GREY)
NO_PLACE = Ink(WHITE, "///", "#dcdbd4")
"""For other values; for what is not there; for what the theme has no place for."""


def mixed(one: str, other: str, part: float) -> str:
    """A colour between two: so much of the other.

    Example
    -------
    >>> mixed("#000000", "#ffffff", 0.5)
    '#808080'
    """
    pairs = zip(_channels(one), _channels(other), strict=True)
    return "#" + "".join(f"{round(a + (b - a) * part):02x}" for a, b in pairs)


def _channels(color: str) -> tuple[int, ...]:
    return tuple(int(color[i : i + 2], 16) for i in (1, 3, 5))
