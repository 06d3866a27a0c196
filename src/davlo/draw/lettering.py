"""Words in a picture: how wide they are, how they are broken into lines, and how they are cut where there is no room.

Sizes are in points. The font is the one that Matplotlib brings, so that a picture is the same on every machine.
"""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path

import matplotlib as mpl
from matplotlib.backends.backend_agg import RendererAgg
from matplotlib.font_manager import FontProperties
from matplotlib.ft2font import FT2Font

SMALLEST = 7.0
"""No words are smaller."""
LEADING = 1.3
"""The height of a line, in sizes."""
DPI = 100
SAFETY = 1.03
"""Room for what differs from one way of drawing to another."""
CUT = "…"
NO_SHAPE = "□"
_FILES = {"plain": "DejaVuSans.ttf", "bold": "DejaVuSans-Bold.ttf", "slanted": "DejaVuSans-Oblique.ttf"}
_AT = 100.0
_renderer = RendererAgg(1, 1, DPI)  # type: ignore[no-untyped-call]
_AFTER = re.compile(r"(?<=[\s/\-_;,·])")
"""After these a line may end."""
MOST_LETTERS = 1000
"""No line of a picture, and no four lines, have room for more."""


@lru_cache
def _path(face: str) -> str:
    return str(Path(mpl.get_data_path()) / "fonts" / "ttf" / _FILES[face])


@lru_cache
def font(face: str, size: float) -> FontProperties:
    """The font of a face (`plain`, `bold`, `slanted`) and a size."""
    return FontProperties(fname=_path(face), size=size)


@lru_cache
def _loaded(face: str) -> FT2Font:
    loaded = FT2Font(_path(face))
    loaded.set_size(_AT, 72)
    return loaded


@lru_cache(maxsize=4096)
def _advance(character: str, face: str) -> float:
    return float(_loaded(face).load_char(ord(character)).linearHoriAdvance / 65536)


@lru_cache
def _shapes(face: str) -> frozenset[int]:
    return frozenset(_loaded(face).get_charmap())


@lru_cache(maxsize=16384)
def drawable(text: str, face: str = "plain") -> str:
    """The text with a box for each character that cannot be drawn: the font has no shape for it, or it is no letter.

    Example
    -------
    >>> drawable("Caf\u00e9 \u6f22\u5b57")
    'Café □□'
    """
    shapes = _shapes(face)
    return "".join(c if c.isprintable() and ord(c) in shapes else NO_SHAPE for c in text)


def width(text: str, size: float, face: str = "plain") -> float:
    """How wide a line is, in points.

    Example
    -------
    >>> width("", 8), width("wide", 8) > width("thin", 8)
    (0.0, True)
    """
    return _width(text, size, face) if text else 0.0


@lru_cache(maxsize=16384)
def _width(text: str, size: float, face: str) -> float:
    text = drawable(text, face)
    exact = sum(_advance(character, face) for character in text) * size / _AT
    drawn, _, _ = _renderer.get_text_width_height_descent(text, font(face, size), ismath=False)  # type: ignore[no-untyped-call]
    return float(max(exact, drawn * 72 / DPI)) * SAFETY  # pixels are whole, so small words come out wider


def _beginning(text: str) -> str:
    """As much of a text as any picture has room for."""
    return text if len(text) <= MOST_LETTERS else text[:MOST_LETTERS] + CUT


def fit(text: str, size: float, room: float, face: str = "plain") -> str:
    """A line that is no wider than there is room; one that is cut ends in `…`.

    Example
    -------
    >>> fit("visit-planning", 8, 40), fit("visit", 8, 40)
    ('visit-pl…', 'visit')
    """
    text = _beginning(text)
    if width(text, size, face) <= room:
        return text
    few, many = 0, len(text)
    while few < many:
        half = (few + many + 1) // 2
        few, many = (half, many) if width(text[:half] + CUT, size, face) <= room else (few, half - 1)
    return text[:few].rstrip() + CUT


def lines(text: str, size: float, room: float, face: str = "plain", most: int = 4) -> list[str]:
    """A text in lines no wider than `room`, `most` at most; a cut text ends in `…`.

    Lines end after a space, a slash, a hyphen and the like; a longer word is parted where it must be.

    Example
    -------
    >>> lines("below /visit, davlo.yaml:79", 8, 60)
    ['below /visit,', 'davlo.yaml:79']
    """
    found: list[str] = []
    line = ""
    for part in _AFTER.split(_beginning(text)):
        if len(found) > most:
            break
        if width((line + part).rstrip(), size, face) <= room:
            line += part
            continue
        found += [line.rstrip()] if line.strip() else []
        line = part.lstrip()
        while len(found) <= most and width(line.rstrip(), size, face) > room and len(line) > 1:
            end = max(1, len(fit(line, size, room, face)) - 1)
            found.append(line[:end])
            line = line[end:]
    found += [line.rstrip()] if line.strip() else []
    if len(found) <= most:
        return found
    last = found[most - 1]
    shorter = last if width(last + CUT, size, face) <= room else fit(last + CUT * 2, size, room, face)
    return [*found[: most - 1], shorter if shorter.endswith(CUT) else shorter + CUT]
