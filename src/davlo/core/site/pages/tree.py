"""The tree of pages, numbered depth first, so that a branch is a slice."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Column, Mask
from ...arrays.grouping import sorted_by
from ...arrays.in_background import MANY, gathered, in_background
from ...arrays.path_finder import Finder
from ...arrays.texts import Texts
from ...faults import Fault, Place, UnknownName
from ...wording import round_circle
from .repeated_rows import NO_MORE, Repeats, Rows, usable_rows

FEW_BRANCHES = 1000


@dataclass(frozen=True, slots=True)
class Tree:
    """Pages in depth-first order."""

    paths: Texts  # the path of each page
    parent: Codes  # int32[pages]: the parent's number, -1 at the top
    depth: Codes  # int32[pages]: the number of ancestors
    # int32[pages]: one past the last page of the branch: the branch of `p` is `p:end[p]`, the pages below it
    # `p+1:end[p]`
    end: Codes
    line: Codes  # int32[pages]: the line of the page list on which the page stands
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
        """The page's number."""
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

    def nearest_above(self, holds: Mask) -> Codes:
        """For each page its nearest ancestor of which something holds; -1: none. int32[pages]

        Example
        -------
        >>> import davlo, numpy as np
        >>> tree = davlo.open_demo().tree
        >>> holds = np.arange(len(tree)) == tree.number("/visit")
        >>> tree.paths[int(tree.nearest_above(holds)[tree.number("/visit/tickets/groups")])]
        '/visit'
        """
        found = np.full(len(self), -1, dtype=np.int32)
        some = np.flatnonzero(holds)
        some = some[self.end[some] > some + 1]
        if len(some) < FEW_BRANCHES:  # paint branches, the inner over the outer
            for page, end in zip(some.tolist(), self.end[some].tolist(), strict=True):
                found[page + 1 : end] = page
            return found
        deepest = int(self.depth.max(initial=0))
        order = sorted_by(self.depth)
        edges = np.cumsum(np.bincount(self.depth, minlength=deepest + 1)).tolist()
        for begin, end in itertools.pairwise(edges):
            level = order[begin:end]
            above = self.parent[level]
            found[level] = np.where(holds[above], above, found[above])
        return found

    def children(self, page: int) -> list[int]:
        """The pages right under a page; of -1, the top-level pages."""
        found = []
        child, stop = (0, len(self)) if page < 0 else (page + 1, int(self.end[page]))
        while child < stop:
            found.append(child)
            child = int(self.end[child])
        return found


class Planted(NamedTuple):
    """A tree, and what became of the rows of the page list."""

    tree: Tree
    order: NDArray[np.int64]  # int64[pages]: for each page the row it came from
    page_of_row: Codes  # int32[rows]: for each row its page, -1 where it is none
    faults: list[Fault]  # repeated paths, missing and circular parents
    repeats: Repeats  # the rows that another row of the same page stands for


def build_tree(
    paths: Texts, parents: Column, lines: NDArray[np.int32], place: Callable[[int, str], Place], more: Rows = NO_MORE
) -> Planted:
    """The tree that the page list's `path` and `parent` make.

    `lines`: int32[rows]. `place`: from a line and a column's name to its place, for faults. `more`: their other cells.
    Without them, two rows of one page are a fault.
    """
    rows, finder, marks, repeats, faults = usable_rows(paths, lines, place, more)
    kept = finder.texts
    if len(rows) < len(paths):
        parents, lines = parents.take(rows), lines[rows]
    # fingerprints suggest the parents; their bytes are compared while the pages are numbered
    guess = finder.guess(marks.before)
    holds = in_background(lambda: finder.holds(guess, kept, marks.cut), len(kept) >= MANY)

    def grown(above: NDArray[np.int64]) -> Planted:
        found, wrong = _numbered(_parents(finder, marks.cut, above), finder, parents, lines, place)
        start, end, line = gathered((kept.start, kept.end, lines), found.row)
        texts = Texts(kept.data, start, end)
        tree = Tree(texts, found.parent, found.depth, found.end, line, finder, found.number)
        if len(rows) == len(paths):
            return Planted(tree, found.row, found.number, faults + wrong, repeats)
        page_of_row = np.full(len(paths), -1, dtype=np.int32)
        page_of_row[rows] = found.number
        return Planted(tree, rows[found.row], page_of_row, faults + wrong, repeats)

    grew = grown(guess)
    return grew if holds() else grown(finder.find(kept, marks.cut, marks.before))


def _parents(finder: Finder, cut: NDArray[np.int64], above: NDArray[np.int64]) -> NDArray[np.int64]:
    """For each path its longest existing proper prefix, ending before a slash (or the slash it begins with); or -1.

    `finder`: finds a path among them all. `cut`: int64[paths]: where in the bytes each path's last slash is, or one
    past the one it begins with. `above`: int64[paths]: what comes before that, or -1 where there is no such path.
    Returns int64[paths].
    """
    paths = finder.texts
    parent = np.where(paths.end == paths.start + 1, -1, above)  # a slash alone has none above it
    left = np.flatnonzero((parent < 0) & (cut > paths.start + 1))
    end = cut[left]
    while len(left):
        some = paths.take(left)
        end = np.maximum(some.last(ord("/"), end), some.start + 1)
        parent[left] = finder.find(some, end)
        orphans = (parent[left] < 0) & (end > some.start + 1)
        left, end = left[orphans], end[orphans]
    return parent


