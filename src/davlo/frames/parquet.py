"""Tables as Parquet, through pyarrow."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from davlo.core.columns import Codes
from davlo.core.effective import Effective
from davlo.core.values import format_value

from .table import long_table


def parquet_bytes(effective: Effective, is_long: bool) -> bytes:
    """The long or the wide table as a Parquet file; texts are dictionary-encoded, an absent setting is null."""
    table = _long(effective) if is_long else _wide(effective)
    sink = pa.BufferOutputStream()
    pq.write_table(table, sink)
    return bytes(sink.getvalue())


def _dictionary(codes: Codes, words: Sequence[str]) -> pa.DictionaryArray:
    return pa.DictionaryArray.from_arrays(pa.array(codes, type=pa.int32()), pa.array(list(words), type=pa.string()))


def _long(effective: Effective) -> pa.Table:
    rows = long_table(effective)
    lines = np.array([s.line for s in rows.sources], dtype=np.int32)[rows.source]
    locked = np.array([s.locked for s in rows.sources], dtype=bool)[rows.source]
    return pa.table(
        {
            "path": _dictionary(rows.page, rows.paths),
            "setting": _dictionary(rows.setting, rows.settings),
            "value": _dictionary(rows.value, rows.values),
            "source": _dictionary(rows.source, [s.scope for s in rows.sources]),
            "locked": pa.array(locked),
            "file": _dictionary(rows.source, [s.file for s in rows.sources]),
            "line": pa.array(lines, mask=lines == 0),
        }
    )


def _wide(effective: Effective) -> pa.Table:
    site = effective.site
    columns = {"path": pa.array(site.tree.paths.tolist(), type=pa.string())}
    for number in site.catalogue.ordered():
        codes = effective.resolved(number).value
        words = [format_value(word) for word in effective.codes(site.catalogue[number].name)[1]]
        indices = pa.array(codes, type=pa.int32(), mask=~site.has(number))
        columns[site.catalogue[number].name] = pa.DictionaryArray.from_arrays(
            indices, pa.array(list(words), type=pa.string())
        )
    return pa.table(columns)
