"""Tables as text, put together column by column: many rows at once, never an object a cell."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Mask
from davlo.core.arrays.texts import Texts, byte_table, concatenated
from davlo.core.progress import work

from .csv_lines import write_csv
from .json_text import json_text

BLOCK = 1 << 14
"""Rows put together at a time."""


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

    def taken(self, rows: NDArray[np.int64]) -> Pieces:
        """The pieces of some rows."""
        return Pieces(self.words.take(rows)) if self.codes is None else Pieces(self.words, self.codes[rows])

    def rows(self, begin: int, end: int) -> Texts:
        """The texts of some rows."""
        return self.words[begin:end] if self.codes is None else self.words.take(self.codes[begin:end])


def written(texts: Texts, notation: Notation, before: str = "") -> Texts:
    """Texts as a table writes them, each with a piece before it.

    Example
    -------
    >>> written(Texts.of(["a", 'b"']), JSON, ", ").tolist()
    [', "a"', ', "b\\\\""']
    """
    odd, around, found = texts.holding(notation.suspect), (before + notation.quote, notation.quote), texts
    if any(around):
        first, last = (Texts.repeated(one, len(texts)) for one in around)
        found = concatenated([first, texts, last])
    return found.replaced(odd, Texts.of(before + notation.of(text) for text in texts.take(odd).tolist()))


def cells(column: Coded, notation: Notation, before: str = "") -> Pieces:
    """A column of a table, with a piece before each cell."""
    codes, words = column
    return Pieces(written(words if isinstance(words, Texts) else Texts.of(words), notation, before), codes)


def lines(pieces: Sequence[Pieces], rows: int) -> Iterator[bytes]:
    """The rows as text, many at a time."""
    with work("writing the table", max(1, -(-rows // BLOCK))) as step:
        for begin in range(0, rows, BLOCK):
            step(f"row {begin:,} of {rows:,}")
            end = min(begin + BLOCK, rows)
            yield concatenated([piece.rows(begin, end) for piece in pieces]).data.tobytes()
