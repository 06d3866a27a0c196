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

from .text_tables import wide

MOST_ROWS, MOST_LETTERS = 1_048_576, 32_767
"""What a sheet and a cell hold at most: ECMA-376, as spreadsheet programs have it."""
WIDTH_OF_PATHS, WIDTH = 36, 18
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
    table = wide(effective, numbers, pages)
    if table.rows >= MOST_ROWS:
        raise SiteError([Fault(Place(to.name), f"a sheet holds {MOST_ROWS - 1:,} pages, not {table.rows:,}")])
    book = Workbook(write_only=True)
    sheet = book.create_sheet("pages")
    sheet.freeze_panes = "C2"
    header = ("path", "title", *table.header[1:])
    sheet.auto_filter.ref = f"A1:{get_column_letter(len(header))}{table.rows + 1}"
    for place in range(1, len(header) + 1):
        sheet.column_dimensions[get_column_letter(place)].width = WIDTH_OF_PATHS if place <= 2 else WIDTH
    sheet.append([_heading(sheet, name) for name in header])
    title = site.details.title
    titles = (title.codes if pages is None else title.codes[pages], title.words)
    columns = [_column(codes, words) for codes, words in (table.columns[0], titles, *table.columns[1:])]
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
