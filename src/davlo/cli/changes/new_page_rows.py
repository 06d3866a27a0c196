"""New pages as the command line has them, one by one or as the rows of a table: the steps that add them."""

from __future__ import annotations

import sys
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import click

from davlo.core.change.steps.change import AddDetail, AddPage, Change, ChangeError, Say, Step
from davlo.core.change.steps.new_page import details_by_neighbours
from davlo.core.change.steps.page_steps import is_detail_name
from davlo.core.change.steps.step import CannotDo
from davlo.core.faults import Fault, Place, SiteError, UnknownName, ValueFault
from davlo.core.site.pages.conditions import split_list
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.settings.near_names import near_name
from davlo.core.site.settings.parse_values import typed_items
from davlo.core.site.settings.scopes import Scope
from davlo.core.wording import count

from ..questions.new_page import new_path, title_of
from ..screen import ask, may_ask, note

if TYPE_CHECKING:
    from davlo.site import Site


class TypedPair(NamedTuple):
    """One word that was typed: a detail or a setting, how a list changes (`+` or `-`), and the text."""

    name: str
    how: str
    text: str

    def changed(self, before: str) -> str:
        """The cell of a list, with these items added or taken away."""
        have, items = split_list(before), split_list(self.text)
        if self.how == "-":
            return "; ".join(one for one in have if one not in items)
        return "; ".join([*have, *(one for one in items if one not in have)])


def typed_pairs(words: Sequence[str], what: str) -> list[TypedPair]:
    """Words such as `title=Maps` and `tags+=family`, taken apart.

    Raises click.UsageError if one is no such word.
    """
    found = []
    for word in words:
        name, equals, text = word.partition("=")
        if not equals or not name.rstrip("+-"):
            raise click.UsageError(f"{what} takes NAME=VALUE, as in language=fr, not {word!r}")
        how = name[-1] if name[-1] in "+-" else ""
        name = name[:-1] if how else name
        is_list = how or name == "tags"  # on the command line, a comma parts items, too
        found.append(TypedPair(name, how, "; ".join(typed_items(text)) if is_list else text))
    return found


def new_columns(site: Site, names: Sequence[str]) -> list[Step]:
    """The steps that make the columns which are not there.

    Raises UnknownName if a name is nearly that of a detail or a setting: it may be a slip.
    """
    known = (*STANDARD, *site.details.columns)
    found = []
    for name in dict.fromkeys(names):
        if name in known or site.catalogue.could_be(name):
            continue
        allowed = tuple(dict.fromkeys((*known, *site.catalogue.names())))
        if near_name(name, allowed) or not is_detail_name(name):
            raise UnknownName("detail or setting", name, allowed)
        found.append(AddDetail(name))
    return list(found)


def steps_of_table(site: Site, source: str, of_all: Mapping[str, str | None], maker: str) -> list[Step]:
    """The steps that add a page for each row of a table; `of_all` are details of all rows that do not say otherwise.

    Raises SiteError if rows cannot be understood: every fault of each, with its line.
    """
    from davlo.files.read.rows.pasted_rows import read_pasted

    name = "standard input" if source == "-" else source
    table = read_pasted(sys.stdin.buffer.read() if source == "-" else Path(source).read_bytes(), name)
    faults, added, steps, inferred = list[Fault](), dict[str, int](), list[Step](), list[str]()
    known = [*STANDARD, *site.details.columns, *site.catalogue.names()]
    for column in filter(None, table.columns):
        try:
            steps += new_columns(site, [column])
            known.append(column)
        except UnknownName as error:
            faults.append(Fault(Place(name, 1, column), str(error), column, tuple(error.allowed)))
    made = tuple(steps)
    paths = {site.page_names.path(row.get("path", "")) for _, row in table.rows}
    for line, cells in table.rows:
        row = {**{key: text for key, text in of_all.items() if text}, **cells}
        path, found = site.page_names.path(row.get("path", "")), list[Step]()
        if path in added:
            faults.append(Fault(Place(name, line), f"{path} has a row already, on line {added[path]}"))
            continue
        added[path] = line
        try:
            around = [one for one in details_by_neighbours(site, path, row) if one.name not in table.columns]
            inferred += [one.name for one in around]
            row |= {one.name: one.text for one in around}
            found = steps_of_row(
                site, {key: text for key, text in row.items() if key in known}, maker, paths, is_new=False
            )
            if len(table.rows) <= MOST_CHECKED:
                site.apply(Change((*made, *_apart(found, paths))))
        except (UnknownName, ValueFault, ChangeError, CannotDo, SiteError, click.UsageError) as error:
            faults += _faults_of(error, Place(name, line))
        steps += found
    if faults:
        raise SiteError(faults)
    for detail, told in (
        ("language", "the language of the page above"),
        ("type", "the type that all pages beside share"),
    ):
        if detail in inferred:
            note(f"note: {count(inferred.count(detail), 'page')} of {name} get {told}: the file has no column {detail}")
    return steps


