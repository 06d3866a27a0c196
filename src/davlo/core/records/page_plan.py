"""A page as its layout draws it: where each area is, how wide it is, what it holds and where that came from."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..outcomes.area_fits import LEFT, RIGHT, is_column
from ..outcomes.areas import (
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
from ..outcomes.page_outcomes import Outcomes
from ..outcomes.placeholders import filled_on
from ..outcomes.shown_things import NOTHING, ShownThings
from ..resolve.effective import EffectiveModel
from ..site.declarations import ALL_SCREENS, Instead, Look
from ..site.people import VISITOR
from ..site.settings.scopes import BUILT_IN_SCOPE
from ..site.source import Source, source_of

ABOVE, MIDDLE, BELOW = "above", "middle", "below"
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
    viewer: str  # who meets it
    is_viewed: bool  # whether the viewer may view the page


def plan(effective: EffectiveModel, page: int, viewer: str = VISITOR, shown_things: ShownThings | None = None) -> Plan:
    """A page as its layout draws it, with what a viewer meets in its blocks.

    `shown_things`: what this viewer meets in areas, where several pages are planned: a block is read once then.

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
    outcomes = effective.shared(Outcomes)
    sight, site = _Sight(effective, page, shown_things or ShownThings(outcomes, viewer)), effective.site
    made = sight.made
    chosen = {name: source for name in CHOSEN if (source := sight.source(name))}
    if made.layout and sight.value.word("layout.width") == AS_LAYOUT:
        chosen["layout.width"] = sight.layout_source()
    areas = sight.areas() if made.layout else ()
    return Plan(
        site.tree.paths[page],
        site.details.title[page],
        outcomes.titles[page] if shown_things else filled_on(effective, "title.pattern", page),
        made.layout.name if made.layout else "",
        made.theme.name if made.theme else "",
        made.width,
        chosen,
        PAGE_WIDTHS.get(made.width, 0),
        areas,
        made.phone,
        sight.placeless(tuple(area.area for area in areas)) if made.layout else (),
        viewer,
        "view" in outcomes.access.actions(viewer, page),
    )


class _Sight:
    """What one page's layout, areas and looks come to."""

    def __init__(self, effective: EffectiveModel, page: int, shown: ShownThings) -> None:
        self.effective, self.page, self.site = effective, page, effective.site
        self.made = composition(effective, page)
        self._outcomes, self._shown = effective.shared(Outcomes), shown
        self._language = self.site.details.language[page] if self.site.languages else ""
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
        if kind == OWN_CONTENT:
            return Thing(kind, name, source)
        blocks = [self._shown.block(one, self._language) for one in blocks_in(self.site, kind, name)]
        return Thing(kind, name, source, tuple((one.block, one.contents if one else NOTHING) for one in blocks))


def _share(look: Look | None) -> float:
    return look.width / 100 if look and look.width is not None else SHARE


def _side(area: str, before: bool) -> str:
    words = area.replace(".", "-").split("-")
    if (LEFT in words) != (RIGHT in words):
        return LEFT if LEFT in words else RIGHT
    return LEFT if before else RIGHT
