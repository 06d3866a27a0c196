"""Steps about pages: added, moved, dropped, with other details, or named in place of one that is gone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

import numpy as np

from ...arrays.codebooks import Column, Mask
from ...faults import Place, UnknownName
from ...site.declarations import Block
from ...site.model import SiteModel
from ...site.pages.conditions import Condition
from ...site.pages.details import STANDARD
from ...site.pages.page_names import PageNames
from ...site.settings.parse_values import check_scope, read_cell
from ...site.settings.scopes import OF_PAGES, ScopeKind
from ...site.statements.new_statements import SAID_STEP, Form, NewStatement
from ...site.statements.statement_table import Statements
from ...wording import count
from .new_page import with_page, with_stamps
from .rebuild import with_access_setting, with_changes, without_redundant_access
from .replant import NewRow, replanted
from .step import CannotDo, Step

Renames: TypeAlias = Mapping[str, str]
"""Paths of pages, and those that take their place."""
NAMING = ("parent", "translates", "leads_to")
"""The details that name another page."""


@dataclass(frozen=True, slots=True)
class AddPage(Step):
    """The page list has one page more, with the stamps of a new page.

    Its maker (`by`) becomes its owner, if no default names another.
    """

    path: str
    details: tuple[tuple[str, str], ...] = ()
    by: str = ""

    def done(self, site: Any) -> Any:
        return with_page(site, self.path, dict(self.details), by=self.by)[0]

    @property
    def words(self) -> str:
        return f"add the page {self.path}"


@dataclass(frozen=True, slots=True)
class MovePage(Step):
    """A page gets another path, and with it the pages below it whose paths begin with its own.

    Whatever names one of them is updated. The page goes where its new path puts it, or below `parent`.
    """

    path: str
    new: str
    parent: str = ""

    def done(self, site: Any) -> Any:
        renames = pages_moved(site, self)
        top = site.page_number(self.path)
        for old, new in renames.items():
            both = said_of_both(site, new, site.tree.number(old))
            if both:
                raise CannotDo(f"{new} has {both} already")
        cells = {name: _cells_naming(site, name, renames) for name in NAMING}
        parent = "" if not self.parent else site.tree.paths[site.page_number(self.parent)]
        cells["parent"][top] = renames.get(parent, parent)
        paths = {
            site.tree.number(old): written_path(site.details.written[site.tree.number(old)], old, new)
            for old, new in renames.items()
        }
        return replanted(with_names(site, renames), paths=paths, cells=cells)[0]

    @property
    def words(self) -> str:
        return f"move {self.path} to {self.new}" + (f" below {self.parent}" if self.parent else "")


@dataclass(frozen=True, slots=True)
class DropPage(Step):
    """A page goes, with what is set for it; with `branch` all pages below it too."""

    path: str
    branch: bool = False

    def done(self, site: Any) -> Any:
        page = site.page_number(self.path)
        end = int(site.tree.end[page])
        if end > page + 1 and not self.branch:
            raise CannotDo(f"{count(end - page - 1, 'page stands', 'pages stand')} below {site.tree.paths[page]}")
        gone = np.zeros(len(site.tree), dtype=bool)
        gone[page:end] = True
        return without_redundant_access(replanted(site, gone=gone)[0])

    @property
    def words(self) -> str:
        return f"drop {self.path}" + (" and all pages below it" if self.branch else "")


@dataclass(frozen=True, slots=True)
class SetDetail(Step):
    """The page list has another cell for a page: a detail as a cell holds it, empty for a blank cell."""

    path: str
    detail: str
    text: str

    def done(self, site: Any) -> Any:
        if self.detail == "path":
            raise CannotDo("another path means to move the page")
        page = site.page_number(self.path)
        text = self.text
        if self.detail in NAMING and text:
            text = site.page_names.path(text) if self.detail != "leads_to" or text.startswith("/") else text
        return replanted(site, cells={self.detail: {page: text}})[0]

    @property
    def words(self) -> str:
        return f"set the {self.detail} of {self.path} to {self.text or 'blank'}"


@dataclass(frozen=True, slots=True)
class NameInstead(Step):
    """Whatever names a page that is not there names another one: statements, conditions, blocks, other pages."""

    old: str
    new: str

    def done(self, site: Any) -> Any:
        path, page = site.page_names.path(self.old), site.page_number(self.new)
        if site.tree.find(path) >= 0:
            raise CannotDo(f"there is a page {path}: move it instead")
        instead = site.tree.paths[page]
        statements = site.statements
        moved = _named_by(statements, path)
        both = said_of_both(site, path, page)
        if both:
            raise CannotDo(f"{instead} has {both} already")
        if moved.any():
            target = np.where(moved, page, statements.target).astype(np.int32)
            statements = statements.edited(site.catalogue.built_in(), columns={"target": target})
        columns: Mapping[str, Column] = site.details.columns
        leads = site.details.column("leads_to")
        if path in leads.words:
            leads = leads.changed(lambda word: instead if word == path else word)
            columns = {**site.details.columns, "leads_to": leads}
        details = site.details._replace(columns=columns)
        return with_changes(with_names(site, {path: instead}), statements=statements, details=details)

    @property
    def words(self) -> str:
        return f"name {self.new} wherever {self.old} is named"


@dataclass(frozen=True, slots=True)
class RefreshPages(Step):
    """The page list is brought up to date at once: pages that are new, other details, pages that are gone.

    `new`: paths and details; they get the stamps of new pages, and nobody owns them by that. `cells`: path, detail, and
    the text of its cell. `gone`: paths; pages below them may stay.
    """

    new: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = ()
    cells: tuple[tuple[str, str, str], ...] = ()
    gone: tuple[str, ...] = ()

    def done(self, site: Any) -> Any:
        numbers = pages_numbered(site, [*(path for path, _, _ in self.cells), *self.gone])
        cells: dict[str, dict[int, str]] = {}
        for path, detail, text in self.cells:
            cells.setdefault(detail, {})[numbers[path]] = text
        gone = np.zeros(len(site.tree), dtype=bool)
        gone[[numbers[path] for path in self.gone]] = True
        rows = [NewRow(path, dict(details)) for path, details in self.new]
        after, _ = replanted(site, cells=cells, gone=gone if self.gone else None, new=rows, any_type=True)
        new = pages_numbered(after, [path for path, _ in self.new])
        return without_redundant_access(with_stamps(after, [(page, "") for page in new.values()]))

    @property
    def words(self) -> str:
        of = len({path for path, _, _ in self.cells})
        parts = [f"add {count(len(self.new), 'page')}"] if self.new else []
        parts += [f"set {count(len(self.cells), 'detail')} of {count(of, 'page')}"] if self.cells else []
        parts += [f"drop {count(len(self.gone), 'page')}"] if self.gone else []
        return f"bring the page list up to date: {', '.join(parts) or 'nothing differs'}"


def pages_numbered(site: SiteModel, paths: Sequence[str]) -> dict[str, int]:
    """The number of each page; all are looked up at once.

    Raises UnknownName if one is not there.
    """
    names = list(dict.fromkeys(paths))
    found = dict(zip(names, site.page_numbers(names), strict=True))
    missing = next((name for name, number in found.items() if number < 0), None)
    if missing is not None:
        raise UnknownName("page", missing, site.tree.paths)
    return found


@dataclass(frozen=True, slots=True)
class AddDetail(Step):
    """The page list gets a column for a detail of the site's own; it is blank on all pages."""

    name: str

    @property
    def changes_access(self) -> bool:
        """No: access is what settings say."""
        return False

    def done(self, site: Any) -> Any:
        if self.name in site.details.columns or self.name in STANDARD:
            raise CannotDo(f"there is a detail {self.name} already")
        if site.catalogue.could_be(self.name) or not is_detail_name(self.name):
            raise CannotDo(f"no detail of your own can be called {self.name!r}: it is a word of Davlo's, or no name")
        column = Column.blank(len(site.tree))
        return replace(site, details=site.details._replace(columns={**site.details.columns, self.name: column}))

    @property
    def words(self) -> str:
        return f"add the column {self.name} to the page list"


