"""The outcomes of a site, each for all pages at once, worked out when it is first asked for."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Column, Mask, distinct
from ..arrays.texts import Texts
from ..cached import cached_property
from ..fixed import Fixed
from ..resolve.effective import EffectiveModel
from ..site.people import VISITOR
from .access.access_model import AccessModel
from .menus.menu import Menu, is_yes, menu_of
from .menus.menu_order import menu_order
from .placeholders import HEADING, document_titles, filled, heading_texts, menu_labels
from .sitemap.sitemap_reasons import sitemap_codes


class Outcomes(Fixed):
    """The outcomes of a site.

    Example
    -------
    >>> import davlo
    >>> outcomes = davlo.open_demo().resolve().outcomes
    >>> outcomes.not_in_menu[outcomes.site.page_number("/visit/thanks")]
    'menu.show is no'
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site

    @cached_property
    def titles(self) -> Column:
        """The document title of every page."""
        return document_titles(self.effective)

    @cached_property
    def labels(self) -> Column:
        """What the menu calls every page."""
        return menu_labels(self.effective)

    @cached_property
    def heading_texts(self) -> Column:
        """What the heading of every page says, whether it is shown or not."""
        return heading_texts(self.effective)

    @cached_property
    def headings(self) -> Column:
        """What the heading of every page says; empty where `heading.show` is no."""
        return self._where_shown(self.heading_texts, slice(None))

    @cached_property
    def menu(self) -> Menu:
        """Which pages stand in the menu, how deep, and who cuts off whom."""
        return menu_of(self.effective)

    @cached_property
    def order(self) -> NDArray[np.int64]:
        """The pages as the menu sorts them. int64[pages]"""
        return menu_order(self.site)

    @cached_property
    def sitemap(self) -> Codes:
        """For each page a code into `SITEMAP_REASONS`, 0 where it is listed. int32[pages]"""
        return sitemap_codes(self.effective, self.access)

    @cached_property
    def visible(self) -> Mask:
        """The pages that a visitor may view. bool[pages]"""
        return self.access.may(VISITOR, "view")

    @cached_property
    def access(self) -> AccessModel:
        """Who may do what."""
        return self.effective.shared(AccessModel)

    @cached_property
    def not_in_menu(self) -> Column:
        """Why a page is not in the menu; empty where it is."""
        details, menu = self.site.details, self.menu
        asks = is_yes(self.effective, "menu.show")
        first, which = distinct(menu.cutter.astype(np.int64))
        above = self.site.tree.paths.take(np.maximum(menu.cutter[first], 0)).tolist()
        words = ["", "it is a draft", "it only leads elsewhere (leads_to)", "menu.show is no"]
        codes = np.select([menu.shown, details.draft, details.leads_away, ~asks], range(len(words)), which + len(words))
        cut = (f"cut off by {path}, which is not shown itself" for path in above)
        return Column(codes.astype(np.int32), [*words, *cut])

    def texts(self, setting: str, pages: NDArray[np.int64] | None = None) -> Column:
        """What `title.pattern`, `heading.text` or `menu.label` comes to on all pages or on some.

        The heading is empty where `heading.show` is no. `pages`: int64[n].
        """
        name = {"title.pattern": "titles", HEADING: "headings", "menu.label": "labels"}[setting]
        if pages is None or name in self.__dict__:  # filled for all pages already
            found: Column = getattr(self, name)
            return found if pages is None else found.take(pages)
        found = filled(self.effective, setting, pages)
        return self._where_shown(found, pages) if setting == HEADING else found

    def _where_shown(self, headings: Column, pages: NDArray[np.int64] | slice) -> Column:
        """Headings of some pages, empty where `heading.show` is no."""
        shown, texts = is_yes(self.effective, "heading.show")[pages], Texts.of_column(headings)
        return Column(headings.codes, Texts(texts.data, texts.start, np.where(shown, texts.end, texts.start)))
