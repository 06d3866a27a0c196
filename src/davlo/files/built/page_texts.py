"""The words of an element, as a reader meets them."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from lxml import etree

_WITHIN_WORDS = frozenset(
    (
        *("a", "abbr", "b", "bdi", "bdo", "big", "cite", "code", "data", "del", "dfn", "em", "font", "i", "ins"),
        *("kbd", "mark", "q", "s", "samp", "small", "span", "strong", "sub", "sup", "time", "tt", "u", "var", "wbr"),
    )
)
"""Elements that do not separate words (the HTML standard, section 4.5, and older ones of their kind)."""
_NO_LETTERS = re.compile(r"[\W_]+")


def text_of(element: Any, is_left_out: Callable[[Any], bool] | None = None) -> str:
    """All text of an element, with the alternative text of pictures, and with single spaces.

    `is_left_out`: whether an element within it does not count.
    """
    if len(element) == 0:  # most links
        return " ".join(((element.get("alt") if element.tag == "img" else element.text) or "").split())
    if len(element) == 1 and len(element[0]) == 0 and element[0].tag in _WITHIN_WORDS and is_left_out is None:
        return " ".join(f"{element.text or ''}{element[0].text or ''}{element[0].tail or ''}".split())
    parts = list[str]()
    walk = etree.iterwalk(element, events=("start", "end"))
    for event, one in walk:
        if event == "start":
            if one is not element and is_left_out is not None and is_left_out(one):
                walk.skip_subtree()
                continue
            if one.tag not in _WITHIN_WORDS:
                parts.append(" ")
            if one.tag == "img":
                parts.append(one.get("alt") or "")
            parts.append(one.text or "")
        elif one is not element:
            parts.append((one.tail or "") if one.tag in _WITHIN_WORDS else f" {one.tail or ''}")
    return " ".join("".join(parts).split())


def letters_of(text: str) -> str:
    """The letters and digits of a text, without the signs and spaces between.

    Example
    -------
    >>> letters_of("Visit us › 10 to 17")
    'Visitus10to17'
    """
    return _NO_LETTERS.sub("", text)