def is_detail_name(name: str) -> bool:
    """Whether a column of the page list may have this name: letters on one line, without = + ; , < > and quotes.

    Example
    -------
    >>> is_detail_name("made_with"), is_detail_name("Best month"), is_detail_name("a=b"), is_detail_name(" a")
    (True, True, False, False)
    """
    return bool(name) and name == name.strip() and name.isprintable() and not set(name) & set('=+;,<>"')


@dataclass(frozen=True, slots=True)
class RenameDetail(Step):
    """A detail of the site's own gets another name; if that is a setting's name, its cells set that setting."""

    old: str
    new: str

    @property
    def changes_access(self) -> bool:
        """No: access is what settings say."""
        return False

    def done(self, site: Any) -> Any:
        old, new = self.old, self.new
        columns = dict(site.details.columns)
        if old not in columns:
            raise UnknownName("detail", old, tuple(columns))
        if (new in columns and not site.details.is_blank(new)) or new in site.file_notes.setting_columns:
            raise CannotDo(f"the page list has a column {new} already")
        column = columns.pop(old)
        if not site.catalogue.could_be(new):
            return replace(site, details=site.details._replace(columns={**columns, new: column}))
        details = site.details._replace(columns=columns)
        notes = site.file_notes._replace(setting_columns=(*site.file_notes.setting_columns, new))
        site = replace(site, details=details, file_notes=notes)
        if site.catalogue.find(new) is None:
            site = with_access_setting(site, new)
        number = site.catalogue.number(new)
        setting = site.catalogue[number]
        values = {word: read_cell(setting, word) for word in set(column.words) if word.strip()}
        for value in values.values():
            check_scope(ScopeKind.HERE, value, setting)
        more = []
        for page, text in enumerate(column.texts()):
            if text.strip():
                if site.statements.find(number, ScopeKind.HERE, page) >= 0:
                    raise CannotDo(f"{site.tree.paths[page]} says {new} already")
                place = Place(site.page_list, int(site.tree.line[page]))
                more.append(NewStatement(number, ScopeKind.HERE, page, values[text], place, step=SAID_STEP))
        return with_changes(site, statements=site.statements.edited(site.catalogue.built_in(), more=more))

    @property
    def words(self) -> str:
        return f"rename the column {self.old} to {self.new}"


