"""A site with one more page, made up in memory: what a new page would get in a place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TypeVar

import numpy as np

from ..arrays.codebooks import Codes, Column
from ..arrays.texts import Texts
from ..faults import Fault, Place, SiteError, UnknownName
from ..outcomes.page_view import PageView, page_view
from ..resolve.effective import EffectiveModel
from ..resolve.fold import fold_stages
from ..site.facts import STANDARD, STATUSES, Columns, Facts
from ..site.model import SiteModel
from ..site.new_statements import NewStatement
from ..site.numbers import number_of
from ..site.scopes import OF_PAGES, ScopeKind
from ..site.statements import Statements
from ..site.tree import build_tree

Model = TypeVar("Model", bound=SiteModel)
OWNER = "page.owner"
NEW = Place("the new page")
"""The place given for the page, which is in no file."""


def with_page(site: Model, path: str, facts: Mapping[str, str], stamps: bool = True, by: str = "") -> tuple[Model, int]:
    """The site as it would be with one more page, and that page's number.

    What is stamped when a page is made is stamped on it, unless `stamps` is no: what the live fold gives there.
    Whoever makes the page (`by`) is stamped as its owner, where no default names another.

    Parameters
    ----------
    site : SiteModel
    path : str
        Starts with `/`; no page has it yet.
    facts : mapping of str to str
        What the inventory would say of it: `type`, `title`, `parent`, …; blank where it says nothing.
    stamps : bool
    by : str
        The person who makes it.

    Raises
    ------
    UnknownName
        If there is no such type, fact or person.
    SiteError
        If there cannot be such a page: the path is taken or no path, the parent is not there, a fact is no such value.

    Example
    -------
    >>> import davlo
    >>> site, page = with_page(davlo.open_demo(), "/visit/picnic", {"type": "event"})
    >>> site.resolve()["/visit/picnic"]["sidebar.right"]
    'visit-planning'
    """
    grown, page = _with_row(site, path, facts)
    return (_stamped(grown, page, by) if stamps else grown), page


def _with_row(site: Model, path: str, facts: Mapping[str, str]) -> tuple[Model, int]:
    """The site with the row of one more page, which has no stamps, and that page's number."""
    names = tuple(dict.fromkeys([*STANDARD[1:], *site.facts.columns]))
    for name in facts:
        if name not in names:
            raise UnknownName("fact", name, names)
    kind = facts.get("type") or "page"
    if site.types.find(kind) < 0:
        raise UnknownName("type", kind, tuple(site.types.names))
    before = len(site.tree)
    said = {name: _appended(site.facts.column(name), facts.get(name, "")) for name in names}
    planted = build_tree(
        Texts.of_column(_appended(Column(np.arange(before, dtype=np.int32), site.tree.paths), path)),
        said["parent"],
        np.append(site.tree.line, np.int32(0)),
        lambda line, column: Place(site.inventory, line, column) if line else NEW,
    )
    written = _appended(Column(np.arange(before, dtype=np.int32), site.facts.written), path)
    status, order_said = facts.get("status") or "live", facts.get("order") or "inf"
    faults = planted.faults
    if status not in STATUSES:
        faults.append(Fault(NEW, f"status takes live, draft or folder, not {status!r}", status, STATUSES))
    if order_said != "inf" and number_of(order_said) is None:
        faults.append(Fault(NEW, f"order takes a number, not {order_said!r}"))
    if faults:
        raise SiteError(faults)
    numbers, order = planted.page_of_row, planted.order
    said["type"], said["status"] = _appended(site.facts.columns["type"], kind), _appended(site.facts.status, status)
    known = Facts(
        Columns(said, order),
        site.types,
        np.append(site.facts.type_of, site.types.find(kind))[order],
        np.append(site.facts.order, float(order_said))[order],
        int(numbers[site.facts.home]) if site.facts.home >= 0 else -1,
        Texts.of_column(written.take(order)),
    )
    page = int(numbers[before])
    built_in = site.catalogue.built_in()
    target = _targets(site.statements, numbers[:before], path, page)
    statements = site.statements.edited(built_in, columns={"target": target})
    return replace(site, tree=planted.tree, facts=known, statements=statements), page


def _stamped(site: Model, page: int, by: str) -> Model:
    """The site with the stamps that a page gets when somebody makes it now."""
    if by and not site.people.has(by):
        raise UnknownName("person", by, site.people.names)
    return replace(site, statements=site.statements.edited(site.catalogue.built_in(), more=_stamps(site, page, by)))


def new_page_view(site: SiteModel, path: str, facts: Mapping[str, str], by: str = "") -> PageView:
    """What a page would get once its row and its stamps are written. `Site.new_page` is the call to use."""
    typed, page = _with_row(site, path, facts)
    view = page_view(EffectiveModel(_stamped(typed, page, by)), page, is_new=True)
    by_hand, alone = EffectiveModel(typed), typed.scope_pages.part(page, page + 1)
    values = {one.name: by_hand.resolved_part(site.setting_number(one.name), alone).at(0) for one in view.settings}
    return view._replace(by_hand={one.name: values[one.name] for one in view.settings if values[one.name] != one.value})


def _targets(statements: Statements, numbers: Codes, path: str, page: int) -> Codes:
    """The targets of statements where pages have other numbers, and a page that was gone is there. int32[n]"""
    of_pages, target = np.isin(statements.scope, OF_PAGES), statements.target.copy()
    there = of_pages & (target >= 0)
    target[there] = numbers[target[there]]
    if path in statements.gone:
        target[of_pages & (statements.target == -1 - statements.gone.index(path))] = page
    return target


def _appended(column: Column, text: str) -> Column:
    """A column with one more row."""
    words = column.words
    if isinstance(words, Texts):
        word = Texts.of([text])
        longer = Texts(
            np.concatenate([words.data, word.data]),
            np.append(words.start, len(words.data)),
            np.append(words.end, len(words.data) + len(word.data)),
        )
        return Column(np.append(column.codes, np.int32(len(words))), longer)
    code = words.index(text) if text in words else len(words)
    return Column(np.append(column.codes, np.int32(code)), words if code < len(words) else [*words, text])


def _stamps(site: SiteModel, page: int, by: str) -> list[NewStatement]:
    """What would be stamped on a page that is made now, by a person where one is named."""
    found = []
    for number, setting in enumerate(site.catalogue.settings):
        if setting.flow == "stamped" and site.has_by_type[number, int(site.facts.type_of[page])]:
            live = fold_stages(site.statements, number, site.scope_pages.part(page, page + 1), True)
            value = live.words[int(live.live_value[0])]
            is_said = int(live.live_source[0]) >= 0
            if not is_said and by and setting.name == OWNER:
                found.append(NewStatement(number, ScopeKind.STAMP, page, by, NEW))
            if is_said:
                found.append(NewStatement(number, ScopeKind.STAMP, page, value, NEW))
    return found
