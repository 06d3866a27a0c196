"""The wide table as a workbook for a spreadsheet program, through openpyxl: every cell is text, none a formula."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path
from zipfile import ZIP_DEFLATED, ZipFile, ZipInfo

import numpy as np
from numpy.typing import NDArray
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from davlo.core.arrays.codebooks import Codes
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Fault, Place, SiteError
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import format_value

from .text_tables import detail_column, wide

MOST_ROWS, MOST_LETTERS = 1_048_576, 32_767
"""What a sheet and a cell hold at most: ECMA-376, as spreadsheet programs have it."""
LEAST_WIDTH, MOST_WIDTH = 10, 48
_MADE = re.compile(rb"(<dcterms:(?:created|modified)[^>]*>)[^<]*(</dcterms:)")
_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
HELP = ("setting", "label", "kind", "values", "built in", "help")


def write_workbook(
    effective: EffectiveModel, settings: Sequence[int] | None, pages: NDArray[np.int64] | None, to: Path
) -> None:
    """A sheet with a row for each page, or for some, and a sheet that explains the settings.

    Raises SiteError if there are more pages than a sheet has rows, or a value is longer than a cell may be.
    """
    site = effective.site
    numbers = range(len(site.catalogue)) if settings is None else settings
    table, some = wide(effective, settings, pages), slice(None) if pages is None else pages
    if table.rows >= MOST_ROWS:
        raise SiteError([Fault(Place(to.name), f"a sheet holds {MOST_ROWS - 1:,} pages, not {table.rows:,}")])
    book = Workbook(write_only=True)
    sheet = book.create_sheet("pages")
    sheet.freeze_panes = "C2"
    texts = [table.columns[0], *(() if settings is None else [detail_column(site, "title", some)]), *table.columns[1:]]
    header = ("path", *(() if settings is None else ["title"]), *table.header[1:])
    columns = [_column(column.codes, column.words) for column in texts]
    sheet.auto_filter.ref = f"A1:{get_column_letter(len(header))}{table.rows + 1}"
    for place, (name, (words, codes)) in enumerate(zip(header, columns, strict=True), 1):
        sheet.column_dimensions[get_column_letter(place)].width = _width(name, words, codes)
    sheet.append([_heading(sheet, name) for name in header])
    with work("writing the workbook", table.rows) as step:
        for row in range(table.rows):
            step(f"row {row:,} of {table.rows:,}")
            sheet.append([_text(sheet, words[codes[row]]) for words, codes in columns])
    help_sheet = book.create_sheet("settings")
    help_sheet.freeze_panes = "B2"
    help_sheet.append([_heading(help_sheet, name) for name in HELP])
    for number in numbers:
        one = site.catalogue[number]
        told = (one.name, one.label, one.kind, "; ".join(one.choices), format_value(one.built_in), one.help)
        help_sheet.append([_text(help_sheet, word) for word in told])
    content = io.BytesIO()
    book.save(content)
    _write_undated(content, to)


def _write_undated(content: io.BytesIO, to: Path) -> None:
    """The workbook without the time when it was made, so that the same site gives the same bytes."""
    with ZipFile(content) as dated, ZipFile(to, "w", ZIP_DEFLATED) as undated:
        for one in dated.infolist():
            part = ZipInfo(one.filename)  # the earliest date of the format, in place of none
            part.compress_type = ZIP_DEFLATED
            undated.writestr(part, _MADE.sub(rb"\g<1>2000-01-01T00:00:00Z\g<2>", dated.read(one)))


def _column(codes: NDArray[np.integer] | Codes, words: Sequence[str] | Texts) -> tuple[list[str], list[int]]:
    """A column as plain texts, and for each row which."""
    return list(words), codes.tolist()


def _width(name: str, words: Sequence[str], codes: Sequence[int]) -> int:
    """How wide a column is: as its longest words, within bounds; a mark of the filter stands beside its name."""
    longest = max((len(words[code]) for code in {*codes}), default=0)
    return max(LEAST_WIDTH, min(MOST_WIDTH, max(len(name) + 3, longest + 1)))


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
