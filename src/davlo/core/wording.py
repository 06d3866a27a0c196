"""Small words of messages."""

from __future__ import annotations


def count(number: int, word: str, plural: str = "") -> str:
    """A count in words.

    Example
    -------
    >>> count(1, "page"), count(3000, "page"), count(2, "address", "addresses")
    ('1 page', '3,000 pages', '2 addresses')
    """
    return f"{number:,} {word if number == 1 else plural or word + 's'}"