def _numbered(
    parent: NDArray[np.int64], finder: Finder, parents: Column, lines: Codes, place: Callable[[int, str], Place]
) -> tuple[_Numbering, list[Fault]]:
    """The pages numbered, and the faults of the parents that the page list names. It changes `parent`."""
    paths, faults = finder.texts, []
    said = finder.find(Texts.of(parents.words))
    speaks = np.flatnonzero(parents.where([bool(word) for word in parents.words]))
    parent[speaks] = said[parents.codes[speaks]]
    missing = speaks[parent[speaks] < 0].tolist()
    known = tuple(paths) if missing else ()
    for row in missing:
        what = f"the parent {parents[row]} of {paths[row]} is not in the page list"
        faults.append(Fault(place(int(lines[row]), "parent"), what, parents[row], known))
    levels = _levels(parent)
    if sum(map(len, levels.rows)) < len(parent):
        circle = np.ones(len(parent), dtype=bool)
        for level in levels.rows:
            circle[level] = False
        faults += _circles(parent, circle, paths, lambda row: place(int(lines[row]), "parent"))
        parent[circle] = -1
        levels = _levels(parent)
    return _depth_first(levels), faults


def _circles(
    parent: NDArray[np.int64], circle: NDArray[np.bool_], paths: Texts, place: Callable[[int], Place]
) -> list[Fault]:
    """Each circle of parents once, at the first page that is in it."""
    faults, seen = [], np.zeros(len(parent), dtype=bool)
    for page in np.flatnonzero(circle).tolist():
        way: dict[int, int] = {}
        while not seen[page]:
            seen[page], way[page] = True, len(way)
            page = int(parent[page])
        if page in way:  # else it leads to pages that were seen before
            chain = [*way][way[page] :]
            first = chain.index(min(chain))
            told = [paths[p] for p in [*chain[first:], *chain[: first + 1]]]
            faults.append(Fault(place(min(chain)), f"the parents go round in a circle: {round_circle(told)}"))
    return faults


class _Levels(NamedTuple):
    """Pages level by level, siblings side by side in the order of their rows."""

    rows: list[NDArray[np.int64]]  # the rows of each level's pages, in the order of their parents in the level above
    children: list[NDArray[np.int64]]  # how many children each of them has


def _levels(parent: NDArray[np.int64]) -> _Levels:
    """The levels of the tree; pages below a circle of parents are in none."""
    siblings = np.sort(((parent + 1) << 32) | np.arange(len(parent))) & 0xFFFFFFFF
    edges = np.zeros(len(parent) + 2, dtype=np.int64)
    np.cumsum(np.bincount(parent + 1, minlength=len(parent) + 1), out=edges[1:])
    found = _Levels([], [])
    level = siblings[: edges[1]]
    while len(level):
        begin = edges[level + 1]
        children = edges[level + 2] - begin
        found.rows.append(level)
        found.children.append(children)
        before = np.cumsum(children)
        begin -= before
        begin += children
        level = siblings[np.repeat(begin, children) + np.arange(before[-1])]
    return found


class _Numbering(NamedTuple):
    """Depth-first numbers: by page its row, parent, depth and end as a tree has them; by row its number."""

    row: NDArray[np.int64]
    parent: Codes
    depth: Codes
    end: Codes
    number: Codes


def _depth_first(levels: _Levels) -> _Numbering:
    """The numbers of the pages of all levels."""
    pages = sum(map(len, levels.rows))
    # up the levels: the sizes of branches, and for each page those of the branches before it on its level
    before: list[NDArray[np.int64]] = []
    below = np.zeros(1, dtype=np.int64)
    for children in reversed(levels.children):
        first = np.cumsum(children)
        size = 1 + below[first] - below[first - children]
        below = np.zeros(len(children) + 1, dtype=np.int64)
        np.cumsum(size, out=below[1:])
        before.append(below)
    before.reverse()
    found = _Numbering(np.empty(pages, np.int64), *(np.empty(pages, np.int32) for _ in range(4)))
    above = np.full(len(levels.rows[0]) if pages else 0, -1)
    shift = np.zeros(len(above), dtype=np.int64)
    # down again: a page comes after its parent and the branches of its elder siblings
    for level, (rows, children) in enumerate(zip(levels.rows, levels.children, strict=True)):
        number = before[level][:-1] + shift
        found.row[number], found.parent[number], found.depth[number] = rows, above, level
        found.end[number], found.number[rows] = before[level][1:] + shift, number
        above = np.repeat(number, children)
        if level + 1 < len(levels.rows):
            first = np.cumsum(children) - children
            shift = np.repeat(number + 1 - before[level + 1][first], children)
    return found
