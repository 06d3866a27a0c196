"""Effective values as a pandas frame."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, Mask
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.settings.values import Value

from .sources import SOURCE_OF, source_words, winner_of

NUMBERS = {"flag": (np.bool_, pd.arrays.BooleanArray), "integer": (np.int64, pd.arrays.IntegerArray)}
"""Kinds whose arrays keep a mask of missing values."""


def to_frame(
    effective: EffectiveModel, settings: Sequence[int], pages: NDArray[np.int64], sources: bool
) -> pd.DataFrame:
    """A row a page and a column a setting; what a page does not have, and none, is missing."""
    site = effective.site
    columns: dict[str, Any] = {}
    for number in settings:
        name, kind = site.catalogue[number].name, site.catalogue[number].kind
        found = effective.resolved(number)
        has = site.has(number)[pages]
        columns[name] = _column(kind, found.value[pages], has, found.words)
        if sources:
            told, table = source_words(site, number)
            columns[SOURCE_OF + name] = _categories(
                np.where(has, table[winner_of(site, number, found.source[pages])], -1), told
            )
    return pd.DataFrame(columns, index=pd.Index(site.tree.paths.take(pages).tolist(), name="path", dtype=object))


def _column(kind: str, codes: Codes, has: Mask, words: Sequence[Value]) -> Any:
    """One setting's values, in the kind of array that suits them."""
    used = np.flatnonzero(np.bincount(codes[has], minlength=len(words)))
    missing = ~has | np.array([word is None for word in words], dtype=bool)[codes]
    if kind in NUMBERS:
        dtype, array = NUMBERS[kind]
        table: NDArray[Any] = np.zeros(len(words), dtype=dtype)
        table[used] = [words[code] or 0 for code in used.tolist()]
        return array(table[codes], missing)
    if kind == "number":
        numbers = np.full(len(words), np.nan)
        numbers[used] = [np.nan if words[code] is None else words[code] for code in used.tolist()]
        return np.where(missing, np.nan, numbers[codes])
    told = [code for code in used.tolist() if words[code] is not None]
    place = np.full(len(words), -1, dtype=np.int64)
    place[told] = np.arange(len(told))
    return _categories(np.where(missing, -1, place[codes]), [words[code] for code in told])


def _categories(codes: NDArray[np.integer], words: Sequence[object]) -> pd.Categorical:
    categories = pd.Index(np.fromiter(words, dtype=object, count=len(words)), tupleize_cols=False)
    return pd.Categorical.from_codes(codes, dtype=pd.CategoricalDtype(categories))