MOST_CHECKED = 500
"""The most rows of a table that Davlo tries one by one, to report all faults at once."""


def _apart(steps: Sequence[Step], paths: Collection[str]) -> list[Step]:
    """The steps of one row, without a parent that is in another row."""
    return [
        replace(one, details=tuple(pair for pair in one.details if pair[0] != "parent" or pair[1] not in paths))
        if isinstance(one, AddPage)
        else one
        for one in steps
    ]


def _faults_of(error: Exception, place: Place) -> Iterator[Fault]:
    """What is wrong with a row, at its place."""
    if isinstance(error, SiteError):
        yield from (one._replace(place=place._replace(column=one.place.column)) for one in error.faults)
    elif isinstance(error, UnknownName):
        yield Fault(place, str(error), error.word, tuple(error.allowed), error.hint)
    elif isinstance(error, click.UsageError):
        yield Fault(place, error.message)
    else:
        what = getattr(error, "what", str(error))
        yield Fault(
            place, what, getattr(error, "word", ""), tuple(getattr(error, "allowed", ())), getattr(error, "hint", "")
        )


def steps_of_row(
    site: Site,
    cells: Mapping[str, str],
    maker: str,
    others: Collection[str] = (),
    lists: Collection[str] = (),
    is_new: bool = True,
) -> list[Step]:
    """The steps that add a page: its row, and what it sets itself.

    `others`: pages that come with it. `lists`: settings to which the page adds items. `is_new`: whether columns that
    are not there are made; else they are made already.
    """
    from davlo.files.read.sections.typed_values import read_typed

    path = new_path(site, cells["path"])
    details = {"title": title_of(path), **{name: text for name, text in cells.items() if name != "path"}}
    columns = new_columns(site, list(details)) if is_new else []
    own = {name: text for name, text in details.items() if site.catalogue.could_be(name) and name not in STANDARD}
    kind = details.get("type") or "page"
    _ask_for_required(site, path, kind, own)
    if details.get("parent") and site.page_names.path(details["parent"]) not in others:
        details["parent"] = site.tree.paths[site.find_page(details["parent"])]
    said = tuple((name, text) for name, text in details.items() if name not in own)
    steps: list[Step] = [*columns, AddPage(cells["path"] if cells["path"].startswith("/") else path, said, maker)]
    for name, text in own.items():
        value: Any = {"add": typed_items(text)} if name in lists else read_typed(site.catalogue.setting(name), text)
        steps.append(Say(Scope.here(path), name, value))
    return steps


def _ask_for_required(site: Site, path: str, kind: str, own: dict[str, str]) -> None:
    """Ask for the required settings that were not given; without a terminal, print a hint instead."""
    types = site.types
    if types.find(kind) < 0:
        return  # the change says which types there are
    for number, setting in enumerate(site.catalogue.settings):
        asked = setting.own and setting.required and bool(site.has_by_type[number, types.find(kind)])
        if not asked or setting.name in own or setting.built_in not in (None, "", (), False):
            continue
        label = setting.label or setting.name
        if may_ask():
            own[setting.name] = ask(f"{label} of {path} ({setting.takes})")
        else:
            note(f"note: a {kind} should set {setting.name} ({label}): add {setting.name}=VALUE")
