"""The cells of a workbook as texts, read-only, through openpyxl: nothing in it is worked out or followed."""

from __future__ import annotations

import datetime
import io
import warnings
from collections.abc import Iterator
from zipfile import BadZipFile, ZipFile

from davlo.core.faults import Fault, Place, SiteError
from davlo.core.site.values import format_value

MOST_BYTES = 1 << 29
"""How large a workbook may be once it is unpacked."""
NEEDS_OPENPYXL = "a workbook needs openpyxl: pip install 'davlo[xlsx]'"


def workbook_cells(content: bytes, name: str) -> Iterator[list[str]]:
    """The rows of the first sheet. Of a formula the value is read that the spreadsheet program last worked out.

    Raises
    ------
    SiteError
        If it cannot be read, or is too large once it is unpacked.
    """
    try:
        import openpyxl
    except ImportError:
        raise SiteError([Fault(Place(name), NEEDS_OPENPYXL)]) from None
    try:
        with ZipFile(io.BytesIO(content)) as parts:
            size = sum(part.file_size for part in parts.infolist())
        if size > MOST_BYTES:
            told = f"it has {size:,} bytes once it is unpacked, and Davlo reads {MOST_BYTES:,}"
            raise SiteError([Fault(Place(name), told)])
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of styles and the like, which are not read
            book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True, keep_links=False)
            rows = [[_text(cell) for cell in row] for row in book.worksheets[0].iter_rows(values_only=True)]
    except SiteError:
        raise
    except (BadZipFile, KeyError, ValueError, IndexError, TypeError, AttributeError, SyntaxError, OSError) as error:
        told = f"it cannot be read as a workbook: {str(error) or type(error).__name__}"
        raise SiteError([Fault(Place(name), told)]) from None
    return iter(rows)


def _text(cell: object) -> str:
    """What a cell holds, as a CSV file would: spreadsheet programs make numbers, dates and flags of what they know."""
    if cell is None:
        return ""
    if isinstance(cell, datetime.datetime):
        return cell.date().isoformat() if cell.time() == datetime.time() else cell.isoformat(" ")
    if isinstance(cell, bool | int | float):
        return format_value(cell)
    return cell.isoformat() if isinstance(cell, datetime.date | datetime.time) else str(cell)
