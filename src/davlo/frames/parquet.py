"""Tables as Parquet, through pyarrow; codes and words become dictionaries as they are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeGuard

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Mask
from davlo.core.arrays.in_background import MANY, in_background
from davlo.core.arrays.texts import Texts
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.resolve.paint import says_all, values_by_winner
from davlo.core.site.settings.values import Value, format_value, is_plain
from davlo.core.site.statements.scope_pages import ScopePages

from .sources import SOURCE_OF, smallest, source_words, winner_of
from .table import long_table

Small = NDArray[np.signedinteger]
PART = 1 << 18
"""Pages written at a time; fewer at first, so that writing begins early."""


def write_parquet(
    effective: EffectiveModel,
    is_long: bool,
    to: Path,
    settings: Sequence[int] | None = None,
    some: NDArray[np.int64] | None = None,
    site: str = "",
) -> None:
    """The long or the wide table as a Parquet file, of all pages and settings or of some.

    `site`: what the first column, `site`, says on every row; without it there is no such column.

    The wide one has for each setting a column of values, in the type of the setting's kind, null where a page does not
    have it or has none; and a column `source of SETTING`. Texts are dictionary-encoded. While one part of the pages is
    written, the next is made.
    """
    pages = len(effective.site.tree) if some is None else len(some)
    bounds = _bounds(pages)
    with work("writing the table", 1 if is_long else len(bounds) - 1) as step:
        step(f"{pages:,} pages")
        numbers = range(len(effective.site.catalogue)) if settings is None else settings
        if is_long:
            parts = iter([_long(effective, numbers, some)])
        else:
            parts = _wide(effective, numbers, bounds) if some is None else iter([wide_table(effective, numbers, some)])
        parts = (_with_site(part, site) for part in parts) if site else parts
        first = next(parts)
        coded = [field.name for field in first.schema if pa.types.is_dictionary(field.type)]
        writer = pq.ParquetWriter(
            str(to), first.schema, write_statistics=False, write_batch_size=1 << 16, use_dictionary=coded
        )
        with writer, ThreadPoolExecutor(1) as thread:
            written = thread.submit(writer.write_table, first)
            for part in parts:
                step(f"{pages:,} pages")
                written.result()
                written = thread.submit(writer.write_table, part)
            written.result()


def _with_site(part: pa.Table, site: str) -> pa.Table:
    """A table with the name of the site in its first column."""
    return part.add_column(0, "site", strings([site] * len(part)))


def _bounds(pages: int) -> list[int]:
    """Where each part begins, and the last ends."""
    first = (PART * share // 16 for share in (1, 3, 7, 15))  # each twice as large as the one before
    starts = (*first, *range(PART * 31 // 16, pages, PART))
    return [0, *sorted({start for start in starts if 0 < start < pages}), pages]


def _kind(codes: np.dtype[Any]) -> pa.DataType:
    return {1: pa.int8(), 2: pa.int16(), 4: pa.int32()}[codes.itemsize]


def _numbers(codes: Small, valid: Mask | None = None) -> pa.Array:
    """An array that shares the codes. (`pa.array` would import pandas where that is installed.)"""
    data = pa.py_buffer(np.ascontiguousarray(codes))
    return pa.Array.from_buffers(_kind(codes.dtype), len(codes), [_bits(valid), data])


def _bits(valid: Mask | None) -> Any:
    return None if valid is None else pa.py_buffer(np.packbits(valid, bitorder="little"))


def strings(words: Sequence[str]) -> pa.Array:
    """Texts as an array, which shares their bytes if they lie side by side."""
    if not isinstance(words, Texts):
        words = Texts.of(words)
    if not (words.start[1:] == words.end[:-1]).all():
        words = words.laid_out()
    ends = np.append(words.start[:1], words.end) if len(words) else np.zeros(1, dtype=np.int64)
    return pa.Array.from_buffers(pa.large_string(), len(words), [None, pa.py_buffer(ends), pa.py_buffer(words.data)])


def _dictionary(codes: Small, words: Sequence[str], valid: Mask | None = None) -> pa.DictionaryArray:
    return pa.DictionaryArray.from_arrays(_numbers(codes, valid), strings(words))


def _long(effective: EffectiveModel, settings: Sequence[int], pages: NDArray[np.int64] | None) -> pa.Table:
    rows = long_table(effective, pages, settings)
    found, lines = rows.sources, rows.sources.line[rows.source]
    return pa.table(
        {
            "path": _dictionary(rows.page, rows.paths),
            "setting": _dictionary(rows.setting, rows.settings),
            "value": _dictionary(rows.value, [text for text, _ in rows.values]),
            "source": _dictionary(found.scope.codes[rows.source].astype(np.int32), found.scope.words),
            "locked": pa.array(found.locked[rows.source]),
            "file": _dictionary(found.file.codes[rows.source].astype(np.int32), found.file.words),
            "line": _numbers(lines, lines > 0),
        }
    )


class _Setting:
    """A setting's two columns, values and sources: their words, and the codes of any part of the pages."""

    def __init__(self, effective: EffectiveModel, number: int) -> None:
        site = effective.site
        self.effective, self.number, self.name = effective, number, site.catalogue[number].name
        told, self._table = source_words(site, number)
        words: Sequence[Value] = site.statements.words[number].items
        # folding can add words per part, so use a wide index type
        self._grows = not says_all(site.statements, number)
        self._small = np.int32 if self._grows else smallest(len(words))
        self._kind, self._sources = site.catalogue[number].kind, strings(told)
        self._values = _TypedWords(words, self._kind, np.dtype(self._small))
        self._by_winner = values_by_winner(site.statements, number).astype(self._small)
        has: Mask = site.has_by_type[number]
        self.has = None if has.all() else has

    def fields(self) -> Iterator[pa.Field]:
        """The schema fields of the value and the source column."""
        yield pa.field(self.name, self._values.type)
        kind = pa.dictionary(_kind(self._table.dtype), pa.large_string())
        yield pa.field(SOURCE_OF + self.name, kind, nullable=self.has is not None)

    def arrays(self, part: ScopePages) -> Iterator[pa.Array]:
        """The two columns of a part of the pages."""
        value, source, values = self._codes(part)
        valid = None if self.has is None else self.has[part.type_of]
        yield values.column(value, valid)
        yield pa.DictionaryArray.from_arrays(_numbers(source, valid), self._sources, safe=False)

    def _codes(self, part: ScopePages) -> tuple[Small, Small, _TypedWords]:
        """The codes of the values and of the sources, and what those of the values mean."""
        if len(self._by_winner) == 1:  # no statement sets it
            return np.zeros(part.size, dtype=self._small), np.zeros(part.size, dtype=self._table.dtype), self._values
        if self._grows:
            value, source, words = self.effective.resolved_part(self.number, part)
            values = _TypedWords(words, self._kind, np.dtype(self._small))
            return value, self._table[winner_of(self.effective.site, self.number, source)], values
        winner = self.effective.winners_part(self.number, part)
        return self._by_winner.take(winner, mode="clip"), self._table.take(winner, mode="clip"), self._values


