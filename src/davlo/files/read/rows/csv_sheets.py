"""CSV files: their rows, with the line each stands on."""

from __future__ import annotations

import csv
import io
import os
import re
from collections.abc import Callable, Sequence
from io import FileIO
from pathlib import Path
from typing import NamedTuple, TypeVar

import numpy as np

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.arrays.lines import line_of, lines_of
from davlo.core.faults import Place, ValueFault

from ..site_file import KEEP_ONE, OutsideFolder, conflict_in, open_site_file, too_large
from ..yaml.node_reader import Reader
from .large_csv import LARGE, Content, parse_large

Meaning = TypeVar("Meaning")
_NO_COLUMN = re.compile(r"/|https?://|(?:below|here) /|everywhere$|type \S")
"""Beginnings of cells that show a row of data, not a header."""
UTF_16 = (b"\xff\xfe", b"\xfe\xff")
TAB = "\t"
MARK_WORDS = {",": "a comma", ";": "a semicolon", TAB: "a tab"}
SEPARATORS = tuple(MARK_WORDS)
"""The separators that may stand between cells."""


class Sheet(NamedTuple):
    """A table: its columns, and the line on which each row begins (`lines: int32[rows]`).

    Where the table is no text, `lines` holds the numbers of the rows, from 1.
    """

    file: str
    header: tuple[str, ...]
    columns: dict[str, Column]
    lines: Codes

    def place(self, row: int, column: str = "") -> Place:
        """The place of a cell."""
        return Place(self.file, int(self.lines[row]), column)

    def column(self, name: str) -> Column:
        """A column; blank throughout where the sheet lacks it."""
        found = self.columns.get(name)
        return Column.blank(len(self.lines)) if found is None else found

    def read(self, name: str, parse: Callable[[str], Meaning], reader: Reader) -> list[Meaning | None]:
        """What each word of a column means, None where `parse` raises a ValueFault; told for every row it stands in."""
        column = self.column(name)
        found: list[Meaning | None] = []
        faults: dict[int, ValueFault] = {}
        for code, word in enumerate(column.words):
            try:
                found.append(parse(word))
            except ValueFault as error:
                faults[code] = error
                found.append(None)
        if faults:
            for row in np.flatnonzero(column.where([code in faults for code in range(len(found))])).tolist():
                reader.value_fault(self.place(row, name), faults[int(column.codes[row])])
        return found

    def texts(self, name: str) -> list[str]:
        """The cells of a column."""
        return self.column(name).texts()


def read_sheet(
    folder: Path,
    name: str,
    reader: Reader,
    needed: Sequence[str],
    asked_at: Place | None,
    known: Callable[[str], bool] | None = None,
) -> Sheet | None:
    """A CSV file of the site folder; None where it cannot be read, which is noted.

    `needed` are the columns it must have, and `known` says which names mean something; `asked_at` is where a file names
    it, or None where it may be missing.
    """
    content = read_content(folder, name, reader, asked_at)
    if content is not None:
        reader.note_content(name, content)
    if content is not None and bytes(content[:2]) in UTF_16:
        text = _decode(content, "utf-16", name, reader)
        content = None if text is None else text.encode("utf-8", "surrogatepass")
    if content is None:
        return None
    line, conflict = conflict_in(content)
    if line:
        reader.fault(Place(name, line), conflict, hint=KEEP_ONE)
        return None
    between = _between(content, needed[0])
    if between != ",":
        reader.note(name, f"its cells are separated by {'tabs' if between == TAB else 'semicolons'}")
    parsed = parse_large(content, between) if len(content) >= LARGE else None
    if parsed is None:
        text = _decode(content, "utf-8-sig", name, reader)
        found = None if text is None else _read_plain(text, name, reader, between)
    else:
        content = None  # free the bytes before building columns
        found = parsed.columns()
    return None if found is None else checked_sheet(name, *found, reader, needed, known, top=1)


def read_content(folder: Path, name: str, reader: Reader, asked_at: Place | None) -> Content | None:
    """What a file of the site folder holds; None where it cannot be read, which is noted where it is asked for."""
    try:
        with open_site_file(folder, name) as file:
            try:
                return _whole(file)
            except (MemoryError, ValueError):  # NumPy reports some sizes as invalid instead of too large
                raise too_large(name) from None
    except FileNotFoundError:
        if asked_at:
            reader.fault(asked_at, f"there is no file {name} in the site folder")
    except OutsideFolder as error:
        what = f"{name} lies {error.where}" if asked_at else f"it is a link to a file {error.where}"
        reader.fault(asked_at or Place(name), what, hint="move the file into the site folder")
    except OSError as error:
        reader.fault(Place(name), f"the file cannot be read: {error.strerror}")
    return None


def _whole(file: FileIO) -> Content:
    """The bytes of a file. A large file goes into NumPy's memory, which the system hands out in large pages, faster."""
    size = os.fstat(file.fileno()).st_size
    if size < LARGE:
        return file.read()
    content = np.empty(size, dtype=np.uint8).data
    end = 0
    while end < size and (read := file.readinto(content[end:])):
        end += read
    if end == size and not file.read(1):
        return content
    file.seek(0)
    return file.read()  # another program is writing it


