"""Steps about pages: what names one page names another."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

import numpy as np

from ..arrays.codebooks import Column, Mask
from ..site.conditions import Condition
from ..site.declarations import Block
from ..site.model import SiteModel
from ..site.new_statements import Form
from ..site.page_names import PageNames
from ..site.scopes import OF_PAGES, ScopeKind
from ..site.statements import Statements
from .cannot_do import CannotDo
from .rebuild import with_changes

Model = TypeVar("Model", bound=SiteModel)


def named_instead(site: Model, old: str, new: str) -> Model:
    """The site in which everything that names the page `old`, which is not there, names the page `new`.

    Raises
    ------
    UnknownName
        If there is no page `new`.
    CannotDo
        If there is a page `old`, or a scope would say a setting twice.
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
    rules = tuple(
        one._replace(when=_in(one.when, path, instead), excepts=_each_in(one.excepts, path, instead))
        for one in site.rules
    )
    promises = tuple(
        one._replace(when=_in(one.when, path, instead), excepts=_each_in(one.excepts, path, instead))
        for one in site.promises
    )
    accepts = tuple(
        one if one.when is None else one._replace(when=_in(one.when, path, instead)) for one in site.accepts
    )
    probes = tuple(one._replace(page=instead) if one.page == path else one for one in site.probes)
    blocks = {name: _block(block, path, instead, site.page_names) for name, block in site.declarations.blocks.items()}
    columns: Mapping[str, Column] = site.facts.columns
    leads = site.facts.column("leads_to")
    if path in leads.words:
        columns = {**site.facts.columns, "leads_to": leads.changed(lambda word: instead if word == path else word)}
    return with_changes(
        site,
        statements=statements,
        rules=rules,
        promises=promises,
        accepts=accepts,
        probes=probes,
        declarations=site.declarations._replace(blocks=blocks),
        facts=site.facts._replace(columns=columns),
    )


def said_of_both(site: SiteModel, gone: str, page: int) -> str:
    """What names both a page that is not there and another page: a setting of the same scope, or a probe.

    Empty if nothing does.
    """
    statements, path = site.statements, site.tree.paths[page]
    viewers = {one.viewer for one in site.probes if one.page == path}
    for probe in site.probes:
        if probe.page == gone and probe.viewer in viewers:
            return f"a probe as {probe.viewer}"
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


def _block(block: Block, old: str, new: str, names: PageNames) -> Block:
    return block._replace(
        under=new if block.under == old else block.under,
        leave_out=_words(block.leave_out, old, new),
        links={text: new if names.path(address) == old else address for text, address in block.links.items()},
    )


def _in(condition: Condition, old: str, new: str) -> Condition:
    return condition._replace(
        in_branch=_words(condition.in_branch, old, new),
        below=_words(condition.below, old, new),
        path=_words(condition.path, old, new),
    )


def _each_in(conditions: tuple[Condition, ...], old: str, new: str) -> tuple[Condition, ...]:
    return tuple(_in(one, old, new) for one in conditions)


def _words(words: tuple[str, ...], old: str, new: str) -> tuple[str, ...]:
    return tuple(new if word == old else word for word in words)
