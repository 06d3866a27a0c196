"""Pages drawn as their layouts, on a wide screen and on a phone: areas to scale, several pages beside each other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from matplotlib.figure import Figure

from davlo.core.outcomes.page_plan import (
    ABOVE,
    BELOW,
    HEADING,
    LEFT,
    MIDDLE,
    PHONE,
    RIGHT,
    SCREEN,
    Plan,
    PlannedArea,
)

from .area_text import (
    CHIP,
    DIFFERS,
    INDENT,
    SCOPE_INKS,
    SCOPE_NAMES,
    Line,
    area_lines,
    head_lines,
    height_of,
    phone_lines,
    placeless_lines,
    scope_of,
)
from .ink import BLACK, GREY, NO_PLACE, PALE, WHITE, Ink
from .lettering import LEADING, SMALLEST, width
from .paper import HEIGHT, WIDTH, Paper

MARGIN, GAP, PAD, BETWEEN = 18.0, 14.0, 5.0, 2.5
"""Points around the sheet, between the screens, within a box, and between boxes."""
TOO_NARROW = 42.0
"""In a box so narrow stands a number, and its lines are below."""
LEAST_MIDDLE = 90.0
CAPTION = 2 * SMALLEST * LEADING
BESIDE = 3
"""The most pages in a row; four pages take two rows of two."""


class Panel(NamedTuple):
    """One page of a sheet.

    The lines above its screens; of each screen its areas with the lines in them; and those under the wide screen: what
    stands in areas that are too narrow for words, and what is said for areas that the layout lacks.
    """

    plan: Plan
    head: list[Line]
    wide: Mapping[str, list[Line]]
    phone: Mapping[str, list[Line]]
    under: list[Line]
    scale: float

    def wide_height(self) -> float:
        """The least height of the wide screen, and what is under it."""
        strips = sum(_box_height(self.wide[a.area]) + BETWEEN for a in self.plan.areas if a.side in (ABOVE, BELOW))
        return strips + self.middle_height() + BETWEEN + 2 * PAD + self.under_height()

    def middle_height(self) -> float:
        """The least height of the content and the columns beside it."""
        beside = [a for a in self.plan.areas if a.side in (LEFT, MIDDLE, RIGHT)]
        return max([LEAST_MIDDLE, *(_box_height(self.wide[a.area]) for a in beside)])

    def under_height(self) -> float:
        return _box_height(self.under) + 2 * BETWEEN if self.under else 0.0

    def phone_height(self) -> float:
        return sum(_box_height(some) + BETWEEN for some in self.phone.values()) + 2 * PAD


def draw_pages(plans: Sequence[Plan]) -> Figure:
    """The pages beside each other. `davlo.draw.page` is the call to use."""
    columns = len(plans) if len(plans) <= BESIDE else 2 if len(plans) == 4 else BESIDE
    sheet = WIDTH * max(1.0, columns / 2)
    room = (sheet - 2 * MARGIN - 2 * GAP * (columns - 1)) / columns
    differing = _differing(plans)
    panels = [_panel(plan, room, differing) for plan in plans]
    rows = [panels[i : i + columns] for i in range(0, len(panels), columns)]
    heads = [max(height_of(panel.head) for panel in row) + CAPTION for row in rows]
    bodies = [max(max(panel.wide_height(), panel.phone_height()) for panel in row) for row in rows]
    spare = HEIGHT - 2 * MARGIN - 3 * SMALLEST * LEADING - sum(heads) - sum(bodies) - GAP * (len(rows) - 1)
    bodies = [body + max(0.0, spare / len(rows)) for body in bodies]
    paper = Paper(sheet)
    y = MARGIN
    for row, head, body in zip(rows, heads, bodies, strict=True):
        for i, panel in enumerate(row):
            _draw_panel(paper, panel, MARGIN + i * (room + 2 * GAP), y, head, body)
        y += head + body + GAP
    end = _draw_legend(paper, list(_legend(plans, differing)), MARGIN, y)
    paper.end_at(max(HEIGHT, end + MARGIN * 0.7))
    return paper.figure


def _differing(plans: Sequence[Plan]) -> set[str]:
    """The areas that are not the same on all the pages."""
    told = [{area.area: _alike(area) for area in plan.areas} for plan in plans]
    return {name for one in told for name in one if len({other.get(name) for other in told}) > 1}


def _alike(area: PlannedArea) -> tuple[object, ...]:
    things = tuple((t.kind, "" if t.kind == HEADING else t.name, t.screens) for t in area.things)
    return (area.theme_name, area.instead, area.side, area.share, things)


def _panel(plan: Plan, room: float, differing: set[str]) -> Panel:
    """What is to be drawn of a page, in a room so wide."""
    scale = (room - GAP) / (SCREEN + PHONE)
    below = SCREEN * scale - 2 * PAD
    wide, phone = {}, {}
    under: list[Line] = []
    number = 0
    for area in plan.areas:
        differs = area.area in differing
        inner = area.share * plan.pixels * scale - 2 * PAD - (BETWEEN if area.share < 1 else 0)
        if inner < TOO_NARROW:
            number += 1
            wide[area.area] = [Line(str(number), 8, "bold", BLACK)]
            under += area_lines(plan, area, below, differs, f"({number}) ")
        else:
            wide[area.area] = area_lines(plan, area, inner, differs)
        phone[area.area] = phone_lines(plan, area, PHONE * scale - 2 * PAD, differs)
    return Panel(plan, head_lines(plan, room), wide, phone, [*under, *placeless_lines(plan, below)], scale)


def _box_height(some: Sequence[Line]) -> float:
    return height_of(some) + 2 * PAD - 1


def _draw_panel(paper: Paper, panel: Panel, x: float, y: float, head: float, body: float) -> None:
    """One page: its head, the wide screen with what is under it, the phone."""
    plan, across = panel.plan, SCREEN * panel.scale
    top = y
    for line in panel.head:
        top = paper.words(x, top, line.text, line.size, line.face, line.color)
    y += head
    if not plan.layout:
        paper.box(x, y, across, body, PALE, GREY, "--", name=f"wide {plan.path}")
        paper.words(x + 2 * PAD, y + 2 * PAD, "no layout: there is nothing to draw", 9, "slanted")
        return
    taken = "all of it" if plan.pixels == SCREEN else f"{plan.pixels} of {SCREEN} pixels"
    caption = y - SMALLEST * LEADING - 2
    paper.words(x, caption, f"wide screen; the page takes {taken}", 8)
    paper.words(x + across + GAP, caption, f"phone, {PHONE} pixels", 8)
    wide = body - panel.under_height()
    _draw_wide(paper, panel, x, y, wide)
    if panel.under:
        at, height = y + wide + 2 * BETWEEN, _box_height(panel.under)
        paper.box(x, at, across, height, WHITE, GREY, ":", name=f"under {plan.path}")
        _put(paper, panel.under, x, at, across, height)
    _draw_phone(paper, panel, x + across + GAP, y, body)


def _draw_wide(paper: Paper, panel: Panel, x: float, y: float, height: float) -> None:
    """The wide screen: strips above, columns and content in the middle, strips below."""
    plan, page = panel.plan, panel.plan.pixels * panel.scale
    paper.box(x, y, SCREEN * panel.scale, height, PALE, GREY, name=f"wide {plan.path}")
    left = x + (SCREEN - plan.pixels) / 2 * panel.scale
    middle = panel.middle_height() + height + panel.under_height() - panel.wide_height()
    at = y + PAD
    for side in (ABOVE, MIDDLE, BELOW):
        if side == MIDDLE:
            for area, begin in _columns(plan):
                first, last = (BETWEEN / 2 if here else 0.0 for here in (begin > 0, begin + area.share < 0.999))
                across = area.share * page - first - last
                _draw_area(paper, panel, "wide", area, left + begin * page + first, at, across, middle)
            at += middle + BETWEEN
            continue
        for area in plan.areas:
            if area.side == side:
                high = _box_height(panel.wide[area.area])
                _draw_area(paper, panel, "wide", area, left, at, page, high)
                at += high + BETWEEN


def _columns(plan: Plan) -> Iterator[tuple[PlannedArea, float]]:
    """The content and the columns beside it, each with where it begins, from 0 to 1 of the page's width."""
    by_side = {side: [area for area in plan.areas if area.side == side] for side in (LEFT, MIDDLE, RIGHT)}
    begin = 0.0
    for side, areas in by_side.items():
        begin = 1 - sum(area.share for area in areas) if side == RIGHT else begin
        for area in areas:
            yield area, begin
            begin += area.share


