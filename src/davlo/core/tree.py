"""The tree of pages, numbered depth first, so that a branch is a slice."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .columns import Codes, Column
from .faults import Fault, Place, UnknownName
from .texts import Finder, Texts


@dataclass(frozen=True, slots=True)
class Tree:
    """Pages in depth-first order.

    Attributes
    ----------
    paths : Texts
        The path of each page.
    parent : int32[pages]
        The parent's number, -1 at the top.
    depth : int32[pages]
        The number of ancestors.
    end : int32[pages]
        One past the last page of the branch: the branch of `p` is `p:end[p]`, the pages below it `p+1:end[p]`.
    line : int32[pages]
        The line of the inventory on which the page stands.
    """

    paths: Texts
    parent: Codes
    depth: Codes
    end: Codes
    line: Codes
    _finder: Finder = field(repr=False)
    _number: Codes = field(repr=False)

    def __len__(self) -> int:
        return len(self.paths)

    def find(self, path: str) -> int:
        """The page's number, or -1."""
        row = self._finder.find_one(path)
        return int(self._number[row]) if row >= 0 else -1

    def find_all(self, paths: Texts) -> Codes:
        """The numbers of pages, -1 where there is none. int32[paths]"""
        rows = self._finder.find(paths)
        return np.where(rows >= 0, np.append(self._number, -1)[rows], -1).astype(np.int32)

    def number(self, path: str) -> int:
        """The page's number.

        Raises
        ------
        UnknownName
            If there is no such page.
        """
        number = self.find(path)
        if number < 0:
            raise UnknownName("page", path, self.paths)
        return number

    def ancestors(self, page: int) -> list[int]:
        """The page's ancestors, outermost first."""
        found: list[int] = []
        while (page := int(self.parent[page])) >= 0:
            found.append(page)
        return found[::-1]

    def children(self, page: int) -> list[int]:
        """The pages right under a page; of -1, the top-level pages."""
        found = []
        child, stop = (0, len(self)) if page < 0 else (page + 1, int(self.end[page]))
        while child < stop:
            found.append(child)
            child = int(self.end[child])
        return found


def parents_by_path(paths: Texts, finder: Finder) -> NDArray[np.int64]:
    """For each path its longest existing proper prefix, ending before a slash (or the slash it begins with); or -1.

    Parameters
    ----------
    paths : Texts
        Each begins with `/`.
    finder : Finder
        Finds a path among them.

    Returns
    -------
    int64[paths]
    """
    parent = np.full(len(paths), -1, dtype=np.int64)
    left, end = np.arange(len(paths)), paths.end
    while True:
        some = paths if len(left) == len(paths) else paths.take(left)
        under = np.flatnonzero(end > some.start + 1)
        if not len(under):
            return parent
        if len(under) < len(left):
            left, end, some = left[under], end[under], some.take(under)
        end = np.maximum(some.last(ord("/"), end), some.start + 1)
        parent[left] = finder.find(some, end)
        orphans = parent[left] < 0
        left, end = left[orphans], end[orphans]


def build_tree(
    paths: Texts,
    parents: Column,
    lines: NDArray[np.int32],
    place: Callable[[int, str], Place],
) -> tuple[Tree, NDArray[np.int64], list[Fault]]:
    """The tree that the inventory's `path` and `parent` make.

    Parameters
    ----------
    paths : Texts, one a row
    parents : Column, the same; blank: the longest existing proper prefix of the path
    lines : int32[rows]
    place : function
        From a line and a column's name to its place, for faults.

    Returns
    -------
    tree : Tree
    order : int64[pages]
        For each page the row it came from.
    faults : list of Fault
        Repeated paths, missing and circular parents.
    """
    rows, finder, faults = _usable_rows(paths, lines, place)
    kept = finder.texts
    parent = parents_by_path(kept, finder)
    said = finder.find(Texts.of(parents.words))
    speaks = np.flatnonzero(parents.where([bool(word) for word in parents.words])[rows])
    parent[speaks] = said[parents.codes[rows[speaks]]]
    missing = speaks[parent[speaks] < 0].tolist()
    known = tuple(kept) if missing else ()
    for page in missing:
        word = parents[int(rows[page])]
        what = f"the parent {word} of {kept[page]} is not in the inventory"
        faults.append(Fault(place(int(lines[rows[page]]), "parent"), what, word, known))
    depth, circle = _depths(parent)
    faults += _circles(parent, circle, kept, lambda page: place(int(lines[rows[page]]), "parent"))
    parent[circle], depth[circle] = -1, 0
    number, size = _depth_first(parent, depth)
    order = np.empty(len(number), dtype=np.int64)
    order[number] = np.arange(len(number))
    row = order if len(rows) == len(paths) else rows[order]
    tree = Tree(
        paths=kept.take(order),
        parent=np.where(parent >= 0, number[parent], -1).astype(np.int32)[order],
        depth=depth[order].astype(np.int32),
        end=(number + size)[order].astype(np.int32),
        line=lines[row],
        _finder=finder,
        _number=number.astype(np.int32),
    )
    return tree, row, faults


