"""Texts as columns: all bytes in one array, and where each text begins and ends. There is no object for a page."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import overload

import numpy as np
from numpy.typing import NDArray

from .codebooks import Column, Mask
from .in_background import in_blocks, side_by_side

Marks = NDArray[np.uint64]
PIECE = 64
"""Bytes of each text compared in one go."""
_BLOCK = 1 << 14
"""Texts turned into Python strings at a time."""
MASKS = (np.tri(PIECE + 1, PIECE, -1, dtype=np.uint8) * np.uint8(255)).view(f"V{PIECE}").ravel()
"""For each length up to a piece, a mask of the bytes that count. A piece is one element, which NumPy gathers fast."""


def byte_table(marked: bytes) -> Mask:
    """A table that marks these bytes. bool[256]"""
    table = np.zeros(256, dtype=bool)
    table[[*marked]] = True
    return table


SPACE_BEGINS = byte_table(bytes(range(33)) + b"\xc2\xe1\xe2\xe3")
"""The bytes that white space may begin with, beyond ASCII too."""
_NOWHERE = np.zeros(0, dtype=np.int64)
_BYTES = 1 << 20
"""Bytes looked at at a time."""


class Texts(Sequence[str]):
    """A column of texts.

    `data`: uint8[bytes]: UTF-8 bytes; texts may lie in any order, and may overlap. `start`, `end`: int64[texts]: where
    each text begins, and one past where it ends.

    Example
    -------
    >>> texts = Texts.of(["/", "/visit", "/été"])
    >>> texts[2], len(texts), texts.take(np.array([1, 0])).tolist()
    ('/été', 3, ['/visit', '/'])
    """

    __slots__ = ("_firsts", "_lasts", "data", "end", "start")

    def __init__(self, data: NDArray[np.uint8], start: NDArray[np.int64], end: NDArray[np.int64]) -> None:
        self.data = data
        self.start = start
        self.end = end
        self._firsts: NDArray[np.uint8] | None = None
        self._lasts: NDArray[np.uint8] | None = None

    @classmethod
    def of(cls, texts: Iterable[str]) -> Texts:
        """The column of these texts."""
        encoded = [text.encode("utf-8", "surrogatepass") for text in texts]
        end = np.cumsum([len(text) for text in encoded], dtype=np.int64)
        start = np.zeros_like(end)
        start[1:] = end[:-1]
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
        for at in range(0, len(self), _BLOCK):
            some = self[at : at + _BLOCK]
            # put end to end with a mark after each, and split at the marks: faster than one slice for each text
            marked = Texts(some.data, some.start, some.end + 1).laid_out()
            marked.data[marked.end - 1] = 0
            texts = str(marked.data.data, "utf-8", "surrogatepass").split("\0")
            if len(texts) == len(some) + 1:
                yield from texts[:-1]
            else:  # a text holds a mark itself
                yield from map(some.__getitem__, range(len(some)))

    def __repr__(self) -> str:
        shown = ", ".join(repr(self[i]) for i in range(min(3, len(self))))
        return f"<Texts: {len(self)}: {shown}{', …' if len(self) > 3 else ''}>"

    def tolist(self) -> list[str]:
        """All of them, as Python holds them."""
        return list(self)

    def take(self, numbers: NDArray[np.integer]) -> Texts:
        """The texts of these numbers, in that order; the bytes are shared."""
        return Texts(self.data, self.start[numbers], self.end[numbers])

    def replaced(self, numbers: NDArray[np.integer], texts: Texts) -> Texts:
        """This column with other texts at these numbers."""
        if not len(numbers):
            return self
        start, end = self.start.copy(), self.end.copy()
        start[numbers], end[numbers] = texts.start + len(self.data), texts.end + len(self.data)
        return Texts(np.concatenate([self.data, texts.data]), start, end)

    @property
    def firsts(self) -> NDArray[np.uint8]:
        """The first byte of each text, 0 for an empty one. It is kept, since reading asks for it more than once."""
        if self._firsts is None:
            self._firsts = self._bytes(self.start)
        return self._firsts

    @property
    def lasts(self) -> NDArray[np.uint8]:
        """The last byte of each text, 0 of an empty one."""
        if self._lasts is None:
            self._lasts = self._bytes(self.end - 1)
        return self._lasts

    def _bytes(self, places: NDArray[np.int64]) -> NDArray[np.uint8]:
        found = np.zeros(len(self), dtype=np.uint8)

        def look(block: slice) -> None:
            full = self.end[block] > self.start[block]
            np.copyto(found[block], self.data.take(places[block], mode="clip"), where=full)

        if len(self.data):
            in_blocks(len(self), look)
        return found

    def begins_with(self, byte: int) -> Mask:
        """Where a text begins with a byte, not 0. bool[texts]"""
        begins: Mask = self.firsts == byte
        return begins

    def begins_visibly(self) -> Mask:
        """Where a text begins with a visible ASCII character. bool[texts]"""
        begins: Mask = self.firsts - np.uint8(33) <= 93
        return begins

    def blank(self) -> Mask:
        """Where a text is empty or only white space. bool[texts]

        Example
        -------
        >>> Texts.of(["", "\\u00a0 ", " a", "été"]).blank().tolist()
        [True, True, False, False]
        """
        blank: Mask = self.end == self.start
        maybe = np.flatnonzero(SPACE_BEGINS[self.firsts] & ~blank)
        blank[maybe] = [not text.strip() for text in self.take(maybe).tolist()]
        return blank

    def stripped(self) -> Texts:
        """The texts without white space around them; only those that may have some are stripped one by one."""
        # after subtracting 33, > 94 means white space, control or non-ASCII
        odd = np.flatnonzero((self.firsts - np.uint8(33) > 94) | (self.lasts - np.uint8(33) > 94))
        odd = odd[self.end[odd] > self.start[odd]]
        if not len(odd):
            return self
        start, end = self.start.copy(), self.end.copy()
        for number in odd.tolist():
            text = self[number]
            start[number] += len(text[: len(text) - len(text.lstrip())].encode("utf-8", "surrogatepass"))
            end[number] = start[number] + len(text.strip().encode("utf-8", "surrogatepass"))
        return Texts(self.data, start, end)

    def characters(self) -> NDArray[np.int64]:
        """How many characters each text has. int64[texts]

        Example
        -------
        >>> Texts.of(["", "été"]).characters().tolist()
        [0, 3]
        """
        going_on = np.flatnonzero(self.data & 0xC0 == 0x80)  # bytes that continue a character
        return self.end - self.start - going_on.searchsorted(self.end) + going_on.searchsorted(self.start)

    def last(self, byte: int, end: NDArray[np.int64]) -> NDArray[np.int64]:
        """Where in `data` a byte stands last in each text, before `end`; -1 where it does not. int64[texts]"""
        found = np.full(len(self), -1, dtype=np.int64)

        def search(block: slice) -> None:
            start, stop = self.start[block], end[block]
            left = np.arange(len(start))
            while len(left):
                begin = np.maximum(stop - PIECE, start)
                top = last_bits(windows(self.data, begin).view(np.uint8) == byte, stop - begin)
                found[block.start + left] = np.where(top >= 0, begin + top, -1)
                more = np.flatnonzero((top < 0) & (begin > start))
                left, start, stop = left[more], start[more], begin[more]

        in_blocks(len(self), search)
        return found

    def first(self, byte: int) -> NDArray[np.int64]:
        """Where in `data` a byte stands first in each text; -1 where it does not. int64[texts]

        Example
        -------
        >>> Texts.of(["/a?b?c", "/a"]).first(ord("?")).tolist()
        [2, -1]
        """
        places = np.flatnonzero(self.data == byte)
        if not len(places):
            return np.full(len(self), -1, dtype=np.int64)
        at = np.searchsorted(places, self.start)
        found = places[np.minimum(at, len(places) - 1)]
        return np.where((at < len(places)) & (found < self.end), found, -1)

    def holding(self, table: Mask) -> NDArray[np.int64]:
        """The texts that hold a byte which a table marks. int64[n]

        Example
        -------
        >>> Texts.of(["/a b", "/a", "/,"]).holding(byte_table(b" ,")).tolist()
        [0, 2]
        """
        return self.around(places_of(self.data, table))

    def holding_text(self, text: bytes) -> NDArray[np.int64]:
        """The texts that hold another one, which is not empty. int64[n]

        Example
        -------
        >>> Texts.of(["/visit", "/shop", "/revisit"]).holding_text(b"visit").tolist()
        [0, 2]
        """
        laid = self.laid_out()
        places = np.flatnonzero(laid.data[: max(0, len(laid.data) - len(text) + 1)] == text[0])
        for offset, byte in enumerate(text[1:], 1):
            places = places[laid.data[places + offset] == byte]
        first = places.searchsorted(laid.start)
        inside = places.searchsorted(laid.end - len(text), side="right")
        return np.flatnonzero(first < inside)

    def around(self, places: NDArray[np.int64]) -> NDArray[np.int64]:
        """The texts in which some of these places in `data` lie, which are ascending. int64[n]"""
        if not len(places):
            return _NOWHERE
        return np.flatnonzero(places.searchsorted(self.start) < places.searchsorted(self.end))

    @classmethod
    def repeated(cls, text: str, count: int) -> Texts:
        """One text, repeated; its bytes are shared."""
        return cls.of([text]).take(np.zeros(count, dtype=np.int64))

    def laid_out(self) -> Texts:
        """These texts one after the other, in bytes of their own."""
        length = self.end - self.start
        end = np.cumsum(length)
        start = end - length
        total = int(length.sum())
        data = np.empty(total + PIECE, dtype=np.uint8)
        into = np.ndarray((total + 1,), dtype=f"V{PIECE}", buffer=data, strides=(1,))

        def write(block: slice) -> None:
            size = length[block]
            # write whole pieces, the last of each text first: the next text's first piece overwrites what is past its
            # end
            for offset in reversed(range(0, max(1, int(size.max())), PIECE)):
                left = np.flatnonzero(size > offset) if offset else slice(None)
                words = windows(self.data, self.start[block][left] + offset)
                into[start[block][left] + offset] = words.view(into.dtype).ravel()

        in_blocks(len(self), write, threads=False)  # one block after the other, as they overlap
        return Texts(data[:total], start, end)

    def same(self, numbers: NDArray[np.integer], other: Texts, end: NDArray[np.int64], threads: bool = True) -> Mask:
        """Whether text `numbers[i]` is what comes before `end[i]` in `other[i]`. bool[n]"""
        alike = np.empty(len(numbers), dtype=bool)

        def compare(block: slice) -> None:
            mine, theirs = self.start[numbers[block]], other.start[block]
            length = end[block] - theirs
            same = self.end[numbers[block]] - mine == length
            for left, offset, masks in pieces(length * same):  # a shorter text may end where the bytes end
                words = windows(self.data, mine[left] + offset)
                words ^= windows(other.data, theirs[left] + offset)
                words &= masks
                if words.any():  # rare once the fingerprints agree
                    same[left] &= ~words.any(axis=1)
            alike[block] = same

        in_blocks(len(numbers), compare, threads)
        return alike

    def differ(self, others: Texts) -> Mask:
        """Which of these texts differ from those at the same places. bool[n]

        Example
        -------
        >>> Texts.of(["a", "b", ""]).differ(Texts.of(["a", "c", "d"])).tolist()
        [False, True, True]
        """
        return ~self.same(np.arange(len(self)), others, others.end)


def pieces(length: NDArray[np.int64]) -> Iterator[tuple[slice | NDArray[np.int64], int, Marks]]:
    """Texts of these lengths, piece by piece: which have bytes left, from where, and a mask of them `uint64[m, 8]`."""
    left: slice | NDArray[np.int64] = slice(None)
    for offset in range(0, max(1, int(length.max(initial=0))), PIECE):
        if offset:
            left = np.flatnonzero(length > offset)
        masks = MASKS.take(np.minimum(length[left] - offset, PIECE))
        yield left, offset, masks.view(np.uint64).reshape(-1, PIECE // 8)


def windows(data: NDArray[np.uint8], start: NDArray[np.int64], width: int = PIECE) -> Marks:
    """`width` bytes from each start on; what lies past the end of `data` is zero. uint64[n, width / 8]"""
    if not len(start):
        return np.zeros((0, width // 8), dtype=np.uint64)
    tail = max(0, len(data) - width)
    if len(data) >= width and start.max() <= tail:
        return _taken(data, start, width)
    late = np.flatnonzero(start > tail) if len(data) >= width else np.arange(len(start))
    padded = np.concatenate([data[tail:], np.zeros(2 * width, dtype=np.uint8)])
    if len(late) == len(start):
        return _taken(padded, start - tail, width)
    words = _taken(data, np.minimum(start, tail), width)
    words[late] = _taken(padded, start[late] - tail, width)
    return words


def _taken(data: NDArray[np.uint8], start: NDArray[np.int64], width: int) -> Marks:
    """The bytes from each start, where none reaches past the end."""
    every = np.ndarray((len(data) - width + 1,), dtype=f"V{width}", buffer=data, strides=(1,))
    return every[start].view(np.uint64).reshape(-1, width // 8)


def last_bits(holds: Mask, width: NDArray[np.int64]) -> NDArray[np.int64]:
    """The last place below `width` at which each row holds, or -1. `holds: bool[n, 64]`; int64[n]"""
    bits = np.packbits(holds.ravel(), bitorder="little").view(np.uint64)
    beyond = (PIECE - width).astype(np.uint64)
    bits = np.where(width > 0, bits << (beyond & np.uint64(63)) >> (beyond & np.uint64(63)), np.uint64(0))
    bits &= ~(
        bits >> np.uint64(1)
    )  # keep the highest bit and clear the next, so that rounding cannot reach a higher one
    exponent = (bits.astype(np.float64).view(np.int64) >> 52) - 1023
    return np.where(bits > 0, exponent, -1)


def places_of(data: NDArray[np.uint8], table: Mask, then: Mask | None = None) -> NDArray[np.int64]:
    """Where a byte that a table marks is followed by one that `then` marks; a mask of all bytes would take much memory.
    int64[n]"""
    marked = np.flatnonzero(table)
    found: list[NDArray[np.int64]] = [_NOWHERE] * (len(data) // _BYTES + 1)

    def find(block: int) -> None:
        begin = block * _BYTES
        some = data[begin : begin + _BYTES]
        places = np.flatnonzero(some == marked[0] if len(marked) == 1 else table[some]) + begin
        if then is not None:
            places = places[places + 1 < len(data)]
            places = places[then[data[places + 1]]]
        found[block] = places

    if len(found) > 1:
        side_by_side(find, range(len(found)))
    else:
        find(0)
    return np.concatenate(found)


def concatenated(parts: Sequence[Texts]) -> Texts:
    """For each place the texts that all parts have there, one after the other. Each part has as many texts.

    Example
    -------
    >>> concatenated([Texts.of(["a", "b"]), Texts.of(["!", "?"])]).tolist()
    ['a!', 'b?']
    """
    if len(parts) == 1:
        return parts[0]
    # for few texts among very many, copy only their own bytes
    parts = [part.laid_out() if len(part.data) > 2 * int((part.end - part.start).sum()) else part for part in parts]
    begins = np.cumsum([0, *(len(part.data) for part in parts)])
    start = np.stack([part.start + begin for part, begin in zip(parts, begins, strict=False)], axis=1).ravel()
    end = np.stack([part.end + begin for part, begin in zip(parts, begins, strict=False)], axis=1).ravel()
    whole = Texts(np.concatenate([part.data for part in parts]), start, end).laid_out()
    return Texts(whole.data, whole.start[:: len(parts)], whole.end[len(parts) - 1 :: len(parts)])


def stacked(parts: Sequence[Texts]) -> Texts:
    """Columns of texts put one below the other.

    Example
    -------
    >>> stacked([Texts.of(["a", "b"]), Texts.of([]), Texts.of(["c"])]).tolist()
    ['a', 'b', 'c']
    """
    if len(parts) == 1:
        return parts[0]
    shifts = np.cumsum([0, *(len(part.data) for part in parts)], dtype=np.int64)
    start = np.concatenate([part.start + shift for part, shift in zip(parts, shifts, strict=False)])
    end = np.concatenate([part.end + shift for part, shift in zip(parts, shifts, strict=False)])
    return Texts(np.concatenate([part.data for part in parts]), start, end)
