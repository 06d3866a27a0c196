"""The least that `davlo table --to out.parquet` could do: read the same CSV, write columns that are there already.

python -m benchmarks.floor SITE-FOLDER COLUMNS.arrow OUT.parquet
"""

from __future__ import annotations

import sys

import pyarrow as pa
import pyarrow.parquet as pq
from pyarrow import csv


def main(site: str, columns: str, out: str) -> None:
    """Read the inventory with pyarrow, and write the columns."""
    csv.read_csv(f"{site}/pages.csv")
    with pa.memory_map(columns) as source:
        pq.write_table(pa.ipc.open_file(source).read_all(), out, write_statistics=False)


if __name__ == "__main__":
    main(*sys.argv[1:4])