def with_names(site: Any, renames: Renames) -> Any:
    """The site in which conditions, viewpoints, blocks and the home page name other pages in place of some."""
    rules = tuple(one._replace(**_of_conditions(one.when, one.excepts, renames)) for one in site.rules)
    guarantees = tuple(one._replace(**_of_conditions(one.when, one.excepts, renames)) for one in site.guarantees)
    accepts = tuple(one if one.when is None else one._replace(when=_in(one.when, renames)) for one in site.accepts)
    viewpoints = tuple(one._replace(page=renames.get(one.page, one.page)) for one in site.viewpoints)
    blocks = {name: _block(block, renames, site.page_names) for name, block in site.declarations.blocks.items()}
    return with_changes(
        site,
        rules=rules,
        guarantees=guarantees,
        accepts=accepts,
        viewpoints=viewpoints,
        declarations=site.declarations._replace(blocks=blocks),
        home_path=renames.get(site.home_path, site.home_path),
    )


def pages_moved(site: SiteModel, step: MovePage) -> dict[str, str]:
    """The pages that a step moves, with their new paths: a page, and those below it whose paths begin with its own.

    Raises CannotDo if it is the home page, or the new path is none.
    """
    page, new = site.page_number(step.path), site.page_names.path(step.new)
    old = site.tree.paths[page]
    if old == "/":
        raise CannotDo("the page / cannot be moved: all others stand below it")
    if not new.startswith("/") or new == "/":
        raise CannotDo(f"a page is moved to a path, as in /shop/cafe, not to {step.new!r}")
    branch = site.tree.paths[page : int(site.tree.end[page])].tolist()
    return {path: new + path[len(old) :] for path in branch if path == old or path.startswith(f"{old}/")}


def _cells_naming(site: SiteModel, detail: str, renames: Renames) -> dict[int, str]:
    """The cells of a detail that name some pages, by page, and what they shall hold."""
    column = site.details.column(detail)
    pages = np.flatnonzero(column.mask(renames))
    return {page: renames[column[page]] for page in pages.tolist()}


def written_path(written: str, old: str, new: str) -> str:
    """How the page list writes the new path of a page: with a slash at its end if the old one had it.

    Example
    -------
    >>> written_path("/visit/cafe/", "/visit/cafe", "/cafe")
    '/cafe/'
    >>> written_path("https://quillmere.example/visit/cafe", "/visit/cafe", "/cafe")
    'https://quillmere.example/cafe'
    """
    head, found, tail = written.rpartition(old)
    return f"{head}{new}{tail}" if found and not head.endswith("/") else new


def said_of_both(site: SiteModel, gone: str, page: int) -> str:
    """What names both a page that is not there and another page: a setting of the same scope, or a viewpoint.

    Empty if nothing does.
    """
    statements, path = site.statements, site.tree.paths[page]
    viewers = {one.viewer for one in site.viewpoints if one.page == path}
    for viewpoint in site.viewpoints:
        if viewpoint.page == gone and viewpoint.viewer in viewers:
            return f"a viewpoint as {viewpoint.viewer}"
    for row in np.flatnonzero(_named_by(statements, gone) & (statements.form == Form.SAID)).tolist():
        setting = int(statements.setting[row])
        if statements.find(setting, ScopeKind(int(statements.scope[row])), page) >= 0:
            return site.catalogue[setting].name
    return ""


def _named_by(statements: Statements, gone: str) -> Mask:
    """Which statements are for a page that is not there. bool[statements]"""
    if gone not in statements.gone:
        return np.zeros(len(statements), dtype=bool)
    found: Mask = np.isin(statements.scope, OF_PAGES) & (statements.target == -1 - statements.gone.index(gone))
    return found


def _block(block: Block, renames: Renames, names: PageNames) -> Block:
    return block._replace(
        under=renames.get(block.under, block.under),
        leave_out=_words(block.leave_out, renames),
        links={text: renames.get(names.path(address), address) for text, address in block.links.items()},
    )


def _of_conditions(when: Condition, excepts: tuple[Condition, ...], renames: Renames) -> dict[str, Any]:
    return {"when": _in(when, renames), "excepts": tuple(_in(one, renames) for one in excepts)}


def _in(condition: Condition, renames: Renames) -> Condition:
    return condition._replace(
        in_branch=_words(condition.in_branch, renames),
        below=_words(condition.below, renames),
        path=_words(condition.path, renames),
    )


def _words(words: tuple[str, ...], renames: Renames) -> tuple[str, ...]:
    return tuple(renames.get(word, word) for word in words)
