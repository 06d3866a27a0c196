"""The text of an area of a page, in lines that fit its box: what it holds, and where that came from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from davlo.core.outcomes.areas import BAND, OWN_CONTENT, SIDEBAR
from davlo.core.records.page_plan import HEADING, Plan, PlannedArea, Thing
from davlo.core.site.declarations import ALL_SCREENS
from davlo.core.site.people import VISITOR
from davlo.core.site.source import Source
from davlo.core.wording import EMPTY, NO_TITLE, count

from .ink import BLACK, DARK, GREY, INKS, WHITE, Ink
from .lettering import LEADING, SMALLEST, left_to_right, lines
from .looks import PLAIN, DrawnBox, DrawnLook, drawn_look

CHIP = 6.5
"""The size of the square whose colour shows where something came from."""
INDENT = CHIP + 3
NARROW = 90.0
"""In a box this narrow, lines are hardly indented."""
MOST_BLOCKS = 8
"""The most blocks named of one band or sidebar."""
SCOPE_INKS = {
    "everywhere": INKS[0],
    "type": INKS[4],
    "below": INKS[1],
    "rule": INKS[2],
    "stamp": INKS[5],
    "here": INKS[3],
    "layout": INKS[6],
    "estate": INKS[7],
    "built-in": Ink(WHITE),
}
SCOPE_NAMES = {
    "type": "a type",
    "estate": "the estate",
    "below": "below a page",
    "rule": "a rule",
    "stamp": "a stamp",
    "here": "the page itself",
    "layout": "the layout",
}
DIFFERS = "≠"
LOOKED_AT = (SIDEBAR, BAND)
"""The things that a look is for."""


class Line(NamedTuple):
    """A line of words in a box; the rest of the height goes below a line that `grows`, filled with grey bars.

    `gap` is the space above it, `after` the space below. Lines with the same `block` stand in one box, which is drawn
    as `box` says; `back` is the colour behind the line alone.
    """

    text: str
    size: float = SMALLEST
    face: str = "plain"
    color: str = DARK
    chip: Ink | None = None
    indent: float = 0.0
    grows: bool = False
    gap: float = 0.0
    after: float = 0.0
    back: str = ""
    align: str = "left"
    block: int = 0
    box: DrawnBox | None = None

    @property
    def height(self) -> float:
        return self.size * LEADING + self.gap + self.after


def height_of(some: Sequence[Line]) -> float:
    """How high lines are together."""
    return sum(line.height for line in some)


def scope_of(thing: Thing) -> str:
    """The kind of scope that something came from: `below` of `below /visit`."""
    return (
        ""
        if thing.source is None
        else thing.source.words.partition(" ")[0]
        if thing.source.layout
        else thing.source.scope.kind.word
    )


def head_lines(plan: Plan, room: float, caption: str = "") -> list[Line]:
    """The text above a page's screens: path, what is tried on it, titles, layout, theme and width."""
    found = [Line(text, 12, "bold", BLACK) for text in lines(plan.path, 12, room, "bold", 2)]
    found += [Line(text, 10, "bold", BLACK) for text in lines(caption, 10, room, "bold", 2)]
    met = "" if plan.viewer == VISITOR else f"as {plan.viewer} sees it"
    if not plan.is_viewed:
        met = f"{'a visitor' if plan.viewer == VISITOR else plan.viewer} may not view this page"
    found += [Line(text, 8.5, "bold", BLACK) for text in lines(met, 8.5, room, "bold", 2)]
    titles = left_to_right(f"{plan.title or NO_TITLE}; document title: {plan.document_title or EMPTY}")
    found += [Line(text, 8.5, color=BLACK) for text in lines(titles, 8.5, room, most=3)]
    told = [
        f"{what} {value}{_from(plan.chosen.get(setting))}"
        for what, value, setting in (
            ("layout", plan.layout or "none", "layout.name"),
            ("theme", plan.theme or "none", "layout.theme"),
            ("width", plan.width, "layout.width"),
        )
        if value
    ]
    return found + [Line(text) for text in lines(" · ".join(told), SMALLEST, room, most=5)]


