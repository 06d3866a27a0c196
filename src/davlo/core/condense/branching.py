"""Where in the tree a wanted value changes, and where a statement of a branch can pay off."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from .wanted import ANY, NOTHING, VALUE, Wanted

Ints = NDArray[np.int64]
SPARSE = 16
"""A mask with fewer true places than one in this many is counted by its places."""


class Part(NamedTuple):
    """Branching pages, the deepest first."""

    pages: Ints  # int64[n]
    levels: list[int]  # the places among them where each depth begins, and where the last ends
    above: Ints  # int64[n]: the place of the branching page above each; -1
    top_above: Ints  # int64[tops]: the place of the branching page above each top; -1
    # int64[m]: other branching pages that need a statement of their own, whatever is said: no branch above them speaks
    alone: Ints
    # int32[all pages + 1]: how many pages before each want another value than they get where no branch speaks
    amiss: Codes
    top_amiss: Mask  # bool[tops]: whether some page of the top does


class Branching:
    """The pages whose branch wants more than one value, and the tops: the branches below them that want one.

    `parent`, `end`, `depth`: int32[pages]: as in `Tree`; depth first. `speaks`: bool[pages]: the pages whose branch
    speaks now. They are looked at even where nothing is gained: a statement stays where it is if others do no better.
    `tops`: int64[tops]. `top_value`: int32[tops]. `real`: bool[pages]: the pages that want a value. `counted`:
    int32[pages + 1]: how many pages before each do.
    """

    def __init__(self, parent: Codes, end: Codes, depth: Codes, wanted: Wanted, speaks: Mask | None = None) -> None:
        self.parent, self.end, self.wanted = parent, end, wanted
        self.real = wanted.need != ANY
        all_real = bool(self.real.all())
        self.counted = np.arange(len(parent) + 1, dtype=np.int32) - counts_before(~self.real)
        self._fixed: Ints = np.flatnonzero((wanted.need > VALUE) | (wanted.below != NOTHING))
        wanting = np.arange(len(parent)) if all_real else np.flatnonzero(self.real)
        is_branching = self._branching(wanting)
        pages = np.flatnonzero(is_branching[:-1])
        is_branching[-1] = True  # above a page that has none above it
        tops = np.flatnonzero(is_branching.take(parent, mode="wrap") & ~is_branching[:-1])
        if not all_real:
            tops = tops[self.counted[end[tops]] > self.counted[tops]]
        self.tops: Ints = tops
        self._top_ends = end[tops]
        self.top_value = wanted.value[wanting[self.counted[tops]]]
        self._depth = depth
        self._speaks = speaks
        self._all: Ints = pages
        self._ends = end[pages]

    def _branching(self, wanting: Ints) -> Mask:
        """The pages whose branch holds more than one wanted value, or a page that is special. bool[pages + 1]"""
        values, found = self.wanted.value, np.zeros(len(self.parent) + 1, dtype=bool)
        if len(wanting) < len(values):
            values = values[wanting]
        differs = np.flatnonzero(values[1:] != values[:-1])
        at, other = wanting[differs], wanting[differs + 1]
        while len(at):  # up to the page that has both in its branch
            inside = self.end[at] > other
            found[at[inside]] = True
            at, other = self.parent[at[~inside]].astype(np.int64), other[~inside]
            at, other = at[at >= 0], other[at >= 0]
        found[self._fixed] = True
        at = np.flatnonzero(found)
        while len(at):
            above = self.parent[at]
            above = above[above >= 0]
            at = np.unique(above[~found[above]])
            found[at] = True
        return found

    def _within(self, some: Ints) -> Ints:
        """How many of some pages, ascending, are in the branch of each branching page. int64[branching pages]"""
        if not len(some):
            return np.zeros(len(self._all), dtype=np.int64)
        return np.searchsorted(some, self._ends) - np.searchsorted(some, self._all)

    def part(self, by_type: Codes) -> Part:
        """The branching pages where a statement can pay off, or that are below one.

        A branch that speaks saves at most as many statements as its pages need where no branch speaks. It costs one,
        and at least one more for each branch within that needs none then, and wants more than one value: what comes
        down to that cannot suit all its pages. A page is left out if that is no gain, for it and all pages above.
        """
        pages, end, wanted = self._all, self.end, self.wanted
        is_amiss = self.real & (by_type != wanted.value)
        amiss, mine = counts_before(is_amiss), pages[is_amiss[pages]]
        mine = mine[wanted.need[mine] == VALUE]
        top_amiss = amiss[self._top_ends] > amiss[self.tops]
        own = [self.tops[top_amiss], mine]  # what needs a statement, if no branch speaks
        needs = self._within(np.sort(np.concatenate(own)))
        is_fixed = self._within(self._fixed) > 0
        quiet = pages[(needs == 0) & ~is_fixed]
        is_quiet = np.zeros(len(self.parent) + 1, dtype=bool)
        is_quiet[quiet] = True
        costs = 1 + self._within(quiet[~is_quiet[self.parent[quiet]]])
        pays = is_fixed | (needs > costs)
        if self._speaks is not None:
            pays |= self._speaks[pages] & (needs == costs)
        some = pages[pays]
        farthest = np.maximum.accumulate(np.append(0, end[some]))  # the last page of a branch that pays, so far
        left = pages[farthest[np.searchsorted(some, pages, side="right")] > pages]
        left = left[np.argsort(-self._depth[left], kind="stable")]
        place = np.full(len(self.parent) + 1, -1, dtype=np.int32)  # the last: that of a page that has none above it
        place[left] = np.arange(len(left))
        steps = np.flatnonzero(np.diff(self._depth[left])) + 1
        levels = [0, *steps.tolist(), len(left)] if len(left) else [0]
        alone = mine[place[mine] < 0]
        above, top_above = (place[self.parent[some]].astype(np.int64) for some in (left, self.tops))
        return Part(left, levels, above, top_above, alone, amiss, top_amiss)


def counts_before(mask: Mask) -> Codes:
    """How many places before each hold; the last, of all. int32[n + 1]"""
    places = np.flatnonzero(mask)
    if SPARSE * len(places) < len(mask):  # counts change rarely: repeat runs
        runs = np.diff(places, prepend=-1, append=len(mask))
        return np.repeat(np.arange(len(places) + 1, dtype=np.int32), runs)
    found = np.zeros(len(mask) + 1, dtype=np.int32)
    np.cumsum(mask, out=found[1:])
    return found
