"""Statements in CSV: values.csv, stamps.csv, and the page list's own columns. Each different word is read once."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from contextlib import suppress

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, Column, Mask, distinct
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, UnknownName, ValueFault
from davlo.core.site.settings.catalogue import GrowingCatalogue
from davlo.core.site.settings.parse_values import check_scope, keeping_roles, read_cell
from davlo.core.site.settings.scopes import ScopeKind
from davlo.core.site.settings.setting import FLAGS, Setting
from davlo.core.site.settings.values import REFERENCES, ByDepth, ListChange, Reference, Value
from davlo.core.site.statements.new_statements import StatementBatch

from ...form.csv_columns import STAMPS, VALUES, required
from ..sections.scope_bodies import StatementCollector
from ..yaml.node_reader import Reader
from .csv_sheets import Sheet
from .page_paths import Paths

VALUES_COLUMNS, VALUES_KNOWN = required(VALUES), tuple(VALUES)
STAMPS_COLUMNS, STAMPS_KNOWN = required(STAMPS), tuple(STAMPS)
Rows = NDArray[np.int64]
KNOWN_LATER = ("person", "group")
"""Kinds whose names may stand in a CSV file after they are gone; that is a finding, not an error."""


def cell_value(setting: Setting, text: str) -> Value:
    """What a cell says; an owner or group that is no longer known is kept."""
    text = text if setting.kind == "text" else text.strip()
    if setting.kind in KNOWN_LATER and text not in ("none", *REFERENCES):
        return text
    return read_cell(setting, text)


def read_values(sheet: Sheet, paths: Paths, collector: StatementCollector) -> None:
    """values.csv: a statement a row."""
    reader = collector.reader
    for column in sheet.header:
        if column and column not in VALUES_KNOWN:
            reader.fault(Place(sheet.file, 1), f"there is no column {column!r} here", column, VALUES_KNOWN)
    scope, target = _targets(sheet, paths, collector)
    paths.tell(reader, sheet.file)
    locked = sheet.column("lock").where([bool(lock) for lock in sheet.read("lock", _lock, reader)])
    for row in np.flatnonzero(locked & (scope == ScopeKind.HERE)).tolist():
        hint = "take the yes away; nothing is stronger than here"
        reader.fault(sheet.place(row, "lock"), "a lock in here means nothing", hint=hint)
    setting = _settings(sheet, collector)
    hint = "write none for an explicit nothing, <empty> for the empty text, or take the row away"
    speaks = _speaks(sheet, "the row says nothing", hint, reader)
    rows = np.flatnonzero((scope >= 0) & (setting >= 0) & speaks)
    _add(sheet, rows, scope[rows], target[rows], setting[rows], locked[rows], collector)


def _laid_out(column: Column, numbers: Sequence[int] | NDArray[np.integer]) -> Codes:
    """What the words of a column mean, a number for each row. int32[rows]"""
    table = np.array(numbers, dtype=np.int32)
    return table[column.codes] if len(table) else np.zeros(len(column), dtype=np.int32)


def _lock(word: str) -> bool:
    word = word.strip().lower()
    if word and word not in FLAGS:
        raise ValueFault(f"lock takes yes, no or nothing, not {word!r}")
    return FLAGS.get(word, False)


def _settings(sheet: Sheet, collector: StatementCollector) -> Codes:
    """The number of the setting that each row names, or -1. int32[rows]"""

    def number(word: str) -> int:
        try:
            return collector.catalogue.number(word.strip())
        except UnknownName as error:
            raise ValueFault(str(error), error.word, error.allowed) from None

    found = [-1 if number is None else number for number in sheet.read("setting", number, collector.reader)]
    return _laid_out(sheet.column("setting"), found)


def _speaks(sheet: Sheet, what: str, hint: str, reader: Reader) -> Mask:
    """Where the column `value` says something; where not, the fault is noted. bool[rows]"""

    def check(word: str) -> bool:
        if not word.strip():
            raise ValueFault(what, hint=hint)
        return True

    return sheet.column("value").where([bool(there) for there in sheet.read("value", check, reader)])


def _targets(sheet: Sheet, paths: Paths, collector: StatementCollector) -> tuple[Codes, Codes]:
    """The scope that each row's `where` names, or -1, and the number of what it is for. Each int32[rows]"""

    def split(where: str) -> tuple[ScopeKind, str]:
        word, _, rest = where.strip().partition(" ")
        rest = paths.word(rest) if word in ("below", "here") else rest.strip()
        if word in ("below", "here") and rest.startswith("/"):
            return (ScopeKind.BELOW if word == "below" else ScopeKind.HERE), rest
        if word == "everywhere" and not rest:
            return ScopeKind.EVERYWHERE, ""
        if word == "type" and rest:
            if rest not in collector.types.declared and rest != "page":
                raise ValueFault(f"there is no type {rest!r}", rest, tuple(collector.types.declared))
            return ScopeKind.TYPE, rest
        told = "everywhere, type NAME, below PATH or here PATH"
        raise ValueFault(f"where takes {told}, not {where!r}", word, ("everywhere", "type", "below", "here"))

    where = sheet.column("where")
    many, here = _many_here(where, paths)
    odd = np.flatnonzero(~many)
    named = _rows_of(sheet, "where", odd).read("where", split, collector.reader)
    scope = np.full(len(many), ScopeKind.HERE, dtype=np.int32)
    scope[odd] = [-1 if name is None else int(name[0]) for name in named]
    number = np.zeros(len(many), dtype=np.int32)
    number[many] = collector.pages(here)
    pages = [i for i, name in enumerate(named) if name and name[0] in (ScopeKind.BELOW, ScopeKind.HERE)]
    number[odd[pages]] = collector.pages(Texts.of(name[1] for i in pages if (name := named[i])))
    for at, name in zip(odd.tolist(), named, strict=True):
        if name and name[0] == ScopeKind.TYPE:
            number[at] = collector.types.find(name[1])
            collector.names[ScopeKind.TYPE, int(number[at])] = name[1]
    return _laid_out(where, scope), _laid_out(where, number)


