"""Small words of messages, and the marks that every print, picture and report sets beside values."""

from __future__ import annotations

from collections.abc import Sequence

NOT_SHOWN = "(not shown)"
"""Beside a value that is set but not shown on the page."""
EMPTY = "(empty)"
"""In place of an empty text or list."""
NOTHING = "(nothing)"
"""In place of the actions of somebody who may do none."""
NOT_THERE = "(not there)"
"""In place of the value of a setting that the page does not have."""
NO_TITLE = "(no title)"
"""In place of the title of a page that has none."""
OTHER = "*"
"""Beside what differs from the page above, or from the page beside."""
MARKS = {"not_shown": NOT_SHOWN, "empty": EMPTY}
"""The marks that the report shows, by the names its program has for them."""


def count(number: int, word: str, plural: str = "") -> str:
    """A count in words.

    Example
    -------
    >>> count(1, "page"), count(3000, "page"), count(2, "address", "addresses")
    ('1 page', '3,000 pages', '2 addresses')
    """
    return f"{number:,} {word if number == 1 else plural or word + 's'}"


def tail_of(path: str, above: str) -> str:
    """A path without the path of the page it is shown under, if it begins with it.

    Example
    -------
    >>> tail_of("/visit/tickets", "/visit"), tail_of("/visit", "/"), tail_of("/bee", "/visit")
    ('/tickets', '/visit', '/bee')
    """
    base = above.rstrip("/") + "/"
    return path[len(base) - 1 :] if above and path.startswith(base) else path


def some_of(names: Sequence[str], most: int = 4) -> str:
    """Names in a row; if there are many, the first ones and how many more.

    Example
    -------
    >>> some_of(["ida", "noor"]), some_of(["ida", "noor", "pia"], most=1)
    ('ida, noor', 'ida and 2 more')
    """
    return ", ".join(names[:most]) + (f" and {len(names) - most:,} more" if len(names) > most else "")


def round_circle(names: Sequence[str], most: int = 20) -> str:
    """The names of a circle, the first repeated at the end; a long circle is shortened.

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
    """A text of at most `most` characters. A longer one loses its middle, since both ends tell paths apart.

    Example
    -------
    >>> shortened_in_the_middle("/visit/schools/workshops/pond-dipping", 24)
    '/visit/scho…pond-dipping'
    """
    if len(text) <= most:
        return text
    head = (most - 1) // 2
    return f"{text[:head]}…{text[len(text) - (most - 1 - head) :]}"
