"""Tables in memory as columns: pyarrow tables, pandas frames, mappings of lists, rows of a database."""

from __future__ import annotations

import datetime
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from decimal import Decimal
from typing import Any

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codebook, Codes, Column
from davlo.core.arrays.in_background import MANY, side_by_side
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Fault, Place, ValueFault
from davlo.core.site.settings.values import format_number

MANY_WORDS = 10_000
"""From this many different words on, a column's words are kept as bytes and not as Python's texts."""
MOST_BITS = 1024
"""The size of the largest integer of a cell."""
EACH_ONCE = ("path", "title")
"""Columns whose words hardly ever repeat: they are not searched for repeated words."""


def cell_text(value: Any) -> str:
    """A value of any kind as a cell of CSV holds it.

    `value`: none, a text, a number, yes or no, a date or time, or a list of these; NumPy's and pandas' kinds too.
    Raises ValueFault if it is of another kind.

    Example
    -------
    >>> [cell_text(value) for value in (None, "a", True, 2.0, 0.5, ["a", "b"], datetime.date(2026, 5, 1))]
    ['', 'a', 'yes', '2', '0.5', 'a; b', '2026-05-01']
    """
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, str):
        return value
    if value is None or type(value).__name__ in ("NAType", "NaTType"):
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int):
        if value.bit_length() > MOST_BITS:
            raise ValueFault("a cell holds a number that is too large")
        return str(value)
    if isinstance(value, float | Decimal):
        return "" if math.isnan(value) else format_number(float(value)) if math.isfinite(value) else str(value)
    if isinstance(value, datetime.datetime):
        is_day = value.time() == datetime.time() and value.tzinfo is None
        return value.date().isoformat() if is_day else value.isoformat()
    if isinstance(value, datetime.date):
        return value.isoformat()
    if isinstance(value, list | tuple | np.ndarray):
        return "; ".join(cell_text(item) for item in value)
    raise ValueFault(f"a cell holds a value of the kind {type(value).__name__}, which is no text, number, date or list")


class CellFault(ValueFault):
    """A cell that cannot be read: its row, from 1, and its column."""

    def __init__(self, what: str, row: int, column: str) -> None:
        self.row, self.column = row, column
        super().__init__(what)

    def at(self, place: Place) -> Fault:
        """The fault, at its row and column of a table."""
        return super().at(Place(place.file, self.row, self.column))


def column_of(values: Iterable[Any], name: str) -> Column:
    """The column of these values; a column stays as it is.

    Raises CellFault if one is no text, number, date or list.
    """
    return values if isinstance(values, Column) else Column.of(cell_texts(values, name))


def cell_texts(values: Iterable[Any], name: str, before: int = 0) -> Iterator[str]:
    """The values of a column as texts; `before` rows came before them. Raises as `column_of` does."""
    for row, value in enumerate(values, before + 1):
        try:
            yield cell_text(value)
        except ValueFault as error:
            raise CellFault(error.what, row, name) from None


def table_columns(table: Any) -> tuple[tuple[str, ...], list[Column]]:
    """The header and the columns of a table in memory.

    `table`: a frame whose index is called `path` has that for a column. Raises ValueFault if it is none of these, its
    columns are of several lengths, or a cell holds what is no text, number, date or list.
    """
    if hasattr(table, "column_names") and hasattr(table, "schema"):
        return arrow_columns(table)
    if hasattr(table, "iloc"):
        return _frame_columns(table)
    if not isinstance(table, Mapping):
        raise ValueFault(f"a page list is a frame, a pyarrow table or a mapping of lists, not {type(table).__name__}")
    for name, values in table.items():
        if isinstance(values, str) or not isinstance(values, Iterable):
            raise ValueFault(f"the column {name} of the page list is no list but {type(values).__name__}")
    columns = [column_of(values, str(name)) for name, values in table.items()]
    if len({len(column) for column in columns}) > 1:
        lengths = ", ".join(f"{name} {len(column)}" for name, column in zip(table, columns, strict=True))
        raise ValueFault(f"the columns of the page list are of several lengths: {lengths}")
    return tuple(str(name).strip() for name in table), columns


def _frame_columns(frame: Any) -> tuple[tuple[str, ...], list[Column]]:
    import pandas as pd

    if "path" not in frame.columns and frame.index.name == "path":
        frame = frame.reset_index()
    columns = []
    for number in range(frame.shape[1]):
        cells = frame.iloc[:, number]
        try:
            codes, found = pd.factorize(cells)
        except TypeError:  # lists cannot be compared this way
            columns.append(column_of(cells.tolist(), str(frame.columns[number])))
        else:
            name, row_of = str(frame.columns[number]), _first_rows(codes)
            columns.append(_joined(codes.astype(np.int32), _words(found.tolist(), name, row_of)))
    return tuple(str(name).strip() for name in frame.columns), columns


def _joined(codes: Codes, texts: Sequence[str]) -> Column:
    """A column whose code -1 means nothing; equal words become one."""
    words: Codebook[str] = Codebook()
    table = [words.code(text) for text in texts]
    if len(codes) and int(codes.min()) < 0:
        table.append(words.code(""))
    return Column(np.array(table, dtype=np.int32)[codes] if table else codes, words.items)