def area_lines(
    plan: Plan, area: PlannedArea, room: float, differs: bool, before: str = "", look: DrawnLook = PLAIN
) -> list[Line]:
    """The text of an area on the first screen that is drawn: everything."""
    found = [line._replace(color=_on(look, line.color)) for line in _name_lines(plan, area, room, differs, before)]
    for thing in area.things:
        found += _thing_lines(thing, area, room, look)
    if not area.things:
        found += [Line(text, face="slanted") for text in lines("empty", SMALLEST, room, "slanted")]
    return found


def short_lines(
    plan: Plan, area: PlannedArea, room: float, differs: bool, screen: str = "phone", look: DrawnLook = PLAIN
) -> list[Line]:
    """The text of an area on the other screens: shorter, since the first has everything."""
    found = [line._replace(color=_on(look, line.color)) for line in _name_lines(plan, area, room, differs)]
    for thing in area.things:
        hidden = screen not in thing.screens
        where = "on a wide screen" if screen == "wide" else f"on a {screen}"
        told = f"not {where}: {name_of(thing)}" if hidden else name_of(thing)
        face, color = ("slanted", _on(look, DARK)) if hidden else ("plain", _on(look, BLACK))
        chip = SCOPE_INKS.get(scope_of(thing))
        for i, text in enumerate(lines(told, SMALLEST, room - INDENT, face)):
            found.append(Line(text, SMALLEST, face, color, None if i else chip, INDENT, thing.kind == OWN_CONTENT))
    return found if area.things else [*found, Line("nothing", face="slanted")]


def placeless_lines(plan: Plan, room: float) -> Iterator[Line]:
    """The lines about areas that the layout lacks."""
    by_area: dict[str, list[str]] = {}
    for area, thing in plan.placeless:
        by_area.setdefault(area, []).append(f"{name_of(thing)} ({thing.source})")
    for area, told in by_area.items():
        words = f"{area}: the layout {plan.layout} has no such area; not shown: {', '.join(told)}"
        for i, text in enumerate(lines(words, SMALLEST, room - 8)):
            yield Line(text, indent=8 if i else 0)


def name_of(thing: Thing) -> str:
    """What something is called: `sidebar main`."""
    if thing.kind == OWN_CONTENT:
        return "the page's own content"
    if thing.kind == HEADING:
        return thing.name or NO_TITLE
    return f"{thing.kind} {thing.name}"


def _name_lines(plan: Plan, area: PlannedArea, room: float, differs: bool, before: str = "") -> Iterator[Line]:
    """The area's name, the theme's own, and what the theme shows where it has none."""
    name = f"{before}{area.area}{f' {DIFFERS}' if differs else ''}"
    for text in lines(name, 8, room, "bold"):
        yield Line(text, 8, "bold", BLACK)
    told = ""
    if not area.theme_name:
        told = f"{plan.theme} does not show this area: it {area.instead.words}"
    elif area.theme_name != area.area:
        told = f"{plan.theme} calls it {area.theme_name}"
    for text in lines(told, SMALLEST, room, "slanted", most=6):
        yield Line(text, face="slanted", color=BLACK)


def _on(look: DrawnLook, color: str) -> str:
    """The colour of words in an area: the look's, or one that can be read on its background."""
    return look.words or color


