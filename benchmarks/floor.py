"""The least that `davlo export --to out.parquet` could do: read the same CSV, write columns that are there already.

python -m benchmarks.floor write SITE-FOLDER COLUMNS.arrow OUT.parquet    # with Davlo's options: the least
python -m benchmarks.floor plain SITE-FOLDER COLUMNS.arrow OUT.parquet    # with pyarrow's own: with statistics
python -m benchmarks.floor prepare TABLE.parquet COLUMNS.arrow
"""

from __future__ import annotations

import sys
from collections.abc import Callable

import pyarrow as pa
import pyarrow.parquet as pq
from pyarrow import csv


def write(site: str, columns: str, out: str, own: bool = True) -> None:
    """Read the page list with pyarrow, and write the columns."""
    csv.read_csv(f"{site}/pages.csv")
    with pa.memory_map(columns) as source:
        table = pa.ipc.open_file(source).read_all()
        if own:
            coded = [field.name for field in table.schema if pa.types.is_dictionary(field.type)]
            pq.write_table(table, out, write_statistics=False, use_dictionary=coded)
        else:
            pq.write_table(table, out)


def plain(site: str, columns: str, out: str) -> None:
    """The same, nothing but the two calls."""
    write(site, columns, out, own=False)


def prepare(table: str, columns: str) -> None:
    """The columns of a table, so that they can be taken from disk as they are."""
    names = pq.read_schema(table).names
    found = pq.read_table(table, read_dictionary=[name for name in names if name != "path"]).combine_chunks()
    found = found.set_column(0, "path", found["path"].cast(pa.large_string()).combine_chunks())
    with pa.OSFile(columns, "wb") as sink, pa.ipc.new_file(sink, found.schema) as writer:
        writer.write_table(found)


if __name__ == "__main__":
    WORKS: dict[str, Callable[..., None]] = {"write": write, "plain": plain, "prepare": prepare}
    WORKS[sys.argv[1]](*sys.argv[2:])
