"""Tables as Parquet, through pyarrow; codes and words become dictionaries as they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from numpy.typing import NDArray

from davlo.core.columns import Codes, Mask, distinct
from davlo.core.effective import Effective
from davlo.core.model import SiteModel
from davlo.core.source import scope_words
from davlo.core.statements import Scope
from davlo.core.texts import Texts
from davlo.core.values import format_value

from .table import long_table

Small = NDArray[np.signedinteger]
ONE_A_SITE = (Scope.EVERYWHERE, Scope.STAMP, Scope.HERE)
"""Scopes that are told in one word, whatever they are for."""
SOURCE_OF = "source of "
"""Before a setting's name: the column that tells where its values came from."""


def parquet_bytes(effective: Effective, is_long: bool) -> bytes:
    """The long or the wide table as a Parquet file.

    The wide one has for each setting a column of values, null where a page does not have it, and a column
    `source of SETTING`. Texts are dictionary-encoded.
    """
    table = _long(effective) if is_long else _wide(effective)
    sink = pa.BufferOutputStream()
    pq.write_table(table, sink, write_statistics=False, write_batch_size=1 << 16)
    return bytes(sink.getvalue())


def _numbers(codes: Small, valid: Mask | None = None) -> pa.Array:
    """An array that shares the codes. (`pa.array` would import pandas where that is installed.)"""
    bits = None if valid is None else pa.py_buffer(np.packbits(valid, bitorder="little"))
    kind = {1: pa.int8(), 2: pa.int16(), 4: pa.int32()}[codes.itemsize]
    return pa.Array.from_buffers(kind, len(codes), [bits, pa.py_buffer(np.ascontiguousarray(codes))])


def _strings(words: Sequence[str]) -> pa.Array:
    if not isinstance(words, Texts):
        words = Texts.of(words)
    if (words.start[1:] == words.end[:-1]).all():
        ends = np.append(words.start[:1], words.end) if len(words) else np.zeros(1, dtype=np.int64)
        return pa.Array.from_buffers(
            pa.large_string(), len(words), [None, pa.py_buffer(ends), pa.py_buffer(words.data)]
        )
    return _views(words).cast(pa.large_string())


def _views(texts: Texts) -> pa.Array:
    """Texts that lie anywhere in their bytes: length, first four bytes, and where; or up to twelve bytes themselves.

    Source: the Arrow columnar format, "Variable-size Binary View Layout".
    """
    length = (texts.end - texts.start).astype(np.int32)
    views = np.empty((len(texts), 4), dtype=np.int32)
    views[:, 0], views[:, 1:] = length, texts.beginnings().view(np.int32)
    long = np.flatnonzero(length > 12)
    views[long, 2], views[long, 3] = texts.start[long] >> 30, texts.start[long] & (1 << 30) - 1
    parts = [pa.py_buffer(texts.data[at : at + (1 << 31) - 1]) for at in range(0, len(texts.data), 1 << 30)]
    return pa.Array.from_buffers(pa.string_view(), len(texts), [None, pa.py_buffer(views), *parts])


def _small(codes: Codes, words: int) -> Small:
    """The codes in as few bytes as so many words need."""
    return codes.astype(np.int8 if words <= 1 << 7 else np.int16 if words <= 1 << 15 else np.int32)


def _dictionary(codes: Small, words: Sequence[str], valid: Mask | None = None) -> pa.DictionaryArray:
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
    columns, fields = [_strings(site.tree.paths)], [pa.field("path", pa.large_string(), nullable=False)]
    silent = np.zeros(len(site.tree), dtype=np.int8)  # what nobody speaks of shares one column of codes
    for number in site.catalogue.ordered():
        name, has = site.catalogue[number].name, None if site.has_by_type[number].all() else site.has(number)
        words = [format_value(word) for word in site.statements.words[number].items]
        span = site.statements.of_setting(number)
        if not len(span):
            pairs = [(silent, words), (silent, ["built-in"])]
        else:
            found = effective.resolved(number, keep=False)
            words = [format_value(word) for word in site.statements.words[number].items]
            value = _small(found.value, len(words))
            pairs = [(value, words), _sources(site, number, found.source)]
        for label, (codes, texts) in zip((name, SOURCE_OF + name), pairs, strict=True):
            columns.append(_dictionary(codes, texts, has))
            fields.append(pa.field(label, columns[-1].type, nullable=has is not None))
    return pa.Table.from_arrays(columns, schema=pa.schema(fields))


def _sources(site: SiteModel, setting: int, source: Codes) -> tuple[Small, list[str]]:
    """The sources of a setting's values as codes, and what they stand for: scopes in words."""
    statements, span = site.statements, site.statements.of_setting(setting)
    scope = statements.scope[span.start : span.stop].astype(np.int64)
    target = np.where(np.isin(scope, ONE_A_SITE), 0, statements.target[span.start : span.stop])
    first, which = distinct((scope << 32) + target + (1 << 31))
    words = ["built-in", *(scope_words(site, int(scope[i]), int(target[i])) for i in first.tolist())]
    table = np.zeros(len(statements) + 1, dtype=np.int32)  # the last stands for -1, built-in
    table[span.start : span.stop] = which + 1
    return _small(table, len(words))[source.astype(np.intp)], words
