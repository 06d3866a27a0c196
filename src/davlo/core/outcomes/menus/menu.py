"""The menu: which pages it lists, in which order, how deep, and what hides the others."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...arrays.grouping import run_edges, sorted_by
from ...resolve.effective import EffectiveModel
from ...site.model import SiteModel
from ..placeholders import sections
from .menu_order import menu_order

Pages = NDArray[np.int64]


class MenuEntries(NamedTuple):
    """What one menu lists."""

    pages: Pages  # int64[n]: in the order of the menu
    level: Pages  # int64[n]: how many entries are above each, the home page aside: 0 in the top menu


class Menu(NamedTuple):
    """The menu of a site; where the site lists languages, each has a menu of its own."""

    # bool[pages]: whether a page is an entry in the menu of its language; of a page without a language, in all menus
    shown: Mask
    cutter: Codes  # int32[pages]: the nearest ancestor, the home page aside, that is hidden or a draft; -1: none

    def entries(
        self, site: SiteModel, language: str = "", visible: Mask | None = None, order: Pages | None = None
    ) -> MenuEntries:
        """The entries of one menu.

        `language`: whose menu it is; empty: that of the site's first language. `visible`: bool[pages]: the pages that
        whoever reads it may view; all of them unless given. `order`: int64[pages]: `menu_order` of the site, if it is
        known.
        """
        listed = self.shown & of_language(site, language)
        level = entries_above(site, np.flatnonzero(listed))
        pages = menu_order(site) if order is None else order
        pages = _home_in_its_place(site, pages[listed[pages]], level)
        if visible is not None:
            pages = pages[visible[pages]]
        return MenuEntries(pages, level[pages])


def menu_of(effective: EffectiveModel) -> Menu:
    """The menu.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> found = menu_of(effective).entries(effective.site, "fr")
    >>> effective.site.tree.paths.take(found.pages).tolist()[:2], found.level.tolist()[:2]
    (['/fr', '/fr/agenda'], [0, 1])
    """
    site = effective.site
    stands = is_yes(effective, "menu.show") & (site.details.live | site.details.folder)
    cutter = nearest_above(site, ~stands)
    return Menu(stands & (cutter < 0) & ~site.details.leads_away, cutter)


class MenuPlaces(NamedTuple):
    """Where each page stands in the menu of its language; a page without a language, in that of the first."""

    above: Codes  # int32[pages]: the entry above it; -1 at the top, or if it is no entry
    level: Codes  # int32[pages]: 1 in the top menu; 0 if it is no entry
    position: Codes  # int32[pages]: its place among entries of its level under the same one, from 1; 0: no entry


def menu_places(site: SiteModel, menu: Menu, order: Pages, visible: Mask) -> MenuPlaces:
    """Where each page stands in the menu, of which somebody meets the pages that are `visible`: bool[pages].

    `order`: int64[pages]: `menu_order` of the site.

    Example
    -------
    >>> import davlo
    >>> outcomes = davlo.open_demo().resolve().outcomes
    >>> found = menu_places(outcomes.site, outcomes.menu, outcomes.order, outcomes.visible)
    >>> [int(column[outcomes.site.page_number("/visit/tickets")]) for column in found[1:]]
    [2, 1]
    """
    above, level, position = np.zeros((3, len(site.tree)), dtype=np.int32)
    above[:] = -1
    languages = site.languages or ("",)
    for language in languages:
        mine = of_language(site, language)
        if language != languages[0]:
            mine = mine & site.details.language.mask([language])
        pages, depth = menu.entries(site, language, visible, order)
        listed = np.zeros(len(site.tree), dtype=bool)
        listed[pages] = True
        nearest = nearest_above(site, listed)[pages]
        first = sorted_by(nearest, depth)  # siblings: of one level, under one entry
        edges = run_edges(nearest[first], depth[first])
        place = np.empty(len(pages), dtype=np.int32)
        place[first] = np.arange(len(pages)) - np.repeat(edges[:-1], np.diff(edges)) + 1
        some = mine[pages]
        above[pages[some]], position[pages[some]] = nearest[some], place[some]
        level[pages[some]] = depth[some] + 1
    return MenuPlaces(above, level, position)


def entries_above(site: SiteModel, entries: Pages) -> Pages:
    """How many of some pages, the home page aside, are above each page. int64[pages]"""
    entries = entries[entries != site.details.home]
    opens = np.zeros(len(site.tree) + 1, dtype=np.int64)
    np.add.at(opens, entries + 1, 1)
    np.add.at(opens, site.tree.end[entries], -1)
    level: Pages = np.cumsum(opens)[:-1]
    return level


def of_language(site: SiteModel, language: str = "") -> Mask:
    """The pages of a language's readers: its own pages, and those without a language that the site lists. bool[pages]

    An empty language is the site's first. Where the site lists none, all pages are for everybody.
    """
    column = site.details.language
    wanted = language if language in site.languages else (*site.languages, "")[0]
    return column.where([word == wanted or word not in site.languages for word in column.words])


def is_yes(effective: EffectiveModel, setting: str) -> Mask:
    """Where a flag is yes. bool[pages]"""
    return effective.column(setting).where(lambda value: value is True)


def nearest_above(site: SiteModel, holds: Mask) -> Codes:
    """For each page the nearest ancestor, the home page aside, of which something holds; -1: none. int32[pages]"""
    home = site.details.home
    if home >= 0 and holds[home]:
        holds = holds.copy()
        holds[home] = False
    return site.tree.nearest_above(holds)


def _home_in_its_place(site: SiteModel, pages: Pages, level: Pages) -> Pages:
    """Entries in order, with a home page that has an `order` among the others of the top menu, not before them.

    An entry without an entry above it stands where its outermost ancestor would.
    """
    home, order = site.details.home, site.details.order
    if home < 0 or not np.isfinite(order[home]) or site.tree.parent[home] >= 0 or home not in pages:
        return pages
    others = pages[pages != home]
    outer = sections(site)[others]
    key, paths = (order[home], site.tree.paths[home]), site.tree.paths
    after = (at for at, one in enumerate(outer.tolist()) if level[others[at]] == 0 and (order[one], paths[one]) > key)
    return np.insert(others, next(after, len(others)), home)
