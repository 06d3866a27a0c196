"""Records as JSON lines, one a page: details, settings, sources and outcomes, put together column by column."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple, cast

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codebook, Column, Mask, distinct
from davlo.core.arrays.texts import Texts, stacked
from davlo.core.outcomes.areas import PageValue, area_content, codes_where, composition, headings_of, standing
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.placeholders import HEADING
from davlo.core.outcomes.shown_values import ShownValues
from davlo.core.outcomes.sitemap.sitemap_reasons import SITEMAP_REASONS
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import Plain, json_value
from davlo.core.site.source import source_of

from .json_text import json_text
from .table import stands_record, theme_record
from .text_columns import JSON, Pieces, cells, lines, written

Numbers = NDArray[np.integer]
Provided = tuple[NDArray[np.int32], list[tuple[str, ...]]]
"""Which blocks of an area provide a heading, as codes and what they mean."""


def record_lines(
    effective: EffectiveModel, settings: Sequence[int] | None = None, pages: NDArray[np.int64] | None = None
) -> Iterator[bytes]:
    """A line of JSON for each page, or for each of some, many at a time; with all settings, or with some.

    Example
    -------
    >>> import davlo, json
    >>> lines = b"".join(record_lines(davlo.open_demo().resolve())).splitlines()
    >>> record = json.loads(lines[0])
    >>> record["path"], record["settings"]["layout.theme"], record["sources"]["layout.theme"]["scope"]
    ('/', 'day', 'everywhere')
    """
    pieces = _Records(effective).pieces(range(len(effective.site.catalogue)) if settings is None else settings)
    if pages is None:
        return lines(pieces, len(effective.site.tree))
    return lines([piece.taken(pages) for piece in pieces], len(pages))


class _Records:
    """What the records are put together from."""

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective, self.site = effective, effective.site
        self.rows = len(self.site.tree)
        self.outcomes, self.shown = effective.shared(Outcomes), effective.shared(ShownValues)

    def pieces(self, numbers: Sequence[int]) -> list[Pieces]:
        """The pieces of each line, with these settings."""
        there = [self.site.has(number) for number in numbers]
        return [
            Pieces(written(self.site.tree.paths, JSON, '{"path": ')),
            *self._details(),
            *self._items('}, "settings": {', [self._value(number) for number in numbers], there),
            *self._items('}, "sources": {', [self._source(number) for number in numbers], there),
            *self._not_shown(numbers),
            *self._outcomes(),
        ]

    def _said(self, text: str) -> Pieces:
        return Pieces.constant(text, self.rows)

    def _details(self) -> Iterator[Pieces]:
        tree, before = self.site.tree, ', "details": {'
        for name, column in self.site.details.columns.items():
            if name != "parent":
                yield cells((column.codes, column.words), JSON, f"{before}{json_text(name)}: ")
                before = ", "
        yield self._said(f'{before}"parent": ')
        parents = stacked([written(tree.paths, JSON), Texts.of(["null"])])
        yield Pieces(parents, np.where(tree.parent >= 0, tree.parent, self.rows).astype(np.int32))
        first, depth = distinct(tree.depth.astype(np.int64))
        yield Pieces.of([f', "depth": {tree.depth[one]}' for one in first], depth)

    def _items(self, before: str, columns: Sequence[Column], there: Sequence[Mask]) -> Iterator[Pieces]:
        """Items of an object, each on the pages where it is there; with a comma where one was before it."""
        yield self._said(before)
        some = np.zeros(self.rows, dtype=bool)
        for column, here in zip(columns, there, strict=True):
            words = [*column.words, *(f", {word}" for word in column.words), ""]
            codes = np.where(here, column.codes + some * len(column.words), len(words) - 1)
            yield Pieces.of(words, codes)
            some = some | here

    def _value(self, number: int) -> Column:
        name, found = json_text(self.site.catalogue[number].name), self.effective.resolved(number)
        used = np.bincount(found.value, minlength=len(found.words)).tolist()  # other words may be no values of a page
        texts = [
            json_text(json_value(cast("Plain", word))) if uses else ""
            for word, uses in zip(found.words, used, strict=True)
        ]
        return Column(found.value, [f"{name}: {text}" for text in texts])

    def _source(self, number: int) -> Column:
        name, statement = json_text(self.site.catalogue[number].name), self.effective.resolved(number).source
        first, codes = distinct(statement.astype(np.int64))
        words = []
        for one in statement[first].tolist():
            source = source_of(self.site, one)
            told = {"scope": str(source.scope), "file": source.file or None, "line": source.line or None}
            words.append(f"{name}: {json_text(told)}")
        return Column(codes, words)

    def _not_shown(self, numbers: Sequence[int]) -> Iterator[Pieces]:
        columns = []
        for number in numbers:
            reasons, name = self.shown.reasons(number), json_text(self.site.catalogue[number].name)
            columns.append(Column(reasons.codes, [f"{name}: {json_text(word)}" for word in reasons.words]))
        return self._items('}, "not shown": {', columns, [column.codes > 0 for column in columns])

    def _outcomes(self) -> Iterator[Pieces]:
        found, layouts = self.outcomes, self._layouts()
        areas = list(self._areas(layouts))
        yield cells((found.titles.codes, found.titles.words), JSON, '}, "outcomes": {"title": ')
        yield cells((found.headings.codes, found.headings.words), JSON, ', "heading": ')
        yield self._headings([headings for _, headings in areas])
        shown = [f', "menu": {{"shown": {word}, "label": ' for word in ("false", "true")]
        yield Pieces.of(shown, found.menu.shown.view(np.int8))
        yield cells((found.labels.codes, found.labels.words), JSON)
        reasons = found.not_in_menu
        yield Pieces.of([f', "reason": {json_text(word or None)}' for word in reasons.words], reasons.codes)
        yield Pieces.of([f'}}, "visitor may view": {word}' for word in ("false", "true")], found.visible.view(np.int8))
        listed = [json_text({"listed": not reason, "reason": reason or None}) for reason in SITEMAP_REASONS]
        yield Pieces.of([f', "sitemap": {word}' for word in listed], found.sitemap)
        made = [composition(self.effective, page) for page in layouts.first]
        yield Pieces.of([f', "width": {json_text(one.width or None)}, "areas": {{' for one in made], layouts.codes)
        yield from (stands for stands, _ in areas)
        ends = [f'}}, "theme": {json_text(theme_record(one))}, "phone": {json_text(one.phone)}}}}}\n' for one in made]
        yield Pieces.of(ends, layouts.codes)

    def _layouts(self) -> _Alike:
        """The pages whose layout, theme, width and order on a phone are alike."""
        settings = ("layout.name", "layout.theme", "layout.width", "layout.phone-order")
        return _alike([codes_where(self.effective, name, None) for name in settings])

    def _areas(self, layouts: _Alike) -> Iterator[tuple[Pieces, Provided]]:
        """The contents of each page's first area, of its second, and so on; and the headings they give."""
        declared = self.site.declarations.layouts
        names = [declared.get(PageValue(self.effective, page).word("layout.name")) for page in layouts.first]
        order = [layout.areas if layout else () for layout in names]
        stands: Codebook[str] = Codebook([""])
        headings: Codebook[tuple[str, ...]] = Codebook([()])
        of_area = {
            area: self._area(area, stands, headings) for area in dict.fromkeys(a for areas in order for a in areas)
        }
        for place in range(max(map(len, order), default=0)):
            here = [areas[place] if place < len(areas) else "" for areas in order]
            stand, heading = np.zeros(self.rows, dtype=np.int32), np.zeros(self.rows, dtype=np.int32)
            for area in dict.fromkeys(filter(None, here)):
                pages = np.flatnonzero(np.array([one == area for one in here])[layouts.codes])
                stand[pages], heading[pages] = (codes[pages] for codes in of_area[area])
            words = [f"{', ' if place else ''}{word}" if word else "" for word in stands.items]
            yield Pieces.of(words, stand), (heading, headings.items)

    def _area(
        self, area: str, stands: Codebook[str], headings: Codebook[tuple[str, ...]]
    ) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """What an area of each page holds, and which headings come of it, as codes. Twice int32[pages]"""
        found = standing(self.effective, area)
        theme = codes_where(self.effective, "layout.theme", None)
        alike = _alike([found.layout, theme, found.band, found.sidebar, found.look, found.blocks])
        codes = np.zeros((2, len(alike.first)), dtype=np.int32)
        for number, page in enumerate(alike.first):
            value = PageValue(self.effective, page)
            layout = self.site.declarations.layouts.get(value.word("layout.name"))
            if layout is not None and area in layout.areas:
                made_for = self.site.declarations.themes.get(value.word("layout.theme"))
                content = area_content(self.site, value, layout, made_for, area)
                codes[0, number] = stands.code(f"{json_text(area)}: {json_text(stands_record(content))}")
                codes[1, number] = headings.code(tuple(headings_of(self.site, content)))
        return codes[0][alike.codes], codes[1][alike.codes]

    def _headings(self, columns: Sequence[Provided]) -> Pieces:
        """What provides a heading on each page, nothing twice."""
        words: list[tuple[str, ...]] = [()]
        codes = np.zeros(self.rows, dtype=np.int64)
        for provided, blocks in columns:
            first, which = distinct(codes * len(blocks) + provided)
            before, more = codes[first].tolist(), provided[first].tolist()
            words = [
                tuple(dict.fromkeys((*words[one], *blocks[other]))) for one, other in zip(before, more, strict=True)
            ]
            codes = which.astype(np.int64)
        told = [json_text(some) for word in words for some in (word, (HEADING, *word))]
        says = ~Texts.of_column(self.outcomes.headings).blank()
        return Pieces.of([f', "headings": {text}' for text in told], 2 * codes + says)


class _Alike(NamedTuple):
    """Pages that are alike: the first of each kind, and for each page the number of its kind."""

    first: list[int]
    codes: NDArray[np.int32]


def _alike(columns: Sequence[Numbers]) -> _Alike:
    """The pages that have the same code, at least -1, in each of these columns."""
    codes, first = np.zeros(len(columns[0]), dtype=np.int64), np.zeros(0, dtype=np.int64)
    for column in columns:
        first, which = distinct(codes * (int(column.max(initial=0)) + 2) + column.astype(np.int64) + 1)
        codes = which.astype(np.int64)
    return _Alike(first.tolist(), codes.astype(np.int32))
