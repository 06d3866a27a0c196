"""The scope_pages that resolution stands on: pages in depth-first order, and which of them each scope is for."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..site.facts import Types
from ..site.statements import Scope

Cells = slice | NDArray[np.int64]


class ScopePages(NamedTuple):
    """What resolution stands on: all pages, a part of them that is side by side, or some, in depth-first order.

    Attributes
    ----------
    types : Types
    type_of : int64[part]
    depth : int32[part]
    rule_pages : tuple of int64 arrays
        The pages that each rule meets, of all pages; the top rule first.
    ends : int32[pages]
        One past the last page of each branch, of all pages.
    begin : int
        The number of the part's first page.
    some : int64[part], optional
        The numbers of the part's pages, ascending, where they are not side by side.
    """

    types: Types
    type_of: NDArray[np.intp]
    depth: Codes
    rule_pages: tuple[NDArray[np.int64], ...]
    ends: Codes
    begin: int = 0
    some: NDArray[np.int64] | None = None

    @property
    def pages(self) -> int:
        """How many pages the part has."""
        return len(self.type_of)

    def part(self, begin: int, end: int) -> ScopePages:
        """The pages from `begin` to before `end`."""
        some = slice(begin - self.begin, end - self.begin)
        return ScopePages(self.types, self.type_of[some], self.depth[some], self.rule_pages, self.ends, begin)

    def sampled(self, pages: NDArray[np.int64]) -> ScopePages:
        """Some of all pages, ascending."""
        return ScopePages(self.types, self.type_of[pages], self.depth[pages], self.rule_pages, self.ends, 0, pages)

    def met(self, rule: int) -> NDArray[np.int64]:
        """The pages of the part that a rule meets, counted from its begin. int64[n]"""
        pages = self.rule_pages[rule]
        if self.some is not None:
            return np.flatnonzero(_among(self.some, pages))
        if self.pages == len(self.ends):
            return pages
        met: NDArray[np.int64] = pages[pages.searchsorted(self.begin) : pages.searchsorted(self.begin + self.pages)]
        return met - self.begin

    def below(self, pages: Codes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Where what is below each page begins and ends in the part; it ends where it begins if nothing is there.

        A page of -1 or less is none. Each int64[pages].
        """
        if self.some is not None:
            begin = self.some.searchsorted(pages.astype(np.int64) + 1)
            end = self.some.searchsorted(self.ends[np.maximum(pages, 0)]) if len(self.ends) else begin
            return begin, np.where(pages >= 0, end, begin)
        begin = np.minimum(np.maximum(pages.astype(np.int64) + 1 - self.begin, 0), self.pages)
        if not len(self.ends):
            return begin, begin
        end = np.minimum(np.maximum(self.ends[np.maximum(pages, 0)] - self.begin, begin), self.pages)
        return begin, np.where(pages >= 0, end, begin)

    def single(self, pages: Codes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Which of these pages are in the part, and their numbers in it. Each int64[n]"""
        if self.some is not None:
            inside = np.flatnonzero(_among(pages, self.some))
            return inside, self.some.searchsorted(pages[inside])
        inside = np.flatnonzero((pages >= self.begin) & (pages < self.begin + self.pages))
        return inside, pages[inside].astype(np.int64) - self.begin

    def types_based_on(self, number: int) -> Mask:
        """The types that what a type says is for: itself and those based on it. bool[types]"""
        return np.array([number in self.types.chain(t) for t in range(len(self.types))], dtype=bool)

    def cells(self, scope: Scope, target: int) -> Cells | Mask:
        """The pages of the part that what a scope says is for."""
        if scope == Scope.EVERYWHERE:
            return slice(None)
        if scope == Scope.TYPE:
            return self.types_based_on(target)[self.type_of]
        if scope == Scope.RULE:
            return self.met(target)
        one = np.array([target], dtype=np.int32)
        if scope in (Scope.STAMP, Scope.HERE):
            return self.single(one)[1]
        begin, end = self.below(one)
        return slice(int(begin[0]), int(end[0]))


def _among(pages: NDArray[np.integer], others: NDArray[np.integer]) -> Mask:
    """Where a page is among others, which are ascending. bool[pages]"""
    if not len(others):
        return np.zeros(len(pages), dtype=bool)
    place = others.searchsorted(pages)
    found: Mask = others.take(place, mode="clip") == pages
    return found
