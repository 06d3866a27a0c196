"""Compares the areas of built pages with what was decided.

HTML does not say which sidebar it shows. But pages that are to show the same one show the same pieces there, so what
most of them show is taken for what it looks like; a page that shows the pieces of another one is a mistake.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from davlo.core.outcomes.areas import BAND, CONTENT, OWN_CONTENT, SIDEBAR, AreaContent, blocks_in
from davlo.files.built.built_page import BuiltArea, BuiltBlock, BuiltPage
from davlo.files.built.page_areas import LANDMARKS

from .built_site import BuiltSite
from .mistakes import Mistake

ASIDE = "aside"
SHARE = 0.75
"""If this share of the pages with one sidebar show a block, it is of the sidebar; if fewer do, it varies by page."""
LEAST = 4
"""With fewer pages than this, none of them can be called the odd one."""

Stands = tuple[tuple[str, str], ...]
Shown = tuple[BuiltBlock, ...]


class _Seen(NamedTuple):
    """One area of one page: what should stand there, and what does; None where the page does not have the area.

    `has_menu`: something there depends on the page or its language. `is_unshown`: the theme has no place for the area.
    """

    page: int
    area: str
    language: str
    stands: Stands
    shown: Shown | None
    has_menu: bool
    is_unshown: bool = False

    @property
    def group(self) -> tuple[str, str, Stands]:
        return self.area, self.language, self.stands


def area_mistakes(site: BuiltSite) -> Iterator[Mistake]:
    """Areas that are there and should not be, that are missing, and that show what belongs elsewhere."""
    seen = [one for number, page in site.drawn for one in _areas_of(site, number, page)]
    looks, owners = _looks(seen)
    paths = site.site.tree.paths
    for one in seen:
        shown, should = one.shown or (), _words(one.stands)
        source = site.source(one.page, _setting(site, one))
        what = f"area {one.area}"
        if not one.stands:
            if shown:
                should = "nothing: the theme has no place for it" if one.is_unshown else "nothing"
                yield Mistake(what, paths[one.page], should, _owner(owners, one, shown), source)
        elif _is_filled(site, one.stands) and not shown:
            yield Mistake(what, paths[one.page], should, "nothing", source)
        elif shown and owners.get((one.area, one.language, shown), one.stands) != one.stands:
            yield Mistake(what, paths[one.page], should, _owner(owners, one, shown), source)
        elif shown and one.group in looks and shown != looks[one.group] and not one.has_menu:
            yield Mistake(what, paths[one.page], should, _difference(looks[one.group], shown), source)


def compared_areas(site: BuiltSite) -> bool:
    """Whether pages have areas beside their content, so that areas can be compared."""
    return any(area.name != CONTENT for _, page in site.shown for area in page.areas)


def _areas_of(site: BuiltSite, number: int, page: BuiltPage) -> Iterator[_Seen]:
    """The areas of a page except its content, each with what should stand there; asides are matched by their order."""
    found = {area.name: area for area in page.areas if area.name != CONTENT}
    language = site.site.details.language[number]
    wanted = [one for one in site.areas(number) if one.area != CONTENT]
    others = [area for name, area in found.items() if name.partition("-")[0] == ASIDE and area.blocks]
    for one in wanted:
        stands = tuple(thing for thing in one.stands if thing[0] != OWN_CONTENT) if one.theme_name else ()
        if one.area in site.area_names:
            shown: BuiltArea | None = found.get(one.area)
        elif one.area in LANDMARKS.values():  # no page has such an area
            shown = None
        else:
            shown = others.pop(0) if _is_filled(site, stands) and others else None
        blocks = shown.blocks if shown else None
        yield _Seen(number, one.area, language, stands, blocks, _has_menu(site, one), not one.theme_name)
    known = {one.area for one in wanted}
    extra = [area for name, area in found.items() if name not in known and area not in others]
    for area in (*others, *(one for one in extra if one.name.partition("-")[0] != ASIDE)):
        if area.name not in known:
            yield _Seen(number, area.name, language, (), area.blocks, False)


def _has_menu(site: BuiltSite, area: AreaContent) -> bool:
    blocks = (block for kind, name in area.stands for block in blocks_in(site.site, kind, name))
    return any(site.site.declarations.blocks[block].kind != "text" for block in blocks)


def _looks(seen: Sequence[_Seen]) -> tuple[dict[tuple[str, str, Stands], Shown], dict[tuple[str, str, Shown], Stands]]:
    """What most pages with the same sidebar show; and for each content, the sidebar that most pages with it have."""
    groups: dict[tuple[str, str, Stands], Counter[Shown]] = {}
    for one in seen:
        if one.stands and one.shown:
            groups.setdefault(one.group, Counter())[one.shown] += 1
    looks, owners = {}, dict[tuple[str, str, Shown], tuple[int, Stands]]()
    for (area, language, stands), counts in groups.items():
        shown, number = counts.most_common(1)[0]
        total = sum(counts.values())
        if total >= LEAST and number >= SHARE * total:
            looks[area, language, stands] = shown
        key = (area, language, shown)
        if number * 2 > total and number > owners.get(key, (0, ()))[0]:
            owners[key] = (number, stands)
    return looks, {key: stands for key, (_, stands) in owners.items()}


def _owner(owners: dict[tuple[str, str, Shown], Stands], one: _Seen, shown: Shown) -> str:
    found = owners.get((one.area, one.language, shown))
    return _words(found) if found else "something else"


def _difference(look: Shown, shown: Shown) -> str:
    """How the pieces of a page differ from those of the other pages with the same sidebar."""
    lacks = [block.heading or "a piece" for block in look if block not in shown]
    more = [block.heading or "a piece" for block in shown if block not in look]
    if lacks and not more:
        return f"it without {', '.join(lacks)}"
    if more and not lacks:
        return f"it with {', '.join(more)} too"
    return "other pieces than most pages with it" if lacks else "its pieces in another order"


def _is_filled(site: BuiltSite, stands: Stands) -> bool:
    """Whether a reader would see anything in the area."""
    return any(blocks_in(site.site, kind, name) for kind, name in stands)


def _words(stands: Stands) -> str:
    return ", ".join(f"{kind} {name}" for kind, name in stands)


def _setting(site: BuiltSite, one: _Seen) -> str:
    """The setting that decides the contents of the area."""
    kinds = [kind for kind, _ in one.stands]
    family = "band" if BAND in kinds else "sidebar" if SIDEBAR in kinds or not kinds else "blocks"
    if one.is_unshown:
        return "layout.theme"
    name = f"{family}.{one.area}"
    return "layout.name" if site.site.catalogue.find(name) is None else name
