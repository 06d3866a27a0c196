"""Edits of CSV as text: a line without a statement, or with another value."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Iterator, Mapping
from itertools import pairwise
from typing import BinaryIO

import numpy as np

from davlo.core.arrays.lines import line_ends
from davlo.core.site.settings.values import Raw
from davlo.frames.csv_lines import write_csv

from ..read.digests import digest_of
from ..read.rows.csv_sheets import MARK_WORDS
from .cannot_rewrite import CannotRewrite

BLOCK = 1 << 24
_VALUE, _SETTING = "value", "setting"
_OF_STATEMENTS = ("where", "path", "lock", "because", "on", "source")
"""The other columns of sheets of statements; none is called as a setting."""
EMPTY = "<empty>"


class SheetText:
    """A CSV file of which single lines are read and changed; a large one is not held.

    `open_file`: opens the file to read its bytes. `digest`: of the bytes that were read first. Raises
    OSError if it cannot be read.
    """

    LOCK = "lock"

    def __init__(self, open_file: Callable[[], BinaryIO]) -> None:
        self._file = open_file()  # it stays open: a change may ask for very many lines
        self.is_new = False
        self._begin(iter(lambda: self._file.read(BLOCK), b""))

    @classmethod
    def of(cls, content: str) -> SheetText:
        """A file that does not exist yet, with these contents."""
        one = cls(lambda: io.BytesIO(content.encode()))
        one.is_new = True
        return one

    def _begin(self, blocks: Iterable[bytes]) -> None:
        found, at, returns = [np.zeros(1, dtype=np.int64)], 0, False

        def seen() -> Iterator[bytes]:
            nonlocal at, returns
            for block in blocks:
                found.append(line_ends(block, returns) + at)
                at, returns = at + len(block), block.endswith(b"\r")
                yield block

        self.digest = digest_of(seen())
        starts = np.concatenate(found) if not returns else np.append(np.concatenate(found), at)
        self._starts = starts if starts[-1] == at else np.append(starts, at)
        self.count = len(self._starts) - 1
        head = self.line(1).lstrip("\ufeff")
        self.between = max(MARK_WORDS, key=head.count)
        self.columns = self._cells(head)

    @property
    def is_statements(self) -> bool:
        """Whether each row is a statement, with columns for its setting and its value."""
        return _SETTING in self.columns

    def says(self, line: str, name: str) -> bool:
        """Whether a line still says a setting: a row is there, or its cell is not blank."""
        if self.is_statements or not line:
            return bool(line.strip())
        cells = self._cells(line.removeprefix("\ufeff"))
        return name in self.columns and bool(cells[self.columns.index(name)].strip())

    def lines_with(self, text: str) -> list[int]:
        """The numbers of the lines that hold a text."""
        content = self._content(0, int(self._starts[-1]))
        found, at = [], content.find(text.encode())
        while at >= 0:
            number = int(np.searchsorted(self._starts, at, "right"))
            found.append(number)
            at = content.find(text.encode(), int(self._starts[number]) if number < len(self._starts) else len(content))
        return found

    def cell(self, line: str, name: str) -> str:
        """The cell of a line in a column; empty where the row has none."""
        cells = self._cells(line.removeprefix("\ufeff"))
        place = self.columns.index(name) if name in self.columns else len(cells)
        return cells[place] if place < len(cells) else ""

    def line(self, number: int) -> str:
        """The text of a line, its end included; of the one after the last, nothing."""
        if number == self.count + 1:
            return ""
        if not 1 <= number <= self.count:
            raise CannotRewrite("there is no such line")
        begin, end = int(self._starts[number - 1]), int(self._starts[number])
        try:
            return self._content(begin, end).decode("utf-8")
        except UnicodeDecodeError:
            raise CannotRewrite("the line is no UTF-8") from None

    def _content(self, begin: int, end: int) -> bytes:
        """Some bytes of the file."""
        self._file.seek(begin)
        return self._file.read(end - begin)

    def add_column(self, name: str) -> None:
        """Add a column after the last; `widened` makes room for it in lines that are there."""
        self.columns = [*self.columns, name]

    def lines(self) -> list[str]:
        """All lines, each with its end.

        Raises CannotRewrite if one is no UTF-8.
        """
        content = self._content(0, int(self._starts[-1]))
        try:
            return [content[begin:end].decode("utf-8") for begin, end in pairwise(self._starts.tolist())]
        except UnicodeDecodeError:
            raise CannotRewrite("a line is no UTF-8") from None

    def widened(self, row: str, text: str = "") -> str:
        """A row with one cell more."""
        end = row[len(row.rstrip("\r\n")) :]
        return f"{row[: len(row) - len(end)]}{self.between}{text}{end}"

    def without(self, line: str, name: str) -> str:
        """A line without what it says about a setting: nothing, or the row with that cell blank."""
        return "" if self.is_statements else self.change(line, name, "")

    def change(self, line: str, name: str, value: Raw, by_name: bool = False) -> str:
        """A line with another value in its cell of a column; a row that is one statement, with another value.

        With `by_name` the cell is always that of the column of this name.
        """
        if line.count('"') % 2:
            raise CannotRewrite("a cell goes on in the next line")
        column = _VALUE if self.is_statements and name not in _OF_STATEMENTS and not by_name else name
        mark = "\ufeff" if line.startswith("\ufeff") else ""
        cells = self._cells(line.removeprefix(mark))
        if column not in self.columns or self.columns.index(column) >= len(cells):
            raise CannotRewrite("the row has no such cell")
        cells[self.columns.index(column)] = cell(value)
        return mark + self._row(cells, line[len(line.rstrip("\r\n")) :])

    def row(self, cells: Mapping[str, Raw]) -> str:
        """One more row, as a line to put after the last.

        Raises CannotRewrite if a column is missing.
        """
        if not cells.keys() <= set(self.columns):
            raise CannotRewrite("there are no such columns")
        return self._row([cell(cells.get(name, "")) for name in self.columns], self.newline)

    def page_of(self, row: str) -> str:
        """The page that a row names; empty if it names none."""
        cells = dict(zip(self.columns, self._cells(row), strict=False))
        return cells["path"] if "path" in cells else cells.get("where", "").partition(" ")[2]

    @property
    def newline(self) -> str:
        """What ends its lines."""
        first = self.line(1)
        return first[len(first.rstrip("\r\n")) :] or "\n"

    @property
    def is_open(self) -> bool:
        """Whether its last line has no end, so that one must come before another row."""
        return not self.line(self.count).endswith(("\r", "\n"))

    def _cells(self, line: str) -> list[str]:
        return next(csv.reader([line], delimiter=self.between), [])

    def _row(self, cells: list[str], end: str) -> str:
        row = io.StringIO()
        write_csv(row, [cells], self.between, end)
        return row.getvalue()


def value_cell(value: Raw) -> Raw:
    """A value for a cell. The empty text becomes `<empty>`, since a blank cell says nothing."""
    return EMPTY if value == "" else value


def is_csv(file: str) -> bool:
    """Whether a file of a site is CSV, by its name."""
    return file.lower().endswith(".csv")


def cell(value: Raw) -> str:
    """A value as a cell holds it.

    Raises CannotRewrite if no cell can hold it.

    Example
    -------
    >>> cell(["view", "edit"]), cell({"add": ["edit"]}), cell("no")
    ('view; edit', '+ edit', 'no')
    """
    if isinstance(value, str):
        return value
    if isinstance(value, list):
        return "; ".join(map(cell, value)) or "none"
    sign = {"add": "+", "remove": "-"}.get(next(iter(value), ""))
    if len(value) != 1 or sign is None:
        raise CannotRewrite("a cell cannot say it")
    return f"{sign} {cell(next(iter(value.values())))}"