def _draw_phone(paper: Paper, panel: Panel, x: float, y: float, height: float) -> None:
    """The phone: every area over its whole width."""
    plan, across = panel.plan, PHONE * panel.scale
    paper.box(x, y, across, height, PALE, GREY, name=f"phone {plan.path}")
    areas = {area.area: area for area in plan.areas}
    grows = next((name for name in plan.phone if areas[name].side == MIDDLE), "")
    at = y + PAD
    for name in plan.phone:
        high = _box_height(panel.phone[name]) + (height - panel.phone_height() if name == grows else 0)
        _draw_area(paper, panel, "phone", areas[name], x, at, across, high)
        at += high + BETWEEN


def _draw_area(
    paper: Paper, panel: Panel, screen: str, area: PlannedArea, x: float, y: float, across: float, height: float
) -> None:
    """The box of an area: dashed where nothing is shown there, hatched where the theme does not show it."""
    paper.box(x, y, across, height, WHITE)
    if not area.theme_name:
        paper.inked(x, y, across, height, NO_PLACE, edge="none")
    is_shown = any(screen in thing.screens for thing in area.things)
    name = f"{screen} {panel.plan.path} {area.area}"
    paper.box(x, y, across, height, edge=BLACK, line="-" if is_shown else "--", name=name)
    _put(paper, (panel.wide if screen == "wide" else panel.phone)[area.area], x, y, across, height)


def _put(paper: Paper, some: Sequence[Line], x: float, y: float, across: float, height: float) -> None:
    """Lines in a box; the room that is left goes under the last of those that grow."""
    spare = height - _box_height(some)
    grows = max((i for i, line in enumerate(some) if line.grows), default=-1)
    x, y = x + PAD, y + PAD
    for i, line in enumerate(some):
        if line.chip:
            paper.inked(x, y + (line.size - CHIP) * 0.75, CHIP, CHIP, line.chip)
        y = paper.words(x + line.indent, y, line.text, line.size, line.face, line.color)
        if i == grows:
            for bar in range(int((spare - 8) // 9)):
                part = (1, 0.94, 0.97, 0.6)[bar % 4]
                paper.box(x + line.indent, y + 4 + bar * 9, (across - 2 * PAD - line.indent) * part, 3, PALE)
            y += spare


def _legend(plans: Sequence[Plan], differing: set[str]) -> Iterator[tuple[Ink | None, str]]:
    """The legend: the colours and marks that the picture uses."""
    areas = [area for plan in plans for area in plan.areas]
    met = {scope_of(thing) for area in areas for thing in area.things}
    for scope, ink in SCOPE_INKS.items():
        if scope in met:
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
