"""Rows that somebody pastes or keeps in a file of their own: CSV, or cells of a spreadsheet with tabs between."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from davlo.core.arrays.codebooks import Column
from davlo.core.faults import Fault, Place, SiteError

from .csv_sheets import MARK_WORDS
from .large_csv import LARGE, parse_large

_HEAD = 1 << 20
"""The first line must end within this many bytes."""


WORKBOOK = b"PK\x03\x04"
"""How the bytes of a workbook begin."""


class PastedRows(NamedTuple):
    """A table that somebody made: its columns, and each row's line and cells; blank cells are left out."""

    columns: tuple[str, ...]
    rows: list[tuple[int, dict[str, str]]]


def read_pasted(content: bytes, name: str, required: Iterable[str] = ("path",)) -> PastedRows:
    """The rows of a table with a header; blank rows are left out.

    Parameters
    ----------
    content : bytes
        UTF-8, with commas, semicolons or tabs between cells; or a workbook (.xlsx), of which the first sheet is read.
    name : str
        What faults call it.
    required : iterable of str
        The columns that it must have.

    Raises
    ------
    SiteError
        If it is no such table, has no header with these columns, or a row has more cells than the header.

    Example
    -------
    >>> read_pasted(b"path\\ttitle\\n/a\\tA\\n/b\\t\\n", "the paste").rows
    [(2, {'path': '/a', 'title': 'A'}), (3, {'path': '/b'})]
    """
    if content.startswith(WORKBOOK):
        from .workbook_cells import workbook_cells

        cells = workbook_cells(content, name)
    else:
        cells = _cells_of_text(content, name)
    required = tuple(required)
    header = [cell.strip() for cell in next(cells, [])]
    if required:  # the columns are Davlo's own words then, which are lower-case
        header = [cell.lower() for cell in header]
    missing = [column for column in required if column not in header]
    faults = [
        Fault(Place(name, 1), f"there is no column {column}", column, tuple(header), _other_separator(header, column))
        for column in missing
    ]
    twice = {column for column, times in Counter(header).items() if column and times > 1}
    faults += [Fault(Place(name, 1), f"there are two columns {column}") for column in sorted(twice)]
    found = []
    for number, row in enumerate(cells, 2):
        if any(cell.strip() for cell in row[len(header) :]):
            faults.append(Fault(Place(name, number), f"the row has {len(row)} cells, and the header {len(header)}"))
        filled = {column: cell.strip() for column, cell in zip(header, row, strict=False) if cell.strip()}
        if filled:
            found.append((number, filled))
    if faults:
        raise SiteError(faults)
    return PastedRows(tuple(header), found)


def read_columns(content: bytes, name: str) -> tuple[tuple[str, ...], list[Column]]:
    """The header and the columns of a table that somebody made; the cells of a large one keep spaces around them.

    `content`, `name` and what is raised: as for `read_pasted`.
    """
    if len(content) >= LARGE and not content.startswith(WORKBOOK):
        parsed = parse_large(content, _mark(content[:_HEAD].decode("utf-8-sig", "replace")))
        header = [column.strip() for column in parsed.names] if parsed else []
        if parsed and len({*header} - {""}) == sum(map(bool, header)):
            return parsed.columns()[:2]
    found = read_pasted(content, name, ())
    return found.columns, [Column.of(cells.get(column, "") for _, cells in found.rows) for column in found.columns]


def _mark(text: str) -> str:
    """What separates the cells of a table: the mark that stands most often in its first line."""
    return max(MARK_WORDS, key=text.split("\n", 1)[0].count)


def _other_separator(header: list[str], column: str) -> str:
    """What to do where the cells of a header are separated by a mark that is none of a table's."""
    if len(header) != 1:
        return ""
    marks = (mark for mark in "|:/~^" if column in (cell.strip() for cell in header[0].split(mark)))
    mark = next(marks, " " if column in header[0].split() else "")
    return f"separate the cells with commas, semicolons or tabs, not with {mark!r}" if mark else ""


def _cells_of_text(content: bytes, name: str) -> Iterator[list[str]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise SiteError([Fault(Place(name), "it is no UTF-8 text, and no workbook")]) from None
    return csv.reader(io.StringIO(text, newline=""), delimiter=_mark(text))
