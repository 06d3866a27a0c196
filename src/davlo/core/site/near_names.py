"""Names with a slip in them: the one that was probably meant."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Sequence

ALIKE = 0.88
"""How much longer names must be alike to be taken for one with a slip."""
LEAST = 4
"""Shorter names are alike by chance."""
_PLAIN = str.maketrans("_- ", "...")


def near_name(word: str, names: Iterable[str]) -> str:
    """The name that a word nearly is, however its parts are joined; empty if there is none.

    A word is nearly a name if one letter is left out, added or another one, if two are swapped, or if most is the same.

    Example
    -------
    >>> near_name("titel", ["title", "type"]), near_name("title_show", ["title.show"]), near_name("season", ["title"])
    ('title', 'title.show', '')
    """
    plain = {_plain(name): name for name in names}
    told = _plain(word)
    found = [name for form, name in plain.items() if len(told) >= LEAST and is_slip(told, form)]
    close = difflib.get_close_matches(told, plain, 1, ALIKE)
    return found[0] if found else plain[close[0]] if close else ""


def near_text(word: str, texts: Sequence[str], alike: float = 0.7) -> str:
    """The text that a word is most like; empty if none is much like it."""
    found = difflib.get_close_matches(word, texts, 1, alike)
    return found[0] if found else ""


def is_slip(word: str, name: str) -> bool:
    """Whether two words differ in one letter, one letter more or less, or two letters that are swapped.

    Example
    -------
    >>> is_slip("stauts", "status"), is_slip("statu", "status"), is_slip("state", "status")
    (True, True, False)
    """
    if abs(len(word) - len(name)) > 1:
        return False
    same = 0
    while same < min(len(word), len(name)) and word[same] == name[same]:
        same += 1
    one, other = word[same:], name[same:]
    if len(one) == len(other):
        swapped = len(one) > 1 and one[1] + one[0] + one[2:] == other
        return one[1:] == other[1:] or swapped
    return one[1:] == other or other[1:] == one


def _plain(name: str) -> str:
    return name.strip().lower().translate(_PLAIN)
