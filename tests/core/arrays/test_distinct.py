"""Different keys and rows, and runs of the same ones: what NumPy's own, slower way gives."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import distinct, distinct_rows
from davlo.core.arrays.grouping import run_begins, run_edges, sorted_by

FEW, MANY = st.integers(-3, 3), st.integers(-(2**62), 2**62)


@given(st.one_of(st.lists(FEW, max_size=40), st.lists(MANY, max_size=12), st.lists(st.one_of(FEW, MANY), max_size=12)))
def test_keys_have_the_first_place_and_the_number_that_unique_gives(numbers: list[int]) -> None:
    keys = np.array(numbers, dtype=np.int64)
    _, first, which = np.unique(keys, return_index=True, return_inverse=True)
    found, codes = distinct(keys)
    assert (found.tolist(), codes.tolist()) == (first.tolist(), which.tolist())
    assert found.dtype == np.int64
    assert codes.dtype == np.int32


@given(st.lists(st.tuples(FEW, FEW, st.integers(-(2**31), 2**31 - 1)), max_size=20))
def test_rows_are_numbered_in_their_order(rows: list[tuple[int, int, int]]) -> None:
    first, codes = distinct_rows([np.array([row[at] for row in rows], dtype=np.int32) for at in range(3)])
    ordered = sorted(set(rows))
    assert [rows[place] for place in first.tolist()] == ordered
    assert first.tolist() == [rows.index(row) for row in ordered]
    assert codes.tolist() == [ordered.index(row) for row in rows]


@given(
    st.integers(0, 2**32), st.lists(st.sampled_from(["few", "codes", "words", "wide", "floats", "flags"]), min_size=1)
)
def test_many_rows_are_sorted_as_numpy_sorts_them(seed: int, kinds: list[str]) -> None:
    random = np.random.default_rng(seed)
    rows = 5_000  # fewer would go to NumPy as they are
    columns: dict[str, Callable[[], NDArray[Any]]] = {
        "few": lambda: random.integers(-3, 3, rows),
        "codes": lambda: random.integers(-1, rows, rows).astype(np.int32),
        "words": lambda: random.integers(0, 1 << 64, rows, dtype=np.uint64),
        "wide": lambda: random.integers(-(1 << 63), (1 << 63) - 1, rows),
        "floats": lambda: random.choice([0.5, np.inf, -np.inf, 2.0], rows),
        "flags": lambda: random.integers(0, 2, rows).astype(bool),
    }
    keys = [columns[kind]() for kind in kinds]
    assert np.array_equal(sorted_by(*keys), np.lexsort(keys[::-1]))


@given(st.lists(FEW, max_size=20))
def test_runs_begin_where_another_value_comes(numbers: list[int]) -> None:
    column = np.array(numbers, dtype=np.int64)
    runs = [len([*same]) for _, same in groupby(numbers)]
    edges = [0, *np.cumsum(runs).tolist()] if runs else [0]
    assert run_edges(column).tolist() == edges
    assert np.flatnonzero(run_begins(column, column)).tolist() == edges[:-1]
