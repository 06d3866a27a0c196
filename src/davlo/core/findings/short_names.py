"""Short names of findings: the same as long as the cause is, whatever lines and counts become."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace

from .finding import COUNTS, Finding

_LETTERS = "bcdfghjkmnpqrstvwxz23456789"
"""No vowels, so that no words come about; no letters that are taken for others."""
LENGTH = 6


def named(findings: Sequence[Finding], among: Sequence[Finding] | None = None) -> list[Finding]:
    """The findings with their short names. Those of one cause also go by their first page, and then by their words.

    Parameters
    ----------
    findings : sequence of Finding
        Those to name.
    among : sequence of Finding, optional
        All findings of the site, these among them (default: these are all).
    """
    others = Counter(one.cause for one in (findings if among is None else among))
    alike = [one for one in (findings if among is None else among) if others[one.cause] > 1]
    by_page = Counter(_told(one, (_first_page,)) for one in alike)
    found = []
    for one in findings:
        told = repr(one.cause)
        if others[one.cause] > 1:
            told = _told(one, (_first_page,))
            if by_page[told] > 1:
                told = _told(one, (_first_page, _words))
        found.append(replace(one, name=short_name(told)))
    return found


def _told(finding: Finding, ways: Sequence[Callable[[Finding], str]]) -> str:
    return repr(finding.cause) + "".join(way(finding) for way in ways)


def _first_page(finding: Finding) -> str:
    return finding.pages[0] if len(finding.pages) else ""


def _words(finding: Finding) -> str:
    return COUNTS.sub("N", finding.message)


def short_name(text: str) -> str:
    """A short name for a text.

    Example
    -------
    >>> short_name("a cause") == short_name("a cause"), len(short_name("another"))
    (True, 6)
    """
    number = int.from_bytes(hashlib.sha256(text.encode("utf-8", "surrogatepass")).digest()[:8], "big")
    letters = []
    for _ in range(LENGTH):
        number, letter = divmod(number, len(_LETTERS))
        letters.append(_LETTERS[letter])
    return "".join(letters)
