"""Tables as Parquet, through pyarrow; codes and words become dictionaries as they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from davlo.core.columns import Codes, Mask, Words
from davlo.core.effective import Effective
from davlo.core.source import scope_words
from davlo.core.statements import Scope
from davlo.core.texts import Texts
from davlo.core.values import format_value

from .table import long_table

SOURCE_OF = "source of "
"""Before a setting's name: the column that tells where its values came from."""


def parquet_bytes(effective: Effective, is_long: bool) -> bytes:
    """The long or the wide table as a Parquet file.

    The wide one has for each setting a column of values, null where a page does not have it, and a column
    `source of SETTING`. Texts are dictionary-encoded.
    """
    table = _long(effective) if is_long else _wide(effective)
    sink = pa.BufferOutputStream()
    pq.write_table(table, sink, write_statistics=False)
    return bytes(sink.getvalue())


def _numbers(codes: Codes, valid: Mask | None = None) -> pa.Array:
    """An int32 array that shares the codes. (`pa.array` would import pandas where that is installed.)"""
    bits = None if valid is None or valid.all() else pa.py_buffer(np.packbits(valid, bitorder="little"))
    return pa.Array.from_buffers(pa.int32(), len(codes), [bits, pa.py_buffer(np.ascontiguousarray(codes))])


def _strings(words: Sequence[str]) -> pa.Array:
    if not isinstance(words, Texts):
        words = Texts.of(words)
    packed = words.packed()
    ends = np.append(np.zeros(1, dtype=np.int64), packed.end)
    return pa.Array.from_buffers(pa.large_string(), len(words), [None, pa.py_buffer(ends), pa.py_buffer(packed.data)])


def _dictionary(codes: Codes, words: Sequence[str], valid: Mask | None = None) -> pa.DictionaryArray:
    return pa.DictionaryArray.from_arrays(_numbers(codes, valid), _strings(words))


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
            "line": _numbers(lines, lines > 0),
        }
    )


def _wide(effective: Effective) -> pa.Table:
    site = effective.site
    columns = {"path": _strings(site.tree.paths)}
    for number in site.catalogue.ordered():
        name, has = site.catalogue[number].name, site.has(number)
        found = effective.resolved(number)
        words = [format_value(word) for word in effective.codes(name)[1]]
        columns[name] = _dictionary(found.value, words, has)
        columns[SOURCE_OF + name] = _dictionary(*_sources(effective, number), has)
    return pa.table(columns)


def _sources(effective: Effective, setting: int) -> tuple[Codes, list[str]]:
    """The sources of a setting's values as codes, and what they stand for: scopes in words."""
    site, statements = effective.site, effective.site.statements
    span = statements.of_setting(setting)
    words: Words[str] = Words(["built-in", "everywhere", "stamp", "here"])
    plain = {Scope.EVERYWHERE: 1, Scope.STAMP: 2, Scope.HERE: 3}
    table = np.zeros(len(span) + 1, dtype=np.int32)  # the last stands for -1, built-in
    for place, statement in enumerate(span):
        scope, target = Scope(int(statements.scope[statement])), int(statements.target[statement])
        table[place] = plain[scope] if scope in plain else words.code(scope_words(site, scope, target))
    source = effective.resolved(setting).source
    return table[np.where(source < 0, len(span), source - span.start)], words.items
