"""The inventory: the pages, their facts and their place in the tree."""

from __future__ import annotations

import datetime
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, ValueFault
from davlo.core.site.facts import STANDARD, Columns, Facts
from davlo.core.site.numbers import number_of, with_point
from davlo.core.site.tree import Tree, build_tree
from davlo.core.site.types import Type, Types

from .csv_sheets import Sheet
from .node_reader import Reader
from .page_paths import Paths


class Inventory(NamedTuple):
    """The tree, and what becomes of the rows: `order: int64[pages]` the row of each page, and the page of each row."""

    tree: Tree
    order: NDArray[np.int64]
    page_of_row: Codes


Number = TypeVar("Number", bound=np.generic)
PATHS = ("path", "parent", "translates")
"""The facts that name a page."""


def read_inventory(sheet: Sheet, paths: Paths, reader: Reader) -> Inventory:
    """The pages of a sheet as a tree."""
    for name in STANDARD:
        if name in sheet.columns:
            column = sheet.columns[name]
            sheet.columns[name] = paths.column(column) if name in PATHS else _stripped(column)
    paths.tell(reader, sheet.file)
    planted = build_tree(
        Texts.of_column(sheet.columns["path"]),
        sheet.column("parent"),
        sheet.lines,
        lambda line, column: Place(sheet.file, line, column),
    )
    reader.faults += planted.faults
    return Inventory(planted.tree, planted.order, planted.page_of_row)


def _stripped(column: Column) -> Column:
    if isinstance(column.words, Texts):
        return Column(column.codes, column.words.stripped())
    return column.changed(str.strip)


def read_facts(
    sheet: Sheet, inventory: Inventory, types: dict[str, Type], settings: set[str], home: str, reader: Reader
) -> Facts:
    """The facts of all pages, in the order of the tree. `settings` are the columns that hold none."""
    columns = {}
    for name in (*STANDARD[1:], *sheet.columns):
        if name not in settings and name != "path" and name not in columns:
            columns[name] = sheet.column(name)
    sheet.read("status", _status, reader)
    for name in ("created", "modified"):
        sheet.read(name, lambda word, name=name: _date(name, word), reader)  # type: ignore[misc]
    ranks = np.array(sheet.read("order", _order, reader), dtype=np.float64)
    columns["type"] = columns["type"].changed(lambda word: word or "page")
    columns["status"] = columns["status"].changed(lambda word: word or "live")
    kind = columns["type"]
    found = Types(types, kind.words)
    numbers = np.array([found.find(word) for word in kind.words], dtype=np.intp)
    ordered = Columns(columns, inventory.order)
    type_of, order = _each(numbers, kind, inventory.order), _each(ranks, columns["order"], inventory.order)
    return Facts(ordered, found, type_of, order, inventory.tree.find(home))


def _each(by_word: NDArray[Number], column: Column, rows: NDArray[np.int64]) -> NDArray[Number]:
    """What the word of each of these rows means. [rows]"""
    if len(by_word) < 2:  # most sites say nothing of some facts
        return np.full(len(rows), by_word[0] if len(by_word) else 0, dtype=by_word.dtype)
    return by_word[column.codes.astype(np.intp)][rows]


def _status(word: str) -> None:
    if word not in ("", "live", "draft"):
        raise ValueFault(f"status takes live or draft, not {word!r}", word, ("live", "draft"))


def _date(column: str, word: str) -> None:
    try:
        if word:
            datetime.datetime.fromisoformat(word)
    except ValueError:
        raise ValueFault(f"{column} takes a date like 2026-05-01 (ISO 8601), not {word!r}") from None


def _order(word: str) -> float:
    if not word:
        return np.inf
    number = number_of(word)
    if number is None:
        raise ValueFault(f"order takes a number, not {word!r}", hint=with_point(word))
    return number