class _TypedWords:
    """The different values of a setting, in the type that its kind has: none is null."""

    def __init__(self, words: Sequence[Value], kind: str, codes: np.dtype[Any]) -> None:
        self._kind = kind
        plain = [word if is_plain(word) else None for word in words]  # no page ends up with another
        self._is_some = np.array([word is not None for word in plain], dtype=bool)
        self._words: Any
        if kind == "flag":
            self.type, self._words = pa.bool_(), np.array([word is True for word in plain], dtype=bool)
        elif kind in _NUMBERS:
            dtype, self.type = _NUMBERS[kind]
            self._words = np.array([word if _is_number(word) else 0 for word in plain], dtype=dtype)
        elif kind == "date":
            days = [str(word) if word is not None else "1970-01-01" for word in plain]
            self.type, self._words = pa.date32(), np.array(days, dtype="datetime64[D]").astype(np.int32)
        elif kind == "list":
            lists = [word if isinstance(word, tuple) else () for word in plain]
            ends = np.cumsum([0, *map(len, lists)], dtype=np.int32)
            items = strings([item for one in lists for item in one])
            self.type = pa.list_(pa.large_string())
            buffers = [None, pa.py_buffer(ends)]
            self._words = pa.Array.from_buffers(self.type, len(lists), buffers, children=[items])
        else:
            self.type = pa.dictionary(_kind(codes), pa.large_string())
            self._words = strings(["" if word is None else format_value(word) for word in plain])

    def column(self, codes: Small, valid: Mask | None) -> pa.Array:
        """The values of pages, by their codes; null where a page does not have the setting, or has none.

        `valid`: bool[pages]: which pages have it; None: all.
        """
        if not self._is_some.all():
            some = self._is_some.take(codes, mode="clip")
            valid = some if valid is None else valid & some
        if self._kind == "list":
            return self._words.take(_numbers(codes, valid))
        if pa.types.is_dictionary(self.type):
            return pa.DictionaryArray.from_arrays(_numbers(codes, valid), self._words, safe=False)
        values = self._words.take(codes, mode="clip")
        data = np.packbits(values, bitorder="little") if self._kind == "flag" else values
        return pa.Array.from_buffers(self.type, len(codes), [_bits(valid), pa.py_buffer(data)])


_NUMBERS = {"integer": (np.int64, pa.int64()), "number": (np.float64, pa.float64())}


def _is_number(word: Value) -> TypeGuard[int | float]:
    return isinstance(word, int | float) and not isinstance(word, bool)


def wide_table(effective: EffectiveModel, numbers: Sequence[int], pages: NDArray[np.int64] | None = None) -> pa.Table:
    """The wide table of these settings, of all pages or of some."""
    table = next(_wide(effective, numbers, (0, len(effective.site.tree))))
    return table if pages is None else table.take(_numbers(pages.astype(np.int32)))


def _wide(effective: EffectiveModel, numbers: Sequence[int], bounds: Sequence[int]) -> Iterator[pa.Table]:
    """The wide table, in parts of the pages between these bounds."""
    site = effective.site
    scope_pages = in_background(lambda: site.scope_pages, len(site.tree) >= MANY)
    settings = [_Setting(effective, number) for number in numbers]
    path = pa.field("path", pa.large_string(), nullable=False)
    schema = pa.schema([path, *(field for setting in settings for field in setting.fields())])
    for begin, end in pairwise(bounds):
        part = scope_pages().part(begin, end)
        columns = [array for setting in settings for array in setting.arrays(part)]
        yield pa.Table.from_arrays([strings(site.tree.paths[begin:end]), *columns], schema=schema)
