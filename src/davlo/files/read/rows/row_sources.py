"""Where rows come from: the files of a site folder, a database, a table in memory."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.faults import Place, ValueFault
from davlo.frames.intake import arrow_columns, table_columns

from ..sections.site_section import Source
from ..site_file import open_site_file
from ..yaml.node_reader import Reader
from .csv_sheets import Sheet, checked_sheet, read_content, read_sheet
from .json_lines import JSON_LINES, read_json_lines
from .large_csv import LARGE, import_reader
from .statement_sheets import STAMPS_COLUMNS, STAMPS_KNOWN, VALUES_COLUMNS, VALUES_KNOWN

NEEDED = ("path",)
PARQUET = ".parquet"
MOST_ROWS, MOST_CELLS, MOST_BYTES = 5_000_000, 150_000_000, 512 << 20
"""How large a page list in Parquet may be once it is unpacked."""
_BYTES = (MOST_BYTES, "bytes")
Known = Callable[[str], bool]
Table = tuple[tuple[str, ...], list[Column], Codes]


class Rows(Protocol):
    """Where the rows come from."""

    def page_list(self, source: Source, reader: Reader, known: Known) -> Sheet | None:
        """The page list; None where it cannot be read."""

    def is_slow(self, source: Source) -> bool:
        """Whether the page list takes so long that something else can be done beside."""

    def import_reader(self, source: Source) -> None:
        """Import what reads a slow page list: not in the thread that reads, which would wait at every file it opens."""

    def values(self, named: Sequence[tuple[str, Place]], reader: Reader) -> Iterator[Sheet]:
        """The sheets of statements that `values` names."""

    def stamps(self, reader: Reader) -> Sheet | None:
        """The stamps, where there are any."""


class FolderRows:
    """Rows in the files of a site folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def page_list(self, source: Source, reader: Reader, known: Known) -> Sheet | None:
        return read_page_list_sheet(self.folder, source, reader, known)

    def is_slow(self, source: Source) -> bool:
        if source.query:
            return True
        try:
            with open_site_file(self.folder, source.name) as file:
                return os.fstat(file.fileno()).st_size >= LARGE
        except OSError:
            return False  # the reader reports why

    def import_reader(self, source: Source) -> None:
        if not source.query and not source.name.lower().endswith((PARQUET, JSON_LINES)):
            import_reader()

    def values(self, named: Sequence[tuple[str, Place]], reader: Reader) -> Iterator[Sheet]:
        for name, place in named:
            sheet = read_sheet(self.folder, name, reader, VALUES_COLUMNS, place, VALUES_KNOWN.__contains__)
            if sheet is not None:
                yield sheet

    def stamps(self, reader: Reader) -> Sheet | None:
        return read_sheet(self.folder, "stamps.csv", reader, STAMPS_COLUMNS, None, STAMPS_KNOWN.__contains__)


class TableRows:
    """Rows of a table in memory; statements are in the decisions and in its columns."""

    def __init__(self, table: Any) -> None:
        self.table = table

    def page_list(self, source: Source, reader: Reader, known: Known) -> Sheet | None:
        return sheet_of_table(self.table, "page_list", reader, known)

    def is_slow(self, source: Source) -> bool:
        return False

    def import_reader(self, source: Source) -> None:
        pass

    def values(self, named: Sequence[tuple[str, Place]], reader: Reader) -> Iterator[Sheet]:
        return iter(())

    def stamps(self, reader: Reader) -> Sheet | None:
        return None


def read_page_list_sheet(folder: Path, source: Source, reader: Reader, known: Known) -> Sheet | None:
    """The rows of the page list; None where they cannot be had, which is noted. `known` says which columns count."""
    if not source.name:
        return None  # its name is reported as a fault already
    if source.query:
        from .database import read_database

        table = read_database(source, reader)
    elif source.name.lower().endswith(PARQUET):
        table = _read_parquet(folder, source, reader)
    elif source.name.lower().endswith(JSON_LINES):
        content = read_content(folder, source.name, reader, source.place)
        table = None if content is None else read_json_lines(content, source.name, reader)
    else:
        return read_sheet(folder, source.name, reader, NEEDED, source.place, known)
    return None if table is None else checked_sheet(source.label, *table, reader, NEEDED, known)


def _read_parquet(folder: Path, source: Source, reader: Reader) -> Table | None:
    try:
        import pyarrow as pa
    except ImportError:
        hint = "pip install 'davlo[parquet]', or save the page list as CSV"
        reader.fault(source.place, f"{source.name} needs pyarrow to be read", hint=hint)
        return None
    content = read_content(folder, source.name, reader, source.place)
    if content is None:
        return None
    try:
        header, columns = arrow_columns(_parquet_table(content))
    except (pa.ArrowException, OSError, OverflowError) as error:
        reader.fault(Place(source.name), f"this is no Parquet file that can be read: {str(error).splitlines()[0]}")
    except ValueFault as error:
        reader.value_fault(Place(source.name), error)
    else:
        return header, columns, _row_numbers(columns)
    return None


def _parquet_table(content: bytes | memoryview) -> Any:
    """The table of a Parquet file. Texts stay codes and words, as they are in the file: unpacked they may be huge.

    Raises ValueFault if it is larger than Davlo reads.
    """
    import pyarrow as pa
    import pyarrow.compute as pc
    import pyarrow.parquet as pq

    file = pq.ParquetFile(pa.BufferReader(content))
    told = file.metadata
    parts = [told.row_group(part).column(at) for part in range(told.num_row_groups) for at in range(told.num_columns)]
    cells, size = sum(part.num_values for part in parts), sum(part.total_uncompressed_size for part in parts)
    texts = [field.name for field in file.schema_arrow if pa.types.is_string(field.type)]
    for number, most, what in ((told.num_rows, MOST_ROWS, "rows"), (cells, MOST_CELLS, "cells"), (size, *_BYTES)):
        if number > most:
            raise ValueFault(f"it has {number:,} {what} once it is unpacked, and Davlo reads {most:,}")
    table = pq.ParquetFile(pa.BufferReader(content), read_dictionary=texts).read()
    for column in table.columns:
        for chunk in column.chunks if pa.types.is_dictionary(column.type) else ():
            lengths = pc.binary_length(chunk.dictionary).to_numpy(zero_copy_only=False)
            size += int(lengths[chunk.indices.drop_null().to_numpy()].sum())
    if size > MOST_BYTES:
        raise ValueFault(f"it has {size:,} bytes once it is unpacked, and Davlo reads {MOST_BYTES:,}")
    return table


def sheet_of_table(table: Any, name: str, reader: Reader, known: Known) -> Sheet | None:
    """A page list that is a table in memory already; None where it is none, which is noted."""
    try:
        header, columns = table_columns(table)
    except ValueFault as error:
        reader.value_fault(Place(name), error)
        return None
    return checked_sheet(name, header, columns, _row_numbers(columns), reader, NEEDED, known)


def _row_numbers(columns: list[Column]) -> Codes:
    return np.arange(1, len(columns[0]) + 1 if columns else 1, dtype=np.int32)
