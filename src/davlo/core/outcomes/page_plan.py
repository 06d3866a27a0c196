"""A page as its layout draws it: where each area is, how wide it is, what it holds and where that came from."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..resolve.effective import EffectiveModel
from ..site.declarations import ALL_SCREENS, Block, Instead, Look
from ..site.model import SiteModel
from ..site.settings.scopes import BUILT_IN_SCOPE
from ..site.source import Source, source_of
from .areas import (
    AS_LAYOUT,
    BAND,
    BLOCK,
    CONTENT,
    LAYOUT_BLOCK,
    OWN_CONTENT,
    SIDEBAR,
    PageValue,
    blocks_in,
    composition,
)
from .menus.block_links import menu_links
from .page_outcomes import Outcomes
from .placeholders import filled, filled_on

ABOVE, LEFT, MIDDLE, RIGHT, BELOW = "above", "left", "middle", "right", "below"
HEADING = "heading"
SCREENS = {"wide": 1280, "tablet": 768, "phone": 360}
"""The screens that a page is planned for, and how many pixels wide they are."""
SCREEN = SCREENS["wide"]
PAGE_WIDTHS = {"narrow": 800, "medium": 1040, "full": SCREEN}
"""The pixels that each width takes of a wide screen."""
SHARE = 0.25
"""The part of the page that a column takes if its look says no width."""
LEAST_MIDDLE = 0.1
"""The part of the page that columns leave to the content, however wide their looks are."""
CHOSEN = ("layout.name", "layout.theme", "layout.width", "layout.phone-order")


class Thing(NamedTuple):
    """One thing that stands in an area."""

    kind: str  # `band`, `sidebar`, `layout block`, `block`, `own content`, or `heading`
    name: str
    # the statement that put it there; of a layout's block the layout. None: the page's own content.
    source: Source | None
    # the blocks of a band or a sidebar, or the block itself, with what a reader sees in them
    inside: tuple[tuple[str, str], ...] = ()
    screens: tuple[str, ...] = ALL_SCREENS  # where it is shown


class PlannedArea(NamedTuple):
    """One area of a page."""

    area: str
    side: str  # `above` and `below` the content, over the whole width; `left` and `right` of it; or `middle`
    share: float  # the part of the page's width that it takes, 0 to 1
    theme_name: str  # the theme's own name for it; empty where it does not show it
    instead: Instead  # what the theme shows then
    things: tuple[Thing, ...]  # what it holds, in order
    look: Look | None = None  # how its sidebar and its band look
    look_source: Source | None = None


class Plan(NamedTuple):
    """A page as its layout draws it."""

    path: str
    title: str
    document_title: str
    layout: str  # their names; empty where there is none
    theme: str  # their names; empty where there is none
    width: str  # their names; empty where there is none
    # where these came from, by the settings `CHOSEN`; a width as the layout has it came from the layout
    chosen: dict[str, Source]
    pixels: int  # how wide the page is on a screen of 1280
    areas: tuple[PlannedArea, ...]  # in the layout's order; none without a layout
    phone: tuple[str, ...]  # the areas from top to bottom on a phone
    placeless: tuple[tuple[str, Thing], ...]  # what is said for areas that the layout lacks, and so is not there


def plan(effective: EffectiveModel, page: int) -> Plan:
    """A page as its layout draws it.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> found = plan(effective, effective.site.tree.number("/visit/tickets"))
    >>> [(area.area, area.side, area.share) for area in found.areas][1:4]
    [('menu', 'above', 1.0), ('content', 'middle', 0.72), ('right', 'right', 0.28)]
    >>> str(found.areas[3].things[0].source)
    'below /visit, davlo.yaml:79'
    """
    sight, site = _Sight(effective, page), effective.site
    made = sight.made
    chosen = {name: source for name in CHOSEN if (source := sight.source(name))}
    if made.layout and sight.value.word("layout.width") == AS_LAYOUT:
        chosen["layout.width"] = sight.layout_source()
    areas = sight.areas() if made.layout else ()
    return Plan(
        site.tree.paths[page],
        site.details.title[page],
        filled_on(effective, "title.pattern", page),
        made.layout.name if made.layout else "",
        made.theme.name if made.theme else "",
        made.width,
        chosen,
        PAGE_WIDTHS.get(made.width, 0),
        areas,
        made.phone,
        sight.placeless(tuple(area.area for area in areas)) if made.layout else (),
    )


def is_column(site: SiteModel, area: str) -> bool:
    """Whether an area lies beside the content: its name says left or right, or sidebars are put there and no bands fit.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> is_column(site, "left"), is_column(site, "footer")
    (True, False)
    """
    if area == CONTENT:
        return False
    if {LEFT, RIGHT} & set(area.replace(".", "-").split("-")):
        return True
    given = site.statements.words[site.setting_number(f"sidebar.{area}")].items  # what statements say, for any page
    banded = any(area in band.fits for band in site.declarations.bands.values())
    return not banded and any(word is not None for word in given)


class _Sight:
    """What one page's layout, areas and looks come to."""

    def __init__(self, effective: EffectiveModel, page: int) -> None:
        self.effective, self.page, self.site = effective, page, effective.site
        self.made = composition(effective, page)
        self._outcomes = effective.shared(Outcomes)
        self.value = PageValue(effective, page)

    def source(self, setting: str) -> Source | None:
        """Where the page's value came from; None where it does not have the setting."""
        number = self.site.catalogue.find(setting)
        if number is None or not self.site.has_by_type[number, int(self.site.details.type_of[self.page])]:
            return None
        return source_of(self.site, int(self.effective.resolved(number).source[self.page]))

    def layout_source(self) -> Source:
        """The layout as a source."""
        assert self.made.layout
        place = self.made.layout.place
        return Source(BUILT_IN_SCOPE, place.file, place.line, layout=self.made.layout.name)

    def areas(self) -> tuple[PlannedArea, ...]:
        """The areas of the layout, with their places."""
        names = [content.area for content in self.made.areas]
        columns = [name for name in names if is_column(self.site, name)]
        middle = next((i for i, name in enumerate(names) if name == CONTENT or name in columns), len(names))
        middle = names.index(CONTENT) if CONTENT in names else middle
        looks = {area.area: self.site.declarations.looks.get(area.look) for area in self.made.areas}
        shares = {name: _share(self._look_of(name)) for name in columns}
        beyond = sum(shares.values()) / (1 - LEAST_MIDDLE)
        if beyond > 1:
            shares = {name: share / beyond for name, share in shares.items()}
        found = []
        for place, content in enumerate(self.made.areas):
            name, look = content.area, looks.get(content.area)
            if name in columns:
                side, share = _side(name, place < middle), shares[name]
            elif name == CONTENT:
                side, share = MIDDLE, round(1 - sum(shares.values()), 4)
            else:
                side, share = ABOVE if place < middle else BELOW, 1.0
            theme_name = content.theme_name
            things = self._things(name, content.stands, content.screens)
            source = self.source(f"look.{name}") if look else None
            found.append(PlannedArea(name, side, share, theme_name, content.instead, things, look, source))
        return tuple(found)

    def _look_of(self, area: str) -> Look | None:
        """The look that is set for an area, whether anything stands there or not."""
        return self.site.declarations.looks.get(self.value.word(f"look.{area}"))

    def placeless(self, areas: tuple[str, ...]) -> tuple[tuple[str, Thing], ...]:
        """The lines about areas that the layout lacks."""
        found = []
        for area in self.site.declarations.areas():
            if area in areas:
                continue
            for kind in (BAND, SIDEBAR):
                name = self.value.word(f"{kind}.{area}")
                if name:
                    found.append((area, self._thing(kind, name, self._of(kind, area))))
            blocks = self.value(f"blocks.{area}")
            names = blocks if isinstance(blocks, tuple) else ()
            found += [(area, self._thing(BLOCK, name, self._of("blocks", area))) for name in names]
        return tuple(found)

    def _things(self, area: str, stands: tuple[tuple[str, str], ...], screens: tuple[str, ...]) -> tuple[Thing, ...]:
        found = []
        for kind, name in stands:
            source: Source | None
            if kind == LAYOUT_BLOCK:
                source = self.layout_source()
            elif kind == OWN_CONTENT:
                source = None
            else:
                source = self._of("blocks" if kind == BLOCK else kind, area)
            thing = self._thing(kind, name, source)
            found.append(thing._replace(screens=screens) if kind in (SIDEBAR, BAND) else thing)
        heading = self.source("heading.show")
        if area == CONTENT and heading and self.value("heading.show") is True:
            found.insert(0, Thing(HEADING, self._outcomes.texts("heading.text", np.array([self.page]))[0], heading))
        return tuple(found)

    def _of(self, family: str, area: str) -> Source | None:
        return self.source(f"{family}.{area}")

    def _thing(self, kind: str, name: str, source: Source | None) -> Thing:
        declared = self.site.declarations
        if kind == OWN_CONTENT:
            return Thing(kind, name, source)
        blocks = [declared.blocks[block] for block in blocks_in(self.site, kind, name)]
        return Thing(kind, name, source, tuple((block.name, self._words(block)) for block in blocks))

    def _words(self, block: Block) -> str:
        """What a visitor sees in a block, in a few words."""
        if block.kind != "menu":
            return block_words(block)
        outcomes = self._outcomes
        language = self.site.details.language[self.page]
        entries = menu_links(self.site, outcomes.menu, block, language, outcomes.visible).pages
        return ", ".join(filled(self.effective, "menu.label", entries).texts()) or "no entries"


def _share(look: Look | None) -> float:
    return look.width / 100 if look and look.width is not None else SHARE


def _side(area: str, before: bool) -> str:
    words = area.replace(".", "-").split("-")
    if (LEFT in words) != (RIGHT in words):
        return LEFT if LEFT in words else RIGHT
    return LEFT if before else RIGHT


def block_words(block: Block) -> str:
    """What a reader sees in a block, in a few words.

    Example
    -------
    >>> import davlo
    >>> block_words(davlo.open_demo().declarations.blocks["donate"])
    'one of donate-tree, donate-bulbs'
    """
    if block.kind == "branch-links":
        return f"links to what is below {block.under}"
    if block.kind == "menu":
        return f"the menu below {block.under}" if block.under else "the menu"
    if block.kind == "links":
        return ", ".join(block.links)
    if block.kind == "one-of":
        return "one of " + ", ".join(block.blocks)
    return block.text
