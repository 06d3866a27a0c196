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


def round_circle(names: Sequence[str], most: int = 20) -> str:
    """Names that lead back to the first, which stands at the end again; of a long circle the first ones.

    Example
    -------
    >>> round_circle(["a", "b", "a"]), round_circle(["a", "b", "c", "d", "a"], most=4)
    ('a -> b -> a', 'a -> b -> … -> a')
    """
    return " -> ".join(names if len(names) <= most else [*names[: most - 2], "…", names[-1]])


def shortened(text: str, most: int) -> str:
    """A text of at most `most` characters; a cut one ends in `…`."""
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


def shortened_in_the_middle(text: str, most: int) -> str:
    """A text of at most `most` characters; of a longer one the middle is left out, since both ends tell paths apart.

    Example
    -------
    >>> shortened_in_the_middle("/visit/schools/workshops/pond-dipping", 24)
    '/visit/scho…pond-dipping'
    """
    if len(text) <= most:
        return text
    head = (most - 1) // 2
    return f"{text[:head]}…{text[len(text) - (most - 1 - head) :]}"