def arrow_columns(table: Any) -> tuple[tuple[str, ...], list[Column]]:
    """The header and the columns of a pyarrow table.

    Raises ValueFault if a text is no UTF-8, or a cell holds what is no text, number, date or list.
    """
    import pyarrow as pa

    try:
        table.validate(full=True)
    except pa.ArrowInvalid as error:
        raise ValueFault(f"the table is damaged: {str(error).splitlines()[0]}") from None
    names = [name.strip() for name in table.column_names]
    columns = []
    for i, name in enumerate(names):
        try:
            columns.append(arrow_column(table.column(i), name.lower()))
        except CellFault:
            raise
        except (ValueError, OverflowError, pa.ArrowException):  # a date that no calendar has, and the like
            raise _arrow_fault(table.column(i), name) from None
    return tuple(names), columns


def _arrow_fault(chunks: Any, name: str) -> CellFault:
    """The first cell of a column that cannot be read."""
    for row in range(len(chunks)):
        try:
            cell_text(chunks[row].as_py())
        except ValueFault as error:
            return CellFault(error.what, row + 1, name)
        except (ValueError, OverflowError) as error:
            return CellFault(f"a cell cannot be read: {error}", row + 1, name)
    return CellFault("the column cannot be read", 0, name)


def _first_rows(codes: NDArray[np.integer]) -> dict[int, int]:
    """For each code the first row, from 1, that has it."""
    found, rows = np.unique(codes, return_index=True)
    return dict(zip(found.tolist(), (rows + 1).tolist(), strict=True))


def _words(values: Sequence[Any], name: str, row_of: Mapping[int, int]) -> list[str]:
    """The words of a column; `row_of` gives the first row of each."""
    found = []
    for code, value in enumerate(values):
        try:
            found.append(cell_text(value))
        except ValueFault as error:
            raise CellFault(error.what, row_of.get(code, 0), name) from None
    return found


def arrow_column(chunks: Any, name: str = "") -> Column:
    """A pyarrow column as codes and words; bytes are shared if possible."""
    import pyarrow as pa

    kind = chunks.type
    if pa.types.is_string_view(kind):
        chunks = chunks.cast(pa.large_string())
        kind = chunks.type
    if pa.types.is_dictionary(kind) and (kind.index_type != pa.int32() or not _is_text(kind.value_type)):
        chunks = chunks.cast(kind.value_type)
        kind = chunks.type
    if _is_text(kind) and name in EACH_ONCE:
        words = _texts(chunks.fill_null("") if chunks.null_count else chunks)
        return Column(np.arange(len(words), dtype=np.int32), words)
    if pa.types.is_nested(kind) or pa.types.is_null(kind):
        return column_of(chunks.to_pylist(), name)
    if not pa.types.is_dictionary(kind):
        chunks = chunks.dictionary_encode()
    whole = _one(chunks.unify_dictionaries())
    codes = whole.indices.fill_null(-1) if whole.null_count else whole.indices
    numbers = np.frombuffer(codes.buffers()[1] or b"", dtype=np.int32)[codes.offset : codes.offset + len(codes)]
    if not _is_text(whole.dictionary.type):
        return _joined(numbers, _words(whole.dictionary.to_pylist(), name, _first_rows(numbers)))
    words = _texts(whole.dictionary)
    if whole.null_count:
        return _joined(numbers, words.tolist())
    return Column(numbers, words if len(words) >= MANY_WORDS else words.tolist())


def _is_text(kind: Any) -> bool:
    import pyarrow as pa

    return bool(pa.types.is_string(kind) or pa.types.is_large_string(kind))


def _one(chunks: Any) -> Any:
    """The chunks as one array."""
    import pyarrow as pa

    if not isinstance(chunks, pa.ChunkedArray):
        return chunks
    whole = chunks.combine_chunks()
    if isinstance(whole, pa.ChunkedArray):
        whole = whole.chunk(0) if whole.num_chunks else pa.array([], type=chunks.type)
    return whole


def _texts(array: Any) -> Texts:
    """The texts of a pyarrow string array, or of several; the bytes of one are shared, those of several are joined."""
    parts = [_text_part(chunk) for chunk in getattr(array, "chunks", [array])]
    if len(parts) == 1:
        ends, bytes_ = parts[0][0].astype(np.int64), parts[0][1]
        return Texts(bytes_, ends[:-1], ends[1:])
    size = [int(ends[-1] - ends[0]) for ends, _ in parts]
    data = np.empty(sum(size), dtype=np.uint8)
    edges = np.zeros(1 + sum(len(ends) - 1 for ends, _ in parts), dtype=np.int64)
    begin = np.cumsum([0, *size]).tolist()
    first = np.cumsum([0, *(len(ends) - 1 for ends, _ in parts)]).tolist()

    def lay(part: int) -> None:
        ends, bytes_ = parts[part]
        data[begin[part] : begin[part + 1]] = bytes_[ends[0] : ends[-1]]
        np.add(ends[1:], begin[part] - ends[0], out=edges[first[part] + 1 : first[part + 1] + 1])

    if len(edges) >= MANY:
        side_by_side(lay, range(len(parts)))
    else:
        for part in range(len(parts)):
            lay(part)
    return Texts(data, edges[:-1], edges[1:])


def _text_part(array: Any) -> tuple[NDArray[Any], NDArray[np.uint8]]:
    """Where the texts of one array begin, and the last ends; and the bytes."""
    import pyarrow as pa

    _, offsets, data = array.buffers()
    kind = np.int64 if pa.types.is_large_string(array.type) else np.int32
    ends = np.frombuffer(offsets or kind(0).tobytes(), dtype=kind)[array.offset : array.offset + len(array) + 1]
    return ends, np.frombuffer(data or b"", dtype=np.uint8)