def _decode(content: Content, encoding: str, name: str, reader: Reader) -> str | None:
    try:
        return str(content, encoding)
    except UnicodeDecodeError as error:
        line = line_of(str(content[: error.start + 1], "latin-1"), error.start)
        hint = "save it as UTF-8 (in a spreadsheet: CSV UTF-8)"
        reader.fault(Place(name, line), "the file is neither UTF-8 nor UTF-16", hint=hint)
        return None


def _between(content: Content, needed: str) -> str:
    """The separator: the one that gives the first line a column with an expected name (default: a comma).

    Spreadsheets write semicolons where people write decimals with a comma, and tabs in UTF-16.
    """
    for line in lines_of(bytes(content[: 1 << 16]).decode("utf-8-sig", "replace")):
        if line.strip():
            for mark in SEPARATORS:
                if needed in (cell.strip(' "').lower() for cell in line.strip("\r\n").split(mark)):
                    return mark
            break
    return ","


def _read_plain(
    text: str, name: str, reader: Reader, between: str = ","
) -> tuple[tuple[str, ...], list[Column], Codes] | None:
    """The header, the columns and the line of each row, row by row; None where this is no CSV."""
    if "\0" in text:
        reader.fault(Place(name), "the file holds NUL characters; it is no CSV")
        return None
    csv.field_size_limit(1 << 27)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=between, strict=True)
    lines: list[int] = []
    kept: list[list[str]] = []
    header: tuple[str, ...] = ()
    try:
        before = 0
        for row in rows:
            begins, before = before + 1, rows.line_num
            if not any(cell.strip() for cell in row):
                continue
            if not header:
                header = tuple(cell.strip() for cell in row)
                continue
            if len(row) > len(header) and any(cell.strip() for cell in row[len(header) :]):
                what = f"the row has {len(row)} cells, and the header {len(header)} columns"
                reader.fault(Place(name, begins), what, hint=f"put a text with {MARK_WORDS[between]} in it in quotes")
            elif len(row) < len(header):
                what = f"the row has {len(row)} of {len(header)} cells, so what is in which column is not sure"
                reader.fault(Place(name, begins), what, hint=_missing_cells(row, between, len(header)))
            kept.append([*row[: len(header)], *[""] * (len(header) - len(row))])
            lines.append(begins)
    except csv.Error as error:
        reader.fault(Place(name, rows.line_num), f"this is not CSV: {error}")
        return None
    by_column = list(zip(*kept, strict=True)) if kept else [()] * len(header)
    return header, [Column.of(cells) for cells in by_column], np.array(lines, dtype=np.int32)


def _missing_cells(row: Sequence[str], between: str, columns: int) -> str:
    """What was probably meant by a row with too few cells: another separator, or blank cells at its end."""
    for mark in SEPARATORS:
        if mark != between and sum(cell.count(mark) for cell in row) + len(row) == columns:
            return f"its cells are separated by {MARK_WORDS[mark]}: write {MARK_WORDS[between]}"
    return f"end it with {between * (columns - len(row))} for blank cells"


def checked_sheet(
    name: str,
    header: tuple[str, ...],
    columns: list[Column],
    lines: Codes,
    reader: Reader,
    needed: Sequence[str],
    known: Callable[[str], bool] | None = None,
    top: int = 0,
) -> Sheet | None:
    """The sheet, where its header has each column once and those that are needed; names in capitals are read in small.

    `known` says whether a column's name means something (default: the needed names do). `top` is the line on
    which the names stand; 0 where they stand on none.
    """
    before = len(reader.faults)
    if not header:
        what = "the file is empty" if top else "there are no columns"
        reader.fault(Place(name), what, hint=f"its first row names the columns: {','.join(needed)}")
        return None
    means = known or (lambda column: column in needed)
    renamed = {c: c.lower() for c in header if c != c.lower() and not means(c) and means(c.lower())}
    header = tuple(renamed.get(column, column) for column in header)
    if renamed:
        words = "the column" if len(renamed) == 1 else "the columns"
        reader.note(name, f"{words} {', '.join(renamed)} read as {', '.join(renamed.values())}")
    for i, column in enumerate(header):
        if column and column in header[:i]:
            reader.fault(Place(name, top), f"there are two columns called {column}")
    missing = [column for column in needed if column not in header]
    if missing and any(_NO_COLUMN.match(column) for column in header):
        what = f"the first row names no columns: it begins with {header[0]!r}"
        reader.fault(Place(name, top), what, hint=f"put a row above it that names them, as {','.join(needed)}")
        return None
    for column in missing:
        reader.fault(Place(name, top), f"the column {column} is missing", column, header)
    if len(reader.faults) > before:
        return None
    return Sheet(name, header, {title: cells for title, cells in zip(header, columns, strict=True) if title}, lines)
