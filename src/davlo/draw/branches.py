"""One setting over the whole tree: every branch a box coloured by its value, in columns."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from matplotlib.figure import Figure

from davlo.core.outcomes.branch_map import MAY, Box, BranchMap, Group
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.values import marked
from davlo.core.wording import count, tail_of

from .ink import BLACK, BY_LIGHTNESS, DARK, GREY, INKS, LACKS, OTHER, Ink, mixed
from .lettering import LEADING, SMALLEST, fit, fit_path, lines, width
from .paper import HEIGHT, WIDTH, Paper, Place

MARGIN, GUTTER = 18.0, 12.0
LEAST_ROW, ROOMY_ROW, LARGEST_ROW = 9.4, 11.0, 15.0
"""The least, the comfortable and the largest height of a row."""
MOST_COLUMNS = 4
"""How many columns there may be before rows become too low."""
STEP, SWATCH, BAR = 7.0, 9.0, 42.0
"""The margin of a box in the one around it; the width of its swatch, and of the bar that shows a mixture."""
DEEPEST = 9
LEAST_PART = 3.0
"""The least part of a bar for a value, however few its pages are."""
WIDEST = 420.0
EXCEPTION, NOT_SHOWN = "◆", "○"


class Row(NamedTuple):
    """A box with what is written in it."""

    box: Box
    label: str
    told: str
    closes: int
    """How many rows after it are in it."""


@dataclass
class _Boxes:
    """The rectangles of all rows: those that look the same are drawn together, which is much faster."""

    rows: dict[Ink, list[Place]] = field(default_factory=dict)
    inked: dict[Ink, list[Place]] = field(default_factory=dict)
    bars: list[Place] = field(default_factory=list)
    around: list[Place] = field(default_factory=list)

    def draw(self, paper: Paper) -> None:
        """Draw the rectangles, those on top last."""
        for ink, places in self.rows.items():
            paper.boxes(places, ink.tint, mixed(ink.color, GREY, 0.5), 0.3)
        for ink, places in self.inked.items():
            paper.inked_boxes(places, ink)
        paper.boxes(self.bars, "none", BLACK, 0.4)
        paper.boxes(self.around, "none", GREY, 0.6)


def draw_map(site: SiteModel, found: BranchMap) -> Figure:
    """The map. `davlo.draw.map` is the call to use."""
    paper = Paper()
    inks, order = _inks(found)
    y = _draw_head(paper, site, found, inks, order)
    rows = list(_rows(site, found.boxes))
    columns, size = _columns(len(rows), HEIGHT - y - MARGIN)
    room = min((WIDTH - 2 * MARGIN - GUTTER * (columns - 1)) / columns, WIDEST)
    each = -(-(len(rows) + columns - 1) // columns)
    bar = BAR + 3 if any(_is_mixed(row.box) for row in rows) else 0.0
    sheet = _Boxes()
    at, place, lowest = 0, 0, y
    while at < len(rows):
        x = MARGIN + place * (room + GUTTER)
        inside = _around(rows, at)
        top = y
        if inside:
            words = f"in {site.tree.paths[rows[inside[-1]].box.page]}"
            paper.words(x, top, fit_path(words, SMALLEST, room, "slanted"), SMALLEST, "slanted", DARK)
            top += size
        some = range(at, min(len(rows), at + each - int(bool(inside))))
        for i in some:
            _draw_row(paper, sheet, rows[i], x, top + (i - at) * size, room, size, inks, bar)
        for i in (*inside, *some):
            if rows[i].closes:
                begin, end = max(i, at), min(i + rows[i].closes, some[-1])
                left = x + _indent(rows[i].box)
                sheet.around.append((left, top + (begin - at) * size, x + room - left, (end - begin + 1) * size))
        lowest = max(lowest, top + len(some) * size)
        at, place = some[-1] + 1, place + 1
    sheet.draw(paper)
    paper.end_at(lowest + MARGIN)
    return paper.figure


def _inks(found: BranchMap) -> tuple[list[Ink], list[int]]:
    """The ink of each group, and the order in which the legend names them: numbers by size, others by their pages."""
    values = [group.value for group in found.groups if group.kind == "value"]
    order = list(range(len(found.groups)))
    inks = dict(enumerate(INKS[: len(values)]))
    if len(values) > 1 and all(isinstance(value, (int, float)) and not isinstance(value, bool) for value in values):
        order[: len(values)] = sorted(range(len(values)), key=lambda i: values[i], reverse=True)  # type: ignore[arg-type,return-value]
        inks = dict(zip(order, BY_LIGHTNESS, strict=False))
    rest = {"other": OTHER, "lacks": LACKS}
    return [inks[i] if i in inks else rest[group.kind] for i, group in enumerate(found.groups)], order


def _draw_head(paper: Paper, site: SiteModel, found: BranchMap, inks: Sequence[Ink], order: Sequence[int]) -> float:
    """What the map is of, and the legend; where they end."""
    total = sum(group.pages for group in found.groups)
    under = f", {site.tree.paths[found.top]} and what is below it" if found.top >= 0 else ""
    what = f"who may {found.setting.removeprefix(MAY)}," if found.setting.startswith(MAY) else found.setting
    title = f"{what} on {count(total, 'page')}{under}"
    room = WIDTH - 2 * MARGIN
    y = paper.words(MARGIN, MARGIN, fit(title, 12, room, "bold"), 12, "bold")
    gathered = any(box.branches > 1 or (box.branches and box.pages > 1) for box in found.boxes)
    told = f"{site.name}. Each box is a page, with what is below it in it."
    if gathered:
        told += f" Branches are gathered into {len(found.boxes)} boxes; a bar shows what such a branch holds."
    for text in lines(told, 8, room):
        y = paper.words(MARGIN, y, text, 8, color=DARK)
    at, y = MARGIN, y + 3
    entries: list[tuple[Ink | None, str]] = [(inks[i], _legend_words(found.groups[i])) for i in order]
    exceptions = sum(box.exceptions for box in found.boxes)
    if exceptions:
        verb = "is an exception" if exceptions == 1 else "are exceptions"
        entries.append((None, f"{EXCEPTION} {count(exceptions, 'page')} {verb}"))
    not_shown = sum(box.not_shown for box in found.boxes)
    if not_shown:
        verb = "has its" if not_shown == 1 else "have their"
        entries.append((None, f"{NOT_SHOWN} {count(not_shown, 'page')} {verb} value set but not shown"))
    for ink, words in entries:
        indent = SWATCH + 9 if ink else 0.0
        text = fit(words, 8, room - indent)
        if at + indent + width(text, 8) > WIDTH - MARGIN:
            at, y = MARGIN, y + 8 * LEADING + 2
        if ink:
            paper.inked(at, y, SWATCH + 5, 9, ink)
        paper.words(at + indent, y, text, 8)
        at += indent + width(text, 8) + 14
    return y + 8 * LEADING + 8


def _legend_words(group: Group) -> str:
    pages = count(group.pages, "page")
    if group.kind == "value":
        return f"{_value(group)}: {pages}"
    return f"{group.values} other values: {pages}" if group.kind == "other" else f"does not have it: {pages}"


def _value(group: Group) -> str:
    text = marked(group.value)
    return text if len(text) <= 40 else text[:39] + "…"


def _rows(site: SiteModel, boxes: Sequence[Box]) -> Iterator[Row]:
    """The boxes with what is written in them."""
    paths = [site.tree.paths[box.page] if box.page >= 0 else "" for box in boxes]
    around: list[int] = []
    for i, box in enumerate(boxes):
        del around[box.level :]
        inner = next((j for j in range(i + 1, len(boxes)) if boxes[j].level <= box.level), len(boxes)) - i - 1
        total = sum(one.pages for one in boxes[i : i + inner + 1])
        told = [f"{EXCEPTION}{box.exceptions:,}" if box.exceptions > 1 else EXCEPTION] if box.exceptions else []
        told += [f"{NOT_SHOWN}{box.not_shown:,}" if box.not_shown > 1 else NOT_SHOWN] if box.not_shown else []
        told += [count(total, "page")] if total > 1 else []
        label = tail_of(paths[i], paths[around[-1]] if around else "")
        label = label if box.branches <= 1 else f"{count(box.branches, 'more branch', 'more branches')}"
        yield Row(box, label, "  ".join(told), inner)
        around.append(i)


def _columns(rows: int, height: float) -> tuple[int, float]:
    """The number of columns, and the height of a row."""
    columns, size = 0, 0.0
    while size < (ROOMY_ROW if columns < MOST_COLUMNS else LEAST_ROW):
        columns += 1
        size = height / max(1, -(-(rows + columns - 1) // columns))
    return columns, min(size, LARGEST_ROW)


def _around(rows: Sequence[Row], at: int) -> list[int]:
    """The rows in whose boxes a row stands, the outermost first."""
    return [i for i in range(at) if i + rows[i].closes >= at]


def _indent(box: Box) -> float:
    return min(box.level, DEEPEST) * STEP


def _draw_row(
    paper: Paper, sheet: _Boxes, row: Row, x: float, y: float, room: float, size: float, inks: Sequence[Ink], bar: float
) -> None:
    """One box with its swatch, its label and its counts."""
    box = row.box
    left, right = x + _indent(box), x + room
    most = max(range(len(box.counts)), key=box.counts.__getitem__)
    sheet.rows.setdefault(inks[most], []).append((left, y, right - left, size))
    sheet.inked.setdefault(inks[most], []).append((left, y, SWATCH, size))
    letters = min(max(size / LEADING, SMALLEST), 9.0)
    top = y + (size - letters * LEADING) / 2
    if _is_mixed(box):
        _draw_bar(sheet, box, right - BAR - 2, y + 1.5, size - 3, inks)
    right -= bar
    told = width(row.told, letters)
    if told:
        paper.words(right - told - 3, top, row.told, letters)
    begin = left + SWATCH + 4
    face = "bold" if row.closes else "plain"
    cut = fit_path if box.branches <= 1 else fit
    label = cut(row.label, letters, right - told - 9 - begin, face)
    paper.words(begin, top, label, letters, face, BLACK)


def _is_mixed(box: Box) -> bool:
    return sum(1 for number in box.counts if number) > 1


def _draw_bar(sheet: _Boxes, box: Box, x: float, y: float, height: float, inks: Sequence[Ink]) -> None:
    """How many of a branch's pages have which value; the few are shown too."""
    parts = [(number, inks[i]) for i, number in enumerate(box.counts) if number]
    spare = BAR - LEAST_PART * len(parts)
    for number, ink in parts:
        across = LEAST_PART + spare * number / box.pages
        sheet.inked.setdefault(ink, []).append((x, y, across, height))
        x += across
    sheet.bars.append((x - BAR, y, BAR, height))
