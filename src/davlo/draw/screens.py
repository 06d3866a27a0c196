"""A page on one screen: its areas to scale, with the lines in them, in strips and columns, or on a phone in a stack."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import takewhile
from typing import NamedTuple

from davlo.core.outcomes.area_fits import LEFT, RIGHT
from davlo.core.records.page_plan import ABOVE, BELOW, MIDDLE, SCREENS, Plan, PlannedArea

from .area_text import CHIP, LOOKED_AT, Line, area_lines, height_of, placeless_lines, short_lines
from .ink import BLACK, GREY, NO_PLACE, PALE, WHITE
from .lettering import LEADING, SMALLEST, width
from .looks import PLAIN, DrawnBox, DrawnLook, drawn_look
from .paper import Paper

PHONE = "phone"
PAD, BETWEEN = 5.0, 2.5
"""Points within a box, and between boxes."""
TOO_NARROW = 42.0
"""A box this narrow holds a number, and its lines are below the screen."""
LEAST_MIDDLE = 90.0
INSET = 2.6
"""Points between the edge of an area and the border of its look."""


class Screen(NamedTuple):
    """A page on one screen."""

    plan: Plan
    name: str  # `wide`, `tablet` or `phone`
    page_name: str  # what the page is called in the names of boxes
    scale: float  # points a pixel
    lines: Mapping[str, list[Line]]  # the lines in each area
    # the contents of areas that are too narrow for words, and the settings of areas that the layout lacks
    under: list[Line]
    looks: Mapping[str, DrawnLook]  # how the sidebar and the band of each area look

    @property
    def across(self) -> float:
        """How wide the screen is drawn."""
        return SCREENS[self.name] * self.scale

    @property
    def page(self) -> float:
        """How wide the page is drawn on it."""
        return min(self.plan.pixels, SCREENS[self.name]) * self.scale

    @property
    def caption(self) -> str:
        """The things above it."""
        pixels = SCREENS[self.name]
        if self.name == PHONE or (self.name == "tablet" and self.plan.pixels >= pixels):
            return f"{self.name}, {pixels} pixels"
        taken = "all of it" if self.plan.pixels >= pixels else f"{self.plan.pixels} of {pixels} pixels"
        return f"{f'tablet, {pixels} pixels' if self.name == 'tablet' else 'wide screen'}; the page takes {taken}"

    def height(self) -> float:
        """Its least height, with what is under it."""
        if self.name == PHONE:
            return sum(self.box_height(area) + BETWEEN for area in self.lines) + 2 * PAD + self.under_height()
        strips = sum(self.box_height(a.area) + BETWEEN for a in self.plan.areas if a.side in (ABOVE, BELOW))
        return strips + self.middle_height() + BETWEEN + 2 * PAD + self.under_height()

    def middle_height(self) -> float:
        """The least height of the content and the columns beside it."""
        beside = [a for a in self.plan.areas if a.side in (LEFT, MIDDLE, RIGHT)]
        return max([LEAST_MIDDLE, *(self.box_height(a.area) for a in beside)])

    def box_height(self, area: str) -> float:
        """The least height of an area."""
        look = self.looks[area].whole
        beside = look.padding.top + look.padding.bottom + look.margin.top + look.margin.bottom
        return box_height(self.lines[area]) + beside

    def under_height(self) -> float:
        return box_height(self.under) + 2 * BETWEEN if self.under else 0.0


def screen_of(plan: Plan, name: str, page_name: str, scale: float, differing: set[str], whole: bool) -> Screen:
    """A page on one screen; `whole`: with all details of each area."""
    is_phone, under = name == PHONE, list[Line]()
    across = SCREENS[name] * scale
    page = across if is_phone else min(plan.pixels, SCREENS[name]) * scale
    looks = {area.area: _look_on(plan, area, name, scale) for area in plan.areas}
    gaps = {} if is_phone else dict(_gaps(plan, looks))
    found, number = {}, 0
    for area in plan.areas:
        differs, look = area.area in differing, looks[area.area]
        share = 1.0 if is_phone else area.share
        inner = (
            share * page
            - 2 * PAD
            - sum(_outer(area, look, is_phone))
            - look.whole.padding.left
            - look.whole.padding.right
            - (BETWEEN if share < 1 else 0)
        )
        inner -= sum(gaps.get(area.area, (0.0, 0.0)))
        if inner < TOO_NARROW:
            number += 1
            found[area.area] = [Line(str(number), 8, "bold", look.words or BLACK)]
            if whole:
                under += area_lines(plan, area, across - 2 * PAD, differs, f"({number}) ")
        elif whole:
            found[area.area] = area_lines(plan, area, inner, differs, "", look)
        else:
            found[area.area] = short_lines(plan, area, inner, differs, name, look)
    if whole:
        under += placeless_lines(plan, across - 2 * PAD)
    return Screen(plan, name, page_name, scale, found, under, looks)


def _look_on(plan: Plan, area: PlannedArea, screen: str, scale: float) -> DrawnLook:
    """How the sidebar and the band of an area look on a screen; plain where neither is shown.

    It leaves most of a narrow column to its blocks, and most of the page to the content. The margin of a column
    towards the content is taken from the content.
    """
    if not area.theme_name or not any(screen in thing.screens for thing in area.things if thing.kind in LOOKED_AT):
        return PLAIN
    is_phone = screen == PHONE
    page = SCREENS[screen] * scale if is_phone else min(plan.pixels, SCREENS[screen]) * scale
    content = sum(other.share for other in plan.areas if other.side == MIDDLE) * page
    look = drawn_look(area.look, scale)
    across = page if is_phone else area.share * page
    towards = max(0.0, content - TOO_NARROW - 3 * PAD) / 4
    margin, padding = look.whole.margin, look.whole.padding
    padding = padding._replace(left=min(padding.left, across / 8), right=min(padding.right, across / 8))
    margin = margin._replace(
        left=min(margin.left, towards) if area.side == RIGHT and not is_phone else min(margin.left, across / 8),
        right=min(margin.right, towards) if area.side == LEFT and not is_phone else min(margin.right, across / 8),
    )
    return look._replace(whole=look.whole._replace(margin=margin, padding=padding))


def _outer(area: PlannedArea, look: DrawnLook, is_phone: bool) -> tuple[float, float]:
    """The margins at the left and the right that are not towards the content, and so narrow the area itself."""
    margin = look.whole.margin
    left = 0.0 if area.side == RIGHT and not is_phone else margin.left
    return left, 0.0 if area.side == LEFT and not is_phone else margin.right


def box_height(some: Sequence[Line]) -> float:
    """The height of a box with these lines."""
    return height_of(some) + 2 * PAD - 1


def draw_screen(paper: Paper, screen: Screen, x: float, y: float, height: float) -> None:
    """A page on a screen of this height, and below it what does not fit."""
    inside = height - screen.under_height()
    paper.box(x, y, screen.across, inside, PALE, GREY, name=f"{screen.name} {screen.page_name}")
    (_draw_stack if screen.name == PHONE else _draw_strips)(paper, screen, x, y, inside)
    if screen.under:
        at, high = y + inside + 2 * BETWEEN, box_height(screen.under)
        paper.box(x, at, screen.across, high, WHITE, GREY, ":", name=f"under {screen.page_name}")
        put(paper, screen.under, x, at, screen.across, high)


def _draw_strips(paper: Paper, screen: Screen, x: float, y: float, height: float) -> None:
    """Strips above, columns and content in the middle, strips below."""
    plan, page = screen.plan, screen.page
    left = x + (screen.across - page) / 2
    middle = screen.middle_height() + height + screen.under_height() - screen.height()
    gaps = dict(_gaps(plan, screen.looks))
    at = y + PAD
    for side in (ABOVE, MIDDLE, BELOW):
        if side == MIDDLE:
            for area, begin in _columns(plan):
                first, last = (BETWEEN / 2 if here else 0.0 for here in (begin > 0, begin + area.share < 0.999))
                before, after = gaps.get(area.area, (0.0, 0.0))
                across = area.share * page - first - last - before - after
                _draw_area(paper, screen, area, left + begin * page + first + before, at, across, middle)
            at += middle + BETWEEN
            continue
        for area in plan.areas:
            if area.side == side:
                high = screen.box_height(area.area)
                _draw_area(paper, screen, area, left, at, page, high)
                at += high + BETWEEN


def _gaps(plan: Plan, looks: Mapping[str, DrawnLook]) -> Iterator[tuple[str, tuple[float, float]]]:
    """The gaps that columns keep to the content, before and after it."""
    order = [area for area, _ in _columns(plan)]
    for at, area in enumerate(order):
        if area.side == MIDDLE:
            before = looks[order[at - 1].area].whole.margin.right if at else 0.0
            yield area.area, (before, looks[order[at + 1].area].whole.margin.left if at + 1 < len(order) else 0.0)


def _columns(plan: Plan) -> Iterator[tuple[PlannedArea, float]]:
    """The content and the columns beside it, each with where it begins, from 0 to 1 of the page's width."""
    by_side = {side: [area for area in plan.areas if area.side == side] for side in (LEFT, MIDDLE, RIGHT)}
    begin = 0.0
    for side, areas in by_side.items():
        begin = 1 - sum(area.share for area in areas) if side == RIGHT else begin
        for area in areas:
            yield area, begin
            begin += area.share


