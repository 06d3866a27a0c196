"""The fewest statements of branches and single pages that give each page the value it is to have: one setting.

A page gets the value of the nearest branch above it, else that of its type or of everywhere. Dynamic programming over
the tree finds the fewest: from the bottom up, for each page, how many statements each value would save that could come
down to it. A branch whose pages all want one value counts as one leaf, so the work grows with the places where the
value changes, and with their depth, but not with the pages.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from .wanted import ANY, CHANGES, INHERITED, ITSELF, NOTHING, VALUE, Said, Wanted

Ints = NDArray[np.int64]
NEVER = 1 << 20
"""What it counts if a page does not inherit what it must: more than all statements together."""


class _Level(NamedTuple):
    """What is known of the branching pages of one depth once those below them are done.

    Attributes
    ----------
    begin, end : int
        Their places among all branching pages.
    keys, saved : int64[n]
        For a page and a value that could come down to it, how many statements below it that would save; ascending.
    best : int64[pages]
        The most that any value would save.
    merges : int64[pages]
        1 where one statement for the page and its branch does as well as one for the page alone; else 0.
    """

    begin: int
    end: int
    keys: Ints
    saved: Ints
    best: Ints
    merges: Ints


class LeastStatements:
    """The fewest statements of branches and single pages, for what pages get where no branch speaks.

    Parameters
    ----------
    parent, end, depth : int32[pages]
        As in `Tree`; depth first.
    wanted : Wanted
    values : int
        How many codes of values there are.

    Notes
    -----
    Exact: no other choice of branches and pages needs fewer statements; one for a page and its branch counts one.
    Time: O(pages) to find where the value changes, then O(c d log c) for c places where it does, at depth d.
    """

    def __init__(self, parent: Codes, end: Codes, depth: Codes, wanted: Wanted, values: int) -> None:
        self.parent, self.end, self.wanted = parent, end, wanted
        self.width = values + 1  # the last state: no branch speaks
        self.silent = values
        self.real = wanted.need != ANY
        self.counted = counts_before(self.real)
        branching = self._branching()
        pages = np.flatnonzero(branching)
        self.pages: Ints = pages[np.argsort(-depth[pages], kind="stable")]
        place = np.full(len(parent) + 1, -1, dtype=np.int32)  # the last: that of a page that has none above it
        place[self.pages] = np.arange(len(self.pages))
        steps = np.flatnonzero(np.diff(depth[self.pages])) + 1
        self.levels = [0, *steps.tolist(), len(self.pages)] if len(self.pages) else [0]
        self.above = place[parent[self.pages]].astype(np.int64)
        tops = np.flatnonzero(np.append(branching, True)[parent] & ~branching)
        tops = tops[self.counted[end[tops]] > self.counted[tops]]
        self.tops: Ints = tops
        self.top_above = place[parent[tops]].astype(np.int64)
        first = tops if self.real.all() else np.flatnonzero(self.real)[self.counted[tops]]
        self.top_value = wanted.value[first]
        self._values = self._of_values()
        self._last: tuple[Codes, list[_Level], int] | None = None

    def _of_values(self) -> tuple[Ints, Ints, Ints]:
        """What tops alone need and save, whatever types say: for each branching page, and for each of its values."""
        top = np.flatnonzero(self.top_above >= 0)
        keeps = np.flatnonzero(self.wanted.below[self.pages] == CHANGES)
        comes = self.wanted.comes[self.pages[keeps]]
        cost = np.bincount(self.top_above[top], minlength=len(self.pages))
        cost[keeps] += NEVER
        keys = [
            self.top_above[top] * self.width + self.top_value[top],
            keeps * self.width + np.where(comes == NOTHING, self.silent, comes),
        ]
        saved = np.repeat(np.array([1, NEVER]), [len(top), len(keeps)])
        return (cost, *_summed(np.concatenate(keys), saved))

    def _branching(self) -> Mask:
        """The pages whose branch holds more than one wanted value, or a page that is special. bool[pages]"""
        wanted, found = self.wanted, np.zeros(len(self.parent), dtype=bool)
        if self.real.all():
            at = np.flatnonzero(wanted.value[1:] != wanted.value[:-1])
            other = at + 1
        else:
            pages = np.flatnonzero(self.real)
            values = wanted.value[pages]
            differs = np.flatnonzero(values[1:] != values[:-1])
            at, other = pages[differs], pages[differs + 1]
        while len(at):  # up to the page that has both in its branch
            inside = self.end[at] > other
            found[at[inside]] = True
            at, other = self.parent[at[~inside]].astype(np.int64), other[~inside]
            at, other = at[at >= 0], other[at >= 0]
        found |= (wanted.need > VALUE) | (wanted.below != NOTHING)
        at = np.flatnonzero(found)
        while len(at):
            above = self.parent[at]
            above = above[above >= 0]
            at = np.unique(above[~found[above]])
            found[at] = True
        return found

    def count(self, by_type: Codes) -> int:
        """How many statements are needed. `by_type`: what each page gets where no branch speaks. int32[pages]"""
        levels, total = self._rise(by_type)
        self._last = by_type, levels, total
        return total

    def _rise(self, by_type: Codes) -> tuple[list[_Level], int]:
        """From the bottom up, what each value that comes down would save, and what is needed where none does."""
        levels, (cost, keys, saved) = [], self._values
        amiss, cost = self._amiss(by_type), cost.copy()
        silent = amiss[self.end[self.tops]] == amiss[self.tops]
        spared = np.bincount(self.top_above[silent & (self.top_above >= 0)], minlength=len(self.pages))
        from_below = (np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
        total = int(np.count_nonzero((self.top_above < 0) & ~silent))
        for begin, end in zip(self.levels, self.levels[1:], strict=False):
            some = slice(*np.searchsorted(keys, [begin * self.width, end * self.width]).tolist())
            at = np.flatnonzero(spared[begin:end]) + begin
            mine = _summed(
                np.concatenate([keys[some], at * self.width + self.silent, from_below[0]]),
                np.concatenate([saved[some], spared[at], from_below[1]]),
            )
            level, needed, sent = self._level(begin, end, mine, cost[begin:end], by_type)
            levels.append(level)
            above = self.above[begin:end]
            rooted = above < 0
            if rooted.any():
                at = np.flatnonzero(rooted)
                total += int((needed[at] - _found(*sent, (at + begin) * self.width + self.silent)).sum())
            np.add.at(cost, above[~rooted], needed[~rooted])
            owner = sent[0] // self.width
            goes = self.above[owner] >= 0
            from_below = (
                self.above[owner[goes]] * self.width + sent[0][goes] % self.width,
                sent[1][goes],
            )
        return levels, total

    def _amiss(self, by_type: Codes) -> Codes:
        """How many pages before each want another value than they get where no branch speaks. int64[pages + 1]"""
        return counts_before(self.real & (by_type != self.wanted.value))

    def _level(
        self, begin: int, end: int, mine: tuple[Ints, Ints], cost: Ints, by_type: Codes
    ) -> tuple[_Level, Ints, tuple[Ints, Ints]]:
        """What is known of one depth, what each page needs if a strange value comes down, what each value saves."""
        keys, saved = mine
        pages, at = self.pages[begin:end], keys // self.width - begin
        need, value, below = (column[pages] for column in (self.wanted.need, self.wanted.value, self.wanted.below))
        state = keys % self.width
        best = np.zeros(end - begin, dtype=np.int64)
        said = state < self.silent
        np.maximum.at(best, at[said], saved[said])
        best[below != NOTHING] = 0
        fixed = below >= 0
        own = np.arange(begin, end) * self.width
        cost = cost - np.where(fixed, _found(keys, saved, own + np.maximum(below, 0)), 0)
        worth = np.maximum(saved - np.maximum(best - 1, 0)[at], 0)  # what is left of it if the branch may speak anew
        worth[fixed[at]] = 0
        speaks = (need == VALUE) | (need == ITSELF)
        merges = np.where(speaks & (below == NOTHING), _found(keys, worth, own + value), 0)
        merges = np.minimum(merges, 1)
        price = np.where(speaks, 1, np.where(need == INHERITED, NEVER, 0))
        needed = cost - np.maximum(best - 1, 0) + price - merges
        sent_keys, sent = [keys], [np.maximum(worth - merges[at], 0)]
        asks = (need == VALUE) | (need == INHERITED)
        for keyed, holds in ((own + value, asks), (own + self.silent, asks & (by_type[pages] == value))):
            some = np.flatnonzero(holds)
            spared = _found(keys, worth, keyed[some])
            sent_keys.append(keyed[some])
            sent.append(price[some] - merges[some] + spared - np.maximum(spared - merges[some], 0))
        summed = _summed(np.concatenate(sent_keys), np.concatenate(sent))
        positive = summed[1] > 0
        return _Level(begin, end, keys, saved, best, merges), needed, (summed[0][positive], summed[1][positive])

    def chosen(self, by_type: Codes, have: Said) -> Said:
        """The statements to say: of choices that need equally many, one that is near to what is said already.

        Parameters
        ----------
        by_type : int32[pages]
            What each page gets where no branch speaks.
        have : Said
            What is said now, and may be said otherwise.
        """
        known = self._last is not None and self._last[0] is by_type
        levels = self._last[1] if self._last is not None and known else self._rise(by_type)[0]
        said = Said.nothing(len(self.parent))
        out = np.full(len(self.pages) + 1, self.silent, dtype=np.int64)  # the last: what comes to a page at the top
        for level in reversed(levels):
            some = slice(level.begin, level.end)
            out[some] = self._descend(level, out[self.above[some]], by_type, have, said)
        self._finish(out[self.top_above], by_type, have, said)
        return said

    def _descend(self, level: _Level, comes: Ints, by_type: Codes, have: Said, said: Said) -> Ints:
        """What the pages of one depth say, if these values come down to them; gives what goes down from each."""
        pages = self.pages[level.begin : level.end]
        need, value, below = (column[pages] for column in (self.wanted.need, self.wanted.value, self.wanted.below))
        own = np.arange(level.begin, level.end) * self.width
        saved = _found(level.keys, level.saved, own + comes)
        gets = (comes == value) | ((comes == self.silent) & (by_type[pages] == value))
        speaks = (need == ITSELF) | ((need == VALUE) & ~gets)
        both = speaks & (level.merges > 0) & (saved < level.best)
        known = have.below[pages]
        is_best = (known >= 0) & (_found(level.keys, level.saved, own + np.maximum(known, 0)) == level.best)
        places = ~both & (level.best > 0) & ((saved < level.best - 1) | ((saved == level.best - 1) & is_best))
        best = np.where(is_best, known, self._first_best(level))
        said.here[pages] = speaks & ~both
        said.both[pages] = both
        said.below[pages] = np.where(both, value, np.where(places, best, NOTHING))
        goes = np.where(both, value, np.where(places, best, comes))
        return np.where(below >= 0, below, np.where(below == CHANGES, self.silent, goes))

    def _first_best(self, level: _Level) -> Ints:
        """For each page of a depth the first value that saves the most. int64[n]"""
        at, state = level.keys // self.width - level.begin, level.keys % self.width
        some = np.flatnonzero((level.saved == level.best[at]) & (state < self.silent))
        found = np.zeros(level.end - level.begin, dtype=np.int64)
        found[at[some][::-1]] = state[some][::-1]
        return found

    def _finish(self, comes: Ints, by_type: Codes, have: Said, said: Said) -> None:
        """What the branches that want one value say, if these values come down to them."""
        amiss = self._amiss(by_type)
        silent = amiss[self.end[self.tops]] == amiss[self.tops]
        at = np.flatnonzero((comes != self.top_value) & ~((comes == self.silent) & silent))
        for unsaid, counted in ((False, self.counted), (True, amiss)):
            some = at[(comes[at] == self.silent) == unsaid]
            self._say(self.tops[some], self.top_value[some], counted, have, said)

    def _say(self, tops: Ints, value: Ints, counted: Codes, have: Said, said: Said) -> None:
        """One statement for each branch that wants one value; `counted`: how many pages before each need it."""
        ends, needy = self.end[tops], np.flatnonzero(np.diff(counted))
        if not len(tops):
            return
        many = counted[ends] - counted[tops]
        single = many == 1
        page = np.where(single, needy[np.minimum(counted[tops], len(needy) - 1)], tops)
        both = counted[page + 1] > counted[page]
        speaking = counts_before(have.any())
        known = np.flatnonzero(have.any())
        if len(known):  # where one statement is there, and does
            other = known[np.minimum(speaking[tops], len(known) - 1)]
            covered = counted[self.end[other]] - counted[other + np.where(have.both[other], 0, 1)]
            does = (speaking[ends] - speaking[tops] == 1) & (have.below[other] == value) & (covered == many)
            page, both, single = np.where(does, other, page), np.where(does, have.both[other], both), single & ~does
        said.here[page[single]] = True
        said.below[page[~single]] = value[~single]
        said.both[page[~single]] = both[~single]


def counts_before(mask: Mask) -> Codes:
    """How many places before each hold; the last, of all. int32[n + 1]"""
    found = np.zeros(len(mask) + 1, dtype=np.int32)
    np.cumsum(mask, out=found[1:])
    return found


def _summed(keys: Ints, numbers: Ints) -> tuple[Ints, Ints]:
    """The different keys, ascending, and the sum of the numbers of each."""
    if not len(keys):
        return keys, numbers
    if len(keys) > 1:  # keys that follow one another and are the same are many
        edges = np.flatnonzero(np.r_[True, keys[1:] != keys[:-1]])
        keys, numbers = keys[edges], np.add.reduceat(numbers, edges)
    order = np.argsort(keys, kind="stable")
    keys, numbers = keys[order], numbers[order]
    edges = np.flatnonzero(np.r_[True, keys[1:] != keys[:-1]])
    return keys[edges], np.add.reduceat(numbers, edges)


def _found(keys: Ints, numbers: Ints, asked: Ints) -> Ints:
    """The numbers of the keys that are asked for; 0 where a key is not there. int64[n]"""
    if not len(keys):
        return np.zeros(len(asked), dtype=np.int64)
    at = np.minimum(np.searchsorted(keys, asked), len(keys) - 1)
    found: Ints = np.where(keys[at] == asked, numbers[at], 0)
    return found
