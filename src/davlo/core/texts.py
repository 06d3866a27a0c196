"""Texts as columns: the bytes of all in one array, and where each begins and ends. No object a page.

Texts are found by a 64-bit fingerprint, and then compared byte by byte, so that a chance likeness changes nothing.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import overload

import numpy as np
from numpy.typing import NDArray

from .columns import Column, Mask

Marks = NDArray[np.uint64]
_PIECE = 64
"""So many bytes of each text are looked at in one go."""
_BLOCK = 1 << 12
"""So many texts are taken at a time that what a step needs stays in the processor's cache."""
_MANY = 1 << 17
"""From so many texts on, blocks are worked on side by side, and are larger, so that the threads seldom meet."""
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
        each_once = len(words) == len(column) and bool((np.diff(column.codes, prepend=-1) == 1).all())
        return words if each_once else words.take(column.codes)

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
        data = memoryview(self.data)  # type: ignore[arg-type]
        for start, end in zip(self.start.tolist(), self.end.tolist(), strict=True):
            yield str(data[start:end], "utf-8", "surrogatepass")

    def __repr__(self) -> str:
        shown = ", ".join(repr(self[i]) for i in range(min(3, len(self))))
        return f"<Texts: {len(self)}: {shown}{', …' if len(self) > 3 else ''}>"

    def tolist(self) -> list[str]:
        """All of them, as Python holds them."""
        length = self.end - self.start
        width = -(-int(length.max(initial=1)) // 8) * 8
        ends = self.data[np.maximum(self.end, 1) - 1] if len(self.data) else self.data
        if width > 4 * _PIECE or not ends.all():
            return list(self)
        # NumPy's texts of one width become Python's faster than slices do; it takes zeros at their ends for filling
        masks = (np.tri(width + 1, width, -1, dtype=np.uint8) * np.uint8(255)).view(f"V{width}").ravel()
        found: list[str] = []
        for at in range(0, len(self), _BLOCK):
            block = slice(at, at + _BLOCK)
            words = _windows(self.data, self.start[block], width)
            words &= masks[length[block]].view(np.uint64).reshape(words.shape)
            try:
                found += [text.decode() for text in words.view(f"S{width}").ravel().tolist()]
            except UnicodeDecodeError:  # a lone surrogate
                found += list(self[block])
        return found

    def take(self, numbers: NDArray[np.integer]) -> Texts:
        """The texts of these numbers, in that order; the bytes are shared."""
        return Texts(self.data, self.start[numbers], self.end[numbers])

    def replaced(self, numbers: NDArray[np.integer], texts: Texts) -> Texts:
        """The same column with other texts at these numbers."""
        start, end = self.start.copy(), self.end.copy()
        start[numbers], end[numbers] = texts.start + len(self.data), texts.end + len(self.data)
        return Texts(np.concatenate([self.data, texts.data]), start, end)

    def begins_with(self, byte: int) -> Mask:
        """Where a text begins with a byte. bool[texts]"""
        full = self.end > self.start
        begins = np.zeros(len(self), dtype=bool)
        begins[full] = self.data[self.start[full]] == byte
        return begins

    def begins_visibly(self) -> Mask:
        """Where a text begins with a visible ASCII character. bool[texts]"""
        begins: Mask = self.end > self.start
        begins[begins] = self.data[self.start[begins]] - np.uint8(33) <= 93
        return begins

    def stripped(self) -> Texts:
        """The texts without white space around them; only those that may have some are looked at one by one."""
        full = self.end > self.start
        one = self if full.all() else self.take(np.flatnonzero(full))
        edges = np.stack([self.data[one.start], self.data[one.end - 1]])
        edges -= np.uint8(33)  # what is past 94 now was white space or beyond ASCII
        odd = np.flatnonzero(full)[(edges > 94).any(axis=0)]
        if not len(odd):
            return self
        start, end = self.start.copy(), self.end.copy()
        for number in odd.tolist():
            text = self[number]
            start[number] += len(text[: len(text) - len(text.lstrip())].encode("utf-8", "surrogatepass"))
            end[number] = start[number] + len(text.strip().encode("utf-8", "surrogatepass"))
        return Texts(self.data, start, end)

    def last(self, byte: int, end: NDArray[np.int64]) -> NDArray[np.int64]:
        """Where in `data` a byte stands last in each text, before `end`; -1 where it does not. int64[texts]"""
        found = np.full(len(self), -1, dtype=np.int64)

        def search(block: slice) -> None:
            start, stop = self.start[block], end[block]
            left = np.arange(len(start))
            while len(left):
                begin = np.maximum(stop - _PIECE, start)
                top = _last_bits(_windows(self.data, begin).view(np.uint8) == byte, stop - begin)
                found[block.start + left] = np.where(top >= 0, begin + top, -1)
                more = np.flatnonzero((top < 0) & (begin > start))
                left, start, stop = left[more], start[more], begin[more]

        _in_blocks(len(self), search)
        return found

    def beginnings(self) -> NDArray[np.uint32]:
        """The first twelve bytes of each text, zero past its end. uint32[texts, 3]"""
        length = self.end - self.start
        found = _windows(self.data, self.start, 16).view(np.uint32)[:, :3]
        short = np.flatnonzero(length < 12)
        found[short] &= _MASKS[length[short]].view(np.uint32).reshape(-1, _PIECE // 4)[:, :3]
        return found

    def same(self, numbers: NDArray[np.integer], other: Texts, end: NDArray[np.int64]) -> Mask:
        """Whether text `numbers[i]` is what comes before `end[i]` in `other[i]`. bool[n]"""
        alike = np.empty(len(numbers), dtype=bool)

        def compare(block: slice) -> None:
            mine, theirs = self.start[numbers[block]], other.start[block]
            length = end[block] - theirs
            same = self.end[numbers[block]] - mine == length
            for left, offset, masks in _pieces(length):
                words = _windows(self.data, mine[left] + offset)
                words ^= _windows(other.data, theirs[left] + offset)
                words &= masks
                if words.any():  # hardly ever, after the fingerprints
                    same[left] &= ~words.any(axis=1)
            alike[block] = same

        _in_blocks(len(numbers), compare)
        return alike


def _in_blocks(count: int, work: Callable[[slice], None]) -> None:
    """Do `work` on every block of so many texts; of many texts on several blocks at a time."""
    size = _BLOCK if count < _MANY else 4 * _BLOCK
    blocks = [slice(at, min(at + size, count)) for at in range(0, count, size)]
    if count < _MANY:
        for block in blocks:
            work(block)
        return
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(os.cpu_count()) as beside:
        for _ in beside.map(work, blocks):
            pass  # what went wrong in one is raised here


def _pieces(length: NDArray[np.int64]) -> Iterator[tuple[slice | NDArray[np.int64], int, Marks]]:
    """Texts of these lengths a piece at a time, at least once: which still have some, where the piece begins, and the
    bytes of it that count, as eight numbers. `uint64[m, 8]`"""
    left: slice | NDArray[np.int64] = slice(None)
    for offset in range(0, max(1, int(length.max(initial=0))), _PIECE):
        if offset:
            left = np.flatnonzero(length > offset)
        masks = _MASKS[np.minimum(length[left] - offset, _PIECE)]
        yield left, offset, masks.view(np.uint64).reshape(-1, _PIECE // 8)


def _windows(data: NDArray[np.uint8], start: NDArray[np.int64], width: int = _PIECE) -> Marks:
    """`width` bytes from each start on; what lies past the end of `data` is zero. uint64[n, width / 8]"""
    if not len(start):
        return np.zeros((0, width // 8), dtype=np.uint64)
    tail = max(0, len(data) - width)
    late = np.flatnonzero(start > tail) if len(data) >= width else np.arange(len(start))
    if not len(late):
        return _taken(data, start, width)
    padded = np.concatenate([data[tail:], np.zeros(2 * width, dtype=np.uint8)])
    if len(late) == len(start):
        return _taken(padded, start - tail, width)
    words = _taken(data, np.minimum(start, tail), width)
    words[late] = _taken(padded, start[late] - tail, width)
    return words


def _taken(data: NDArray[np.uint8], start: NDArray[np.int64], width: int) -> Marks:
    """The same where nothing lies past the end."""
    every = np.ndarray((len(data) - width + 1,), dtype=f"V{width}", buffer=data, strides=(1,))
    return every[start].view(np.uint64).reshape(-1, width // 8)


def _last_bits(holds: Mask, width: NDArray[np.int64]) -> NDArray[np.int64]:
    """The last place below `width` at which each row holds, or -1. `holds: bool[n, 64]`; int64[n]"""
    bits = np.packbits(holds, axis=1, bitorder="little").view(np.uint64).ravel()
    beyond = (_PIECE - width).astype(np.uint64)
    bits = np.where(width > 0, bits << (beyond & np.uint64(63)) >> (beyond & np.uint64(63)), np.uint64(0))
    bits &= ~(bits >> np.uint64(1))  # the highest stays; the next goes, so that nothing is rounded up to a higher one
    exponent = (bits.astype(np.float64).view(np.int64) >> 52) - 1023
    return np.where(bits > 0, exponent, -1)


def fingerprints(texts: Texts, end: NDArray[np.int64] | None = None) -> Marks:
    """A fingerprint of each text, or of what comes before `end` in it. uint64[texts]

    A piece at a time is mixed in, for many texts at once. Equal texts have equal fingerprints; the reverse must be
    checked.
    """
    length = (texts.end if end is None else end) - texts.start
    marks = length.astype(np.uint64) * _MIX

    def mix(block: slice) -> None:
        mixed, start = marks[block], texts.start[block]
        for left, offset, masks in _pieces(length[block]):
            words = _windows(texts.data, start[left] + offset)
            words &= masks
            words ^= words >> np.uint64(32)  # a product carries upwards only: what is high must count below too
            mixed[left] = _stirred(mixed[left] + np.einsum("ij,j->i", words, _WORD_KEYS))

    _in_blocks(len(marks), mix)
    return marks


def _stirred(marks: Marks) -> Marks:
    """The same numbers with every bit spread over the others."""
    marks ^= marks >> np.uint64(32)
    marks *= _MIX
    marks ^= marks >> np.uint64(29)
    return marks


class Finder:
    """Finds texts among others: by the beginnings of their fingerprints, which lie sorted, and then byte by byte.

    Parameters
    ----------
    texts : Texts
        Those to find; where one stands twice, its first place is found.
    """

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        self._bits = _bits_for(len(texts))
        self._sorted = _sorted_with_numbers(fingerprints(texts), self._bits)

    def firsts(self) -> NDArray[np.int64]:
        """For each text the first that is equal to it; itself where none is before it. int64[texts]"""
        first: NDArray[np.int64] = np.arange(len(self.texts))
        begun = self._sorted >> self._bits
        like = np.flatnonzero(begun[1:] == begun[:-1])
        if len(like):
            again = _numbers(self._sorted[like + 1], self._bits)
            first[again] = self.find(self.texts.take(again))
        return first

    def find(self, texts: Texts, end: NDArray[np.int64] | None = None) -> NDArray[np.int64]:
        """For each text, or what of it comes before `end`, the number of its equal here, or -1. int64[n]"""
        stop = texts.end if end is None else end
        marks = fingerprints(texts, end)
        bits = _bits_for(len(texts))
        asking = _numbers(_sorted_with_numbers(marks, bits), bits)  # who asks in order is answered fast
        begun = marks >> self._bits << self._bits
        place = np.empty(len(texts), dtype=np.int64)
        place[asking] = np.searchsorted(self._sorted, begun[asking])
        found = np.full(len(texts), -1, dtype=np.int64)
        left: NDArray[np.int64] = np.arange(len(texts) if len(self._sorted) else 0)
        while len(left):  # again only where the fingerprints of two texts begin alike
            there = self._sorted.take(place, mode="clip")
            hit = (there ^ begun[left]) >> self._bits == 0
            hit &= place < len(self._sorted)
            if not hit.all():
                left, place, there = left[hit], place[hit], there[hit]
            number = _numbers(there, self._bits)
            alike = self.texts.same(number, texts.take(left), stop[left])
            if alike.all():
                found[left] = number
                break
            found[left[alike]] = number[alike]
            left, place = left[~alike], place[~alike] + 1
        return found

    def find_one(self, text: str) -> int:
        """The number of a text, or -1."""
        return int(self.find(Texts.of([text]))[0])


def _bits_for(texts: int) -> np.uint64:
    """How many bits the number of a text takes."""
    return np.uint64(max(1, texts - 1).bit_length())


def _sorted_with_numbers(marks: Marks, bits: np.uint64) -> Marks:
    """The beginnings of the fingerprints, sorted, and in the last bits whose each is. uint64[n]"""
    found = marks >> bits << bits
    found |= np.arange(len(marks), dtype=np.uint64)
    found.sort()
    return found


def _numbers(marks: Marks, bits: np.uint64) -> NDArray[np.int64]:
    """Whose fingerprints these are, from their last bits. int64[n]"""
    return (marks & ((np.uint64(1) << bits) - np.uint64(1))).astype(np.int64)