def _many_here(where: Column, paths: Paths) -> tuple[Mask, Texts]:
    """Which words of a large column read `here /…`, all at once, and their paths. bool[words]"""
    words, prefix = where.words, Texts.of(["here /"])
    if not isinstance(words, Texts):
        return np.zeros(len(words), dtype=bool), Texts.of([])
    length = int(prefix.end[0])
    long = np.flatnonzero(words.end - words.start >= length)
    some = words.take(long)
    same = long[prefix.same(np.zeros(len(long), dtype=np.int64), some, some.start + length)]
    many = np.zeros(len(words), dtype=bool)
    many[same] = True
    found = words.take(same)
    column = Column(np.arange(len(same), dtype=np.int32), Texts(found.data, found.start + length - 1, found.end))
    return many, Texts.of_column(paths.column(column))


def _rows_of(sheet: Sheet, name: str, words: NDArray[np.int64]) -> Sheet:
    """The rows in which a column holds one of these words, which are numbered anew; that column alone."""
    column = sheet.column(name)
    table = np.full(len(column.words) + 1, -1, dtype=np.int32)
    table[words] = np.arange(len(words))
    codes = table[column.codes]
    rows = np.flatnonzero(codes >= 0)
    some = Column(codes[rows], [column.words[i] for i in words.tolist()])
    return Sheet(sheet.file, (name,), {name: some}, sheet.lines[rows])


def _add(
    sheet: Sheet,
    rows: Rows,
    scope: Codes,
    target: Codes,
    setting: Codes,
    locked: Mask,
    collector: StatementCollector,
    stamps: bool = False,
) -> None:
    """Statements of these rows: each different setting, scope and text is read once."""
    texts = sheet.column("value").take(rows)
    first, what = distinct((setting.astype(np.int64) * 8 + scope << 32) + texts.codes)
    said: list[tuple[int, Value]] = []
    faults: list[ValueFault | None] = []
    for row in first.tolist():
        number = int(setting[row])
        try:
            value = _said(collector.catalogue[number], ScopeKind(int(scope[row])), texts[row])
        except ValueFault as error:
            said.append((number, None))
            faults.append(error)
        else:
            said.append((number, value))
            faults.append(None)
    _note_roles(
        sheet, [(collector.catalogue[int(setting[row])], texts[row]) for row in first.tolist()], what, rows, collector
    )
    for i in np.flatnonzero(np.array([fault is not None for fault in faults], dtype=bool)[what]).tolist():
        fault = faults[int(what[i])]
        assert fault is not None
        collector.reader.value_fault(sheet.place(int(rows[i]), "value"), fault)
    because = Column.blank(len(rows)) if stamps else sheet.column("because").take(rows)
    collector.batches.append(
        StatementBatch(sheet.file, sheet.lines[rows], scope.astype(np.int8), target, what, said, locked, because)
    )


