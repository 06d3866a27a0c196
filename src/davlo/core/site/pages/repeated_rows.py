"""Rows of the page list that name the same page: the one that counts, and those that disagree."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Column, Mask
from ...arrays.path_finder import Finder, PathMarks, path_marks
from ...arrays.texts import Texts
from ...faults import Fault, Place

MOST_COLUMNS = 5
"""How many columns a message names at most."""


class Repeats(NamedTuple):
    """Rows of the page list that are left out, since another row stands for their page."""

    row: NDArray[np.int64]  # `row`, `first`: int64[n]: the row that is left out, and the row that counts instead
    first: NDArray[np.int64]
    # bool[n]: whether both hold the same cells, and so must stay alike; if not, the row left out names a place in the
    # page
    agrees: Mask


class Rows(NamedTuple):
    """More about the rows that make a tree."""

    columns: Mapping[str, Column] = MappingProxyType({})  # their other cells: rows of one page must agree in them
    # bool[rows]: where the cell names a place in a page, so that the row gives way to any other row of that page
    fragment: Mask | None = None


NO_MORE = Rows()


def usable_rows(
    paths: Texts, lines: NDArray[np.int32], place: Callable[[int, str], Place], more: Rows
) -> tuple[NDArray[np.int64], Finder, PathMarks, Repeats, list[Fault]]:
    """The rows that stand for a page, what finds a path among them, the rows they stand for, and what is wrong."""
    faults = []
    begins = paths.begins_with(ord("/"))
    for row in np.flatnonzero(~begins).tolist():
        shown = repr(paths[row]) if paths[row] else "a blank cell"
        hint = "an address is read as a path where it is the site's own" if "://" in shown else ""
        faults.append(Fault(place(int(lines[row]), "path"), f"a path starts with /, not {shown}", hint=hint))
    rows = np.flatnonzero(begins)
    kept = paths if len(rows) == len(paths) else paths.take(rows)
    marks = path_marks(kept)
    finder = Finder(kept, marks.whole)
    first = finder.firsts()
    if more.fragment is not None:
        first = _without_fragment(first, more.fragment[rows])
    again = np.flatnonzero(first != np.arange(len(rows)))
    gone, stands = rows[again], rows[first[again]]
    agrees = _alike(more.columns, gone, stands) if more.columns else np.zeros(len(gone), dtype=bool)
    fragment = np.zeros(len(gone), dtype=bool) if more.fragment is None else more.fragment[gone]
    if fragment.any() and more.fragment is not None:
        # it gives way to a row without one; of two with fragments, cells that are filled in both must agree
        beside = np.flatnonzero(fragment & more.fragment[stands])
        fragment[beside] = _alike(more.columns, gone[beside], stands[beside], blank_agrees=True)
    for at in np.flatnonzero(~agrees & ~fragment).tolist():
        one, other = int(gone[at]), int(stands[at])
        what = f"the path {paths[one]} is there twice; the first is at line {lines[other]}"
        names = [name for name, column in more.columns.items() if column[one] != column[other]]
        if names:
            what += f", and they differ in {', '.join(names[:MOST_COLUMNS])}"
        hint = "keep one of the two rows" if names else ""
        faults.append(Fault(place(int(lines[one]), "path"), what, hint=hint))
    if len(again):
        rows = np.delete(rows, again)
        marks = path_marks(paths.take(rows))
        finder = Finder(paths.take(rows), marks.whole)
    left_out = agrees | fragment
    repeats = Repeats(gone[left_out], stands[left_out], (agrees & ~fragment)[left_out])
    return rows, finder, marks, repeats, faults


def _without_fragment(first: NDArray[np.int64], fragment: Mask) -> NDArray[np.int64]:
    """For each row the one that stands for its page: the first without a fragment, or else the first. int64[rows]"""
    whole = np.flatnonzero(~fragment)
    best = np.full(len(first), len(first))
    np.minimum.at(best, first[whole], whole)
    return np.where(best[first] < len(first), best[first], first)


def _alike(
    columns: Mapping[str, Column], rows: NDArray[np.int64], others: NDArray[np.int64], *, blank_agrees: bool = False
) -> Mask:
    """Which rows have the same cells as others, in every column; or where one of both is blank. bool[n]"""
    alike = np.ones(len(rows), dtype=bool)
    for column in columns.values():
        left = np.flatnonzero(alike & (column.codes[rows] != column.codes[others]))
        if isinstance(column.words, Texts):
            one, other = column.codes[rows[left]].astype(np.int64), column.words.take(column.codes[others[left]])
            alike[left] = column.words.same(one, other, other.end)
            if blank_agrees:
                mine = column.words.take(one)
                alike[left] |= (mine.end == mine.start) | (other.end == other.start)
        else:
            words = column.words
            pairs = zip(column.codes[rows[left]].tolist(), column.codes[others[left]].tolist(), strict=True)
            alike[left] = [
                words[one] == words[other] or (blank_agrees and not (words[one] and words[other]))
                for one, other in pairs
            ]
    return alike
