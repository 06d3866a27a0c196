"""The rows of tables, read back from what is written."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from davlo.core.resolve.effective import EffectiveModel
from davlo.frames.text_tables import TextTable, long


def rows_of(table: TextTable) -> list[tuple[str, ...]]:
    """The rows of a table without its header, from its CSV."""
    text = b"".join(table.csv()).decode("utf-8", "surrogatepass")
    return [tuple(row) for row in csv.reader(io.StringIO(text, newline=""))][1:]


def long_rows(effective: EffectiveModel, pages: Sequence[int] | None = None) -> list[tuple[str, ...]]:
    """The rows of the long table, of all pages or of some."""
    return rows_of(long(effective, pages))
