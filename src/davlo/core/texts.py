"""Texts as columns: the bytes of all in one array, and where each begins and ends. No object a page.

Texts are found by a 64-bit fingerprint, and then compared byte by byte, so that a chance likeness changes nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import overload

import numpy as np
from numpy.typing import NDArray

from .columns import Column, Mask

Marks = NDArray[np.uint64]
_MIX = 0x9E3779B97F4A7C15
_LENGTH = 0xD6E8FEB86659FD93
_ALL = (1 << 64) - 1
_BLOCK = 1 << 15
"""So many texts are taken at a time that what a step needs stays in the processor's cache."""


class Texts(Sequence[str]):
    """A column of texts.

    Parameters
    ----------
    data : uint8[bytes]
        UTF-8 bytes; texts may lie in it in any order, and share it.
    start, end : int64[texts]
        Where each text begins, and one past where it ends.

    Example
    -------
    >>> texts = Texts.of(["/", "/visit", "/été"])
    >>> texts[2], len(texts), texts.take(np.array([1, 0])).tolist()
    ('/été', 3, ['/visit', '/'])
    """

    __slots__ = ("data", "end", "start")

    def __init__(self, data: NDArray[np.uint8], start: NDArray[np.int64], end: NDArray[np.int64]) -> None:
        self.data = data
        self.start = start
        self.end = end

    @classmethod
    def of(cls, texts: Iterable[str]) -> Texts:
        """The column of these texts."""
        encoded = [text.encode("utf-8", "surrogatepass") for text in texts]
        end = np.cumsum([len(text) for text in encoded], dtype=np.int64)
        start = np.r_[np.zeros(1, dtype=np.int64), end[:-1]] if len(encoded) else end
        return cls(np.frombuffer(b"".join(encoded), dtype=np.uint8), start, end)

    @classmethod
    def of_column(cls, column: Column) -> Texts:
        """The texts of a column, one a page; the bytes of a word are shared."""
        words = column.words if isinstance(column.words, Texts) else cls.of(column.words)
        return words.take(column.codes)

    def __len__(self) -> int:
        return len(self.start)

    @overload
    def __getitem__(self, number: int) -> str: ...
    @overload
    def __getitem__(self, number: slice) -> Texts: ...
    def __getitem__(self, number: int | slice) -> str | Texts:
        if isinstance(number, slice):
            return Texts(self.data, self.start[number], self.end[number])
        return self.data[self.start[number] : self.end[number]].tobytes().decode("utf-8", "surrogatepass")

    def __iter__(self) -> Iterator[str]:
        data = self.data.tobytes()
        for start, end in zip(self.start.tolist(), self.end.tolist(), strict=True):
            yield data[start:end].decode("utf-8", "surrogatepass")

    def __repr__(self) -> str:
        shown = ", ".join(repr(self[i]) for i in range(min(3, len(self))))
        return f"<Texts: {len(self)}: {shown}{', …' if len(self) > 3 else ''}>"

    def tolist(self) -> list[str]:
        """All of them, as Python holds them."""
        return list(self)

    def take(self, numbers: NDArray[np.integer]) -> Texts:
        """The texts of these numbers, in that order; the bytes are shared."""
        return Texts(self.data, self.start[numbers], self.end[numbers])

    def begins_with(self, byte: int) -> Mask:
        """Where a text begins with a byte. bool[texts]"""
        full = self.end > self.start
        begins = np.zeros(len(self), dtype=bool)
        begins[full] = self.data[self.start[full]] == byte
        return begins

    def stripped(self) -> Texts:
        """The texts without white space around them; only those that may have some are looked at one by one."""
        full = np.flatnonzero(self.end > self.start)
        edges = np.stack([self.data[self.start[full]], self.data[self.end[full] - 1]])
        odd = full[((edges <= 32) | (edges >= 128)).any(axis=0)]
        start, end = self.start.copy(), self.end.copy()
        for number in odd.tolist():
            text = self[number]
            start[number] += len(text[: len(text) - len(text.lstrip())].encode("utf-8", "surrogatepass"))
            end[number] = start[number] + len(text.strip().encode("utf-8", "surrogatepass"))
        return Texts(self.data, start, end)

    def same(self, numbers: NDArray[np.integer], others: NDArray[np.integer], length: NDArray[np.int64]) -> Mask:
        """Whether text `numbers[i]` begins with the same `length[i]` bytes as text `others[i]`. bool[n]"""
        alike = np.ones(len(numbers), dtype=bool)
        for at in range(0, len(numbers), _BLOCK):
            block = slice(at, at + _BLOCK)
            one = _eights(self.data, self.start[numbers[block]], length[block])
            other = _eights(self.data, self.start[others[block]], length[block])
            for (left, words), (_, against) in zip(one, other, strict=True):
                alike[at + left[words != against]] = False
        return alike


