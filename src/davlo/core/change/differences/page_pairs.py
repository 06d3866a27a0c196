"""Which pages of two states of a site are the same page: those of one path, and those that moved."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.texts import Texts
from ...site.model import SiteModel

Pages = NDArray[np.int64]
_ALIKE = ("title", "type", "created")
"""The details that identify a page which moved: all are filled, and no other page has the same."""


class PagePairs(NamedTuple):
    """The pages that two states both have."""

    before: Pages  # `before`, `after`: int64[n]: their numbers in each, in the order of the first
    after: Pages
    moved: tuple[tuple[str, str], ...] = ()  # the paths of those that have another path, before and after


def page_pairs(before: SiteModel, after: SiteModel, moves: Sequence[tuple[str, str]] | None = None) -> PagePairs:
    """The pages that two states of a site both have.

    `moves`: the paths of branches that a change moved, before and after. Without a change, a page that is gone and one
    that is new are the same page if only they share title, type and `created`, all of them filled.

    Example
    -------
    >>> import davlo
    >>> from davlo.core.change.steps.change import Change, MovePage
    >>> site = davlo.open_demo()
    >>> after = site.apply(Change((MovePage("/visit/cafe", "/cafe"),)))
    >>> page_pairs(site, after, [("/visit/cafe", "/cafe")]).moved[0]
    ('/visit/cafe', '/cafe')
    """
    if before.tree is after.tree:
        every = np.arange(len(before.tree))
        return PagePairs(every, every)
    other = after.tree.find_all(before.tree.paths).astype(np.int64)
    found = _alike(before, after, other) if moves is None else _moved(before, after, moves, other)
    for page, number in found:
        other[page] = number
    there = np.flatnonzero(other >= 0)
    paths = tuple((before.tree.paths[page], after.tree.paths[number]) for page, number in found)
    return PagePairs(there, other[there], paths)


def _moved(
    before: SiteModel, after: SiteModel, moves: Sequence[tuple[str, str]], other: Pages
) -> list[tuple[int, int]]:
    """The pages that a change moved: their numbers before and after."""
    found = []
    for page in np.flatnonzero(other < 0).tolist() if moves else ():
        path = new = before.tree.paths[page]
        for old, to in moves:
            if new == old or new.startswith(f"{old}/"):
                new = to + new[len(old) :]
        number = after.tree.find(new) if new != path else -1
        if number >= 0:
            found.append((page, number))
    return found


def _alike(before: SiteModel, after: SiteModel, other: Pages) -> list[tuple[int, int]]:
    """The pages that are gone, and the new ones that share their title, type and day of creation with no other."""
    gone = np.flatnonzero(other < 0)
    new = np.ones(len(after.tree), dtype=bool)
    new[other[other >= 0]] = False
    arrived = np.flatnonzero(new)
    if not len(gone) or not len(arrived):
        return []
    sides = [_by_details(before, gone), _by_details(after, arrived)]
    return [
        (pages[0], sides[1][details][0])
        for details, pages in sides[0].items()
        if len(pages) == 1 and len(sides[1].get(details, ())) == 1
    ]


def _by_details(site: SiteModel, pages: Pages) -> dict[tuple[str, ...], list[int]]:
    columns = [Texts.of_column(site.details.column(name).take(pages)).tolist() for name in _ALIKE]
    found: dict[tuple[str, ...], list[int]] = {}
    for page, *details in zip(pages.tolist(), *columns, strict=True):
        if all(details):
            found.setdefault((*details,), []).append(page)
    return found
