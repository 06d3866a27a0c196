"""Ways to change a value: the scopes that could set another one, and how many pages each would change."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ..faults import Place
from ..resolve.effective import EffectiveModel
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.values import Value
from ..site.source import scope_of
from .steps.statement_reach import StatementEdit, reach, reach_together

OTHER = "\0"
"""Stands for a value that no page has."""


class WayReach(NamedTuple):
    """What a way changes if a value is written there."""

    value: bool | None  # yes or no; None stands for a value that no page has
    pages: int  # how many pages would have another value
    this_too: bool  # whether the page itself is among them


class Way(NamedTuple):
    """One way to change what a page gets."""

    scope: Scope
    place: Place | None  # where that scope says something of the setting already
    # what it would change: for a flag with yes and with no, for any other setting with a value that no page has
    reaches: tuple[WayReach, ...]


class _Part(NamedTuple):
    """One scope of a way, by its numbers."""

    scope: ScopeKind
    target: int


def ways_to_change(effective: EffectiveModel, page: int, setting: int) -> tuple[Way, ...]:
    """The ways to change a setting of a page, the narrowest first.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> page, setting = site.tree.number("/visit/tickets"), site.setting_number("sidebar.right")
    >>> way = ways_to_change(site.resolve(), page, setting)[2]
    >>> str(way.scope), way.reaches
    ('below /visit', (WayReach(value=None, pages=23, this_too=True),))
    """
    site = effective.site
    allowed = site.catalogue[setting].scopes
    found = []
    for parts in _asked(effective, page, setting):
        if not all(part.scope.word in allowed for part in parts):
            continue
        place = None
        if len(parts) == 1:
            have = site.statements.find(setting, *parts[0])
            if parts[0].scope == ScopeKind.RULE:  # it may say so through a preset
                have = int(effective.resolved(setting).source[page])
            if have >= 0:
                place = site.statements.place(have)
        values = (True, False) if site.catalogue[setting].kind == "flag" else (None,)
        reaches = tuple(_reach(effective, page, setting, parts, value) for value in values)
        several = len(parts) > 1
        scope = Scope.here_and_below(site.tree.paths[page]) if several else scope_of(site, *parts[0])
        found.append(Way(scope, place, reaches))
    return tuple(found)


def _asked(effective: EffectiveModel, page: int, setting: int) -> Iterator[tuple[_Part, ...]]:
    """The scopes that could set it, the narrowest first."""
    site = effective.site
    parent, kind = int(site.tree.parent[page]), int(site.details.type_of[page])
    yield (_Part(ScopeKind.HERE, page),)
    if site.tree.end[page] > page + 1:
        yield _Part(ScopeKind.HERE, page), _Part(ScopeKind.BELOW, page)
    if parent >= 0:
        yield (_Part(ScopeKind.BELOW, parent),)
    source = int(effective.resolved(setting).source[page])
    if source >= 0 and site.statements.scope[source] == ScopeKind.RULE:
        yield (_Part(ScopeKind.RULE, int(site.statements.target[source])),)
    if site.types.names[kind] in (*site.types.declared, "page"):
        yield (_Part(ScopeKind.TYPE, kind),)
    yield (_Part(ScopeKind.EVERYWHERE, 0),)


def _reach(
    effective: EffectiveModel, page: int, setting: int, parts: tuple[_Part, ...], value: bool | None
) -> WayReach:
    """The pages that change if scopes set a value; an existing lock stays."""
    statements = effective.site.statements
    is_list = effective.site.catalogue[setting].kind == "list"
    says: Value = value if value is not None else (OTHER,) if is_list else OTHER
    edits = []
    for scope, target in parts:
        have = statements.find(setting, scope, target)
        locked = have >= 0 and bool(statements.locked[have])
        edits.append(StatementEdit(setting, scope, target, says, locked))
    pages = (reach(effective, edits[0]) if len(edits) == 1 else reach_together(effective, edits)).pages
    pages = pages[effective.site.has(setting)[pages]]
    return WayReach(value, len(pages), bool((pages == page).any()))
