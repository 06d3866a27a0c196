"""An outline: chosen pages of a tree, as many as a person reads, and how many more are below each."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Mask
from ...site.pages.tree import Tree

Pages = NDArray[np.int64]
FEW = 8
"""Less than this part of what a person reads is too little to show."""


class Outline(NamedTuple):
    """Pages to show."""

    pages: Pages  # int64[n]: in the order that was asked
    level: Pages  # int64[n]: how many of the chosen pages are above each
    hidden: Pages  # int64[n]: how many chosen pages below each are not shown
    rest: int  # how many chosen pages are neither shown nor below one that is


def outline(tree: Tree, order: Pages, depth: int | None = None, most: int | None = None) -> Outline:
    """The chosen pages down to a depth, or to the depth at which no more than `most` are left.

    `order`: int64[n]: the chosen pages, in the order to show them. `depth`: how many levels below the outermost to
    show: 0 for those alone. `most`: the most pages to show.

    Example
    -------
    >>> import davlo
    >>> from .menu_order import menu_order
    >>> site = davlo.open_demo()
    >>> found = outline(site.tree, menu_order(site), depth=1)
    >>> len(found.pages) + int(found.hidden.sum()) == len(site.tree)
    True
    """
    chosen: Mask = np.zeros(len(tree), dtype=bool)
    chosen[order] = True
    opens = np.zeros(len(tree) + 1, dtype=np.int64)
    np.add.at(opens, order + 1, 1)
    np.add.at(opens, tree.end[order], -1)
    level = np.cumsum(opens)[order]
    counts = np.cumsum(np.bincount(level)) if len(order) else np.zeros(1, dtype=np.int64)
    deepest = len(counts) - 1 if depth is None else depth
    if most is not None and counts[min(deepest, len(counts) - 1)] > most:
        deepest = max(0, int(np.searchsorted(counts, most, "right")) - 1)
        deepest += int(counts[deepest] < most // FEW)  # with few pages, add as many of the next level as fit
    shown = level <= deepest
    pages, level = order[shown], level[shown]
    if most is not None and len(pages) > most:
        pages, level = pages[:most], level[:most]
    before = np.concatenate([np.zeros(1, dtype=np.int64), np.cumsum(chosen)])
    inside = before[tree.end[pages]] - before[pages + 1]
    hidden = np.where(level == deepest, inside, 0)
    return Outline(pages, level, hidden, len(order) - len(pages) - int(hidden.sum()))
