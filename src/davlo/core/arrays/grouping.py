"""Gathering rows by what they share."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray


def groups(*keys: NDArray[np.integer], least: int = 1) -> Iterator[tuple[tuple[int, ...], NDArray[np.int64]]]:
    """The different rows of these columns, and where each stands; in the order of the rows' values.

    Rows that stand in fewer than `least` places are left out.

    Example
    -------
    >>> [(key, rows.tolist()) for key, rows in groups(np.array([2, 1, 2]), np.array([0, 0, 0]))]
    [((1, 0), [1]), ((2, 0), [0, 2])]
    """
    if not len(keys[0]):
        return
    order = np.lexsort(keys[::-1])
    columns = [key[order] for key in keys]
    edges = run_edges(*columns)
    for place in np.flatnonzero(np.diff(edges) >= least).tolist():
        start = edges[place]
        yield tuple(int(column[start]) for column in columns), order[start : edges[place + 1]]


def run_begins(*columns: NDArray[np.generic]) -> NDArray[np.bool_]:
    """Where a run of the same rows begins. bool[n]

    Example
    -------
    >>> run_begins(np.array([4, 4, 4, 0])).tolist()
    [True, False, False, True]
    """
    found = np.zeros(len(columns[0]), dtype=bool)
    found[:1] = True
    for column in columns:
        found[1:] |= column[1:] != column[:-1]
    return found


def run_edges(*columns: NDArray[np.generic]) -> NDArray[np.int64]:
    """The places where runs of the same rows begin, and the end of the last one. int64[runs + 1]

    Example
    -------
    >>> run_edges(np.array([4, 4, 4, 0])).tolist()
    [0, 3, 4]
    """
    return np.append(np.flatnonzero(run_begins(*columns)), len(columns[0]))


def distinct_numbers(numbers: NDArray[np.integer]) -> list[int]:
    """The different ones, ascending.

    Example
    -------
    >>> distinct_numbers(np.array([4, 1, 4]))
    [1, 4]
    """
    return sorted(set(numbers.tolist()))
