"""The wide and the long table as CSV and as JSON."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import distinct
from davlo.core.arrays.texts import Texts
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.values import Value, format_value, is_plain, json_value

from .csv_lines import write_csv
from .json_text import json_text
from .sources import smallest
from .table import LONG_COLUMNS, long_table
from .text_columns import CSV, JSON, Pieces, cells, lines

DETAILS = ("title", "type", "language", "status")
"""The details that a wide table begins with."""
PART = 1 << 15
"""Pages of which a long table is put together at a time."""


class TextColumn(NamedTuple):
    """A column of a table: codes, an integer a row, and what they mean in CSV and in JSON."""

    codes: NDArray[np.signedinteger]
    words: Sequence[str]
    values: Sequence[object] | None = None  # None: the words themselves

    def json(self, before: str) -> list[Pieces]:
        """The cells as JSON has them, with a piece before each."""
        if self.values is None:
            return cells((self.codes, self.words), JSON, before)
        return [Pieces.of([f"{before}{json_text(value)}" for value in self.values], self.codes)]


class TextTable(NamedTuple):
    """A table to be written: its header, its columns, and how many rows it has."""

    header: tuple[str, ...]
    columns: list[TextColumn]
    rows: int

    def csv(self) -> Iterator[bytes]:
        """The table as CSV, many rows at a time."""
        return as_csv([self])

    def json(self) -> Iterator[bytes]:
        """The table as a JSON array with an object a row, many rows at a time."""
        return as_json([self])


def as_csv(parts: Iterable[TextTable]) -> Iterator[bytes]:
    """The rows of tables with the same columns as one CSV table, many rows at a time."""
    for number, part in enumerate(parts):
        if not number:
            head = io.StringIO()
            write_csv(head, [part.header])
            yield head.getvalue().encode()
        pieces = [
            piece
            for place, column in enumerate(part.columns)
            for piece in cells((column.codes, column.words), CSV, "," if place else "")
        ]
        yield from lines([*pieces, Pieces.constant("\n", part.rows)], part.rows)


def as_json(parts: Iterable[TextTable]) -> Iterator[bytes]:
    """The rows of tables with the same columns as one JSON array with an object a row, many rows at a time."""
    is_begun = False
    for part in parts:
        later = np.ones(part.rows, dtype=np.int32)
        later[:1] = is_begun
        pieces = [Pieces.of(["[\n {", ",\n {"], later)]
        for place, (name, column) in enumerate(zip(part.header, part.columns, strict=True)):
            pieces += column.json(f"{',' if place else ''}\n  {json_text(name)}: ")
        yield from lines([*pieces, Pieces.constant("\n }", part.rows)], part.rows)
        is_begun = is_begun or part.rows > 0
    yield b"\n]\n" if is_begun else b"[]\n"


def wide(
    effective: EffectiveModel, settings: Sequence[int] | None = None, pages: NDArray[np.int64] | None = None
) -> TextTable:
    """A row a page, or for each of some: its path, then the value of each setting; empty where it does not have it.

    Of all settings, `DETAILS` come before them. In JSON values have their types; what is empty or none is null.

    Example
    -------
    >>> import davlo, json
    >>> table = wide(davlo.open_demo().resolve(), [0])
    >>> b"".join(table.csv()).decode().splitlines()[:2], json.loads(b"".join(table.json()))[0]
    (['path,heading.show', '/,no'], {'path': '/', 'heading.show': False})
    """
    site = effective.site
    numbers = range(len(site.catalogue)) if settings is None else settings
    some = slice(None) if pages is None else pages
    details = DETAILS if settings is None else ()
    columns = [detail_column(site, name, some) for name in details]
    for number in numbers:
        found = effective.resolved(number)
        words = [format_value(word) for word in found.words]
        codes = np.where(site.has(number), found.value, len(words))[some].astype(smallest(len(words) + 1))
        columns.append(TextColumn(codes, [*words, ""], [*map(plain_json, found.words), None]))
    header = ("path", *details, *(site.catalogue[number].name for number in numbers))
    paths = TextColumn(np.arange(len(site.tree), dtype=np.int32)[some], site.tree.paths)
    return TextTable(header, [paths, *columns], len(paths.codes))


def detail_column(site: SiteModel, name: str, some: slice | NDArray[np.int64]) -> TextColumn:
    """A detail of all pages, or of some."""
    column = site.details.column(name)
    if isinstance(column.words, Texts):
        return TextColumn(column.codes[some], column.words)
    return TextColumn(column.codes[some], column.words, [word or None for word in column.words])


def plain_json(value: Value) -> object:
    """A value as JSON holds it; values that no page ends up with, as those of changes of lists, are texts."""
    return json_value(value) if is_plain(value) else format_value(value)


def long_parts(
    effective: EffectiveModel, settings: Sequence[int] | None = None, pages: NDArray[np.int64] | None = None
) -> Iterator[TextTable]:
    """The long table in parts: a row for every page and every setting that it has, for all of them or for some.

    Example
    -------
    >>> import davlo
    >>> parts = long_parts(davlo.open_demo().resolve(), [0])
    >>> b"".join(as_csv(parts)).decode().splitlines()[1]
    '/,heading.show,no,type landing,,davlo.yaml,74'
    """
    chosen = np.arange(len(effective.site.tree)) if pages is None else pages
    for begin in range(0, max(len(chosen), 1), PART):
        yield _long(effective, chosen[begin : begin + PART], settings)


def _long(effective: EffectiveModel, pages: NDArray[np.int64], settings: Sequence[int] | None) -> TextTable:
    table = long_table(effective, pages, settings)
    found, source = table.sources, table.source
    line, which = distinct(found.line.astype(np.int64))
    numbers = [number or None for number in found.line[line].tolist()]
    columns = [
        TextColumn(table.page, table.paths),
        TextColumn(table.setting, table.settings),
        TextColumn(table.value, [text for text, _ in table.values], [plain_json(value) for _, value in table.values]),
        TextColumn(found.scope.codes[source], found.scope.words),
        TextColumn(found.locked[source].astype(np.int8), ["", "yes"], [False, True]),
        TextColumn(found.file.codes[source], found.file.words, [word or None for word in found.file.words]),
        TextColumn(which[source], [str(number or "") for number in numbers], numbers),
    ]
    return TextTable(LONG_COLUMNS, columns, len(table.page))