def _eights(
    data: NDArray[np.uint8], start: NDArray[np.int64], length: NDArray[np.int64]
) -> Iterator[tuple[NDArray[np.int64], Marks]]:
    """Pieces of `data`, eight bytes of all of them at a time: which still have some, and those bytes as a number."""
    if len(data) < 8:
        data = np.r_[data, np.zeros(8, dtype=np.uint8)]
    last = len(data) - 8
    words = np.ndarray((last + 1,), dtype="<u8", buffer=np.ascontiguousarray(data), strides=(1,))  # one at every byte
    left = np.flatnonzero(length > 0)
    at, rest = start[left], length[left]
    while len(left):
        if int(at.max()) <= last:
            word = words[at]
        else:
            place = np.minimum(at, last)
            word = words[place] >> ((at - place).astype(np.uint64) << np.uint64(3))
        short = np.flatnonzero(rest < 8)
        word[short] &= (np.uint64(1) << (rest[short].astype(np.uint64) << np.uint64(3))) - np.uint64(1)
        yield left, word
        more = rest > 8
        if more.all():
            at, rest = at + 8, rest - 8
        else:
            left, at, rest = left[more], at[more] + 8, rest[more] - 8


def fingerprints(texts: Texts, end: NDArray[np.int64] | None = None) -> Marks:
    """A fingerprint of each text, or of what comes before `end` in it. uint64[texts]

    Eight bytes at a time are mixed in, for all texts at once. Equal texts have equal fingerprints; the reverse must be
    checked.
    """
    length = (texts.end if end is None else end) - texts.start
    marks = length.astype(np.uint64) * np.uint64(_LENGTH)
    for at in range(0, len(marks), _BLOCK):
        block = marks[at : at + _BLOCK]
        for left, words in _eights(texts.data, texts.start[at : at + _BLOCK], length[at : at + _BLOCK]):
            mixed = (block[left] ^ words) * np.uint64(_MIX)
            block[left] = mixed ^ (mixed >> np.uint64(32))
    return marks


def fingerprint_of(text: bytes) -> int:
    """The fingerprint of one text, the same as `fingerprints` gives."""
    marks = len(text) * _LENGTH & _ALL
    for at in range(0, len(text), 8):
        mixed = (marks ^ int.from_bytes(text[at : at + 8], "little")) * _MIX & _ALL
        marks = mixed ^ mixed >> 32
    return marks


class Finder:
    """Finds texts among others by fingerprint.

    Parameters
    ----------
    texts : Texts
        Those to find; where one stands twice, its first place is found.
    """

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        self._marks = fingerprints(texts)
        self._order = np.argsort(self._marks, kind="stable")
        self._sorted = self._marks[self._order]

    def repeated(self) -> NDArray[np.int64]:
        """For each text the first that is equal to it (itself where none is before it). int64[texts]"""
        if not (self._sorted[1:] == self._sorted[:-1]).any():
            return np.arange(len(self.texts))
        return self.find(self.texts, self._marks, self.texts.end)

    def find(self, texts: Texts, marks: Marks, end: NDArray[np.int64]) -> NDArray[np.int64]:
        """For each text up to `end`, with its fingerprint, the number of its equal here, or -1. int64[n]

        Where `texts` lie among the same bytes as those to find (or are some of them), nothing is copied.
        """
        mine = self.texts
        if texts.data is mine.data:
            both = Texts(mine.data, np.r_[mine.start, texts.start], np.r_[mine.end, texts.end])
        else:
            moved, data = len(mine.data), np.concatenate([mine.data, texts.data])
            both = Texts(data, np.r_[mine.start, texts.start + moved], np.r_[mine.end, texts.end + moved])
        order = np.argsort(marks)  # one after the other, so that neighbours are looked for together
        at = np.empty(len(marks), dtype=np.int64)
        at[order] = np.searchsorted(self._sorted, marks[order])
        found = np.full(len(texts), -1, dtype=np.int64)
        left = np.flatnonzero(at < len(self._sorted))
        while len(left):  # again only where two texts that differ have one fingerprint
            left = left[(at[left] < len(self._sorted))]
            left = left[self._sorted[at[left]] == marks[left]]
            ours = self._order[at[left]]
            length = end[left] - texts.start[left]
            alike = mine.end[ours] - mine.start[ours] == length
            alike[alike] = both.same(ours[alike], len(mine) + left[alike], length[alike])
            found[left[alike]] = ours[alike]
            left = left[~alike]
            at[left] += 1
        return found

    def look_up(self, texts: Texts) -> NDArray[np.int64]:
        """For each of other texts the number of its equal here, or -1. int64[texts]"""
        return self.find(texts, fingerprints(texts), texts.end)

    def find_one(self, text: str) -> int:
        """The number of a text, or -1."""
        mark = np.uint64(fingerprint_of(text.encode("utf-8", "surrogatepass")))
        at = int(self._sorted.searchsorted(mark))
        while at < len(self._sorted) and self._sorted[at] == mark:
            if self.texts[int(self._order[at])] == text:
                return int(self._order[at])
            at += 1
        return -1