def _thing_lines(thing: Thing, area: PlannedArea, room: float, look: DrawnLook) -> Iterator[Line]:
    """The text of one sidebar, band or block: its name, source, look and contents."""
    indent = INDENT if room > NARROW else 2.0
    inner = room - indent
    is_lost = not area.theme_name and not area.instead
    strong, weak = (GREY, GREY) if is_lost else (_on(look, BLACK), _on(look, DARK))
    size = 11.0 if thing.kind == HEADING else 8.0
    chip = SCOPE_INKS.get(scope_of(thing))
    for i, text in enumerate(lines(name_of(thing), size, room - INDENT)):
        yield Line(text, size, "plain", strong, None if i else chip, INDENT, thing.kind == OWN_CONTENT)
    for told in (_source_told(thing), _look_told(area) if thing.kind in LOOKED_AT else ""):
        for text in lines(told, SMALLEST, inner, most=6):
            yield Line(text, color=weak, indent=indent)
    off = ", ".join(screen for screen in ALL_SCREENS if screen not in thing.screens)
    for text in lines(f"not shown on: {off}" if off else "", SMALLEST, inner, "slanted"):
        yield Line(text, face="slanted", color=strong, indent=indent)
    deeper = indent if any(name == thing.name for name, _ in thing.inside) else indent + 6
    if thing.kind in LOOKED_AT and look != PLAIN:
        yield from _block_lines(thing, room, deeper, look)
        return
    for name, words in thing.inside[:MOST_BLOCKS]:
        told = words if name == thing.name else f"{name}: {words}"
        for i, text in enumerate(lines(told, SMALLEST, room - deeper - 4, most=3)):
            yield Line(text, color=weak, indent=deeper + (4 if i else 0))
    more = len(thing.inside) - MOST_BLOCKS
    for text in lines(f"and {count(more, 'more block')}" if more > 0 else "", SMALLEST, room - deeper):
        yield Line(text, color=weak, indent=deeper)


def _block_lines(thing: Thing, room: float, indent: float, look: DrawnLook) -> Iterator[Line]:
    """The blocks of a sidebar or band as its look draws them: boxes, headings, and the gaps between them."""
    block, head = look.each_block, look.headings
    has_headings = head != DrawnBox()
    indent += block.margin.left + block.padding.left
    inner = room - indent - 4 - block.padding.right - block.margin.right
    size = max(look.each_block.size or look.whole.size or SMALLEST, SMALLEST)
    color = look.block_words or DARK
    align = look.whole.align if block.align == "left" else block.align
    for number, (name, words) in enumerate(thing.inside[:MOST_BLOCKS]):
        gap = (look.whole.gap if number else 0.0) + block.margin.top + block.padding.top
        found: list[Line] = []
        if has_headings:
            high, face = head.size or size, "plain" if head.bold is False else "bold"
            ink = look.heading_words or color
            found += [
                Line(text, high, face, ink, None, indent, back=head.back, align=head.align)
                for text in lines(name, high, inner, face, most=2)
            ]
        told = words if has_headings else f"{name}: {words}"
        face = "bold" if block.bold else "plain"
        for i, text in enumerate(lines(told, size, inner, face, most=3)):
            deeper = 4 if i and align == "left" and not block.back else 0
            found.append(Line(text, size, face, color, None, indent + deeper, align=align))
        for i, line in enumerate(found):
            last = block.padding.bottom + block.margin.bottom if i == len(found) - 1 else 0.0
            yield line._replace(gap=0.0 if i else gap, after=last, block=number + 1, box=block)
    more = len(thing.inside) - MOST_BLOCKS
    for text in lines(f"and {count(more, 'more block')}" if more > 0 else "", SMALLEST, room - indent):
        yield Line(text, color=_on(look, DARK), indent=indent)


def _source_told(thing: Thing) -> str:
    if thing.source is None:
        return ""
    told = f"{thing.source}{'; locked' if thing.source.locked else ''}"
    return f"the heading; heading.show: {told}" if thing.kind == HEADING else told


def _look_told(area: PlannedArea) -> str:
    """How the sidebar and the band of an area look, and where that came from."""
    if not area.look:
        return ""
    told = [f"look {area.look.name}"]
    told += [f"{area.look.width:g} % of the page"] if area.look.width is not None else []
    told += ["stays in view"] if drawn_look(area.look, 1.0).is_sticky else []
    return ", ".join(told) + _from(area.look_source)


def _from(source: Source | None) -> str:
    return f" ({source})" if source else ""
