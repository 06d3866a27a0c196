"""Numbers as files write them. No other module turns a text from a file into a number."""

from __future__ import annotations

import math
import re

MOST_LETTERS = 40
"""A longer text is no number: to read it would take longer than its file."""
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?", re.ASCII)
_INTEGER = re.compile(r"[+-]?\d+", re.ASCII)


def number_of(text: str) -> float | None:
    """The finite number that a text is; None where it is none.

    Example
    -------
    >>> number_of("0.5"), number_of("1e3"), number_of("1e999"), number_of("half")
    (0.5, 1000.0, None, None)
    """
    if len(text) > MOST_LETTERS or not _NUMBER.fullmatch(text):
        return None
    number = float(text)
    return number if math.isfinite(number) else None


def integer_of(text: str) -> int | None:
    """The integer that a text is; None where it is none.

    Example
    -------
    >>> integer_of("60"), integer_of("6.0")
    (60, None)
    """
    return int(text) if len(text) <= MOST_LETTERS and _INTEGER.fullmatch(text) else None


def with_point(text: str) -> str:
    """What to type for a number with a decimal comma; empty where the text is none.

    Example
    -------
    >>> with_point("0,5")
    'write 0.5, with a point'
    """
    number = text.strip().replace(",", ".", 1)
    return f"write {number}, with a point" if "," in text and number_of(number) is not None else ""
