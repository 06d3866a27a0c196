"""Tables as sheets of a workbook for a spreadsheet program, through openpyxl: every cell is text, none a formula."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple, overload
from zipfile import ZIP_DEFLATED, ZipFile, ZipInfo

import numpy as np
from numpy.typing import NDArray
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from davlo.core.faults import Fault, Place, SiteError
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import format_value

from .text_tables import TextColumn, detail_column, wide

MOST_ROWS, MOST_LETTERS = 1_048_576, 32_767
"""What a sheet and a cell hold at most: ECMA-376, as spreadsheet programs have it."""
LEAST_WIDTH, MOST_WIDTH = 10, 48
_MADE = re.compile(rb"(<dcterms:(?:created|modified)[^>]*>)[^<]*(</dcterms:)")
_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
HELP = ("setting", "label", "kind", "values", "built in", "help")


class Sheet(NamedTuple):
    """A sheet of texts: filters are on, the header stays, and columns are as wide as their words."""

    name: str
    header: Sequence[str]
    rows: Sequence[Sequence[str]]
    stays: str = "B2"  # the first cell that moves: what is above it and to its left stays


def write_workbook(
    effective: EffectiveModel, settings: Sequence[int] | None, pages: NDArray[np.int64] | None, to: Path
) -> None:
    """A sheet with a row for each page, or for some, and a sheet that explains the settings.

    Raises SiteError if there are more pages than a sheet has rows, or a value is longer than a cell may be.
    """
    site = effective.site
    numbers = range(len(site.catalogue)) if settings is None else settings
    table, some = wide(effective, settings, pages), slice(None) if pages is None else pages
    texts = [table.columns[0], *(() if settings is None else [detail_column(site, "title", some)]), *table.columns[1:]]
    header = ("path", *(() if settings is None else ["title"]), *table.header[1:])
    shown = [site.catalogue[number] for number in numbers]
    told = [
        (one.name, one.label, one.kind, "; ".join(one.choices), format_value(one.built_in), one.help) for one in shown
    ]
    write_sheets([Sheet("pages", header, _Rows(texts, table.rows), "C2"), Sheet("settings", HELP, told)], to)


def write_sheets(sheets: Sequence[Sheet], to: Path) -> None:
    """Write a workbook with these sheets.

    Raises SiteError if one has more rows than a sheet has, or a text is longer than a cell may be.
    """
    for one in sheets:
        if len(one.rows) >= MOST_ROWS:
            what = f"the sheet {one.name} would have {len(one.rows):,} rows, and a sheet holds {MOST_ROWS - 1:,}"
            raise SiteError([Fault(Place(to.name), what)])
    book = Workbook(write_only=True)
    for one in sheets:
        sheet = book.create_sheet(one.name)
        sheet.freeze_panes = one.stays
        sheet.auto_filter.ref = f"A1:{get_column_letter(len(one.header))}{len(one.rows) + 1}"
        for place, width in enumerate(_widths(one), 1):
            sheet.column_dimensions[get_column_letter(place)].width = width
        sheet.append([_heading(sheet, name) for name in one.header])
        with work("writing the workbook", len(one.rows)) as step:
            for number, row in enumerate(one.rows):
                step(f"row {number:,} of {len(one.rows):,}")
                sheet.append([_text(sheet, text) for text in row])
    content = io.BytesIO()
    book.save(content)
    _write_undated(content, to)


class _Rows(Sequence[Sequence[str]]):
    """The rows of columns; each is put together when it is asked for."""

    def __init__(self, columns: Sequence[TextColumn], rows: int) -> None:
        self._columns = [(list(column.words), column.codes.tolist()) for column in columns]
        self._rows = rows

    def __len__(self) -> int:
        return self._rows

    @overload
    def __getitem__(self, row: int) -> list[str]: ...

    @overload
    def __getitem__(self, row: slice) -> list[list[str]]: ...

    def __getitem__(self, row: int | slice) -> list[str] | list[list[str]]:
        if isinstance(row, slice):
            return [self[one] for one in range(self._rows)[row]]
        if not 0 <= row < self._rows:
            raise IndexError(row)
        return [words[codes[row]] for words, codes in self._columns]


def _widths(sheet: Sheet) -> list[int]:
    """How wide each column is: as its longest words, within bounds; a mark of the filter stands beside its name."""
    longest = [len(name) + 2 for name in sheet.header]
    for row in sheet.rows:
        longest = [max(one, len(text)) for one, text in zip(longest, row, strict=True)]
    return [max(LEAST_WIDTH, min(MOST_WIDTH, one + 1)) for one in longest]


def _write_undated(content: io.BytesIO, to: Path) -> None:
    """The workbook without the time when it was made, so that the same site gives the same bytes."""
    with ZipFile(content) as dated, ZipFile(to, "w", ZIP_DEFLATED) as undated:
        for one in dated.infolist():
            part = ZipInfo(one.filename)  # the earliest date of the format, in place of none
            part.compress_type = ZIP_DEFLATED
            undated.writestr(part, _MADE.sub(rb"\g<1>2000-01-01T00:00:00Z\g<2>", dated.read(one)))


def _heading(sheet: object, text: str) -> WriteOnlyCell | None:
    cell = _text(sheet, text)
    if cell is not None:
        cell.font = Font(bold=True)
    return cell


def _text(sheet: object, text: str) -> WriteOnlyCell | None:
    """A cell that is always text; letters that no workbook can hold are replaced."""
    if not text:
        return None
    if len(text) > MOST_LETTERS:
        raise SiteError([Fault(Place(""), f"a cell holds {MOST_LETTERS:,} letters, and {text[:40]!r}… is longer")])
    cell = WriteOnlyCell(sheet, _NOT_IN_XML.sub("\ufffd", text))
    cell.data_type = "s"
    return cell