def _note_roles(
    sheet: Sheet, said: Sequence[tuple[Setting, str]], what: Codes, rows: Rows, collector: StatementCollector
) -> None:
    """Note on which lines cells name roles; `what` says for each of the rows which of the texts it holds."""
    for number, (setting, text) in enumerate(said):
        if any(role in text for role in setting.stands_for):
            with suppress(ValueFault):  # the reader of the value tells it
                said_value = cell_value(keeping_roles(setting), text)
                collector.reader.note_roles(setting, said_value, sheet.file, sheet.lines[rows[what == number]].tolist())


def _said(setting: Setting, scope: ScopeKind, text: str) -> Value:
    value = cell_value(setting, text)
    if scope == ScopeKind.STAMP and isinstance(value, Reference | ListChange | ByDepth):
        raise ValueFault(f"a stamp is a plain value, not {text!r}")
    check_scope(scope, value, setting)
    return value


def read_stamps(sheet: Sheet, paths: Paths, collector: StatementCollector) -> None:
    """stamps.csv: a stamp a row."""
    reader = collector.reader
    path = sheet.columns["path"] = paths.column(sheet.column("path"))
    paths.tell(reader, sheet.file)
    numbers = collector.pages(Texts.of(path.words))
    sheet.read("path", _path, reader)
    sheet.read("on", _date, reader)
    setting = _settings(sheet, collector)
    speaks = _speaks(sheet, "the stamp has no value", "write none, or <empty> for the empty text", reader)
    rows = np.flatnonzero((setting >= 0) & speaks)
    target = numbers[path.codes[rows]] if len(rows) else np.zeros(0, dtype=np.int32)
    scope = np.full(len(rows), ScopeKind.STAMP, dtype=np.int32)
    _add(sheet, rows, scope, target, setting[rows], np.zeros(len(rows), dtype=bool), collector, stamps=True)


def _path(word: str) -> None:
    if not word.strip().startswith("/"):
        raise ValueFault(f"a path starts with /, not {word!r}")


def _date(word: str) -> None:
    try:
        if word:
            datetime.date.fromisoformat(word.strip()[:10])
    except ValueError:
        raise ValueFault(f"on takes a date like 2026-05-01, not {word!r}") from None


def setting_columns(sheet: Sheet, catalogue: GrowingCatalogue, reader: Reader) -> dict[str, int]:
    """The columns of a page list that are named as settings, with the settings' numbers."""
    found = {}
    for column in sheet.columns:
        if catalogue.could_be(column):
            try:
                found[column] = catalogue.number(column)
            except UnknownName as error:
                reader.unknown(Place(sheet.file, 1, column), error)
    return found


def read_cells(sheet: Sheet, page_of_row: Codes, columns: dict[str, int], collector: StatementCollector) -> None:
    """What pages say of themselves in the page list."""
    for name, number in columns.items():
        setting = collector.catalogue[number]

        def value(word: str, setting: Setting = setting) -> Value:
            return _said(setting, ScopeKind.HERE, word) if word.strip() else None

        said = [(number, meaning) for meaning in sheet.read(name, value, collector.reader)]
        column = sheet.columns[name]
        rows = np.flatnonzero(column.where([bool(word.strip()) for word in column.words]) & (page_of_row >= 0))
        _note_roles(sheet, [(setting, word) for word in column.words], column.codes[rows], rows, collector)
        collector.batches.append(
            StatementBatch(
                sheet.file,
                sheet.lines[rows],
                np.full(len(rows), ScopeKind.HERE, dtype=np.int8),
                page_of_row[rows],
                column.codes[rows],
                said,
                np.zeros(len(rows), dtype=bool),
                Column.blank(len(rows)),
            )
        )
