"""The cells of a workbook as texts, read-only, through openpyxl: nothing in it is worked out or followed."""

from __future__ import annotations

import datetime
import io
import re
import warnings
import zlib
from collections.abc import Iterator, Sequence
from zipfile import BadZipFile, ZipFile

from davlo.core.faults import Fault, Place, SiteError
from davlo.core.site.settings.values import format_value

MOST_BYTES = 256 << 20
"""How large a workbook may be once it is unpacked."""
MOST_ROWS, MOST_COLUMNS = 1_048_576, 16_384
"""The last row and the last column that a sheet of this format has."""
MOST_CELLS = 5_000_000
"""The most cells that are read, blank ones between others too."""
NEEDS_OPENPYXL = "a workbook needs openpyxl: pip install 'davlo[xlsx]'"
_FORMULA = re.compile(rb"<(?:\w+:)?f[\s>/]")
AS_CSV = "save the sheet as CSV"


def workbook_cells(content: bytes, name: str) -> Iterator[list[str]]:
    """The rows of the first sheet. Of a formula the value is read that the spreadsheet program last worked out.

    Raises SiteError if it cannot be read, is too large once it is unpacked, or holds a formula without such a value.
    """
    try:
        import openpyxl  # noqa: F401
    except ImportError:
        raise SiteError([Fault(Place(name), NEEDS_OPENPYXL)]) from None
    try:
        with ZipFile(io.BytesIO(content)) as parts:
            size = sum(part.file_size for part in parts.infolist())
        if size > MOST_BYTES:
            raise _too_large(name, f"it has {size:,} bytes once it is unpacked, and Davlo reads {MOST_BYTES:,}")
        rows = [[*map(_text, row)] for row in _rows(content, name, with_formulas=False)]
        faults = [*_unknown_values(content, name, rows)] if _holds_formulas(content) else []
    except SiteError:
        raise
    except (
        *(BadZipFile, KeyError, ValueError, IndexError, TypeError, AttributeError, SyntaxError, OSError, EOFError),
        *(RecursionError, NotImplementedError, RuntimeError, zlib.error),
    ) as error:
        told = f"it cannot be read as a workbook: {str(error) or type(error).__name__}"
        raise SiteError([Fault(Place(name), told)]) from None
    if faults:
        raise SiteError(faults)
    return iter(rows)


def _rows(content: bytes, name: str, *, with_formulas: bool) -> Iterator[list[object]]:
    """The rows of the first sheet without the blank cells at their ends; blank rows only between others."""
    import openpyxl

    cells, blank = 0, 0
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # of styles and the like, which are not read
        options = {"read_only": True, "keep_links": False, "data_only": not with_formulas}
        book = openpyxl.load_workbook(io.BytesIO(content), **options)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()  # they may be anything; rows have the cells that they have
        for number, cells_of_row in enumerate(sheet.iter_rows(values_only=True), 1):
            row = [*cells_of_row]
            cells += len(row)
            while row and row[-1] is None:
                row.pop()
            if number > MOST_ROWS or len(row) > MOST_COLUMNS:
                last = f"{MOST_ROWS:,} rows and {MOST_COLUMNS:,} columns"
                raise _too_large(name, f"it has more than the {last} that a sheet can have")
            if cells > MOST_CELLS:
                raise _too_large(name, f"it has more than {MOST_CELLS:,} cells, and Davlo reads no more of a workbook")
            if not row:
                blank += 1
                continue
            yield from ([] for _ in range(blank))
            yield row
            blank = 0


def _too_large(name: str, what: str) -> SiteError:
    return SiteError([Fault(Place(name), what, hint=AS_CSV)])


def _holds_formulas(content: bytes) -> bool:
    """Whether a sheet may hold a formula, an element `f`."""
    with ZipFile(io.BytesIO(content)) as parts:
        sheets = [part for part in parts.infolist() if "worksheets/" in part.filename]
        return any(_FORMULA.search(parts.read(part)) is not None for part in sheets)


def _unknown_values(content: bytes, name: str, rows: Sequence[Sequence[str]]) -> Iterator[Fault]:
    """A fault for each formula whose value the file does not hold: read as blank, it would take a value away."""
    header = rows[0] if rows else []
    for number, row in enumerate(_rows(content, name, with_formulas=True), 1):
        values = rows[number - 1] if number <= len(rows) else []
        for at, cell in enumerate(row):
            is_formula = (isinstance(cell, str) and cell.startswith("=")) or hasattr(cell, "ref")
            if is_formula and not (at < len(values) and values[at]):
                column = header[at].strip() if at < len(header) else ""
                hint = "open it in the spreadsheet program and save it, or enter the value instead of the formula"
                yield Fault(Place(name, number, column), "the value of a formula is not in the file", hint=hint)


def _text(cell: object) -> str:
    """What a cell holds, as a CSV file would: spreadsheet programs make numbers, dates and flags of what they know."""
    if cell is None:
        return ""
    if isinstance(cell, datetime.datetime):
        return cell.date().isoformat() if cell.time() == datetime.time() else cell.isoformat(" ")
    if isinstance(cell, bool | int | float):
        return format_value(cell)
    return cell.isoformat() if isinstance(cell, datetime.date | datetime.time) else str(cell)
