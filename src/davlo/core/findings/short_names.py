"""Short names of findings: the same as long as the cause is, whatever lines and counts become."""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace

from .finding import COUNTS, Finding

CONSONANTS, VOWELS, SYLLABLES = "bdfghjklmnprstvwz", "aeiou", 4
"""A name is four syllables, each a consonant and a vowel: it can be said aloud. No letter sounds like another."""
_RUDE = re.compile(
    "anal|anus|baka|bite|bitu|bubi|buga|bum|dago|dike|dik|dupa|fag|fek|fig[ao]|fod[ae]|fuk|fut|hitle|homo|hore|huj|hur|jap|"
    "jeb|kaf|kaga|kak|kike|kok|kon[ao]|kul[aeio]|kum|kuso|lesb|merd|nazi|neg[ae]|nig|nip|nud|orgi|paki|pede|pedo|penis|"
    "pid[aeo]|pimp|pip[io]|pis|pize|pub|pupu|pus|put[aeo]|rap[ei]|sadi|satan|semen|sex|sodo|suk[ai]|tet[ae]|tit|turd|"
    "urin|vagin|wan[ko]|zoki"
)
"""What a name does not hold: words that are rude in one language or another."""


def named(findings: Sequence[Finding], among: Sequence[Finding] | None = None) -> list[Finding]:
    """The findings with their short names.

    Those of one cause also go by their first page, then by their words, and then by their order.

    `findings`: those to name. `among`: all findings of the site, these among them (default: these are all).
    """
    others = Counter(one.cause for one in (findings if among is None else among))
    alike = [one for one in (findings if among is None else among) if others[one.cause] > 1]
    by_page = Counter(_told(one, (_first_page,)) for one in alike)
    found, by_words = [], Counter[str]()
    for one in findings:
        told = repr(one.cause)
        if others[one.cause] > 1:
            told = _told(one, (_first_page,))
            if by_page[told] > 1:
                told = _told(one, (_first_page, _words))
                at = by_words[told]
                by_words[told] += 1
                told += f"#{at}" if at else ""
        found.append(replace(one, name=short_name(told)))
    return found


def _told(finding: Finding, ways: Sequence[Callable[[Finding], str]]) -> str:
    return repr(finding.cause) + "".join(way(finding) for way in ways)


def _first_page(finding: Finding) -> str:
    return finding.pages[0] if len(finding.pages) else ""


def _words(finding: Finding) -> str:
    return COUNTS.sub("N", finding.message)


def short_name(text: str) -> str:
    """A short name for a text, which can be said aloud and holds no rude word.

    Example
    -------
    >>> short_name("a cause") == short_name("a cause"), len(short_name("another"))
    (True, 8)
    """
    digest = text.encode("utf-8", "surrogatepass")
    while True:
        digest = hashlib.sha256(digest).digest()
        number, name = int.from_bytes(digest[:8], "big"), ""
        for _ in range(SYLLABLES):
            number, vowel = divmod(number, len(VOWELS))
            number, consonant = divmod(number, len(CONSONANTS))
            name += CONSONANTS[consonant] + VOWELS[vowel]
        if not _RUDE.search(name):
            return name
