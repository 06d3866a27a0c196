"""Statements in CSV: values.csv, stamps.csv, and the inventory's own columns."""

from __future__ import annotations

import datetime

import numpy as np
from numpy.typing import NDArray

from davlo.core.catalogue import Catalogue, Setting
from davlo.core.facts import Types
from davlo.core.faults import Place, UnknownName, ValueFault
from davlo.core.statements import SAID_STEP, Scope, Stated
from davlo.core.tree import Tree
from davlo.core.values import REFERENCES, YES_NO, ByDepth, Change, Reference, Value, read_cell

from .cells import Sheet
from .scopes import Book, Entry, Target

VALUES_COLUMNS = ("where", "setting", "value")
STAMPS_COLUMNS = ("path", "setting", "value")
KNOWN_LATER = ("person", "group")
"""Kinds whose names a CSV file may hold after they are gone: a finding, not an error."""


def cell_value(setting: Setting, text: str) -> Value:
    """What a cell says; an owner or group that is no longer known is kept."""
    text = text if setting.kind == "text" else text.strip()
    if setting.kind in KNOWN_LATER and text not in ("none", *REFERENCES):
        return text
    return read_cell(setting, text)


def read_values(sheet: Sheet, tree: Tree, types: Types, book: Book) -> None:
    """values.csv: a statement a row."""
    reader = book.reader
    for column in sheet.header:
        if column and column not in (*VALUES_COLUMNS, "lock", "because"):
            reader.fault(
                Place(sheet.file, 1),
                f"there is no column {column!r} here",
                column,
                (*VALUES_COLUMNS, "lock", "because"),
            )
    rows = zip(*(sheet.texts(column) for column in (*VALUES_COLUMNS, "lock", "because")), strict=True)
    named = [where.strip().partition(" ")[2].strip() for where in sheet.texts("where")]
    pages = tree.find_all(named).tolist()
    values: dict[tuple[int, str], Value] = {}  # what stands in many rows is read once
    for row, (where, name, text, lock, because) in enumerate(rows):
        target = _target(where.strip(), pages[row], sheet.place(row, "where"), types, book)
        number = _setting(name.strip(), sheet.place(row, "setting"), book)
        locked = lock.strip().lower()
        if locked and locked not in YES_NO:
            reader.fault(sheet.place(row, "lock"), f"lock takes yes, no or nothing, not {lock!r}")
        is_lock = YES_NO.get(locked, False)
        if target and is_lock and target.scope == Scope.HERE:
            hint = "take the yes away; nothing is stronger than here"
            reader.fault(sheet.place(row, "lock"), "a lock in here means nothing", hint=hint)
        if not text.strip():
            hint = "write none for an explicit nothing, <empty> for the empty text, or take the row away"
            reader.fault(sheet.place(row, "value"), "the row says nothing", hint=hint)
        elif target and number is not None:
            if (number, text) not in values:
                try:
                    values[number, text] = cell_value(book.catalogue[number], text)
                except ValueFault as error:
                    reader.value_fault(sheet.place(row, "value"), error)
                    continue
            value = values[number, text]
            book.say(target, Entry(number, value, sheet.place(row), is_lock and target.scope != Scope.HERE), because)


def _setting(name: str, place: Place, book: Book) -> int | None:
    try:
        return book.catalogue.number(name)
    except UnknownName as error:
        book.reader.unknown(place, error)
        return None


def _target(where: str, page: int, place: Place, types: Types, book: Book) -> Target | None:
    """The scope that `where` names; `page` is the number of the page that it may name."""
    word, _, rest = where.partition(" ")
    rest = rest.strip()
    if where == "everywhere":
        return Target(Scope.EVERYWHERE, 0, "")
    if word == "type" and rest:
        if rest not in types.declared and rest != "page":
            book.reader.fault(place, f"there is no type {rest!r}", rest, tuple(types.declared))
            return None
        return Target(Scope.TYPE, types.find(rest), rest)
    if word in ("below", "here") and rest.startswith("/"):
        return Target(Scope.BELOW if word == "below" else Scope.HERE, page, rest)
    told = "everywhere, type NAME, below PATH or here PATH"
    book.reader.fault(place, f"where takes {told}, not {where!r}", word, ("everywhere", "type", "below", "here"))
    return None


def read_stamps(sheet: Sheet, tree: Tree, book: Book) -> None:
    """stamps.csv: a stamp a row."""
    reader, catalogue = book.reader, book.catalogue
    first: dict[tuple[str, int], int] = {}
    paths = sheet.column("path").changed(str.strip).texts()
    pages = tree.find_all(paths).tolist()
    rows = zip(paths, *(sheet.texts(column) for column in ("setting", "value", "on")), strict=True)
    for row, (path, name, text, date) in enumerate(rows):
        number = _setting(name.strip(), sheet.place(row, "setting"), book)
        if not path.startswith("/"):
            reader.fault(sheet.place(row, "path"), f"a path starts with /, not {path!r}")
        if date and not _is_date(date):
            reader.fault(sheet.place(row, "on"), f"on takes a date like 2026-05-01, not {date!r}")
        if number is None:
            continue
        if (path, number) in first:
            what = f"{path} has a second stamp of {catalogue[number].name}; the first is at line {first[path, number]}"
            reader.fault(sheet.place(row), what)
            continue
        first[path, number] = int(sheet.lines[row])
        if not text.strip():
            reader.fault(
                sheet.place(row, "value"), "the stamp has no value", hint="write none, or <empty> for the empty text"
            )
            continue
        try:
            value = cell_value(catalogue[number], text)
            if isinstance(value, Reference | Change | ByDepth):
                raise ValueFault(f"a stamp is a plain value, not {text!r}")
        except ValueFault as error:
            reader.value_fault(sheet.place(row, "value"), error)
            continue
        if catalogue[number].flow == "stamped":
            book.stated.append(Stated(number, Scope.STAMP, pages[row], value, sheet.place(row), step=SAID_STEP))


def _is_date(text: str) -> bool:
    try:
        datetime.date.fromisoformat(text.strip()[:10])
    except ValueError:
        return False
    return True


def setting_columns(sheet: Sheet, catalogue: Catalogue, book: Book) -> dict[str, int]:
    """The columns of an inventory that are named as settings, with the settings' numbers."""
    found = {}
    for column in sheet.columns:
        if catalogue.could_be(column):
            number = _setting(column, Place(sheet.file, 1, column), book)
            if number is not None:
                found[column] = number
    return found


def read_cells(sheet: Sheet, page_of_row: NDArray[np.int64], columns: dict[str, int], book: Book) -> None:
    """What pages say of themselves in the inventory. Each different word of a column is read once."""
    for name, number in columns.items():
        setting, column = book.catalogue[number], sheet.columns[name]
        values: list[Value | ValueFault] = []
        for word in column.words:
            try:
                values.append(cell_value(setting, word) if word.strip() else None)
            except ValueFault as error:
                values.append(error)
        says = column.where([bool(word.strip()) for word in column.words])
        for row in np.flatnonzero(says).tolist():
            value, page = values[int(column.codes[row])], int(page_of_row[row])
            if isinstance(value, ValueFault):
                book.reader.value_fault(sheet.place(row, name), value)
            elif page >= 0:
                path = sheet.columns["path"][row]
                book.say(Target(Scope.HERE, page, path), Entry(number, value, sheet.place(row)))
