"""What each area of a page holds, what the theme calls it, and in which order a phone shows the areas."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codebook, Column, Mask, words_where
from ..resolve.effective import EffectiveModel
from ..site.declarations import ALL_SCREENS, NOTHING, Instead, Layout, Theme
from ..site.model import SiteModel
from ..site.settings.values import Value

BAND, SIDEBAR, LAYOUT_BLOCK, BLOCK, OWN_CONTENT = "band", "sidebar", "layout block", "block", "own content"
CONTENT = "content"
AS_LAYOUT = "as-layout"
FEW_WORDS = 1 << 15
OF_AREAS = ("layout.", "sidebar.", "band.", "look.", "blocks.", "declarations")
"""What the contents of areas depend on: families of settings, and words of `SameParts`."""


class Standing(NamedTuple):
    """What one area holds, on every page."""

    area: str
    there: Mask  # bool[pages]: where the page's layout has the area
    # `layout`, `band`, `sidebar`, `look`, `blocks`: int16[pages]: codes of the words of `layout.name` and of the area's
    # settings; -1 where the page does not have the setting, or its layout lacks the area
    layout: NDArray[np.signedinteger]
    band: NDArray[np.signedinteger]
    sidebar: NDArray[np.signedinteger]
    look: NDArray[np.signedinteger]
    blocks: NDArray[np.signedinteger]


def standing(effective: EffectiveModel, area: str) -> Standing:
    """What an area holds, on every page.

    Example
    -------
    >>> import davlo
    >>> found = standing(davlo.open_demo().resolve(), "right")
    >>> int(found.there.sum()) > 100, bool((found.sidebar[~found.there] == -1).all())
    (True, True)
    """
    site = effective.site
    layout = codes_where(effective, "layout.name", None)
    layouts, names = site.declarations.layouts, effective.column("layout.name").words
    there: Mask = words_where(names, lambda name: isinstance(name, str) and area in layouts[name].decided_areas)[layout]
    families = ("band", "sidebar", "look", "blocks")
    columns = [codes_where(effective, f"{family}.{area}", there) for family in families]
    return Standing(area, there, np.where(there, layout, -1).astype(layout.dtype), *columns)


def not_shown(effective: EffectiveModel, area: str) -> Column:
    """For each page, why what is set for an area is not shown; code 0, and empty, if it is shown.

        Its layout lacks the area, or its theme has no place for it.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> not_shown(effective, "right")[effective.page_number("/campaigns")]
    'the layout plain has no area right'
    """
    declared, words = effective.site.declarations, Codebook([""])

    def of_theme(name: Value) -> str:
        if not isinstance(name, str) or declared.themes[name].name_of(area):
            return ""
        instead = declared.themes[name].instead_of(area).words
        return f"the theme {name} has no place for the area {area}: it {instead}"

    def of_layout(name: Value) -> str:
        if not isinstance(name, str):
            return "the page has no layout"
        if area in declared.layouts[name].filled_elsewhere:
            return f"the layout {name} leaves the area {area} to the site's program"
        return f"the layout {name} has no area {area}" if declared.layouts[name].lacks(area) else ""

    codes = []
    for setting, why in (("layout.theme", of_theme), ("layout.name", of_layout)):
        found = effective.column(setting)
        codes.append(np.array([words.code(why(word)) for word in found.words], dtype=np.int32)[found.value])
    theme, layout = codes
    return Column(np.where(layout > 0, layout, theme), words.items)


def on_no_screen(effective: EffectiveModel, area: str) -> Column:
    """For each page, why a sidebar or band in an area shows on no screen; code 0, and empty, if its look allows one."""
    found, words = effective.column(f"look.{area}"), Codebook([""])
    hidden = {name for name, look in effective.site.declarations.looks.items() if not look.shows_on}
    codes = [words.code(f"the look {name} shows it on no screen" if name in hidden else "") for name in found.words]
    has = effective.site.has(effective.site.setting_number(f"look.{area}"))
    return Column(np.where(has, np.array(codes, dtype=np.int32)[found.value], 0).astype(np.int32), words.items)


def codes_where(effective: EffectiveModel, name: str, there: Mask | None) -> NDArray[np.signedinteger]:
    """The codes of a setting's values; -1 where a page does not have it, or not `there`. int16 or int32[pages]"""
    number = effective.site.setting_number(name)
    has = effective.site.has(number)
    resolved = effective.resolved(number)
    found = np.where(has if there is None else has & there, resolved.value, -1)
    return found.astype(np.int16 if len(resolved.words) < FEW_WORDS else np.int32)


class AreaContent(NamedTuple):
    """What one area of a page holds."""

    area: str
    theme_name: str  # the theme's own name for the area; empty where it does not show it
    instead: Instead  # what the theme shows instead of an area that it has no place for
    stands: tuple[tuple[str, str], ...]  # in order: the band, the sidebar, the layout's own blocks, the page's blocks
    look: str = ""  # how the sidebar and the band look, where one stands there and a look is set
    screens: tuple[str, ...] = ALL_SCREENS  # on which screens they are shown


