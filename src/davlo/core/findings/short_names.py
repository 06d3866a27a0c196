"""Short names of findings: the same as long as the cause is, whatever lines and counts become."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from .finding import Finding

_LETTERS = "bcdfghjkmnpqrstvwxz23456789"
"""No vowels, so that no words come about; no letters that are taken for others."""
LENGTH = 6


def named(findings: Iterable[Finding]) -> list[Finding]:
    """The findings with their short names. Those of one cause also go by their first page."""
    found = list(findings)
    causes = [repr(one.cause) for one in found]
    several = Counter(causes)
    return [
        replace(one, name=short_name(cause + (one.pages[0] if several[cause] > 1 and len(one.pages) else "")))
        for one, cause in zip(found, causes, strict=True)
    ]


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
