"""Edits of CSV as text: one line of it, as it would be without a statement, or with another value."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from pathlib import Path

import numpy as np

from davlo.core.site.values import Raw

from ..read.csv_sheets import MARK_WORDS
from .yaml_edits import CannotEdit

BLOCK = 1 << 24
_VALUE, _SETTING = "value", "setting"


class SheetText:
    """A CSV file of which single lines are read and changed; a large one is not held.

    Parameters
    ----------
    path : Path

    Raises
    ------
    OSError
        If it cannot be read.
    """

    LOCK = "lock"

    def __init__(self, path: Path) -> None:
        self._path = path
        found, at = [np.zeros(1, dtype=np.int64)], 0
        with path.open("rb") as file:
            while block := file.read(BLOCK):
                found.append(np.flatnonzero(np.frombuffer(block, dtype=np.uint8) == ord("\n")) + at + 1)
                at += len(block)
        starts = np.concatenate(found)
        self._starts = starts if starts[-1] == at else np.append(starts, at)
        self.count = len(self._starts) - 1
        head = self.line(1).lstrip("\ufeff")
        self.between = max(MARK_WORDS, key=head.count)
        self.columns = self._cells(head)

    def line(self, number: int) -> str:
        """The text of a line, its end included; of the one after the last, nothing.

        Raises
        ------
        CannotEdit
            If there is no such line, or it is no UTF-8.
        """
        if number == self.count + 1:
            return ""
        if not 1 <= number <= self.count:
            raise CannotEdit("there is no such line")
        with self._path.open("rb") as file:
            file.seek(int(self._starts[number - 1]))
            content = file.read(int(self._starts[number] - self._starts[number - 1]))
        try:
            return content.decode("utf-8")
        except UnicodeDecodeError:
            raise CannotEdit("the line is no UTF-8") from None

    def without(self, line: str, name: str) -> str:
        """What stays of a line without what it says of a setting: nothing, or the row with that cell blank."""
        return "" if _SETTING in self.columns else self.change(line, name, "")

    def change(self, line: str, name: str, value: Raw) -> str:
        """A line with another value in its cell of a column; a row that is one statement, with another value.

        Raises
        ------
        CannotEdit
            If there is no such cell, or it goes on in the next line.
        """
        if line.count('"') % 2:
            raise CannotEdit("a cell goes on in the next line")
        column = _VALUE if _SETTING in self.columns and name != self.LOCK else name
        mark = "\ufeff" if line.startswith("\ufeff") else ""
        cells = self._cells(line.removeprefix(mark))
        if column not in self.columns or self.columns.index(column) >= len(cells):
            raise CannotEdit("the row has no such cell")
        cells[self.columns.index(column)] = cell(value)
        return mark + self._row(cells, line[len(line.rstrip("\r\n")) :])

    def row(self, cells: Mapping[str, Raw]) -> str:
        """A row more, as a line to stand after the last.

        Raises
        ------
        CannotEdit
            If a column is missing, or the last line has no end.
        """
        if not cells.keys() <= set(self.columns):
            raise CannotEdit("there are no such columns")
        last = self.line(self.count)
        end = last[len(last.rstrip("\r\n")) :]
        if not end:
            raise CannotEdit("the last line has no end")
        return self._row([cell(cells.get(name, "")) for name in self.columns], end)

    def _cells(self, line: str) -> list[str]:
        return next(csv.reader([line], delimiter=self.between), [])

    def _row(self, cells: list[str], end: str) -> str:
        row = io.StringIO()
        csv.writer(row, delimiter=self.between, lineterminator=end).writerow(cells)
        return row.getvalue()


def cell(value: Raw) -> str:
    """A value as a cell holds it.

    Raises
    ------
    CannotEdit
        If no cell can hold it.

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
        raise CannotEdit("a cell cannot say it")
    return f"{sign} {cell(next(iter(value.values())))}"
