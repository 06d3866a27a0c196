"""Everything that can be reached from something, step by step."""

from __future__ import annotations

from collections.abc import Iterable, Mapping


def closure(begin: Iterable[str], further: Mapping[str, Iterable[str]]) -> set[str]:
    """The names to begin with, and all names that they lead to, directly or through others.

    Example
    -------
    >>> sorted(closure(["editors"], {"editors": ["staff"], "staff": ["everybody"], "members": ["everybody"]}))
    ['editors', 'everybody', 'staff']
    """
    found = set(begin)
    left = list(found)
    while left:
        new = [name for name in further.get(left.pop(), ()) if name not in found]
        found.update(new)
        left += new
    return found
