"""The fewest statements of branches and single pages that give each page the value it is to have: one setting.

A page gets the value of the nearest branch above it, else that of its type or of everywhere. Dynamic programming over
the tree finds the fewest: from the bottom up, for each page, how many statements each value would save that could come
down to it. A branch whose pages all want one value counts as one leaf, and branches where no statement can pay off are
left out, so the work grows with the places where it can, and with their depth, but not with the pages.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..arrays.grouping import run_begins
from .branching import Branching, Part
from .wanted import CHANGES, INHERITED, ITSELF, NOTHING, VALUE, Said, Wanted

Ints = NDArray[np.int64]
NEVER = 1 << 20
"""What it counts if a page does not inherit what it must: more than all statements together."""


class _Level(NamedTuple):
    """What is known of the branching pages of one depth once those below them are done."""

    begin: int  # their places among all branching pages
    end: int  # their places among all branching pages
    # `keys`, `saved`: int64[n]: for a page and a value that could come down to it, how many statements below it that
    # would save; ascending
    keys: Ints
    saved: Ints
    best: Ints  # int64[pages]: the most that any value would save
    # int64[pages]: 1 where one statement for the page and its branch does as well as one for the page alone; else 0
    merges: Ints


class LeastStatements:
    """The fewest statements of branches and single pages, for what pages get where no branch speaks.

    `parent`, `end`, `depth`: int32[pages]: as in `Tree`; depth first. `values`: how many codes of values there are.
    `speaks`: bool[pages]: the pages whose branch speaks now, in statements that may move.

    Notes
    -----
    Exact: no other choice of branches and pages needs fewer statements; one for a page and its branch counts one.
    Time: O(pages) to find where the value changes, then O(c d log c) for c places where it does and where a statement
    of a branch can pay off, at depth d.
    """

    def __init__(
        self, parent: Codes, end: Codes, depth: Codes, wanted: Wanted, values: int, speaks: Mask | None = None
    ) -> None:
        self.wanted, self.end = wanted, end
        self.width = values + 1  # the last state: no branch speaks
        self.silent = values
        self.branching = Branching(parent, end, depth, wanted, speaks)
        self.tops, self.top_value = self.branching.tops, self.branching.top_value
        self._last: tuple[Codes, Part, list[_Level], int] | None = None

    def _of_values(self, part: Part) -> tuple[Ints, Ints, Ints]:
        """What tops alone need and save, whatever types say: for each branching page, and for each of its values."""
        top = np.flatnonzero(part.top_above >= 0)
        keeps = np.flatnonzero(self.wanted.below[part.pages] == CHANGES)
        comes = self.wanted.comes[part.pages[keeps]]
        cost = np.bincount(part.top_above[top], minlength=len(part.pages))
        cost[keeps] += NEVER
        keys = [
            part.top_above[top] * self.width + self.top_value[top],
            keeps * self.width + np.where(comes == NOTHING, self.silent, comes),
        ]
        saved = np.repeat(np.array([1, NEVER]), [len(top), len(keeps)])
        return (cost, *_summed(np.concatenate(keys), saved))

    def count(self, by_type: Codes) -> int:
        """How many statements are needed. `by_type`: what each page gets where no branch speaks. int32[pages]"""
        part, levels, total = self._rise(by_type)
        self._last = by_type, part, levels, total
        return total

    def _rise(self, by_type: Codes) -> tuple[Part, list[_Level], int]:
        """From the bottom up, what each value that comes down would save, and what is needed where none does."""
        part = self.branching.part(by_type)
        levels, (cost, keys, saved) = [], self._of_values(part)
        silent = ~part.top_amiss
        spared = np.bincount(part.top_above[silent & (part.top_above >= 0)], minlength=len(part.pages))
        from_below = (np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
        total = int(np.count_nonzero((part.top_above < 0) & ~silent)) + len(part.alone)
        for begin, end in zip(part.levels, part.levels[1:], strict=False):
            some = slice(*np.searchsorted(keys, [begin * self.width, end * self.width]).tolist())
            at = np.flatnonzero(spared[begin:end]) + begin
            mine = _summed(
                np.concatenate([keys[some], at * self.width + self.silent, from_below[0]]),
                np.concatenate([saved[some], spared[at], from_below[1]]),
            )
            level, needed, sent = self._level(begin, part.pages[begin:end], mine, cost[begin:end], by_type)
            levels.append(level)
            above = part.above[begin:end]
            rooted = above < 0
            owner = sent[0] // self.width
            if rooted.any():
                at = np.flatnonzero(rooted)
                total += int((needed[at] - _found(*sent, (at + begin) * self.width + self.silent)).sum())
            np.add.at(cost, above[~rooted], needed[~rooted])
            goes = part.above[owner] >= 0
            from_below = (part.above[owner[goes]] * self.width + sent[0][goes] % self.width, sent[1][goes])
        return part, levels, total

    def _level(
        self, begin: int, pages: Ints, mine: tuple[Ints, Ints], cost: Ints, by_type: Codes
    ) -> tuple[_Level, Ints, tuple[Ints, Ints]]:
        """What is known of one depth, what each page needs if a strange value comes down, what each value saves."""
        keys, saved = mine
        end, at = begin + len(pages), keys // self.width - begin
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

        `by_type`: int32[pages]: what each page gets where no branch speaks. `have`: what is said now, and may be said
        otherwise.
        """
        known = self._last is not None and self._last[0] is by_type
        part, levels = self._last[1:3] if self._last is not None and known else self._rise(by_type)[:2]
        said = Said.nothing(len(self.end))
        out = np.full(len(part.pages) + 1, self.silent, dtype=np.int64)  # last slot: for a page at the top
        for level in reversed(levels):
            some = slice(level.begin, level.end)
            out[some] = self._descend(level, part.pages[some], out[part.above[some]], by_type, have, said)
        said.here[part.alone] = True
        self._finish(out[part.top_above], part, have, said)
        return said

    def _descend(self, level: _Level, pages: Ints, comes: Ints, by_type: Codes, have: Said, said: Said) -> Ints:
        """What the pages of one depth say, if these values come down to them; gives what goes down from each."""
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

    def _finish(self, comes: Ints, part: Part, have: Said, said: Said) -> None:
        """What the branches that want one value say, if these values come down to them."""
        at = np.flatnonzero((comes != self.top_value) & (part.top_amiss | (comes != self.silent)))
        known = np.flatnonzero(have.any())
        for unsaid, counted in ((False, self.branching.counted), (True, part.amiss)):
            some = at[(comes[at] == self.silent) == unsaid]
            self._say(self.tops[some], self.top_value[some], counted, have, known, said)

    def _say(self, tops: Ints, value: Ints, counted: Codes, have: Said, known: Ints, said: Said) -> None:
        """One statement for each branch that wants one value; `counted`: how many pages before each need it.

        `known` are the pages that say something now.
        """
        if not len(tops):
            return
        ends, page = self.end[tops], tops.copy()
        many = counted[ends] - counted[tops]
        single = many == 1
        page[single] = np.searchsorted(counted, counted[tops[single]] + 1) - 1
        both = counted[page + 1] > counted[page]
        if len(known):  # where one statement is there, and does
            before, until = np.searchsorted(known, tops), np.searchsorted(known, ends)
            other = known[np.minimum(before, len(known) - 1)]
            covered = counted[self.end[other]] - counted[other + np.where(have.both[other], 0, 1)]
            does = (until - before == 1) & (have.below[other] == value) & (covered == many)
            page, both, single = np.where(does, other, page), np.where(does, have.both[other], both), single & ~does
        said.here[page[single]] = True
        said.below[page[~single]] = value[~single]
        said.both[page[~single]] = both[~single]


def _summed(keys: Ints, numbers: Ints) -> tuple[Ints, Ints]:
    """The different keys, ascending, and the sum of the numbers of each."""
    if not len(keys):
        return keys, numbers
    if len(keys) > 1:  # keys that follow one another and are the same are many
        edges = np.flatnonzero(run_begins(keys))
        keys, numbers = keys[edges], np.add.reduceat(numbers, edges)
    order = np.argsort(keys, kind="stable")
    keys, numbers = keys[order], numbers[order]
    edges = np.flatnonzero(run_begins(keys))
    return keys[edges], np.add.reduceat(numbers, edges)


def _found(keys: Ints, numbers: Ints, asked: Ints) -> Ints:
    """The numbers of the keys that are asked for; 0 where a key is not there. int64[n]"""
    if not len(keys):
        return np.zeros(len(asked), dtype=np.int64)
    at = np.minimum(np.searchsorted(keys, asked), len(keys) - 1)
    found: Ints = np.where(keys[at] == asked, numbers[at], 0)
    return found
