"""The rows of tables, read back from what is written."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

import numpy as np

from davlo.core.resolve.effective import EffectiveModel
from davlo.frames.text_tables import TextTable, as_csv, long_parts


def rows_of(*parts: TextTable) -> list[tuple[str, ...]]:
    """The rows of a table, or of its parts, without the header, from its CSV."""
    text = b"".join(as_csv(parts)).decode("utf-8", "surrogatepass")
    return [tuple(row) for row in csv.reader(io.StringIO(text, newline=""))][1:]


def long_rows(effective: EffectiveModel, pages: Sequence[int] | None = None) -> list[tuple[str, ...]]:
    """The rows of the long table, of all pages or of some."""
    return rows_of(*long_parts(effective, pages=None if pages is None else np.array(pages)))
