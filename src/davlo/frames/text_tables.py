"""The wide and the long table as CSV and as JSON."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import format_value

from .csv_lines import write_csv
from .json_text import json_text
from .sources import smallest
from .table import LONG_COLUMNS, long_table
from .text_columns import CSV, JSON, Coded, Pieces, cells, lines


class TextTable(NamedTuple):
    """A table to be written: its header, its columns, of cells as they are in Davlo, and how many rows it has."""

    header: tuple[str, ...]
    columns: list[Coded]
    rows: int

    def csv(self) -> Iterator[bytes]:
        """The table as CSV, many rows at a time."""
        head = io.StringIO()
        write_csv(head, [self.header])
        yield head.getvalue().encode()
        pieces = [cells(column, CSV, "," if number else "") for number, column in enumerate(self.columns)]
        yield from lines([*pieces, Pieces.constant("\n", self.rows)], self.rows)

    def json(self) -> Iterator[bytes]:
        """The table as a JSON array with an object a row, many rows at a time."""
        if not self.rows:
            yield b"[]\n"
            return
        later = np.ones(self.rows, dtype=np.int32)
        later[0] = 0
        pieces = [Pieces.of(["[\n {", ",\n {"], later)]
        for number, (name, column) in enumerate(zip(self.header, self.columns, strict=True)):
            pieces.append(cells(column, JSON, f"{',' if number else ''}\n  {json_text(name)}: "))
        yield from lines([*pieces, Pieces.constant("\n }", self.rows)], self.rows)
        yield b"\n]\n"


def wide(
    effective: EffectiveModel, settings: Sequence[int] | None = None, pages: NDArray[np.int64] | None = None
) -> TextTable:
    """A row a page, or for each of some: its path, then the value of each setting; empty where it does not have it.

    Example
    -------
    >>> import davlo
    >>> table = wide(davlo.open_demo().resolve(), [0])
    >>> b"".join(table.csv()).decode().splitlines()[:2]
    ['path,heading.show', '/,no']
    """
    site, columns = effective.site, list[Coded]()
    numbers = range(len(site.catalogue)) if settings is None else settings
    some = slice(None) if pages is None else pages
    for number in numbers:
        found = effective.resolved(number)
        words = [format_value(word) for word in found.words]
        columns.append(
            (np.where(site.has(number), found.value, len(words))[some].astype(smallest(len(words) + 1)), [*words, ""])
        )
    header = ("path", *(site.catalogue[number].name for number in numbers))
    paths = (np.arange(len(site.tree), dtype=np.int32)[some], site.tree.paths)
    return TextTable(header, [paths, *columns], len(paths[0]))


def long(
    effective: EffectiveModel, pages: Sequence[int] | None = None, settings: Sequence[int] | None = None
) -> TextTable:
    """A row for every page and every setting that it has, of all pages and settings or of some.

    Example
    -------
    >>> import davlo
    >>> table = long(davlo.open_demo().resolve(), [0])
    >>> b"".join(table.csv()).decode().splitlines()[1]
    '/,heading.show,no,type landing,,davlo.yaml,74'
    """
    table = long_table(effective, pages, settings)
    sources = [(str(s.scope), "yes" if s.locked else "", s.file, str(s.line or "")) for s in table.sources]
    columns: list[Coded] = [
        (table.page, table.paths),
        (table.setting, table.settings),
        (table.value, table.values),
        *((table.source, [told[place] for told in sources]) for place in range(4)),
    ]
    return TextTable(LONG_COLUMNS, columns, len(table.page))
