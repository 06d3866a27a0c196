"""Small words of messages."""

from __future__ import annotations

from collections.abc import Sequence


def count(number: int, word: str, plural: str = "") -> str:
    """A count in words.

    Example
    -------
    >>> count(1, "page"), count(3000, "page"), count(2, "address", "addresses")
    ('1 page', '3,000 pages', '2 addresses')
    """
    return f"{number:,} {word if number == 1 else plural or word + 's'}"


def tail_of(path: str, above: str) -> str:
    """A path without the path of the page it is shown under, where it begins with that.

    Example
    -------
    >>> tail_of("/visit/tickets", "/visit"), tail_of("/visit", "/"), tail_of("/bee", "/visit")
    ('/tickets', '/visit', '/bee')
    """
    base = above.rstrip("/") + "/"
    return path[len(base) - 1 :] if above and path.startswith(base) else path


def some_of(names: Sequence[str], most: int = 4) -> str:
    """Names one after the other; of many the first, and how many more there are.

    Example
    -------
    >>> some_of(["ida", "noor"]), some_of(["ida", "noor", "pia"], most=1)
    ('ida, noor', 'ida and 2 more')
    """
    return ", ".join(names[:most]) + (f" and {len(names) - most:,} more" if len(names) > most else "")
