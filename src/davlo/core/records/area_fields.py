"""The areas of a page as fields of its record: the contents of each, what a viewer meets there, and its look."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, partial
from typing import Any

import numpy as np

from ..arrays.codebooks import Codebook, Codes, distinct_rows
from ..outcomes.areas import OF_AREAS, AreaContent, PageValue, area_content
from ..outcomes.shown_things import ShownThing, things_words
from ..site.declarations import LOOK_PARTS, Look
from .forms import BLOCK, TEXT, by_name, list_of, members
from .record import Field, FieldValues, PageRecord, RecordPages

OF_LISTS = ("menu.", "access", "texts", "declarations")
"""What lists of links depend on."""
THING = members(
    {"kind": TEXT, "name": TEXT}, {"blocks": list_of(BLOCK), "shows nothing": TEXT, "screens": list_of(TEXT)}
)
"""One thing in an area; `screens` is left out where it shows on all."""
LOOK = members(
    {"look": TEXT, "classes": members(dict.fromkeys(LOOK_PARTS, TEXT)), **dict.fromkeys(LOOK_PARTS, by_name(TEXT))}
)
NOTHING = "nothing"
"""How an area without anything in it reads."""


def _area(area: str, pages: RecordPages) -> FieldValues[AreaContent]:
    layouts = np.array([area in [one.area for one in made.areas] for made in pages.layouts.values], dtype=bool)
    there = layouts[pages.layouts.codes]
    settings = (
        "layout.name",
        "layout.theme",
        *(f"{family}.{area}" for family in ("band", "sidebar", "look", "blocks")),
    )
    first, codes = pages.alike([np.where(there, pages.codes(name), -2) for name in settings])
    contents, numbers = Codebook[AreaContent](), []
    declared = pages.site.declarations
    for page in first:
        value = PageValue(pages.effective, page)
        layout = declared.layouts.get(value.word("layout.name"))
        if layout is None or area not in layout.decided_areas:
            numbers.append(-1)
            continue
        theme = declared.themes.get(value.word("layout.theme"))
        numbers.append(contents.code(area_content(pages.site, value, layout, theme, area)))
    return FieldValues(np.array(numbers, dtype=np.int32)[codes], contents.items)


def _shows(area: str, pages: RecordPages) -> FieldValues[tuple[ShownThing, ...]]:
    """What shows in an area: the same on pages where the same stands, and whose readers have the same language."""
    stands = pages.values(area_field(area))
    language = pages.site.details.language
    codes = language.codes[pages.pages] if pages.site.languages else np.zeros(len(pages), dtype=np.int32)
    first, which = distinct_rows([stands.codes, codes])
    things = Codebook[tuple[ShownThing, ...]]()
    numbers = [
        things.code(_on(pages, stands.values[at], language.words[code] if pages.site.languages else ""))
        if at >= 0
        else -1
        for at, code in zip(stands.codes[first].tolist(), codes[first].tolist(), strict=True)
    ]
    return FieldValues(np.array(numbers, dtype=np.int32)[which], things.items)


def _look(area: str, pages: RecordPages) -> FieldValues[Look]:
    """How the sidebar and the band in an area look, where one stands there and a look is set."""
    stands, looks = pages.values(area_field(area)), pages.site.declarations.looks
    numbers = {name: number for number, name in enumerate(looks)}
    codes = np.array([*(numbers.get(one.look, -1) for one in stands.values), -1], dtype=np.int32)
    return FieldValues(codes[stands.codes], [*looks.values()])


def _look_json(look: Look) -> dict[str, Any]:
    classes = {part: look_class(look.name, part) for part in LOOK_PARTS}
    return {"look": look.name, "classes": classes, **{part: dict(getattr(look, part)) for part in LOOK_PARTS}}


def look_class(look: str, part: str) -> str:
    """The class, in HTML and CSS, of a part of a look: `whole`, `each_block` or `headings`.

    Example
    -------
    >>> look_class("usual", "whole"), look_class("usual", "each_block")
    ('look-usual', 'look-usual--each-block')
    """
    return f"look-{look}" if part == "whole" else f"look-{look}--{part.replace('_', '-')}"


def _on(pages: RecordPages, area: AreaContent, language: str) -> tuple[ShownThing, ...]:
    found = pages.shown_things.of(area, language)
    return tuple(one.on(pages.screen) for one in found) if pages.screen else found


def _area_words(things: tuple[ShownThing, ...], record: PageRecord, area: str) -> str:
    """What shows in an area, and what the theme makes of it."""
    stands = record.of(area_field(area))
    if stands is None:
        return ""
    if not stands.theme_name:
        told = ", ".join(ShownThing(kind, name).words for kind, name in stands.stands) or NOTHING
        return f"{told} (the theme does not show this area: it {stands.instead.words})"
    called = "" if stands.theme_name == area else f" (the theme calls it {stands.theme_name})"
    return (things_words(things) or NOTHING) + called


def _shows_json(things: tuple[ShownThing, ...]) -> list[dict[str, Any]]:
    return [one.as_json() for one in things]


def _stands(area: AreaContent) -> list[dict[str, str]]:
    return [{"kind": kind, "name": name} for kind, name in area.stands]


@cache
def area_field(area: str) -> Field[AreaContent]:
    """The field of an area's contents."""
    return Field(
        area,
        "The contents of the area, in order: the band, the sidebar, the layout's blocks, the page's blocks.",
        partial(_area, area),
        _stands,
        list_of(members({"kind": TEXT, "name": TEXT})),
        is_optional=True,
        depends_on=OF_AREAS,
    )


@cache
def shows_field(area: str) -> Field[tuple[ShownThing, ...]]:
    """The field of what shows in an area."""
    return Field(
        area,
        "What the viewer meets in the area, block by block, and on which screens.",
        partial(_shows, area),
        _shows_json,
        list_of(THING),
        label=f"area {area}",
        words=partial(_area_words, area=area),
        is_optional=True,
        depends_on=(*OF_AREAS, "menu.", "access", "texts"),
        across=OF_LISTS,
    )


@cache
def look_field(area: str) -> Field[Look]:
    """The field of how an area looks."""
    return Field(
        area,
        "How the sidebar and the band in the area look: the look's name, its classes, and its CSS for each part.",
        partial(_look, area),
        _look_json,
        LOOK,
        is_optional=True,
        depends_on=OF_AREAS,
    )


def area_places(pages: RecordPages) -> Sequence[Codes]:
    """For each place in a layout the area there, as `RecordPages.area_places` has it."""
    return pages.area_places


def shown_places(pages: RecordPages) -> Sequence[Codes]:
    """For each place on the screen the area there, as `RecordPages.shown_places` has it."""
    return pages.shown_places