class Composition(NamedTuple):
    """What a page is made of.

    Attributes
    ----------
    layout : Layout, or None
        With `layout.name` none there is nothing to say: no areas.
    theme : Theme, or None
    width : str
        `narrow`, `medium` or `full`.
    areas : tuple of AreaContent
        In the layout's order.
    phone : tuple of str
        The areas from top to bottom on a phone.
    """

    layout: Layout | None
    theme: Theme | None
    width: str
    areas: tuple[AreaContent, ...]
    phone: tuple[str, ...]


def composition(effective: EffectiveModel, page: int) -> Composition:
    """What a page is made of.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> found = composition(effective, effective.site.tree.number("/visit/tickets"))
    >>> found.layout.name, found.width, found.areas[3].stands
    ('two-column', 'medium', (('sidebar', 'visit-planning'),))
    """
    value, declarations = PageValue(effective, page), effective.site.declarations
    layout, theme = (
        declarations.layouts.get(value.word("layout.name")),
        declarations.themes.get(value.word("layout.theme")),
    )
    if layout is None:
        return Composition(None, theme, "", (), ())
    width = value.word("layout.width")
    width = layout.width if width in ("", AS_LAYOUT) else width
    areas = tuple(area_content(effective.site, value, layout, theme, area) for area in layout.decided_areas)
    said = value("layout.phone-order")
    return Composition(
        layout, theme, width, areas, phone_order(layout.decided_areas, said if isinstance(said, tuple) else ())
    )


def area_content(site: SiteModel, value: PageValue, layout: Layout, theme: Theme | None, area: str) -> AreaContent:
    """What one area of a page's layout holds."""
    stands: list[tuple[str, str]] = []
    band, sidebar = value.word(f"band.{area}"), value.word(f"sidebar.{area}")
    stands += [(BAND, band)] if band else []
    stands += [(SIDEBAR, sidebar)] if sidebar else []
    stands += [(LAYOUT_BLOCK, block) for block in layout.blocks.get(area, ())]
    stands += [(OWN_CONTENT, "")] if area == CONTENT and layout.own_content else []
    blocks = value(f"blocks.{area}")
    stands += [(BLOCK, block) for block in blocks] if isinstance(blocks, tuple) else []
    name = theme.name_of(area) if theme else area
    instead = NOTHING if name or theme is None else theme.instead_of(area)
    look = value.word(f"look.{area}") if sidebar or band else ""
    return AreaContent(area, name, instead, tuple(stands), look, screens(site, look))


def blocks_in(site: SiteModel, kind: str, name: str) -> tuple[str, ...]:
    """The blocks of one thing that stands in an area: those of a band or a sidebar, or the block itself."""
    if kind == BAND:
        return site.declarations.bands[name].blocks
    if kind == SIDEBAR:
        return site.declarations.sidebars[name].blocks
    return () if kind == OWN_CONTENT else (name,)


def headings_of(site: SiteModel, area: AreaContent) -> list[str]:
    """The blocks shown in an area that provide a heading, in their order; also those that a `one-of` may show."""
    if area.theme_name:
        shown = [one for one in area.stands if area.screens or one[0] not in (BAND, SIDEBAR)]
        blocks = [block for kind, name in shown for block in blocks_in(site, kind, name)]
    else:
        blocks = [area.instead.block] if area.instead.block else []
    return [name for name in _with_choices(site, blocks) if "heading" in site.declarations.blocks[name].provides]


def _with_choices(site: SiteModel, blocks: Iterable[str]) -> Iterator[str]:
    """Blocks, each followed by those of which it shows one."""
    for name in blocks:
        yield name
        yield from _with_choices(site, site.declarations.blocks[name].blocks)


def screens(site: SiteModel, look: str) -> tuple[str, ...]:
    """The screens on which a sidebar or a band of a look is shown."""
    declared = site.declarations.looks.get(look)
    return declared.shows_on if declared else ALL_SCREENS


def phone_order(areas: tuple[str, ...], said: tuple[str, ...]) -> tuple[str, ...]:
    """The areas of a layout from top to bottom on a phone: those that are said, then the others as the layout has them.

    Example
    -------
    >>> phone_order(("masthead", "content", "right"), ("right", "left"))
    ('right', 'masthead', 'content')
    """
    first = [area for area in said if area in areas]
    return (*first, *(area for area in areas if area not in first))


class PageValue:
    """The values of one page by name; None also where the page lacks the setting."""

    def __init__(self, effective: EffectiveModel, page: int) -> None:
        self._effective = effective
        self._page = page

    def __call__(self, name: str) -> object:
        site = self._effective.site
        number = site.catalogue.find(name)
        if number is None or not site.has_by_type[number, int(site.details.type_of[self._page])]:
            return None
        return self._effective.value(self._page, number)

    def word(self, name: str) -> str:
        """A value that is a word; empty where it is none."""
        value = self(name)
        return value if isinstance(value, str) else ""
