"""The menu: which pages stand in it, in which order, how deep, and who cuts off whom."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from .menu_order import menu_order


class Menu(NamedTuple):
    """The menu of a site.

    Attributes
    ----------
    shown : bool[pages]
        Live, `menu.show`, and so for all ancestors but the home page.
    cutter : int32[pages]
        The nearest ancestor, the home page aside, that is hidden or a draft; -1: none.
    level : int32[pages]
        How many ancestors a page has, the home page aside: 0 in the top menu.
    """

    shown: Mask
    cutter: Codes
    level: Codes

    def entries(self, site: SiteModel) -> NDArray[np.int64]:
        """The pages in the menu, as it lists them. int64[n]"""
        pages = menu_order(site)
        return pages[self.shown[pages]]


def menu_of(effective: EffectiveModel) -> Menu:
    """The menu.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> menu = menu_of(effective)
    >>> top = [page for page in menu.entries(effective.site).tolist() if menu.level[page] == 0]
    >>> effective.site.tree.paths[top[1]]
    '/visit'
    """
    site = effective.site
    stands = is_yes(effective, "menu.show") & site.facts.live
    cutter = nearest_above(site, ~stands)
    return Menu(stands & (cutter < 0), cutter, levels(site))


def is_yes(effective: EffectiveModel, setting: str) -> Mask:
    """Where a flag is yes. bool[pages]"""
    return effective.where(setting, lambda value: value is True)


def nearest_above(site: SiteModel, holds: Mask) -> Codes:
    """For each page the nearest ancestor, the home page aside, of which something holds; -1: none. int32[pages]"""
    home = site.facts.home
    if home >= 0 and holds[home]:
        holds = holds.copy()
        holds[home] = False
    return site.tree.nearest_above(holds)


def levels(site: SiteModel) -> Codes:
    """How many ancestors each page has, the home page aside. int32[pages]"""
    level = site.tree.depth.copy()
    home = site.facts.home
    if home >= 0:
        level[home + 1 : int(site.tree.end[home])] -= 1
    return level