def _draw_stack(paper: Paper, screen: Screen, x: float, y: float, height: float) -> None:
    """Every area over the whole width."""
    plan = screen.plan
    areas = {area.area: area for area in plan.areas}
    grows = next((name for name in plan.phone if areas[name].side == MIDDLE), "")
    spare = height + screen.under_height() - screen.height()
    at = y + PAD
    for name in plan.phone:
        high = screen.box_height(name) + (spare if name == grows else 0)
        _draw_area(paper, screen, areas[name], x, at, screen.across, high)
        at += high + BETWEEN


def _draw_area(
    paper: Paper, screen: Screen, area: PlannedArea, x: float, y: float, across: float, height: float
) -> None:
    """The box of an area: dashed where nothing is shown there, hatched where the theme does not show it."""
    drawn = screen.looks[area.area]
    look, (left, right) = drawn.whole, _outer(area, drawn, screen.name == PHONE)
    x, y, across, height = x + left, y + look.margin.top, across - left - right, height - look.margin.top
    height -= look.margin.bottom
    paper.box(x, y, across, height, look.back or WHITE)
    if not area.theme_name:
        paper.inked(x, y, across, height, NO_PLACE, edge="none")
    is_shown = any(screen.name in thing.screens for thing in area.things)
    name = f"{screen.name} {screen.page_name} {area.area}"
    paper.box(x, y, across, height, edge=BLACK, line="-" if is_shown else "--", name=name)
    if is_shown and look.has_border:
        inside = (x + INSET, y + INSET, across - 2 * INSET, height - 2 * INSET)
        _draw_border(paper, look, inside, f"border of {name}")
    pad = look.padding
    inside = (x + pad.left, y + pad.top, across - pad.left - pad.right, height - pad.top - pad.bottom)
    put(paper, screen.lines[area.area], *inside)


