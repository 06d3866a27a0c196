"""A sheet of pages drawn as their layouts: several beside each other, each on one or more screens."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from matplotlib.figure import Figure

from davlo.core.records.page_plan import HEADING, SCREENS, Plan, PlannedArea

from .area_text import CHIP, DIFFERS, INDENT, SCOPE_INKS, SCOPE_NAMES, Line, head_lines, height_of, scope_of
from .ink import GREY, PALE, Ink
from .lettering import LEADING, SMALLEST, fit, width
from .paper import HEIGHT, WIDTH, Paper
from .screens import CAPTION, PAD, Screen, draw_screen, screen_of

MARGIN, GAP = 18.0, 14.0
"""Points around the sheet, and between the screens."""
BESIDE = 3
"""The most pages in a row; four pages take two rows of two."""
LARGEST_SCALE = 0.9
"""No screen is drawn larger, in points a pixel."""


class Panel(NamedTuple):
    """One page of a sheet: the lines above its screens, and the screens."""

    plan: Plan
    name: str
    head: list[Line]
    screens: tuple[Screen, ...]

    def height(self) -> float:
        """The least height of its screens."""
        return max(screen.height() for screen in self.screens)


def draw_pages(
    plans: Sequence[Plan], screens: Sequence[str], captions: Sequence[str] = (), in_pairs: bool = False
) -> Figure:
    """The pages beside each other. `davlo.draw.page` is the call to use.

    `captions` tell what is tried on each page, where one page is drawn several times. `in_pairs`: each two are drawn
    side by side, and what differs is marked between them alone.
    """
    columns = len(plans) if len(plans) <= BESIDE else 2 if len(plans) == 4 else BESIDE
    columns = 2 if in_pairs else columns
    sheet = WIDTH * max(1.0, columns / 2)
    room = (sheet - 2 * MARGIN - 2 * GAP * (columns - 1)) / columns
    compared = [plans[i : i + 2] for i in range(0, len(plans), 2)] if in_pairs else [plans]
    marks = [differing for some in compared for differing in [_differing(some)] * len(some)]
    told = captions or [""] * len(plans)
    panels = [
        _panel(plan, room, differing, screens, caption)
        for plan, differing, caption in zip(plans, marks, told, strict=True)
    ]
    rows = [panels[i : i + columns] for i in range(0, len(panels), columns)]
    heads = [max(height_of(panel.head) for panel in row) + CAPTION for row in rows]
    bodies = [max(panel.height() for panel in row) for row in rows]
    spare = HEIGHT - 2 * MARGIN - 3 * SMALLEST * LEADING - sum(heads) - sum(bodies) - GAP * (len(rows) - 1)
    bodies = [body + max(0.0, spare / len(rows)) for body in bodies]
    paper = Paper(sheet)
    y = MARGIN
    for row, head, body in zip(rows, heads, bodies, strict=True):
        for i, panel in enumerate(row):
            _draw_panel(paper, panel, MARGIN + i * (room + 2 * GAP), y, head, body)
        y += head + body + GAP
    end = _draw_legend(paper, list(_legend(plans, set().union(*marks))), MARGIN, y)
    paper.end_at(max(HEIGHT, end + MARGIN * 0.7))
    return paper.figure


def _differing(plans: Sequence[Plan]) -> set[str]:
    """The areas that are not the same on all the pages."""
    told = [{area.area: _alike(area) for area in plan.areas} for plan in plans]
    return {name for one in told for name in one if len({other.get(name) for other in told}) > 1}


def _alike(area: PlannedArea) -> tuple[object, ...]:
    things = tuple((t.kind, "" if t.kind == HEADING else t.name, t.inside, t.screens) for t in area.things)
    look = area.look.name if area.look else ""
    return (area.theme_name, area.instead, area.side, area.share, look, things)


def _panel(plan: Plan, room: float, differing: set[str], screens: Sequence[str], caption: str) -> Panel:
    """What is to be drawn of a page, in a room so wide."""
    pixels = sum(SCREENS[screen] for screen in screens)
    scale = min((room - GAP * (len(screens) - 1)) / pixels, LARGEST_SCALE)
    name = f"{plan.path} ({caption})" if caption else plan.path
    drawn = [screen_of(plan, screen, name, scale, differing, not number) for number, screen in enumerate(screens)]
    return Panel(plan, name, head_lines(plan, room, caption), tuple(drawn))


def _draw_panel(paper: Paper, panel: Panel, x: float, y: float, head: float, body: float) -> None:
    """One page: its head, and its screens beside each other."""
    top = y
    for line in panel.head:
        top = paper.words(x, top, line.text, line.size, line.face, line.color)
    y += head
    if not panel.plan.layout:
        first = panel.screens[0]
        paper.box(x, y, first.across, body, PALE, GREY, "--", name=f"{first.name} {panel.name}")
        paper.words(x + 2 * PAD, y + 2 * PAD, "no layout: there is nothing to draw", 9, "slanted")
        return
    for screen in panel.screens:
        paper.words(x, y - SMALLEST * LEADING - 2, fit(screen.caption, 8, screen.across), 8)
        draw_screen(paper, screen, x, y, body)
        x += screen.across + GAP


def _legend(plans: Sequence[Plan], differing: set[str]) -> Iterator[tuple[Ink | None, str]]:
    """The legend: the colours and marks that the picture uses."""
    areas = [area for plan in plans for area in plan.areas]
    scopes = {scope_of(thing) for area in areas for thing in area.things}
    for scope, ink in SCOPE_INKS.items():
        if scope in scopes:
            yield ink, SCOPE_NAMES.get(scope, scope)
    if any(not area.things for area in areas):
        yield None, "dashed: empty"
    if any(not area.theme_name for area in areas):
        yield None, "hatched: the theme does not show it"
    if differing:
        yield None, f"{DIFFERS} differs between these pages"


def _draw_legend(paper: Paper, legend: Sequence[tuple[Ink | None, str]], x: float, y: float) -> float:
    """The legend, in as many lines as it takes; where it ends."""
    at = x + width("from:", SMALLEST) + 8
    paper.words(x, y, "from:", SMALLEST)
    for ink, text in legend:
        indent = INDENT if ink else 0
        if at + indent + width(text, SMALLEST) > paper.width - x:
            at, y = x, y + SMALLEST * LEADING + 2
        if ink:
            paper.inked(at, y, CHIP, CHIP, ink)
        paper.words(at + indent, y, text, SMALLEST)
        at += indent + width(text, SMALLEST) + 14
    return y + SMALLEST * LEADING
