"""Effective values as a long table: a row for each page and setting."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codebook, Codes, Mask, used_codes
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import Value, format_value
from davlo.core.site.source import SourceColumns, Sources

LONG_COLUMNS = ("path", "setting", "value", "source", "locked", "file", "line")


class LongTable(NamedTuple):
    """A row for every page and every setting that it has, in the order of the tree, then of the settings."""

    paths: Sequence[str]
    settings: list[str]
    values: list[tuple[str, Value]]  # how each reads, and what it is
    sources: SourceColumns
    # `page`, `setting`, `value`, `source`: int32[rows]: numbers of pages; codes into `settings`, `values`, `sources`
    page: Codes
    setting: Codes
    value: Codes
    source: Codes


def long_table(
    effective: EffectiveModel, pages: NDArray[np.int64] | None = None, settings: Sequence[int] | None = None
) -> LongTable:
    """The long table of all pages and settings, or of some.

    `pages`: numbers of pages. `settings`: numbers of settings.
    """
    site = effective.site
    numbers = range(len(site.catalogue)) if settings is None else settings
    chosen = np.arange(len(site.tree)) if pages is None else pages
    values: Codebook[tuple[str, type, Value]] = Codebook()
    has: Mask = np.zeros((len(chosen), len(numbers)), dtype=bool)
    value: Codes = np.zeros(has.shape, dtype=np.int32)
    source: Codes = np.zeros(has.shape, dtype=np.int32)
    for i, number in enumerate(numbers):
        found = effective.resolved(number)
        used, mine = used_codes(found.value[chosen], len(found.words))
        words = [found.words[code] for code in used.tolist()]
        table = np.array([values.code((format_value(word), type(word), word)) for word in words], dtype=np.int32)
        has[:, i] = site.has(number)[chosen]
        value[:, i] = table[mine]
        source[:, i] = found.source[chosen]
    page, setting = np.nonzero(has)
    statement, which = used_codes(source[has] + 1, len(site.statements) + 1)
    return LongTable(
        site.tree.paths,
        [site.catalogue[n].name for n in numbers],
        [(text, word) for text, _, word in values.items],
        Sources(site, statement - 1).columns(),
        chosen[page].astype(np.int32),
        setting.astype(np.int32),
        value[has],
        which,
    )
