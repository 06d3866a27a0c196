"""Rows that somebody pastes or keeps in a file of their own: CSV, or cells of a spreadsheet with tabs between."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from davlo.core.faults import Fault, Place, SiteError

from .csv_sheets import MARK_WORDS


def read_pasted(content: bytes, name: str, required: Iterable[str] = ("path",)) -> list[dict[str, str]]:
    """The rows of a table with a header, by column; blank cells and blank rows are left out.

    Parameters
    ----------
    content : bytes
        UTF-8. Commas, semicolons or tabs stand between cells.
    name : str
        What faults call it.
    required : iterable of str
        The columns that it must have.

    Raises
    ------
    SiteError
        If it is no UTF-8, has no header with these columns, or a row has more cells than the header.

    Example
    -------
    >>> read_pasted(b"path\\ttitle\\n/a\\tA\\n/b\\t\\n", "the paste")
    [{'path': '/a', 'title': 'A'}, {'path': '/b'}]
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise SiteError([Fault(Place(name), "it is no UTF-8 text")]) from None
    head = text.split("\n", 1)[0]
    between = max(MARK_WORDS, key=head.count)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=between)
    header = [cell.strip() for cell in next(rows, [])]
    missing = [column for column in required if column not in header]
    faults = [Fault(Place(name, 1), f"there is no column {column}", column, tuple(header)) for column in missing]
    found = []
    for number, row in enumerate(rows, 2):
        if len(row) > len(header):
            faults.append(Fault(Place(name, number), f"the row has {len(row)} cells, and the header {len(header)}"))
        cells = {column: cell.strip() for column, cell in zip(header, row, strict=False) if cell.strip()}
        if cells:
            found.append(cells)
    if faults:
        raise SiteError(faults)
    return found
