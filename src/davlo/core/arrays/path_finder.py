"""Finding texts among others: by 64-bit fingerprints, and then byte by byte, since two may have one fingerprint."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .in_background import in_blocks
from .texts import MASKS, PIECE, Marks, Texts, last_bits, pieces, windows

_WORD_KEYS = (np.arange(1, 16, 2, dtype=np.uint64) * np.uint64(0x9E3779B97F4A7C15)) | np.uint64(1)
_MIX = np.uint64(0xD6E8FEB86659FD93)
_PIECE_KEY = np.uint64(0xA0761D6478BD642F)
_SLASH = ord("/")


def fingerprints(texts: Texts, end: NDArray[np.int64] | None = None) -> Marks:
    """A fingerprint of each text, or of what comes before `end` in it. uint64[texts]

    It adds one piece of all texts at a time, and mixes the sum. Equal texts have equal fingerprints; the reverse must
    be checked.
    """
    length = (texts.end if end is None else end) - texts.start
    marks = length.view(np.uint64) * _MIX

    def add(block: slice) -> None:
        sums, start = marks[block], texts.start[block]
        for left, offset, masks in pieces(length[block]):
            sums[left] += _sum(windows(texts.data, start[left] + offset), masks, offset // PIECE)
        _stir(sums)

    in_blocks(len(marks), add)
    return marks


def _sum(words: Marks, masks: Marks, piece: int) -> Marks:
    """What a piece of each text adds: `words: uint64[n, 8]`, of which `masks` count.

    It overwrites `masks`. uint64[n]
    """
    masks &= words
    masks ^= masks >> np.uint64(32)  # multiplication carries upward only, so mix high bits down first
    found: Marks = np.einsum("ij,j->i", masks, _WORD_KEYS)
    if piece:
        found *= np.uint64(pow(int(_PIECE_KEY), piece, 1 << 64))
    return found


def _stir(marks: Marks) -> None:
    """Mix every bit with the others."""
    marks ^= marks >> np.uint64(32)
    marks *= _MIX
    marks ^= marks >> np.uint64(29)


class PathMarks(NamedTuple):
    """Fingerprints of paths, and of what comes before the last slash of each (a slash it begins with stays)."""

    whole: Marks  # uint64[paths]
    before: Marks  # uint64[paths]
    cut: NDArray[np.int64]  # int64[paths]: where in the bytes `before` ends


def path_marks(paths: Texts) -> PathMarks:
    """All three, from one pass over the bytes of paths. Each begins with a slash."""
    count = len(paths)
    marks = PathMarks(np.empty(count, np.uint64), np.empty(count, np.uint64), np.empty(count, np.int64))

    def mark(block: slice) -> None:
        start = paths.start[block]
        length = paths.end[block] - start
        cut: NDArray[np.int64] = np.ones(len(length), dtype=np.int64)
        gathered: list[tuple[NDArray[np.int64] | slice, Marks]] = []
        for offset in range(0, int(length.max(initial=0)), PIECE):
            left = np.flatnonzero(length > offset) if offset else slice(None)
            words = windows(paths.data, start[left] + offset)
            last = last_bits(words.view(np.uint8) == _SLASH, np.minimum(length[left] - offset, PIECE))
            cut[left] = np.maximum(cut[left], np.where(last < 0, 0, last + offset))
            gathered.append((left, words))
        for sums, upto in ((marks.whole[block], length), (marks.before[block], cut)):
            np.multiply(upto.view(np.uint64), _MIX, out=sums)
            for piece, (left, words) in enumerate(gathered):
                size = np.clip(upto[left] - piece * PIECE, 0, PIECE)
                sums[left] += _sum(words, MASKS.take(size).view(np.uint64).reshape(words.shape), piece)
            _stir(sums)
        np.add(start, cut, out=marks.cut[block])

    in_blocks(count, mark)
    return marks


class Finder:
    """Finds texts among others.

    The fingerprints lie sorted by their first bits; a table holds where each value of these bits begins.

    `texts`: those to find; where one stands twice, its first place is found. `marks`: uint64[texts]: their
    fingerprints, if they are there already.
    """

    def __init__(self, texts: Texts, marks: Marks | None = None) -> None:
        self.texts = texts
        self._marks = fingerprints(texts) if marks is None else marks
        self._bits = np.uint64(max(1, len(texts) - 1).bit_length())
        self._sorted = self._marks >> self._bits << self._bits
        self._sorted |= np.arange(len(texts), dtype=np.uint64)  # the low bits hold the text's number
        self._sorted.sort()
        self._shift = np.uint64(64) - self._bits - np.uint64(2)
        begins = (self._sorted >> self._shift).astype(np.intp)
        self._first = np.full(4 << int(self._bits), len(texts), dtype=np.int32)
        self._first[begins[::-1]] = np.arange(len(texts), dtype=np.int32)[::-1]  # among equal texts the first stays

    def _numbers(self, entries: Marks) -> NDArray[np.int64]:
        """The text that each of these sorted entries belongs to. int64[n]"""
        return (entries & ((np.uint64(1) << self._bits) - np.uint64(1))).view(np.int64)

    def firsts(self) -> NDArray[np.int64]:
        """For each text the first that is equal to it; itself where none is before it. int64[texts]"""
        first: NDArray[np.int64] = np.arange(len(self.texts))
        like = np.flatnonzero((self._sorted[1:] ^ self._sorted[:-1]) >> self._bits == 0)
        if len(like):
            again = self._numbers(self._sorted[like + 1])
            first[again] = self.find(self.texts.take(again))
        return first

    def guess(self, marks: Marks) -> NDArray[np.int64]:
        """The number of the first text with each of these fingerprints, or -1. int64[n] A text without one is not here.

        A text with one is probably that text: compare the bytes.
        """
        return self._next(marks, None)[0]

    def holds(self, guess: NDArray[np.int64], texts: Texts, end: NDArray[np.int64]) -> bool:
        """Whether all guesses about the texts before `end` are right, byte by byte; on one core."""
        made = np.flatnonzero(guess >= 0)
        return bool(self.texts.same(guess[made], texts.take(made), end[made], threads=False).all())

    def find(self, texts: Texts, end: NDArray[np.int64] | None = None, marks: Marks | None = None) -> NDArray[np.int64]:
        """For each text, or its part before `end`, the number of the equal text here, or -1. int64[n]

        `marks` are the fingerprints of those, if they are there already.
        """
        stop = texts.end if end is None else end
        asked = fingerprints(texts, end) if marks is None else marks
        found, place = self._next(asked, None)
        left = np.flatnonzero(found >= 0)
        while len(left):
            left = left[~self.texts.same(found[left], texts.take(left), stop[left])]
            if len(left):  # two texts with one fingerprint
                found[left], place[left] = self._next(asked[left], place[left] + 1)
                left = left[found[left] >= 0]
        return found

    def _next(self, marks: Marks, place: NDArray[np.int64] | None) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The next text with each fingerprint, or -1, and its place among the sorted. Each int64[n]

        `place: int64[n]` is where to begin; None is at the beginning.
        """
        found = np.full(len(marks), -1, dtype=np.int64)
        places = np.zeros(len(marks), dtype=np.int64)

        def search(block: slice) -> None:
            asked = marks[block]
            at = self._first[(asked >> self._shift).view(np.int64)].astype(np.int64) if place is None else place[block]
            found[block], onward = self._look(asked, at)
            places[block] = at
            left = np.arange(block.start, block.stop)
            while len(onward):
                left, asked, at = left[onward], asked[onward], at[onward] + 1
                found[left], onward = self._look(asked, at)
                places[left] = at

        if len(self.texts):
            in_blocks(len(marks), search)
        return found, places

    def _look(self, marks: Marks, place: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """For each key, the text whose fingerprint matches, or -1; and which keys must try the next place."""
        there = self._sorted.take(place, mode="clip")
        number = self._numbers(there)
        inside = place < len(self._sorted)
        hit = self._marks[number] == marks
        hit &= inside
        inside &= (there ^ marks) >> self._shift == 0
        inside &= ~hit
        return np.where(hit, number, -1), np.flatnonzero(inside)

    def find_one(self, text: str) -> int:
        """The number of a text, or -1."""
        return int(self.find(Texts.of([text]))[0])
