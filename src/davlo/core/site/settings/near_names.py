"""Names with a slip in them: the one that was probably meant."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Sequence

import numpy as np

from ...arrays.texts import Texts

ALIKE = 0.88
"""How similar longer names must be to count as a slip."""
ALIKE_PATHS = 0.8
"""How similar paths must be."""
MOST_LOST, FEW_PATHS = 20, 2000
"""The most lost paths to search for, and the most pages to search."""
LEAST = 4
"""Shorter names are similar by chance."""
_PLAIN = str.maketrans("_- ", "...")


def near_name(word: str, names: Iterable[str]) -> str:
    """The name that a word nearly is, whatever joins its parts; empty if there is none.

    A word is nearly a name if one letter is missing, added or different, if two are swapped, or if most letters agree.

    Example
    -------
    >>> near_name("titel", ["title", "type"]), near_name("heading_show", ["heading.show"]), near_name("on", ["title"])
    ('title', 'heading.show', '')
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


def near_paths(lost: Iterable[str], paths: Texts) -> dict[str, str]:
    """For paths that no page has, the page that was probably meant; only the first `MOST_LOST` are searched for.

    A page that differs in letter case alone is found on any site, others on sites of at most `FEW_PATHS` pages.

    Example
    -------
    >>> near_paths(["/Visit", "/vsit/tickets", "/plants"], Texts.of(["/", "/visit", "/visit/tickets"]))
    {'/Visit': '/visit', '/vsit/tickets': '/visit/tickets'}
    """
    some = list(dict.fromkeys(lost))[:MOST_LOST]
    sizes = np.array([len(path.encode("utf-8", "replace")) for path in some], dtype=np.int64)
    like = paths.take(np.flatnonzero(np.isin(paths.end - paths.start, sizes))) if some else ()
    by_case = {path.casefold(): path for path in like}
    every = paths.tolist() if some and len(paths) <= FEW_PATHS else []
    near = {path: by_case.get(path.casefold()) or near_text(path, every, ALIKE_PATHS) for path in some}
    return {path: found for path, found in near.items() if found}


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
