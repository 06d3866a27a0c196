"""The tree of pages, numbered depth first, so that a branch is a slice."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .columns import Codes
from .faults import Fault, Place, UnknownName


@dataclass(frozen=True, slots=True)
class Tree:
    """Pages in depth-first order.

    Attributes
    ----------
    paths : list of str
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

    paths: list[str]
    parent: Codes
    depth: Codes
    end: Codes
    line: Codes
    _number: dict[str, int] = field(repr=False)

    def __len__(self) -> int:
        return len(self.paths)

    def find(self, path: str) -> int:
        """The page's number, or -1."""
        return self._number.get(path, -1)

    def number(self, path: str) -> int:
        """The page's number.

        Raises
        ------
        UnknownName
            If there is no such page.
        """
        number = self._number.get(path, -1)
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

    def top(self) -> Codes:
        """For each page, the outermost page of its branch. int32[pages]"""
        top = np.arange(len(self), dtype=np.int32)
        for page in np.flatnonzero(self.parent < 0).tolist():
            top[page : int(self.end[page])] = page
        return top


def parent_by_path(path: str, known: dict[str, int]) -> int:
    """The longest existing proper prefix of a path, or -1."""
    while path != "/":
        path = path[: path.rfind("/")] or "/"
        if path in known:
            return known[path]
    return -1


def build_tree(
    paths: Sequence[str],
    parents: Sequence[str],
    lines: NDArray[np.int32],
    place: Callable[[int, str], Place],
) -> tuple[Tree, NDArray[np.int64], list[Fault]]:
    """The tree that the inventory's `path` and `parent` make.

    Parameters
    ----------
    paths, parents : sequence of str, a row each
        `parents` blank: the longest existing proper prefix of the path.
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
    faults: list[Fault] = []
    known: dict[str, int] = {}
    keep: list[int] = []
    for row, path in enumerate(paths):
        if not path.startswith("/"):
            shown = repr(path) if path else "a blank cell"
            faults.append(Fault(place(int(lines[row]), "path"), f"a path starts with /, not {shown}"))
        elif path in known:
            first = int(lines[keep[known[path]]])
            faults.append(
                Fault(place(int(lines[row]), "path"), f"the path {path} stands here again; it is at line {first} too")
            )
        else:
            known[path] = len(keep)
            keep.append(row)
    rows = np.array(keep, dtype=np.int64)
    parent = np.full(len(rows), -1, dtype=np.int32)
    for page, row in enumerate(keep):
        said = parents[row]
        if not said:
            parent[page] = parent_by_path(paths[row], known)
        elif said in known:
            parent[page] = known[said]
        else:
            at = place(int(lines[row]), "parent")
            faults.append(Fault(at, f"the parent {said} of {paths[row]} is not in the inventory", said, tuple(known)))
    depth, circle = _depths(parent)
    for page in np.flatnonzero(circle).tolist():
        at = place(int(lines[keep[page]]), "parent")
        chain = _circle(parent, page)
        if page == min(chain):
            told = " -> ".join(paths[keep[p]] for p in [*chain, page])
            faults.append(Fault(at, f"the parents go round in a circle: {told}"))
    parent[circle], depth[circle] = -1, 0
    number, size = _depth_first(parent, depth)
    order = np.argsort(number, kind="stable")
    renumbered = np.where(parent >= 0, number[parent], -1).astype(np.int32)[order]
    ordered = [paths[row] for row in rows[order].tolist()]
    tree = Tree(
        paths=ordered,
        parent=renumbered,
        depth=depth[order].astype(np.int32),
        end=(number + size)[order].astype(np.int32),
        line=lines[rows[order]],
        _number={path: i for i, path in enumerate(ordered)},
    )
    return tree, rows[order], faults


def _depths(parent: Codes) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Depth of each page, by doubling the step upwards; and which pages hang on a circle."""
    above = np.append(parent, -1).astype(np.int64)
    depth = np.append((parent >= 0).astype(np.int64), 0)
    for _ in range(max(1, len(parent)).bit_length() + 1):
        depth = depth + np.where(above >= 0, depth[above], 0)
        above = np.where(above >= 0, above[above], -1)
    circle = above[:-1] >= 0
    return np.where(circle, 0, depth[:-1]), circle


def _circle(parent: Codes, page: int) -> list[int]:
    """The circle that a page's ancestors run into."""
    seen: list[int] = []
    while page not in seen:
        seen.append(page)
        page = int(parent[page])
    return seen[seen.index(page) :]


def _depth_first(parent: Codes, depth: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Depth-first numbers and branch sizes, level by level; siblings stay in the order of the rows."""
    pages = len(parent)
    size = np.ones(pages, dtype=np.int64)
    by_level = np.argsort(depth, kind="stable")
    edges = np.searchsorted(depth[by_level], np.arange(int(depth.max(initial=0)) + 2))
    levels = [by_level[edges[i] : edges[i + 1]] for i in range(len(edges) - 1)]
    for level in reversed(levels[1:]):
        size += np.bincount(parent[level], weights=size[level], minlength=pages).astype(np.int64)
    number = np.zeros(pages, dtype=np.int64)
    for level in levels:
        siblings = level[np.argsort(parent[level], kind="stable")]
        before = np.cumsum(size[siblings]) - size[siblings]
        mother = parent[siblings]
        first = np.flatnonzero(np.r_[True, mother[1:] != mother[:-1]]) if len(siblings) else np.zeros(0, dtype=np.int64)
        start = np.repeat(before[first], np.diff(np.r_[first, len(siblings)]))
        above = np.where(mother >= 0, number[mother] + 1, 0)
        number[siblings] = above + before - start
    return number, size
