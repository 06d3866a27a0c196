"""Steps about pages: moved, dropped, with other details, or named in place of one that is gone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeAlias, TypeVar

import numpy as np

from ..arrays.codebooks import Column, Mask
from ..site.conditions import Condition
from ..site.declarations import Block
from ..site.model import SiteModel
from ..site.new_statements import Form
from ..site.page_names import PageNames
from ..site.scopes import OF_PAGES, ScopeKind
from ..site.statements import Statements
from ..wording import count
from .cannot_do import CannotDo
from .rebuild import with_changes, without_redundant_access
from .replant import replanted
from .steps import DropPage, MovePage, SetDetail

Model = TypeVar("Model", bound=SiteModel)
Renames: TypeAlias = Mapping[str, str]
"""Paths of pages, and those that take their place."""
NAMING = ("parent", "translates", "leads_to")
"""The details that name another page."""


def named_instead(site: Model, old: str, new: str) -> Model:
    """The site in which everything that names the page `old`, which is not there, names the page `new`.

    Raises UnknownName if there is no page `new`; CannotDo if there is a page `old`, or a scope would say a setting
    twice.
    """
    path, page = site.page_names.path(old), site.page_number(new)
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
        columns = {**site.details.columns, "leads_to": leads.changed(lambda word: instead if word == path else word)}
    details = site.details._replace(columns=columns)
    return with_changes(with_names(site, {path: instead}), statements=statements, details=details)


def with_names(site: Model, renames: Renames) -> Model:
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


def moved(site: Model, step: MovePage) -> Model:
    """The site in which a page, and those below it, have other paths.

    Raises SiteError if a page has the new path already; CannotDo if it cannot be moved, or a scope would say a setting
    twice.
    """
    renames = pages_moved(site, step)
    top = site.page_number(step.path)
    for old, new in renames.items():
        both = said_of_both(site, new, site.tree.number(old))
        if both:
            raise CannotDo(f"{new} has {both} already")
    cells = {name: _cells_naming(site, name, renames) for name in NAMING}
    parent = "" if not step.parent else site.tree.paths[site.page_number(step.parent)]
    cells["parent"][top] = renames.get(parent, parent)
    paths = {
        site.tree.number(old): written_path(site.details.written[site.tree.number(old)], old, new)
        for old, new in renames.items()
    }
    return replanted(with_names(site, renames), paths=paths, cells=cells)[0]


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


def dropped(site: Model, step: DropPage) -> Model:
    """The site without a page and what is set for it.

    Raises CannotDo if pages stand below it, and the step is not about them too.
    """
    page = site.page_number(step.path)
    end = int(site.tree.end[page])
    if end > page + 1 and not step.branch:
        raise CannotDo(f"{count(end - page - 1, 'page stands', 'pages stand')} below {site.tree.paths[page]}")
    gone = np.zeros(len(site.tree), dtype=bool)
    gone[page:end] = True
    return without_redundant_access(replanted(site, gone=gone)[0])


def with_detail(site: Model, step: SetDetail) -> Model:
    """The site in which the page list has another cell for a page.

    Raises SiteError if the detail cannot be that, or the parent is not there; CannotDo if it is the path: another path
    means to move the page.
    """
    if step.detail == "path":
        raise CannotDo("another path means to move the page")
    page = site.page_number(step.path)
    text = step.text
    if step.detail in NAMING and text:
        text = site.page_names.path(text) if step.detail != "leads_to" or text.startswith("/") else text
    return replanted(site, cells={step.detail: {page: text}})[0]


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