def _draw_border(paper: Paper, look: DrawnBox, place: tuple[float, float, float, float], name: str = "") -> None:
    """The border of a look: one box where its sides are alike, else a line for each side that has one."""
    top, right, bottom, left = look.border
    if top == right == bottom == left:
        paper.box(*place, edge=top.color, line=top.line, weight=top.thick, name=name)
        return
    x, y, across, height = place
    for edge, side in (
        (top, (x, y, across, 0.0)),
        (right, (x + across, y, 0.0, height)),
        (bottom, (x, y + height, across, 0.0)),
        (left, (x, y, 0.0, height)),
    ):
        if edge.thick:
            paper.box(*side, edge=edge.color, line=edge.line, weight=edge.thick, name=name)


def put(paper: Paper, some: Sequence[Line], x: float, y: float, across: float, height: float) -> None:
    """Lines in a box; the height that is left goes under the last of those that grow."""
    spare = height - box_height(some)
    grows = max((i for i, line in enumerate(some) if line.grows), default=-1)
    x, y = x + min(PAD, max(0.0, across - 8) / 2), y + PAD
    inner = across - 2 * PAD
    for i, line in enumerate(some):
        if line.box is not None and (not i or some[i - 1].block != line.block):
            _draw_block(paper, _block_lines_from(some[i:]), x, y, inner)
        y += line.gap
        if line.back:
            paper.box(x + line.indent - 2, y, inner - line.indent + 2, line.size * LEADING + 0.4, line.back)
        if line.chip:
            paper.inked(x, y + (line.size - CHIP) * 0.75, CHIP, CHIP, line.chip)
        begin = x + line.indent + _free(line, inner)
        y = paper.words(begin, y, line.text, line.size, line.face, line.color) + line.after
        if i == grows:
            for bar in range(int((spare - 8) // 9)):
                part = (1, 0.94, 0.97, 0.6)[bar % 4]
                paper.box(x + line.indent, y + 4 + bar * 9, (inner - line.indent) * part, 3, PALE)
            y += spare


def _block_lines_from(some: Sequence[Line]) -> list[Line]:
    """The lines of one block, from its first."""
    return [*takewhile(lambda one: one.block == some[0].block, some)]


def _free(line: Line, across: float) -> float:
    """What is free before a line that is not aligned to the left."""
    if line.align == "left":
        return 0.0
    free = max(0.0, across - line.indent - width(line.text, line.size, line.face))
    return free / 2 if line.align == "center" else free


def _draw_block(paper: Paper, some: Sequence[Line], x: float, y: float, across: float) -> None:
    """The background and the border of one block, around its lines."""
    box = some[0].box
    assert box is not None
    indent = min(line.indent for line in some) - box.padding.left - 2
    begin = y + some[0].gap - box.padding.top
    high = sum(line.height for line in some) - some[0].gap + box.padding.top - box.margin.bottom
    place = (x + indent, begin, across - indent - box.margin.right, high)
    if box.back:
        paper.box(*place, box.back)
    if box.has_border:
        _draw_border(paper, box, place)


CAPTION = 2 * SMALLEST * LEADING
"""The room above a screen for its caption."""
