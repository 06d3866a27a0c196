"""The page list: the pages, their details and their place in the tree."""

from __future__ import annotations

import datetime
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes, Column
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, ValueFault
from davlo.core.outcomes.sitemap.addresses import is_web_address
from davlo.core.site.pages.details import STANDARD, STATUSES, Columns, Details
from davlo.core.site.pages.page_names import PageNames
from davlo.core.site.pages.repeated_rows import Rows
from davlo.core.site.pages.tree import Tree, build_tree
from davlo.core.site.pages.types import Type, Types
from davlo.core.site.settings.numbers import number_of, with_point

from ..yaml.node_reader import Reader
from .csv_sheets import Sheet
from .page_paths import Paths


class PageList(NamedTuple):
    """The tree, and what becomes of the rows."""

    tree: Tree
    order: NDArray[np.int64]  # int64[pages]: the row of each page
    page_of_row: Codes  # int32[rows]: the page of each row, -1 where it is none
    written: Texts | None  # the path of each page as its row has it; None if all rows have just the path
    # `twin_lines`, `fragment_lines`: int32[n, 2]: the lines of rows that repeat another row's page, each with the line
    # of that row
    twin_lines: Codes
    fragment_lines: Codes


Number = TypeVar("Number", bound=np.generic)
PATHS = ("parent", "translates", "leads_to")
"""The details that name another page."""


def read_page_list(sheet: Sheet, paths: Paths, reader: Reader) -> PageList:
    """The pages of a sheet as a tree."""
    for name in STANDARD[1:]:
        if name in sheet.columns:
            column = sheet.columns[name]
            sheet.columns[name] = paths.column(column) if name in PATHS else _stripped(column)
    path, written, fragment = paths.cells(sheet.columns["path"])
    sheet.columns["path"] = path
    paths.tell(reader, sheet.file)
    planted = build_tree(
        Texts.of_column(path),
        sheet.column("parent"),
        sheet.lines,
        lambda line, column: Place(sheet.file, line, column),
        Rows({name: column for name, column in sheet.columns.items() if name != "path"}, fragment),
    )
    reader.faults += planted.faults
    row, first, agrees = planted.repeats
    if len(row):
        example = f"{path[int(row[0])]} at line {int(sheet.lines[row[0]])}"
        rows = "1 row is" if len(row) == 1 else f"{len(row)} rows are"
        reader.note(sheet.file, f"{rows} left out, since another row names the same page (as {example})")
    twins, others = (np.stack([sheet.lines[row[some]], sheet.lines[first[some]]], axis=1) for some in (agrees, ~agrees))
    return PageList(
        planted.tree,
        planted.order,
        planted.page_of_row,
        None if written is None else Texts.of_column(written).take(planted.order),
        twins,
        others,
    )


def _stripped(column: Column) -> Column:
    if isinstance(column.words, Texts):
        return Column(column.codes, column.words.stripped())
    return column.changed(str.strip)


def read_details(
    sheet: Sheet, page_list: PageList, types: dict[str, Type], settings: set[str], home: str, reader: Reader
) -> Details:
    """The details of all pages, in the order of the tree. Columns in `settings` are no details."""
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
    ordered = Columns(columns, page_list.order)
    type_of, order = _each(numbers, kind, page_list.order), _each(ranks, columns["order"], page_list.order)
    sheet.read("leads_to", _leads_to, reader)
    sheet.read("address", lambda word: _address(word, reader.names), reader)
    written = page_list.tree.paths if page_list.written is None else page_list.written
    return Details(ordered, found, type_of, order, page_list.tree.find(home), written)


def _each(by_word: NDArray[Number], column: Column, rows: NDArray[np.int64]) -> NDArray[Number]:
    """The meaning of the word in each of these rows. [rows]"""
    if len(by_word) < 2:  # most sites leave some details blank
        return np.full(len(rows), by_word[0] if len(by_word) else 0, dtype=by_word.dtype)
    return by_word[column.codes.astype(np.intp)][rows]


def _status(word: str) -> None:
    if word and word not in STATUSES:
        raise ValueFault(f"status takes live, draft or folder, not {word!r}", word, STATUSES)


def _leads_to(word: str) -> None:
    if word and not (word.startswith("/") or is_web_address(word)):
        raise ValueFault(
            f"leads_to takes a page of the site or an address, not {word!r}", hint="begin with / or https://"
        )


def _address(word: str, names: PageNames) -> None:
    if word and not names.path(word).startswith("/"):
        what = f"address takes what is published of the page, a path or an address of the site, not {word!r}"
        raise ValueFault(what, hint="a page that only leads elsewhere has leads_to")


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
