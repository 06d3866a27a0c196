"""The order in which pages are read: each branch under its parent, siblings by `order`, then path."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import run_begins, sorted_by
from ...arrays.texts import Texts, windows
from ...site.model import SiteModel

Pages = NDArray[np.int64]
Key = NDArray[Any]
_WORD = 8


def menu_order(site: SiteModel, top: int = -1, keys: Sequence[Key] | None = None) -> Pages:
    """The pages as the menu sorts them, of all or of the branch of `top`. int64[n]

    `top`: the page whose branch it is; -1: all pages. `keys`: the sort keys of siblings before their paths, the most
    important first; `order` unless given.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> [site.tree.paths[page] for page in menu_order(site, site.tree.number("/visit"))[:3].tolist()]
    ['/visit', '/visit/tickets', '/visit/tickets/groups']
    """
    tree = site.tree
    begin, stop = (0, len(tree)) if top < 0 else (top, int(tree.end[top]))
    pages = np.arange(begin, stop)
    keys = [_order(site)[pages]] if keys is None else keys
    telling = [key for key in (*keys, *text_keys(_tails(site, pages))) if len(key) and (key != key[0]).any()]
    order = pages[sorted_by(tree.parent[pages], *telling)]
    size = tree.end[begin:stop] - pages
    parent = np.maximum(tree.parent[begin:stop].astype(np.int64), begin - 1) - begin
    # among siblings side by side, how many pages the branches before each have
    sorted_size = size[order - begin]
    before = np.cumsum(sorted_size) - sorted_size
    above = parent[order - begin]
    first = run_begins(above)
    before -= np.maximum.accumulate(np.where(first, before, 0))
    step = np.empty(len(pages), dtype=np.int64)
    step[order - begin] = before
    place = np.empty(len(pages), dtype=np.int64)
    depth = tree.depth[begin:stop] - (tree.depth[begin] if len(pages) else 0)
    by_depth = sorted_by(depth)
    edges = np.searchsorted(depth[by_depth], np.arange(int(depth.max(initial=-1)) + 2))
    for one, other in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
        level = by_depth[one:other]
        place[level] = step[level] + (np.where(parent[level] < 0, -1, place[parent[level]]) + 1)
    found = np.empty(len(pages), dtype=np.int64)
    found[place] = pages
    return found


def sorted_siblings(site: SiteModel, pages: Iterable[int]) -> list[int]:
    """A few pages under one page, as the menu sorts them."""
    order, home = site.details.order, site.details.home

    def key(page: int) -> tuple[float, str]:
        comes_first = page == home and not np.isfinite(order[page])
        return -np.inf if comes_first else float(order[page]), site.tree.paths[page]

    return sorted(pages, key=key)


def _order(site: SiteModel) -> NDArray[np.float64]:
    """The `order` of each page; a home page without one is before all others. float64[pages]"""
    home, order = site.details.home, site.details.order
    if home < 0 or np.isfinite(order[home]):
        return order
    order = order.copy()
    order[home] = -np.inf
    return order


def _tails(site: SiteModel, pages: Pages) -> Texts:
    """The paths, without what all of a page's siblings share because it is their parent's path."""
    tree = site.tree
    paths, parent = tree.paths.take(pages), tree.parent[pages]
    above = tree.paths.take(np.maximum(parent, 0))
    shared = np.where(parent < 0, 0, above.end - above.start)
    longer = np.flatnonzero(paths.end - paths.start > shared)
    begins = np.zeros(len(pages), dtype=bool)
    begins[longer] = above.same(longer, paths.take(longer), (paths.start + shared)[longer])
    is_odd = np.zeros(len(tree) + 1, dtype=bool)
    is_odd[parent[~begins]] = True  # the last means no parent
    return Texts(paths.data, paths.start + np.where(is_odd[parent], 0, shared), paths.end)


def text_keys(texts: Texts) -> list[NDArray[np.uint64]]:
    """Numbers that sort texts by their characters, the most important first. Each uint64[texts]"""
    length = texts.end - texts.start
    keys = []
    for offset in range(0, int(length.max(initial=0)), _WORD):
        left = np.flatnonzero(length > offset)
        words = windows(texts.data, texts.start[left] + offset, _WORD).ravel().byteswap()
        past_end = np.clip(_WORD - (length[left] - offset), 0, _WORD - 1).astype(np.uint64) * np.uint64(8)
        key = np.zeros(len(texts), dtype=np.uint64)
        key[left] = words >> past_end << past_end
        keys.append(key)
    return keys
