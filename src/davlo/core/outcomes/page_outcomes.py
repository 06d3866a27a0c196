"""All outcomes of a site, and those of one page; each is worked out when it is first asked for."""

from __future__ import annotations

from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Column, Mask, distinct
from ..arrays.texts import Texts
from ..fixed import Fixed
from ..resolve.effective import EffectiveModel
from ..site.people import VISITOR
from .access.access_model import AccessModel
from .areas import Composition, composition, headings_of
from .menus.menu import Menu, is_yes, menu_of
from .menus.menu_order import menu_order
from .placeholders import HEADING, document_titles, filled_on, heading_texts, menu_labels
from .sitemap.sitemap_reasons import SITEMAP_REASONS, sitemap_codes


class PageOutcomes(NamedTuple):
    """What readers and search engines see on a page.

    Attributes
    ----------
    title : str
        The document title.
    heading : str
        What the page's heading says; empty where `heading.show` is no.
    label : str
        What the menu calls the page.
    in_menu, in_sitemap : bool
    not_in_menu, not_in_sitemap : str
        Why not; empty where it is.
    composition : Composition
        What its areas hold.
    headings : tuple of str
        What provides a heading there: `heading.text`, where the heading says something, and the blocks that show
        on the page and say `provides: heading`.
    visitor_may_view : bool
    """

    title: str
    heading: str
    label: str
    in_menu: bool
    not_in_menu: str
    in_sitemap: bool
    not_in_sitemap: str
    composition: Composition
    headings: tuple[str, ...] = ()
    visitor_may_view: bool = True


class Outcomes(Fixed):
    """The outcomes of a site.

    Example
    -------
    >>> import davlo
    >>> outcomes = davlo.open_demo().resolve().outcomes
    >>> outcomes.of("/visit/thanks").not_in_menu
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
        found, shown = self.heading_texts, is_yes(self.effective, "heading.show")
        texts = Texts.of_column(found)
        return Column(found.codes, Texts(texts.data, texts.start, np.where(shown, texts.end, texts.start)))

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

    def fill(self) -> None:
        """Fill the texts of all pages at once, for callers that ask page by page."""
        _ = self.titles, self.headings, self.labels

    def of(self, page: str | int) -> PageOutcomes:
        """The outcomes of one page, named by its path or its number.

        Raises
        ------
        UnknownName
            If there is no such page.
        """
        number = self.effective.page_number(page) if isinstance(page, str) else page
        reason = int(self.sitemap[number])
        found, heading = composition(self.effective, number), self._heading(number)
        return PageOutcomes(
            self._filled("titles", "title.pattern", number),
            heading,
            self._filled("labels", "menu.label", number),
            bool(self.menu.shown[number]),
            self.not_in_menu[number],
            reason == 0,
            SITEMAP_REASONS[reason],
            found,
            self._headings(heading, found),
            bool(self.visible[number]),
        )

    def _heading(self, page: int) -> str:
        """What the heading of one page says."""
        return self._filled("headings", HEADING, page) if is_yes(self.effective, "heading.show")[page] else ""

    def _headings(self, heading: str, found: Composition) -> tuple[str, ...]:
        """What provides a heading on a page."""
        providing = [name for area in found.areas for name in headings_of(self.site, area)]
        return (*((HEADING,) if heading.strip() else ()), *dict.fromkeys(providing))

    def _filled(self, known: str, setting: str, page: int) -> str:
        """A text of one page, from the texts of all pages if these are filled already."""
        column: Column | None = self.__dict__.get(known)
        return filled_on(self.effective, setting, page) if column is None else column[page]
