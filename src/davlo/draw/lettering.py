"""Words in a picture: how wide they are, how they are broken into lines, and how they are cut to fit.

Sizes are in points. The font is the one that Matplotlib brings, so that a picture is the same on every machine; for
letters that it lacks, a font that the machine has, the same each time. Matplotlib puts right-to-left words in order.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from contextlib import AbstractContextManager
from functools import lru_cache
from pathlib import Path
from typing import Literal

import matplotlib as mpl
from matplotlib.backends.backend_agg import RendererAgg
from matplotlib.font_manager import FontProperties, findSystemFonts, fontManager
from matplotlib.ft2font import FT2Font

from davlo.core.wording import shortened_in_the_middle

SMALLEST = 7.0
"""No words are smaller."""
LEADING = 1.3
"""The height of a line, in sizes."""
DPI = 100
SAFETY = 1.03
"""A margin for differences between ways of drawing."""
CUT = "…"
NO_SHAPE = "□"
_FILES = {"plain": "DejaVuSans.ttf", "bold": "DejaVuSans-Bold.ttf", "slanted": "DejaVuSans-Oblique.ttf"}
_OVERRIDES = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""They turn the direction of what follows, and are never obeyed."""
_AT = 100.0
_renderer = RendererAgg(1, 1, DPI)  # type: ignore[no-untyped-call]
_AFTER = re.compile(r"(?<=[\s/\-_;,·])")
"""After these a line may end."""
MOST_LETTERS = 1000
"""More letters than fit into four lines of a picture."""


@lru_cache
def _path(face: str) -> str:
    return str(Path(mpl.get_data_path()) / "fonts" / "ttf" / _FILES[face])


def font(text: str, face: str, size: float) -> FontProperties:
    """The font in which to draw a text: its face is `plain`, `bold` or `slanted`."""
    others = tuple(dict.fromkeys(path for path in (_file_for(c, face) for c in text) if path and path != _path(face)))
    return _font(face, size, others)


@lru_cache
def _font(face: str, size: float, others: tuple[str, ...]) -> FontProperties:
    """A font of a face, and after it those for the letters that it lacks."""
    if not others:
        return FontProperties(fname=_path(face), size=size)
    for path in (_path(face), *others):
        fontManager.addfont(path)
    families = [FT2Font(path).family_name for path in (_path(face), *others)]
    slant: Literal["oblique", "normal"] = "oblique" if face == "slanted" else "normal"
    return FontProperties(family=families, style=slant, weight="bold" if face == "bold" else "normal", size=size)


@lru_cache(maxsize=64)
def _loaded(path: str) -> FT2Font:
    loaded = FT2Font(path)
    loaded.set_size(_AT, 72)
    return loaded


@lru_cache(maxsize=4096)
def _advance(character: str, face: str) -> float:
    path = _file_for(character, face) or _path(face)
    return float(_loaded(path).load_char(ord(character)).linearHoriAdvance / 65536)


@lru_cache(maxsize=256)
def _shapes(path: str) -> frozenset[int]:
    try:
        return frozenset(FT2Font(path).get_charmap())
    except (OSError, RuntimeError):  # no font after all
        return frozenset()


@lru_cache
def _machines_fonts() -> tuple[str, ...]:
    """The fonts of the machine: sans serif first, then by name, so that the choice is always the same."""

    def rank(path: str) -> tuple[bool, bool, str]:
        name = Path(path).name.lower()
        return "sans" not in name, "noto" not in name, name

    return tuple(sorted(findSystemFonts(), key=rank))


@lru_cache(maxsize=16384)
def _file_for(character: str, face: str) -> str:
    """The file of the font that has a shape for a letter; empty if none has."""
    code = ord(character)
    if code in _shapes(_path(face)):
        return _path(face)
    return next((path for path in _machines_fonts() if code in _shapes(path)), "")


@lru_cache(maxsize=16384)
def drawable(text: str, face: str = "plain") -> str:
    """The text with a box in place of each letter that cannot be drawn: no font has a shape for it, or it is a control.

    White space of any kind is a space, and joiners that no font has are left out.

    Example
    -------
    >>> drawable("Caf\u00e9\u00a012 \u0007")
    'Café 12 □'
    """
    return "".join(_drawn(character, face) for character in text)


def left_to_right(text: str) -> str:
    """A sentence of ours with a name in it that may run from right to left: the sentence itself runs as usual.

    Example
    -------
    >>> left_to_right("Tickets; document title: Tickets")
    'Tickets; document title: Tickets'
    """
    runs_left = any(unicodedata.bidirectional(character) in ("R", "AL") for character in text)
    return f"\u200e{text}" if runs_left else text


def _drawn(character: str, face: str) -> str:
    kind = unicodedata.category(character)
    if kind == "Zs":
        return " "
    if kind == "Cf" and character not in _OVERRIDES:
        return character if _file_for(character, face) else ""
    return character if character.isprintable() and _file_for(character, face) else NO_SHAPE


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
    if all(map(_stands_alone, text)):
        return exact * SAFETY
    with as_measured():
        drawn, _, _ = _renderer.get_text_width_height_descent(text, font(text, face, size), ismath=False)  # type: ignore[no-untyped-call]
    return float(max(exact, drawn * 72 / DPI)) * SAFETY


def as_measured() -> AbstractContextManager[None]:
    """Draw letters without fitting them to whole pixels: they keep their widths at any size, as `width` has it."""
    return mpl.rc_context({"text.hinting": "no_hinting"})


def _stands_alone(character: str) -> bool:
    """Whether a letter's width does not depend on its neighbours; letters of some scripts join or stack."""
    return character < "\u0300" or unicodedata.category(character)[0] not in "LMC"


def _beginning(text: str) -> str:
    """The beginning of a text that could fit into any picture."""
    return text if len(text) <= MOST_LETTERS else text[:MOST_LETTERS] + CUT


def fit(text: str, size: float, room: float, face: str = "plain") -> str:
    """A line that fits the room; one that is cut ends in `…`.

    Example
    -------
    >>> fit("visit-planning", 8, 40), fit("visit", 8, 40)
    ('visit-pl…', 'visit')
    """
    return _fitted(_beginning(text), size, room, face, lambda text, most: text[: most - 1].rstrip() + CUT)


def fit_path(path: str, size: float, room: float, face: str = "plain") -> str:
    """A path that fits the room. A longer one loses its middle, since both ends tell paths apart.

    Example
    -------
    >>> fit_path("/orchard-487", 8, 40)
    '/or…-487'
    """
    return _fitted(shortened_in_the_middle(path, MOST_LETTERS), size, room, face, shortened_in_the_middle)


def _fitted(text: str, size: float, room: float, face: str, cut: Callable[[str, int], str]) -> str:
    """A line no wider than the room: where the whole is too wide, as many letters as fit, chosen by `cut`."""
    if width(text, size, face) <= room:
        return text
    few, many = 1, len(text)
    while few < many:
        half = (few + many + 1) // 2
        few, many = (half, many) if width(cut(text, half), size, face) <= room else (few, half - 1)
    return cut(text, few)


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