def _usable_rows(
    paths: Texts, lines: NDArray[np.int32], place: Callable[[int, str], Place]
) -> tuple[NDArray[np.int64], Finder, list[Fault]]:
    """The rows with a path that stands there first, what finds a path among them, what is wrong with the others."""
    faults = []
    begins = paths.begins_with(ord("/"))
    for row in np.flatnonzero(~begins).tolist():
        shown = repr(paths[row]) if paths[row] else "a blank cell"
        hint = "an address is read as a path where it is the site's own" if "://" in shown else ""
        faults.append(Fault(place(int(lines[row]), "path"), f"a path starts with /, not {shown}", hint=hint))
    rows = np.flatnonzero(begins)
    finder = Finder(paths if len(rows) == len(paths) else paths.take(rows))
    first = finder.firsts()
    again = first != np.arange(len(rows))
    for at in np.flatnonzero(again).tolist():
        what = f"the path {paths[int(rows[at])]} stands here again; it is at line {lines[rows[first[at]]]} too"
        faults.append(Fault(place(int(lines[rows[at]]), "path"), what))
    if again.any():
        rows = rows[~again]
        finder = Finder(paths.take(rows))
    return rows, finder, faults


def _circles(
    parent: NDArray[np.int64], circle: NDArray[np.bool_], paths: Texts, place: Callable[[int], Place]
) -> list[Fault]:
    """Each circle of parents once, at the first page that is in it."""
    faults = []
    for page in np.flatnonzero(circle).tolist():
        chain = _circle(parent, page)
        if page == min(chain):
            told = " -> ".join(paths[p] for p in [*chain, page])
            faults.append(Fault(place(page), f"the parents go round in a circle: {told}"))
    return faults


def _depths(parent: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Depth of each page, by doubling the step upwards; and which pages hang on a circle."""
    above = np.append(parent, -1)  # the last stands for what is above the top
    depth = (above >= 0).astype(np.int64)
    for _ in range(len(parent).bit_length() + 1):
        if int(above.max()) < 0:
            break
        depth += depth[above]
        above = above[above]
    circle = above[:-1] >= 0
    return np.where(circle, 0, depth[:-1]), circle


def _circle(parent: NDArray[np.int64], page: int) -> list[int]:
    """The circle that a page's ancestors run into."""
    seen: list[int] = []
    while page not in seen:
        seen.append(page)
        page = int(parent[page])
    return seen[seen.index(page) :]


def _depth_first(parent: NDArray[np.int64], depth: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Depth-first numbers and branch sizes, level by level; siblings stay in the order of the rows."""
    pages = len(parent)
    by_level = np.argsort(depth.astype(np.int16) if pages and depth.max() < 1 << 15 else depth, kind="stable")
    edges = np.cumsum(np.bincount(depth)) if pages else np.zeros(0, dtype=np.int64)
    levels = np.split(by_level, edges[:-1])
    size = np.ones(pages + 1, dtype=np.int64)  # the last stands for what is above the top
    for level in reversed(levels):
        np.add.at(size, parent[level], size[level])
    # siblings side by side, in the order of their rows: what comes before a page, less what comes before the first
    key = np.sort(((parent + 1) << 32) | np.arange(pages))
    siblings, mother = key & 0xFFFFFFFF, key >> 32
    before = np.cumsum(size[siblings]) - size[siblings]
    first = np.flatnonzero(np.r_[True, mother[1:] != mother[:-1]]) if pages else np.zeros(0, dtype=np.int64)
    before -= np.repeat(before[first], np.diff(np.r_[first, pages]))
    offset = np.empty(pages, dtype=np.int64)
    offset[siblings] = before
    number = np.append(offset, -1)
    for level in levels:
        number[level] += number[parent[level]] + 1
    return number[:-1], size[:-1]
