"""Codebooks and columns: each different word stands once, and a page holds the number of its word."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from .grouping import run_begins, sorted_by

Codes = NDArray[np.int32]
Mask = NDArray[np.bool_]
Word = TypeVar("Word", bound=Hashable)


class Codebook(Generic[Word]):
    """Words and their codes: each different word once, in the order they came.

    A codebook grows until it is frozen; to add words to a frozen one, copy it.

    Example
    -------
    >>> words = Codebook(["red", "green", "red"])
    >>> words.code("green"), words[0], len(words)
    (1, 'red', 2)
    >>> more = words.freeze().copy()
    >>> more.code("blue"), words.find("blue")
    (2, -1)
    """

    __slots__ = ("_code", "_is_frozen", "items")

    def __init__(self, items: Iterable[Word] = ()) -> None:
        self.items: list[Word] = []
        self._code: dict[Word, int] = {}
        self._is_frozen = False
        self.extend(items)

    def code(self, word: Word) -> int:
        """The word's code; a new one where the word is new.

        Raises TypeError if the word is new and the codebook is frozen.
        """
        code = self._code.get(word)
        if code is None:
            if self._is_frozen:
                raise TypeError(f"{word!r} is new, and this codebook is frozen: take a copy")
            code = self._code[word] = len(self.items)
            self.items.append(word)
        return code

    def extend(self, words: Iterable[Word]) -> None:
        """Add words, those that are new at the end."""
        for word in words:
            self.code(word)

    def find(self, word: Word) -> int:
        """The word's code, or -1."""
        return self._code.get(word, -1)

    def freeze(self) -> Codebook[Word]:
        """This codebook, which takes no more words from now on."""
        self._is_frozen = True
        return self

    def copy(self) -> Codebook[Word]:
        """A codebook with the same words and codes, which grows."""
        one: Codebook[Word] = Codebook()
        one.items, one._code = list(self.items), dict(self._code)
        return one

    def __len__(self) -> int:
        return len(self.items)

    def __getitem__(self, code: int) -> Word:
        return self.items[code]


def words_where(words: Iterable[Word], holds: Callable[[Word], bool]) -> Mask:
    """Which words meet a test. bool[words + 1]; the last is False, so that the code -1 meets none.

    Example
    -------
    >>> words_where(["main", None], lambda word: word is None)[np.array([0, 1, -1])].tolist()
    [False, True, False]
    """
    return np.array([*map(holds, words), False], dtype=bool)


def frozen(*arrays: NDArray[Any]) -> None:
    """Make arrays read-only."""
    for array in arrays:
        array.flags.writeable = False


@dataclass(frozen=True, slots=True)
class Column:
    """One detail of every page: `codes: int32[pages]` into `words`.

    Example
    -------
    >>> column = Column.of(["en", "", "en"])
    >>> column[2], column.mask({"en"}).tolist()
    ('en', [True, False, True])
    """

    codes: Codes
    words: Sequence[str]

    @classmethod
    def of(cls, texts: Iterable[str]) -> Column:
        """The column of these texts."""
        code = dict[str, int]()
        return cls(np.array([code.setdefault(text, len(code)) for text in texts], dtype=np.int32), [*code])

    @classmethod
    def blank(cls, pages: int) -> Column:
        """A column that is blank for every page."""
        return cls(np.zeros(pages, dtype=np.int32), [""])

    def __getitem__(self, page: int) -> str:
        return self.words[int(self.codes[page])]

    def __iter__(self) -> Iterator[str]:
        return iter(self.texts())

    def __len__(self) -> int:
        return len(self.codes)

    def take(self, order: NDArray[np.integer]) -> Column:
        """This column with its pages in another order."""
        return Column(self.codes[order], self.words)

    def changed(self, change: Callable[[str], str]) -> Column:
        """The column with every word changed; words that become equal become one."""
        after = [change(word) for word in self.words]
        if all(one == other for one, other in zip(after, self.words, strict=True)):
            return self
        words: Codebook[str] = Codebook()
        codes = np.array([words.code(word) for word in after], dtype=np.int32)
        return Column(codes[self.codes] if len(codes) else self.codes, words.items)

    def mask(self, texts: Iterable[str]) -> Mask:
        """Where one of the texts stands. bool[pages]"""
        wanted = set(texts)
        return self.where([word in wanted for word in self.words])

    def where(self, holds: Sequence[bool]) -> Mask:
        """Where the page's word is marked in `holds` (bool[words]). bool[pages]"""
        table = np.array(holds, dtype=bool)
        return table[self.codes] if len(table) else np.zeros(len(self.codes), dtype=bool)

    def texts(self) -> list[str]:
        """The text of every page."""
        words = list(self.words)
        return [words[code] for code in self.codes.tolist()]


def distinct(keys: NDArray[np.int64]) -> tuple[NDArray[np.int64], Codes]:
    """The first place of each different key, in the order of the keys, and for each place the number of its key.

    (`numpy.unique` gives the same, but imports more than a small answer can wait for.)

    `keys`: int64[n]. Returns int64[different]. Returns int32[n].

    Example
    -------
    >>> first, codes = distinct(np.array([7, 3, 7, 9]))
    >>> first.tolist(), codes.tolist()
    ([1, 0, 3], [1, 0, 1, 2])
    """
    low, high = (int(keys.min()), int(keys.max())) if len(keys) else (0, 0)
    if high - low < len(keys):  # few different keys are counted, which is ten times as fast as sorting
        first = np.full(high - low + 1, -1, dtype=np.int64)
        first[keys[::-1] - low] = np.arange(len(keys))[::-1]  # the last one written is the first place
        is_used = first >= 0
        return first[is_used], (np.cumsum(is_used, dtype=np.int32) - 1)[keys - low]
    order = sorted_by(keys)
    ordered = keys[order]
    begins = run_begins(ordered)
    codes = np.empty(len(keys), dtype=np.int32)
    codes[order] = np.cumsum(begins) - 1
    return order[begins], codes


def used_codes(codes: NDArray[np.integer], words: int) -> tuple[NDArray[np.intp], Codes]:
    """The codes that stand somewhere, in their order, and for each place the number of its code among them.

    It does what `distinct` does, for many codes of not too many words. `codes`: int[n], each below `words`.

    Example
    -------
    >>> used, codes = used_codes(np.array([7, 3, 7]), 9)
    >>> used.tolist(), codes.tolist()
    ([3, 7], [1, 0, 1])
    """
    is_used = np.bincount(codes, minlength=words) > 0
    return np.flatnonzero(is_used), (np.cumsum(is_used, dtype=np.int32) - 1)[codes]


def distinct_rows(columns: Sequence[NDArray[np.integer]]) -> tuple[NDArray[np.int64], Codes]:
    """The first place of each different row of several columns, and for each place the number of its row.

    `columns`: int[n] each. Returns int64[different] and int32[n].

    Example
    -------
    >>> first, codes = distinct_rows([np.array([1, 0, 1]), np.array([-1, 4, -1])])
    >>> first.tolist(), codes.tolist()
    ([1, 0], [1, 0, 1])
    """
    codes, first = np.zeros(len(columns[0]), dtype=np.int64), np.zeros(0, dtype=np.int64)
    for column in columns:
        low, high = int(column.min(initial=0)), int(column.max(initial=0))
        first, which = distinct(codes * (high - low + 1) + column.astype(np.int64) - low)
        codes = which.astype(np.int64)
    return first, codes.astype(np.int32)
