"""Compares the areas of built pages with what was decided.

An area is right where the blocks that were decided show: their words, and their links. What else stands there is no
mistake, unless the layout has no such area, or it is what another sidebar or band holds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cache

from davlo.core.outcomes.areas import BAND, CONTENT, OWN_CONTENT, SIDEBAR, AreaContent, blocks_in
from davlo.core.outcomes.shown_things import ShownBlock, ShownThing, ShownThings
from davlo.core.site.people import VISITOR
from davlo.files.built.built_page import MOST_TEXT, BuiltArea, BuiltBlock, BuiltPage
from davlo.files.built.page_areas import LANDMARKS
from davlo.files.built.page_texts import letters_of

from .built_site import BuiltSite
from .mistakes import Mistake

ASIDE = "aside"
MOST_NAMED = 3
"""As many missing blocks or links are named."""
CUT = "…"
"""Stands at the end of a text that is longer where it shows."""

Stands = tuple[tuple[str, str], ...]


def area_mistakes(site: BuiltSite) -> Iterator[Mistake]:
    """Areas in which decided blocks do not show, and those that show what was decided for others."""
    checks = _AreaChecks(site)
    for number, page in site.drawn:
        yield from checks.of_page(number, page)


def compared_areas(site: BuiltSite) -> bool:
    """Whether pages have areas beside their content, so that areas can be compared."""
    return any(area.name != CONTENT for _, page in site.shown for area in page.areas)


class _Words:
    """What an area of a built page shows: its letters and digits, and its links.

    `read` gives the letters of a label.
    """

    def __init__(self, site: BuiltSite, blocks: tuple[BuiltBlock, ...], read: Callable[[str], str]) -> None:
        self.is_empty = not blocks
        self.letters = _letters(" ".join(f"{block.heading} {block.text}" for block in blocks))
        links = [(read(label), site.path_of(target)) for block in blocks for label, target in block.links]
        self.links = {*links}
        self.lacking: dict[int, tuple[str, ...]] = {}  # what is missing of a block, by the number of the block


class _AreaChecks:
    """Compares the areas of pages; what a block shows, and what an area of a built page shows, is read once."""

    def __init__(self, site: BuiltSite) -> None:
        self._site = site
        self._things = ShownThings(site.outcomes, VISITOR)
        of_label = cache(_letters)
        self._words = cache(lambda blocks: _Words(site, blocks, of_label))
        self._of_area = cache(self._things.of)
        self._holders = cache(self._read_holders)

    def of_page(self, number: int, page: BuiltPage) -> Iterator[Mistake]:
        """The mistakes of one page."""
        site = self._site.site
        language = site.details.language[number] if site.languages else ""
        wanted = [one for one in self._site.areas(number) if one.area != CONTENT]
        found = {area.name: area for area in page.areas if area.name != CONTENT}
        places = self._places(wanted, found, language)
        for one in wanted:
            shown = places.get(one.area)
            yield from self._of_one(number, one, self._words(shown.blocks if shown else ()), language)
        layout = self._site.composition(number).layout
        used = {area.name for area in places.values()}
        for name, area in found.items():
            if layout and name not in used and area.blocks and layout.lacks(name):
                yield self._mistake(
                    number, name, "layout.name", "nothing", self._owner(self._words(area.blocks), language)
                )

    def _places(
        self, wanted: Sequence[AreaContent], found: dict[str, BuiltArea], language: str
    ) -> dict[str, BuiltArea]:
        """The built area of each decided one, by its name; asides by what they show, then by name, then in order."""
        names = self._site.area_names
        fixed = [one for one in wanted if one.area in names and not _is_aside(one.area)]
        places = {one.area: found[one.area] for one in fixed if one.area in found}
        left = {name: area for name, area in found.items() if _is_aside(name) and name not in places and area.blocks}
        asides = [one for one in wanted if _is_aside(one.area) or one.area not in (*names, *LANDMARKS.values())]
        filled = [one for one in asides if self._decided(one, language)]

        def shown_by(one: AreaContent) -> str:
            return next(
                (n for n, area in left.items() if self._shows_some(one, self._words(area.blocks), language)), ""
            )

        def hidden_by(one: AreaContent) -> str:  # what its look shows on no screen can stand in the page all the same
            return next(
                (n for n, area in left.items() if self._owner(self._words(area.blocks), language) in _each(one)), ""
            )

        def named(one: AreaContent) -> str:
            return one.area if one.area in left else ""

        def in_order(one: AreaContent) -> str:
            return "" if one.area in names else next(iter(left), "")

        for areas, name_of in (
            (filled, shown_by),
            (filled, named),
            (filled, in_order),
            (asides, hidden_by),
            (asides, named),
        ):
            for one in areas:
                name = "" if one.area in places else name_of(one)
                if name:
                    places[one.area] = left.pop(name)
        return places

    def _of_one(self, number: int, area: AreaContent, shown: _Words, language: str) -> Iterator[Mistake]:
        """The mistakes of one decided area."""
        stands = tuple(one for one in area.stands if one[0] != OWN_CONTENT)
        decided = self._decided(area, language)
        if not decided:
            owner = self._owner(shown, language) if not shown.is_empty else ""
            if owner and owner not in _each(area):
                should = (_words(stands) or "nothing") if area.theme_name else "nothing: the theme has no place for it"
                found = self._mistake(number, area.area, self._setting(area), should, owner)
                if found.source and found.source.file:
                    yield found
            return
        if shown.is_empty:
            yield self._mistake(number, area.area, self._setting(area), _words(stands), "nothing")
            return
        lacks = [name for block in decided for name in self._lacking(block, shown)]
        whole = [block.block for block in decided if self._lacking(block, shown) == (block.block,)]
        if whole and len(whole) == len(decided):
            shows = self._owner(shown, language) or f"it without {_named(whole)}"
            yield self._mistake(number, area.area, self._setting(area), _words(stands), shows)
        elif lacks:
            yield self._mistake(number, area.area, self._setting(area), _words(stands), f"it without {_named(lacks)}")

    def _decided(self, area: AreaContent, language: str) -> list[ShownBlock]:
        """The blocks that should show in an area; menus, which are compared by their entries, are among them."""
        things = self._of_area(area, language) if area.theme_name else ()
        return [block for thing in things for block in thing.blocks]

    def _shows_some(self, area: AreaContent, shown: _Words, language: str) -> bool:
        blocks = (block for block in self._decided(area, language) if not self._is_menu(block))
        return any(self._lacking(block, shown) != (block.block,) for block in blocks)

    def _lacking(self, block: ShownBlock, shown: _Words) -> tuple[str, ...]:
        """What an area does not show of a block: the block itself, or some of its links. A menu lacks nothing here."""
        found = shown.lacking.get(id(block))  # `ShownThings` keeps the block
        if found is None:
            found = shown.lacking[id(block)] = self._lacks(block, shown)
        return found

    def _lacks(self, block: ShownBlock, shown: _Words) -> tuple[str, ...]:
        if block.one_of:
            return () if any(not self._lacking(one, shown) for one in block.one_of if one) else (block.block,)
        if self._is_menu(block):
            return ()
        if block.links:
            links = [(link.label, (_letters(link.label), self._site.path_of(link.to))) for link in block.links]
            missing = [label for label, link in links if link not in shown.links]
            return (block.block,) if len(missing) == len(block.links) else tuple(missing)
        text = _letters(block.text.removesuffix(CUT)[: MOST_TEXT // 2])
        return () if text in shown.letters else (block.block,)

    def _owner(self, shown: _Words, language: str) -> str:
        """The sidebar or band whose blocks an area shows, all of them; of several the one with most."""
        best = max(self._holders(language), key=lambda one: self._fits(one, shown), default=None)
        return f"{best.kind} {best.name}" if best and self._fits(best, shown) else ""

    def _fits(self, holder: ShownThing, shown: _Words) -> int:
        """How many blocks of a sidebar or band an area shows; 0 unless it shows them all."""
        blocks = [block for block in holder.blocks if not self._is_menu(block)]
        return len(blocks) if not any(self._lacking(block, shown) for block in blocks) else 0

    def _is_menu(self, block: ShownBlock) -> bool:
        return self._site.site.declarations.blocks[block.block].kind == "menu"

    def _read_holders(self, language: str) -> tuple[ShownThing, ...]:
        """The sidebars and bands, with what their blocks show on pages in a language."""
        declared = self._site.site.declarations
        found = []
        for kind, names in ((SIDEBAR, declared.sidebars), (BAND, declared.bands)):
            for name in names:
                blocks = [self._things.block(block, language) for block in blocks_in(self._site.site, kind, name)]
                found.append(ShownThing(kind, name, tuple(filter(None, blocks))))
        return tuple(found)

    def _setting(self, area: AreaContent) -> str:
        """The setting that decides the contents of an area."""
        kinds = [kind for kind, _ in area.stands]
        if not area.theme_name:
            return "layout.theme"
        family = "band" if BAND in kinds else "sidebar" if SIDEBAR in kinds or not kinds else "blocks"
        name = f"{family}.{area.area}"
        return "layout.name" if self._site.site.catalogue.find(name) is None else name

    def _mistake(self, number: int, area: str, setting: str, should: str, shows: str) -> Mistake:
        path, source = self._site.site.tree.paths[number], self._site.source(number, setting)
        return Mistake(f"area {area}", path, should, shows or "something else", source)


def _each(area: AreaContent) -> list[str]:
    """The things in an area, each in words."""
    return [_words((one,)) for one in area.stands]


def _is_aside(name: str) -> bool:
    return name.partition("-")[0] == ASIDE


def _letters(text: str) -> str:
    """The letters and digits of a text, all small: what two ways to write it have in common."""
    return letters_of(text.casefold())


def _words(stands: Stands) -> str:
    return ", ".join(f"{kind} {name}" for kind, name in stands)


def _named(names: Sequence[str]) -> str:
    more = len(names) - MOST_NAMED
    return ", ".join(names[:MOST_NAMED]) + (f" and {more} more" if more > 0 else "")
