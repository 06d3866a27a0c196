"""Tables as text, put together column by column: many rows at once, never an object a cell."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import chain, repeat
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Mask, used_codes
from davlo.core.arrays.texts import Texts, byte_table
from davlo.core.progress import work

from .csv_lines import write_csv
from .json_text import json_text

BLOCK = 1 << 12
"""Rows put together at a time."""
MOST_WORDS, MOST_PAIRS = 1 << 13, 1 << 12
"""How many words make pieces few, and how many pairs of words are joined, of few rows; of many more."""


class Notation(NamedTuple):
    """How a table writes its cells."""

    suspect: Mask  # bool[256]: bytes that mark a text which needs escaping
    quote: str  # the pieces before and after a text that is written as it is
    of: Callable[[str], str]  # how a text is written


def csv_cell(text: str) -> str:
    """A cell as CSV has it.

    Example
    -------
    >>> csv_cell("a"), csv_cell('a "b", c')
    ('a', '"a ""b"", c"')
    """
    buffer = io.StringIO()
    write_csv(buffer, [["", text]])
    return buffer.getvalue()[1:-1]


CSV = Notation(byte_table(b'",\r\n'), "", csv_cell)
JSON = Notation(byte_table(b'"\\\x7f\xc2\xe2\xed' + bytes(range(32))), '"', json_text)


Coded = tuple[NDArray[np.signedinteger], Sequence[str]]
"""A column: codes, an integer a row, and the words they mean."""


class Pieces(NamedTuple):
    """A piece of text for each row: `codes: int[rows]` into `words`; without codes each row has its own word."""

    words: Texts
    codes: NDArray[np.signedinteger] | None = None

    @classmethod
    def of(cls, words: Sequence[str], codes: NDArray[np.signedinteger]) -> Pieces:
        """Pieces of few words."""
        return cls(Texts.of(words), codes)

    @classmethod
    def constant(cls, text: str, rows: int) -> Pieces:
        """One piece, repeated for every row."""
        return cls(Texts.of([text]), np.broadcast_to(np.int32(0), rows))

    def few(self) -> _Few | None:
        """The pieces with their words as bytes; None if there are too many words for the number of rows."""
        if self.codes is None or len(self.words) > max(MOST_WORDS, len(self.codes) >> 4):
            return None
        return _Few(_bytes(self.words), self.codes)

    def rows(self, begin: int, end: int) -> Iterable[bytes]:
        """The pieces of some rows."""
        if self.codes is None:
            return _bytes(self.words[begin:end])
        codes = self.codes[begin:end]
        low, high = int(codes.min()), int(codes.max()) + 1
        if high - low > len(codes) >> 2:
            is_each = high - low == len(codes) and bool((codes[1:] > codes[:-1]).all())
            return _bytes(self.words[low:high] if is_each else self.words.take(codes))
        return map(_bytes(self.words[low:high]).__getitem__, (codes - low).tolist())  # many rows with the same text


class _Few(NamedTuple):
    """A piece of text for each row, of few different ones: `codes: int[rows]` into `words`."""

    words: list[bytes]
    codes: NDArray[np.signedinteger]

    def rows(self, begin: int, end: int) -> Iterable[bytes]:
        """The pieces of some rows."""
        if len(self.words) == 1:
            return repeat(self.words[0], end - begin)
        return map(self.words.__getitem__, self.codes[begin:end].tolist())

    def then(self, after: _Few) -> _Few | None:
        """These pieces and others right after them as one; None if that makes too many words of them."""
        if len(self.words) == 1 or len(after.words) == 1:
            words = [one + other for one in self.words for other in after.words]
            return _Few(words, self.codes if len(after.words) == 1 else after.codes)
        pairs = len(self.words) * len(after.words)
        if pairs > max(MOST_PAIRS, len(self.codes)):
            return None
        used, codes = used_codes(self.codes.astype(np.int32) * np.int32(len(after.words)) + after.codes, pairs)
        if len(used) > max(MOST_WORDS, len(codes) >> 6):
            return None
        ours, theirs = (one.tolist() for one in np.divmod(used, len(after.words)))
        return _Few([self.words[one] + after.words[other] for one, other in zip(ours, theirs, strict=True)], codes)


def _bytes(texts: Texts) -> list[bytes]:
    """Texts as bytes, each of its own."""
    begin, end = (int(texts.start.min()), int(texts.end.max())) if len(texts) else (0, 0)
    if end - begin > 2 * int((texts.end - texts.start).sum()) + BLOCK:
        texts = texts.laid_out()  # few texts among very many
        begin, end = 0, len(texts.data)
    data = texts.data[begin:end].tobytes()
    bounds = zip((texts.start - begin).tolist(), (texts.end - begin).tolist(), strict=True)
    return [data[start:stop] for start, stop in bounds]


def cells(column: Coded, notation: Notation, before: str = "") -> list[Pieces]:
    """A column of a table as a table writes it, with a piece before each cell.

    Example
    -------
    >>> b"".join(lines(cells((np.array([0, 1]), ["a", 'b"']), JSON, ", "), 2)).decode()
    ', "a", "b\\\\""'
    """
    codes, words = column
    if not isinstance(words, Texts):
        told = (notation.quote + word + notation.quote for word in _written(Texts.of(words), notation))
        return [Pieces.of([before + word for word in told], codes)]
    first, last = (Pieces.constant(text, len(codes)) for text in (before + notation.quote, notation.quote))
    low, high = (int(codes.min()), int(codes.max()) + 1) if len(codes) else (0, 0)
    if high - low > len(codes):
        return [first, Pieces(_written(words.take(codes), notation)), last]
    return [first, Pieces(_written(words[low:high], notation), codes - low), last]


def _written(texts: Texts, notation: Notation) -> Texts:
    """Texts as a table writes them, within quotes if all stand in quotes."""
    odd = texts.holding(notation.suspect)
    quote = len(notation.quote)
    found = (notation.of(text) for text in texts.take(odd).tolist())
    return texts.replaced(odd, Texts.of(text[quote : len(text) - quote] for text in found))


def lines(pieces: Sequence[Pieces], rows: int) -> Iterator[bytes]:
    """The rows as text, many at a time."""
    columns = _joined(pieces)
    with work("writing the table", max(1, -(-rows // BLOCK))) as step:
        for begin in range(0, rows, BLOCK):
            step(f"row {begin:,} of {rows:,}")
            end = min(begin + BLOCK, rows)
            yield b"".join(chain.from_iterable(zip(*(one.rows(begin, end) for one in columns), strict=True)))


def _joined(pieces: Sequence[Pieces]) -> list[Pieces | _Few]:
    """The pieces, those of few words that stand side by side joined as far as they stay few."""
    found: list[Pieces | _Few] = []
    for one in pieces:
        few, last = one.few(), found[-1] if found else None
        joined = last.then(few) if few and isinstance(last, _Few) else None
        if joined is not None:
            found[-1] = joined
        else:
            found.append(few or one)
    return found
