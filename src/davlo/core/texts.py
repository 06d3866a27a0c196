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
_PIECE = 64
"""So many bytes of each text are looked at in one go."""
_BLOCK = 1 << 12
"""So many texts are taken at a time that what a step needs stays in the processor's cache."""
_MASKS = (np.tri(_PIECE + 1, _PIECE, -1, dtype=np.uint8) * np.uint8(255)).view(f"V{_PIECE}").ravel()
"""For each length up to a piece, the bytes that count; a piece is one element, which NumPy gathers fast."""
_WORD_KEYS = (np.arange(1, 16, 2, dtype=np.uint64) * np.uint64(0x9E3779B97F4A7C15)) | np.uint64(1)
_MIX = np.uint64(0xD6E8FEB86659FD93)


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

    def beginnings(self) -> NDArray[np.uint32]:
        """The first twelve bytes of each text, zero past its end. uint32[texts, 3]"""
        found = np.empty((len(self), 3), dtype=np.uint32)
        for at in range(0, len(self), _BLOCK):
            block = slice(at, at + _BLOCK)
            length = np.minimum(self.end[block] - self.start[block], 12)
            found[block] = next(_pieces(self.data, self.start[block], length))[1].view(np.uint32)[:, :3]
        return found

    def same(self, numbers: NDArray[np.integer], other: Texts, length: NDArray[np.int64]) -> Mask:
        """Whether text `numbers[i]` begins with the same `length[i]` bytes as `other[i]`. bool[n]"""
        alike = np.ones(len(numbers), dtype=bool)
        for at in range(0, len(numbers), _BLOCK):
            block = slice(at, at + _BLOCK)
            mine = _pieces(self.data, self.start[numbers[block]], length[block])
            theirs = _pieces(other.data, other.start[block], length[block])
            for (left, words), (_, against) in zip(mine, theirs, strict=True):
                words ^= against
                if words.any():  # hardly ever, after the fingerprints
                    alike[at + left[words.any(axis=1)]] = False
        return alike


def _pieces(
    data: NDArray[np.uint8], start: NDArray[np.int64], length: NDArray[np.int64]
) -> Iterator[tuple[NDArray[np.int64], Marks]]:
    """Texts a piece at a time: which of them still have some, and the piece as eight numbers, zero past the end.

    `start, length: int64[n]`; `int64[m]` and `uint64[m, 8]` each time, at least once.
    """
    left: NDArray[np.int64] = np.arange(len(start))
    while True:
        words = _windows(data, start)
        words &= _MASKS[np.minimum(length, _PIECE)].view(np.uint64).reshape(words.shape)
        yield left, words
        more = length > _PIECE
        if not more.any():
            return
        left, start, length = left[more], start[more] + _PIECE, length[more] - _PIECE


def _windows(data: NDArray[np.uint8], start: NDArray[np.int64]) -> Marks:
    """The bytes from each start on, as many as a piece has; what lies past the end of `data` is zero. uint64[n, 8]"""
    tail = max(0, len(data) - _PIECE)
    late = np.flatnonzero(start > tail) if len(data) >= _PIECE else np.arange(len(start))
    if not len(late):
        return _taken(data, start)
    padded = np.concatenate([data[tail:], np.zeros(2 * _PIECE, dtype=np.uint8)])
    if len(late) == len(start):
        return _taken(padded, start - tail)
    words = _taken(data, np.minimum(start, tail))
    words[late] = _taken(padded, start[late] - tail)
    return words


