"""Large CSV files through pyarrow, as columns: no object a cell.

What pyarrow refuses (rows of several lengths, bytes that are no UTF-8, …) is left to the plain reader, which says what
is wrong and where. Both give the same sheet of the same file; a test holds that.
"""

from __future__ import annotations

import csv
import io
import sys
from contextlib import suppress
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.arrays.in_background import side_by_side
from davlo.core.arrays.texts import Texts
from davlo.frames.intake import EACH_ONCE, arrow_column

Content = bytes | memoryview
LARGE = 1 << 20
"""From this many bytes on it pays to import pyarrow."""
_PART = 1 << 20
"""Bytes scanned in one go: after each, a thread must wait for its turn."""
_HEADER = 1 << 20
"""The first line must end within this many bytes."""
_CHUNK = 1 << 23
"""Bytes that pyarrow reads at a time: fewer pieces to join than with its default of one megabyte."""
_QUOTE, _NEWLINE, _RETURN = 0x22, 0x0A, 0x0D


def import_reader() -> None:
    """Import what reads large files, where it is installed."""
    with suppress(ImportError):
        import pyarrow.csv  # noqa: F401


def release_memory() -> None:
    """Release the memory that pyarrow keeps for further reading."""
    pyarrow = sys.modules.get("pyarrow")
    if pyarrow is not None:
        pyarrow.default_memory_pool().release_unused()


class Parsed(NamedTuple):
    """A file's rows as pyarrow read them. `table` is a pyarrow.Table; `lines: int32[rows]` are where rows begin."""

    names: tuple[str, ...]
    table: Any
    lines: Codes

    def columns(self) -> tuple[tuple[str, ...], list[Column], Codes]:
        """The header, the columns and the line of each row; what read the file needs its bytes no longer."""
        columns: list[Column] = [Column.of(())] * len(self.names)

        def convert(number: int) -> None:
            columns[number] = arrow_column(self.table.column(number), self.names[number].strip().lower())

        side_by_side(convert, range(len(self.names)))
        lines = self.lines
        full = _not_blank(columns, len(lines))
        if not full.all():
            columns, lines = [column.take(np.flatnonzero(full)) for column in columns], lines[full]
        return tuple(name.strip() for name in self.names), columns, lines


def parse_large(content: Content, between: str = ",") -> Parsed | None:
    """The rows of a file; None where pyarrow is missing or refuses it."""
    bytes_ = _survey(content)
    if bytes_.has_nul:
        return None
    try:
        import pyarrow as pa
        from pyarrow import csv as arrow_csv
    except ImportError:
        return None
    first = bytes(content[:_HEADER]).partition(b"\n")[0].decode("utf-8-sig", "replace")
    names = next(csv.reader(io.StringIO(first, newline=""), delimiter=between), [])
    text = pa.string() if len(content) < 1 << 31 else pa.large_string()
    kinds = {name: text if name.strip().lower() in EACH_ONCE else pa.dictionary(pa.int32(), text) for name in names}
    try:
        table = arrow_csv.read_csv(
            pa.BufferReader(content),
            read_options=arrow_csv.ReadOptions(block_size=_CHUNK),
            parse_options=arrow_csv.ParseOptions(delimiter=between, newlines_in_values=bytes_.has_quote),
            convert_options=arrow_csv.ConvertOptions(
                column_types=kinds, strings_can_be_null=False, check_utf8=not bytes_.is_ascii
            ),
        )
    except pa.ArrowInvalid:
        return None
    try:
        same = table.column_names == names
    except UnicodeDecodeError:
        return None
    if not same:
        return None
    begins = _row_lines(content, table.num_rows, bytes_)
    if begins is None or table.num_rows != len(begins) - 1:
        return None
    return Parsed(tuple(names), table, begins[1:])


class _Survey(NamedTuple):
    """What bytes a file has."""

    newlines: int
    has_nul: bool
    has_quote: bool
    has_return: bool
    is_ascii: bool


def _survey(content: Content) -> _Survey:
    """A part at a time, most of it through `bytes`, whose methods are the quickest."""
    found = _Survey(0, False, False, False, True)
    for at in range(0, len(content), _PART):
        part = bytes(content[at : at + _PART])
        found = _Survey(
            found.newlines + int(np.count_nonzero(np.frombuffer(part, dtype=np.uint8) == _NEWLINE)),
            found.has_nul or b"\0" in part,
            found.has_quote or b'"' in part,
            found.has_return or b"\r" in part,
            found.is_ascii and part.isascii(),
        )
    return found


def _row_lines(content: Content, rows: int, bytes_: _Survey) -> Codes | None:
    """The line on which each row begins, empty lines left out; None where lines end differently, or a quote is open."""
    data = np.frombuffer(content, dtype=np.uint8)
    a_line_a_row = bytes_.newlines == rows + int(len(data) > 0 and data[-1] == _NEWLINE)
    if a_line_a_row and not bytes_.has_quote and not bytes_.has_return:
        return np.arange(1, rows + 2, dtype=np.int32)
    if len(data) and data[-1] != _NEWLINE:
        data = np.append(data, np.uint8(_NEWLINE))
    newline = np.flatnonzero(data == _NEWLINE)
    returns = np.flatnonzero(data == _RETURN)
    if len(returns) and not (data[returns + 1] == _NEWLINE).all():
        return None
    quotes = np.flatnonzero(data == _QUOTE)
    if len(quotes) % 2:
        return None
    inside = np.searchsorted(quotes, newline) % 2 == 1  # an odd number of quotes comes before it
    start = np.r_[np.zeros(1, dtype=np.int64), newline[:-1] + 1]
    empty = (newline == start) | ((newline == start + 1) & (data[start] == _RETURN))
    opens = ~np.r_[False, inside[:-1]]  # the line before it ended a row
    return (np.flatnonzero(opens & ~(empty & ~inside)) + 1).astype(np.int32)


def _not_blank(columns: list[Column], rows: int) -> NDArray[np.bool_]:
    """Where a row has anything in it but spaces. bool[rows]"""
    full = np.zeros(rows, dtype=bool)
    for column in columns:
        if isinstance(column.words, Texts):
            full |= Texts.of_column(column).begins_visibly()
        else:
            full |= column.where([bool(word.strip()) for word in column.words])
        if full.all():
            return full
    for row in np.flatnonzero(~full).tolist():
        full[row] = any(column[row].strip() for column in columns)
    return full
