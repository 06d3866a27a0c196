"""Cells that people changed in a table of effective values, as a change of only the cells that differ."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from typing import NamedTuple

from ..faults import Fault, Place, SiteError, ValueFault
from ..progress import work
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.settings.near_names import near_name
from ..site.settings.parse_values import read_cell
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.setting import Setting
from ..site.settings.values import Plain, format_value
from .steps.change import Change, Say, SetDetail, Step, TakeAway

KEY = "path"


class CellChanges(NamedTuple):
    """What a table changes."""

    change: Change
    rows: int  # how many rows the table has
    same: int  # how many cells hold the value that the page has
    # the pages and settings whose cell is blank although the page has a value that it does not set itself: nothing
    # changes there
    blank: tuple[tuple[str, str], ...]
    ignored: tuple[str, ...]  # the columns that are neither settings nor details


def cell_changes(
    effective: EffectiveModel,
    columns: Sequence[str],
    rows: Sequence[tuple[int, Mapping[str, str]]],
    name: str,
    because: str = "",
) -> CellChanges:
    """The change that gives pages the values of a table's cells, each set on the page itself.

    A cell that says what the page gets already changes nothing. A blank cell takes away what the page itself sets.

    `effective`: what holds. `columns`: the header: `path`, and names of settings and details; others are ignored,
    unless they are nearly such a name. `rows`: each row's line and its cells that are not blank, as CSV has them: `a;
    b` is a list. `name`: what faults call the table. `because`: the reason to give with each statement. Raises
    SiteError if a page, a value or a column cannot be understood, or two rows name one page.

    Example
    -------
    >>> import davlo
    >>> rows = [(2, {"path": "/visit/maps", "menu.show": "no", "sidebar.right": "visit-planning"})]
    >>> found = cell_changes(davlo.open_demo().resolve(), ["path", "menu.show", "sidebar.right"], rows, "sheet.csv")
    >>> [(step.scope.name, step.setting, step.value) for step in found.change.steps], found.same
    ([('/visit/maps', 'menu.show', False)], 1)
    """
    site = effective.site
    settings = {column: number for column in columns if (number := site.catalogue.find(column)) is not None}
    details = [column for column in columns if column in site.details.columns and column not in settings]
    ignored = tuple(one for one in columns if one and one != KEY and one not in settings and one not in details)
    steps, faults, seen, same = list[Step](), [*_misspelt(site, ignored, name)], dict[int, int](), 0
    paths, blank = tuple[str, ...](), list[tuple[str, str]]()
    with work("comparing the table", len(rows)) as step_on:
        for line, cells in rows:
            path = cells.get(KEY, "")
            step_on(path)
            page = site.tree.find(site.page_names.path(path)) if path else -1
            if page < 0:
                told = f"there is no page {path!r}" if path else "the row names no page"
                paths = paths or tuple(site.tree.paths.tolist())
                faults.append(Fault(Place(name, line), told, path, paths))
                continue
            if page in seen:
                faults.append(Fault(Place(name, line), f"{path} has a row already, on line {seen[page]}"))
                continue
            seen[page] = line
            for column in details:
                there, text = site.details.column(column), cells.get(column, "")
                if text and text != there.words[there.codes[page]]:
                    steps.append(SetDetail(site.tree.paths[page], column, text))
                same += not text or text == there.words[there.codes[page]]
            for column, number in settings.items():
                setting, text = site.catalogue[number], cells.get(column, "")
                has = bool(site.has_by_type[number][site.details.type_of[page]])
                now = effective.resolved(number).at(page) if has else None
                try:
                    step = _step(effective, page, number, text, now, because) if has or text else None
                except ValueFault as fault:
                    hint = _with_semicolons(setting, text) or fault.hint
                    faults.append(Fault(Place(name, line, column), fault.what, fault.word, tuple(fault.allowed), hint))
                    continue
                if step is None and has and not text and format_value(now):
                    blank.append((site.tree.paths[page], setting.name))
                elif step is None:
                    same += 1
                elif has:
                    steps.append(step)
                else:
                    faults.append(
                        Fault(Place(name, line, column), f"{path} does not have {setting.name}: leave it blank")
                    )
    if faults:
        raise SiteError(faults)
    return CellChanges(Change(tuple(steps)), len(rows), same, tuple(blank), ignored)


def _misspelt(site: SiteModel, columns: Sequence[str], name: str) -> Iterator[Fault]:
    """A fault for each column that is nearly named as a setting or a detail."""
    settings, details = site.catalogue.names(), [*site.details.columns]
    for column in columns:
        if near := near_name(column, details) or near_name(column, settings):
            what = f"the column {column} is neither a setting nor a detail"
            hint = f"name it {near}, or if it is something else, give it a name that is less like it"
            yield Fault(Place(name, 1, column), what, hint=hint)


def _with_semicolons(setting: Setting, text: str) -> str:
    """What to write for a list whose items have other marks between them than a table's."""
    for mark in (",", "|", "/"):
        better = "; ".join(one.strip() for one in text.split(mark))
        if setting.kind == "list" and mark in text:
            with suppress(ValueFault):
                read_cell(setting, better)
                return f"the items of a list are separated by semicolons: {better}"
    return ""


def _step(effective: EffectiveModel, page: int, number: int, text: str, now: Plain, because: str) -> Step | None:
    """The step that a cell asks for; None if the page has that value already.

    Raises ValueFault if the setting cannot take it.
    """
    site, setting = effective.site, effective.site.catalogue[number]
    here = Scope.here(site.tree.paths[page])
    if text == format_value(now):  # even if it could not be set today, such as an owner who left
        return None
    if text:
        value = read_cell(setting, text)
        return None if value == now else Say(here, setting.name, value, because=because)
    if site.statements.find(number, ScopeKind.HERE, page) >= 0:
        return TakeAway(here, setting.name)
    return None
