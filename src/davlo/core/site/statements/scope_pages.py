"""Which pages each scope is for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...arrays.grouping import groups
from ..pages.types import Types
from ..settings.scopes import FOR_ALL, OF_PAGES, SINGLE, ScopeKind

Pages = slice | NDArray[np.int64]
"""Pages by their numbers: a run of them, or int64[n]."""


class ScopePages(NamedTuple):
    """Which pages each scope is for, among all pages, a run of them, or some of them; depth first."""

    types: Types
    type_of: NDArray[np.intp]  # int64[part]
    depth: Codes  # int32[part]
    rule_pages: tuple[NDArray[np.int64], ...]  # the pages that each rule matches, of all pages; the top rule first
    ends: Codes  # int32[pages]: one past the last page of each branch, of all pages
    begin: int = 0  # the number of the part's first page
    # int64[part]: the numbers of the part's pages, ascending, where they are not side by side
    some: NDArray[np.int64] | None = None

    @property
    def size(self) -> int:
        """How many pages the part has."""
        return len(self.type_of)

    def part(self, begin: int, end: int) -> ScopePages:
        """The pages from `begin` to before `end`."""
        some = slice(begin - self.begin, end - self.begin)
        return ScopePages(self.types, self.type_of[some], self.depth[some], self.rule_pages, self.ends, begin)

    def sampled(self, pages: NDArray[np.int64]) -> ScopePages:
        """Some of all pages, ascending."""
        return ScopePages(self.types, self.type_of[pages], self.depth[pages], self.rule_pages, self.ends, 0, pages)

    def matched(self, rule: int) -> NDArray[np.int64]:
        """The pages of the part that a rule matches, counted from its begin. int64[n]"""
        pages = self.rule_pages[rule]
        if self.some is not None:
            return np.flatnonzero(_among(self.some, pages))
        if self.size == len(self.ends):
            return pages
        found: NDArray[np.int64] = pages[pages.searchsorted(self.begin) : pages.searchsorted(self.begin + self.size)]
        return found - self.begin

    def below(self, pages: Codes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Where the pages below each page begin and end in the part; both are equal if there are none.

        A page of -1 or less is none. Each int64[pages].
        """
        if self.some is not None:
            begin = self.some.searchsorted(pages.astype(np.int64) + 1)
            end = self.some.searchsorted(self.ends[np.maximum(pages, 0)]) if len(self.ends) else begin
            return begin, np.where(pages >= 0, end, begin)
        begin = np.minimum(np.maximum(pages.astype(np.int64) + 1 - self.begin, 0), self.size)
        if not len(self.ends):
            return begin, begin
        end = np.minimum(np.maximum(self.ends[np.maximum(pages, 0)] - self.begin, begin), self.size)
        return begin, np.where(pages >= 0, end, begin)

    def single(self, pages: Codes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Which of these pages are in the part, and their numbers in it. Each int64[n]"""
        if self.some is not None:
            inside = np.flatnonzero(_among(pages, self.some))
            return inside, self.some.searchsorted(pages[inside])
        inside = np.flatnonzero((pages >= self.begin) & (pages < self.begin + self.size))
        return inside, pages[inside].astype(np.int64) - self.begin

    def types_based_on(self, number: int) -> Mask:
        """The types that what a type says is for: itself and those based on it. bool[types]"""
        return self.types.based_on([number])

    def of(self, scope: ScopeKind, target: int) -> Pages | Mask:
        """The pages of the part that a scope is for."""
        if scope in FOR_ALL:
            return slice(None)
        if scope == ScopeKind.TYPE:
            return self.types_based_on(target)[self.type_of]
        if scope == ScopeKind.RULE:
            return self.matched(target)
        one = np.array([target], dtype=np.int32)
        if scope in SINGLE:
            return self.single(one)[1]
        begin, end = self.below(one)
        return slice(int(begin[0]), int(end[0]))

    def counts(self, scope: NDArray[np.integer], target: Codes, where: Mask) -> NDArray[np.int64]:
        """On how many pages of each of some scopes something holds. int64[n]

        `scope`, `target`: int[n]. `where`: bool[part].
        """
        found = np.zeros(len(scope), dtype=np.int64)
        single, below = (np.flatnonzero(some) for some in (np.isin(scope, SINGLE), scope == ScopeKind.BELOW))
        inside, pages = self.single(target[single])
        found[single[inside]] = where[pages]
        before, (begin, end) = np.r_[0, np.cumsum(where)], self.below(target[below])
        found[below] = before[end] - before[begin]
        for kind, number, at in self._others(scope, target):
            found[at] = np.count_nonzero(where[self.of(kind, number)])
        return found

    def together(self, scope: NDArray[np.integer], target: Codes) -> Mask:
        """The pages that any of some scopes is for. bool[part]"""
        single, below = np.isin(scope, SINGLE), scope == ScopeKind.BELOW
        found: Mask = np.zeros(self.size, dtype=bool)
        found[self.single(target[single])[1]] = True
        done = 0
        for begin, end in zip(*(side.tolist() for side in self.below(np.sort(target[below]))), strict=True):
            if end > done:  # the others lie in one before
                found[begin:end] = True
                done = end
        for kind, number, _ in self._others(scope, target):
            found[self.of(kind, number)] = True
        return found

    def _others(self, scope: NDArray[np.integer], target: Codes) -> Iterator[tuple[ScopeKind, int, NDArray[np.int64]]]:
        """The scopes among these whose kind has few targets, each with the places where it stands."""
        some = np.flatnonzero(~np.isin(scope, OF_PAGES))
        for (kind, number), at in groups(scope[some], target[some]):
            yield ScopeKind(kind), number, some[at]


def _among(pages: NDArray[np.integer], others: NDArray[np.integer]) -> Mask:
    """Where a page is among others, which are ascending. bool[pages]"""
    if not len(others):
        return np.zeros(len(pages), dtype=bool)
    place = others.searchsorted(pages)
    found: Mask = others.take(place, mode="clip") == pages
    return found
