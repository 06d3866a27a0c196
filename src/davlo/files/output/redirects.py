"""Redirects from the old addresses of pages that moved to the new ones."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping


def redirects(
    before: Mapping[str, str], moves: Iterable[tuple[str, str]], is_page: Callable[[str], bool]
) -> dict[str, str]:
    """The redirects that hold after some moves: each leads straight to where a page is now.

    `before`: redirects that were published: old addresses and new ones. `moves`: old and new addresses of pages that
    moved, the first move first; those that `before` knows may be among them. `is_page`: whether an address is one of
    the site's pages. Returns none leads from an address that is a page again, or to one that is none any more.

    Example
    -------
    >>> moves = [("/tea", "/cafe"), ("/cafe", "/food")]
    >>> redirects({}, moves, {"/food"}.__contains__)
    {'/tea': '/food', '/cafe': '/food'}
    >>> redirects({"/tea": "/cafe"}, [], {"/tea"}.__contains__)
    {'/cafe': '/tea'}
    """
    found = dict(before)
    for old, new in moves:
        for address, target in [*found.items()]:
            if target == old:
                found[address] = new
        found[old] = new
    for old, new in [*found.items()]:
        if is_page(old) and not is_page(new):  # the move was taken back, and people may have used the new address
            found.setdefault(new, old)
    return {old: new for old, new in found.items() if old != new and is_page(new) and not is_page(old)}
