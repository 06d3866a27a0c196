"""A site whose page list has other rows: pages that are new, gone, or moved."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Column
from ...arrays.grouping import sorted_by
from ...arrays.texts import Texts
from ...faults import Fault, Place, SiteError, UnknownName
from ...site.model import SiteModel
from ...site.pages.details import STANDARD, STATUSES, STRUCTURAL, Columns, Details
from ...site.pages.tree import build_tree
from ...site.settings.numbers import number_of
from ...site.settings.scopes import OF_PAGES
from ...site.statements.statement_table import Statements
from .rebuild import with_types

Model = TypeVar("Model", bound=SiteModel)
NEW = Place("the new page")
"""The place given for a page that is in no file."""
BLANK_MEANS = {"type": "page", "status": "live"}
"""What a blank cell of a detail means."""


class NewRow(NamedTuple):
    """A row to add: a path as it shall be written, and its details."""

    path: str
    details: Mapping[str, str]


def replanted(
    site: Model,
    *,
    paths: Mapping[int, str] | None = None,
    cells: Mapping[str, Mapping[int, str]] | None = None,
    gone: NDArray[np.bool_] | None = None,
    new: Sequence[NewRow] = (),
    any_type: bool = False,
) -> tuple[Model, Codes]:
    """The site whose page list has other rows, and for each page of the site before its number; -1: it is gone.

    `paths`: other paths for pages, by their numbers. `cells`: for each detail other cells for pages, by their numbers;
    empty for a blank cell. `gone`: bool[pages]: the pages that go. `new`: the pages that come, after all others.
    `any_type`: whether pages may have a type that nobody declared, as in a page list that is read. Returns int32[pages
    of `site`]. Raises SiteError if there cannot be such pages: a path is there twice, a parent is missing, a detail is
    no such value.
    """
    paths, cells = paths or {}, cells or {}
    names = tuple(dict.fromkeys([*STANDARD[1:], *site.details.columns]))
    for name in dict.fromkeys([*cells, *(name for row in new for name in row.details)]):
        if name not in names:
            raise UnknownName("detail", name, names)
    if cells and not STRUCTURAL & {*cells} and not paths and gone is None and not new:
        _check_details(site, cells, new, any_type)
        every = slice(None)
        changed = {name: _column(site, name, cells[name], every, new) for name in cells}
        details = site.details._replace(columns={**site.details.columns, **changed})
        return replace(site, details=details), np.arange(len(site.tree), dtype=np.int32)
    stays = np.arange(len(site.tree)) if gone is None else np.flatnonzero(~gone)
    rows: NDArray[np.integer] | slice = slice(None)  # all of them, in place: nothing to gather
    if paths or "parent" in cells or gone is not None:  # siblings stand in the order of their rows
        lines = site.tree.line[stays]
        rows = stays[sorted_by(np.where(lines > 0, lines, np.iinfo(np.int32).max))]
    columns = {name: _column(site, name, cells.get(name, {}), rows, new) for name in names}
    _check_details(site, cells, new, any_type)
    new_paths = [site.page_names.path(row.path) for row in new]
    texts = _texts(site.tree.paths, {page: site.page_names.path(path) for page, path in paths.items()}, rows, new_paths)
    planted = build_tree(
        texts,
        columns["parent"],
        np.concatenate([site.tree.line[rows], np.zeros(len(new), dtype=np.int32)]),
        lambda line, column: Place(site.page_list, line, column) if line else NEW,
    )
    if planted.faults:
        raise SiteError(planted.faults)
    written = _texts(site.details.written, paths, rows, [row.path for row in new])
    found = np.full(len(site.tree), -1, dtype=np.int32)
    found[rows] = planted.page_of_row[: len(stays)]
    order = planted.order
    ranks = np.concatenate([site.details.order[rows], [_rank(row.details.get("order", "")) for row in new]])
    for page, text in cells.get("order", {}).items():
        ranks[int(np.flatnonzero(np.arange(len(site.tree))[rows] == page)[0])] = _rank(text)
    details = Details(
        Columns(columns, order),
        site.types,
        np.zeros(len(order), dtype=np.intp),
        ranks[order],
        planted.tree.find(site.home_path),
        written.take(order),
    )
    arrived = {path: int(planted.page_of_row[len(stays) + at]) for at, path in enumerate(new_paths)}
    arrived |= {site.page_names.path(path): int(found[page]) for page, path in paths.items()}
    statements = _retargeted(site, found, arrived)
    after = replace(
        site,
        tree=planted.tree,
        details=details,
        statements=statements,
        file_notes=site.file_notes._replace(
            twin_lines=_lines(site, site.file_notes.twin_lines, gone),
            fragment_lines=_lines(site, site.file_notes.fragment_lines, gone),
        ),
    )
    return with_types(after, site.types.declared), found


def _column(
    site: SiteModel, name: str, cells: Mapping[int, str], rows: NDArray[np.integer] | slice, new: Sequence[NewRow]
) -> Column:
    """A detail of all rows, the new ones last."""
    column = site.details.column(name)
    blank = BLANK_MEANS.get(name, "")
    told = [row.details.get(name, "") or blank for row in new]
    old = column.codes[rows]
    if not cells and not new:
        kept = Column(old, column.words)
        return kept if isinstance(rows, slice) else _used(kept)
    codes = np.concatenate([old, np.zeros(len(new), dtype=np.int32)])
    words: list[str] | Texts = column.words if isinstance(column.words, Texts) else [*column.words]
    known = {} if isinstance(words, Texts) else {word: code for code, word in reversed([*enumerate(words)])}
    more: list[str] = []

    def code(text: str) -> int:
        if text not in known:
            known[text] = len(words) + len(more)
            more.append(text)
        return known[text]

    place = np.full(len(column.codes), -1, dtype=np.int64)
    place[rows] = np.arange(len(old))
    for page, text in cells.items():
        codes[place[page]] = code(text or blank)
    codes[len(old) :] = [code(text) for text in told]
    if isinstance(words, Texts):
        return Column(codes, _with_more(words, more))
    found = Column(codes, [*words, *more])
    return found if not cells and isinstance(rows, slice) else _used(found)


def _used(column: Column) -> Column:
    """A column without the words that no row has any more."""
    if isinstance(column.words, Texts):
        return column
    used = np.flatnonzero(np.bincount(column.codes, minlength=len(column.words)))
    if len(used) == len(column.words):
        return column
    number = np.zeros(len(column.words), dtype=np.int32)
    number[used] = np.arange(len(used))
    return Column(number[column.codes], [column.words[code] for code in used.tolist()])


def _texts(texts: Texts, others: Mapping[int, str], rows: NDArray[np.integer] | slice, new: Sequence[str]) -> Texts:
    """The texts of these rows, some of them replaced, and more after them."""
    if others:
        pages = np.array([*others], dtype=np.int64)
        texts = texts.replaced(pages, Texts.of(others.values()))
    return _with_more(texts if isinstance(rows, slice) else texts.take(rows), new)


def _with_more(texts: Texts, more: Sequence[str]) -> Texts:
    if not more:
        return texts
    added, size = Texts.of(more), len(texts.data)
    return Texts(
        np.concatenate([texts.data, added.data]),
        np.concatenate([texts.start, added.start + size]),
        np.concatenate([texts.end, added.end + size]),
    )


def _check_details(
    site: SiteModel, cells: Mapping[str, Mapping[int, str]], new: Sequence[NewRow], any_type: bool
) -> None:
    """Make sure that statuses and orders are valid, and types known unless any will do."""
    faults = []
    for name in ("status", "order", "type"):
        texts = [*cells.get(name, {}).values(), *(row.details.get(name, "") for row in new)]
        for text in dict.fromkeys(filter(None, texts)):
            if name == "type" and not any_type and site.types.find(text) < 0:
                raise UnknownName("type", text, tuple(site.types.names))
            if name == "status" and text not in STATUSES:
                faults.append(Fault(NEW, f"status takes live, draft or folder, not {text!r}", text, STATUSES))
            if name == "order" and number_of(text) is None:
                faults.append(Fault(NEW, f"order takes a number, not {text!r}"))
    if faults:
        raise SiteError(faults)


def _rank(text: str) -> float:
    return float(text) if text else float("inf")


def _retargeted(site: SiteModel, numbers: Codes, arrived: Mapping[str, int]) -> Statements:
    """The statements for a tree in which pages have other numbers, are gone, or are new."""
    said = site.statements
    of_pages, target = np.isin(said.scope, OF_PAGES), said.target.copy()
    there = of_pages & (target >= 0)
    target[there] = numbers[target[there]]
    keep = ~there | (target >= 0)
    for place, path in enumerate(said.gone):
        if path in arrived:
            target[of_pages & (said.target == -1 - place)] = arrived[path]
    return said.edited(site.catalogue.built_in(), keep, columns={"target": target})


def _lines(site: SiteModel, pairs: Codes, gone: NDArray[np.bool_] | None) -> Codes:
    """Lines that name the page of another line, without those of pages that go. int32[n, 2]"""
    if gone is None or not len(pairs):
        return pairs
    return pairs[~np.isin(pairs[:, 1], site.tree.line[np.flatnonzero(gone)])]