def _taken(data: NDArray[np.uint8], start: NDArray[np.int64]) -> Marks:
    """The same where nothing lies past the end."""
    every = np.ndarray((len(data) - _PIECE + 1,), dtype=f"V{_PIECE}", buffer=data, strides=(1,))
    return every[start].view(np.uint64).reshape(-1, _PIECE // 8)


def fingerprints(texts: Texts, end: NDArray[np.int64] | None = None) -> Marks:
    """A fingerprint of each text, or of what comes before `end` in it. uint64[texts]

    A piece at a time is mixed in, for many texts at once. Equal texts have equal fingerprints; the reverse must be
    checked.
    """
    length = (texts.end if end is None else end) - texts.start
    marks = length.astype(np.uint64) * _MIX
    for at in range(0, len(marks), _BLOCK):
        block = marks[at : at + _BLOCK]
        for left, words in _pieces(texts.data, texts.start[at : at + _BLOCK], length[at : at + _BLOCK]):
            words *= _WORD_KEYS
            words ^= words >> np.uint64(29)
            words *= _MIX
            mixed = block[left]
            for column in range(words.shape[1]):
                mixed ^= words[:, column]
            mixed *= _MIX
            block[left] = mixed ^ (mixed >> np.uint64(32))
    return marks


class Finder:
    """Finds texts among others: by fingerprint in a table of places, each taken by one text, then byte by byte.

    Parameters
    ----------
    texts : Texts
        Those to find; where one stands twice, its first place is found.

    Attributes
    ----------
    first : int64[texts]
        For each text the first that is equal to it; itself where none is before it.
    """

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        self._marks = fingerprints(texts)
        self._bits = max(4, (2 * len(texts)).bit_length())
        self._slots = np.full(1 << self._bits, -1, dtype=np.int32)
        self.first: NDArray[np.int64] = np.arange(len(texts))
        self._settle()

    def _slot(self, marks: Marks) -> NDArray[np.int64]:
        """The place at which to look first."""
        return (marks >> np.uint64(64 - self._bits)).astype(np.int64)

    def _settle(self) -> None:
        """A place for each text, the next free one where its own is taken."""
        left = np.arange(len(self.texts), dtype=np.int32)[::-1]  # of several that want one place the last written stays
        slot = self._slot(self._marks)[::-1]
        while len(left):
            free = self._slots[slot] < 0
            self._slots[slot[free]] = left[free]
            there = self._slots[slot]
            again = np.flatnonzero((there != left) & (self._marks[there] == self._marks[left]))
            equal = again[self._equal(there[again], self.texts.take(left[again]))]
            self.first[left[equal]] = there[equal]
            homeless = there != left
            homeless[equal] = False
            left, slot = left[homeless], (slot[homeless] + 1) & (len(self._slots) - 1)

    def _equal(self, numbers: NDArray[np.integer], texts: Texts, end: NDArray[np.int64] | None = None) -> Mask:
        """Whether my texts of these numbers are those, up to `end`. bool[n]"""
        length = (texts.end if end is None else end) - texts.start
        alike: Mask = self.texts.end[numbers] - self.texts.start[numbers] == length
        if alike.all():
            return self.texts.same(numbers, texts, length)
        some = np.flatnonzero(alike)
        alike[some] = self.texts.same(numbers[some], texts.take(some), length[some])
        return alike

    def find(self, texts: Texts, end: NDArray[np.int64] | None = None) -> NDArray[np.int64]:
        """For each text, or what of it comes before `end`, the number of its equal here, or -1. int64[n]"""
        marks = fingerprints(texts, end)
        stop = texts.end if end is None else end
        found = np.full(len(texts), -1, dtype=np.int64)
        left: NDArray[np.int64] = np.arange(len(texts))
        slot = self._slot(marks)
        while len(left):  # again only where a place is taken by another text
            there = self._slots[slot]
            taken = there >= 0
            if not taken.all():
                left, slot, there = left[taken], slot[taken], there[taken]
            hit = self._marks[there] == marks[left]
            some = np.flatnonzero(hit)
            alike = some[self._equal(there[some], texts.take(left[some]), stop[left[some]])]
            found[left[alike]] = there[alike]
            other = np.ones(len(left), dtype=bool)
            other[alike] = False
            left, slot = left[other], (slot[other] + 1) & (len(self._slots) - 1)
        return found

    def find_one(self, text: str) -> int:
        """The number of a text, or -1."""
        return int(self.find(Texts.of([text]))[0])
