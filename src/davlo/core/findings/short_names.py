"""Short names of findings: the same as long as the cause is, whatever lines and counts become."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from .finding import COUNTS, Finding

_LETTERS = "bcdfghjkmnpqrstvwxz23456789"
"""No vowels, so that no words come about; no letters that are taken for others."""
LENGTH = 6


def named(findings: Iterable[Finding]) -> list[Finding]:
    """The findings with their short names. Those of one cause also go by their first page, and then by their words."""
    found = list(findings)
    causes = [repr(one.cause) for one in found]
    for more in (_first_page, _words):
        several = Counter(causes)
        causes = [cause + more(one) if several[cause] > 1 else cause for one, cause in zip(found, causes, strict=True)]
    return [replace(one, name=short_name(cause)) for one, cause in zip(found, causes, strict=True)]


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
