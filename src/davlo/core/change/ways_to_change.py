"""Ways to change a value: in which scopes one could say something else, and on how many pages that would decide."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..faults import Place
from ..resolve.effective import EffectiveModel
from ..site.scopes import Scope, ScopeKind
from ..site.source import scope_of
from ..site.values import Plain
from .reach import StatementEdit, reach

OTHER = "\0"
"""Stands for a value that no page has."""


class Way(NamedTuple):
    """One way to change what a page gets.

    Attributes
    ----------
    scope : Scope
    place : Place, or None
        Where that scope says something of the setting already.
    pages : int
        How many pages would have another value: of a flag if it said the opposite, of any other if it said
        what no page has.
    this_too : bool
        Whether the page itself is among them.
    """

    scope: Scope
    place: Place | None
    pages: int
    this_too: bool


def ways_to_change(effective: EffectiveModel, page: int, setting: int) -> tuple[Way, ...]:
    """The ways to change a setting of a page, the narrowest first.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> page, setting = site.tree.number("/visit/tickets"), site.setting_number("sidebar.right")
    >>> [(str(way.scope), way.pages, way.this_too) for way in ways_to_change(site.resolve(), page, setting)][2]
    ('below /visit', 23, True)
    """
    site = effective.site
    tree, parent = site.tree, int(site.tree.parent[page])
    kind, has = int(site.facts.type_of[page]), site.has(setting)
    asked = [[(ScopeKind.HERE, page)]]
    asked += [[(ScopeKind.HERE, page), (ScopeKind.BELOW, page)]] if tree.end[page] > page + 1 else []
    asked += [[(ScopeKind.BELOW, parent)]] if parent >= 0 else []
    source = int(effective.resolved(setting).source[page])
    if source >= 0 and site.statements.scope[source] == ScopeKind.RULE:
        asked += [[(ScopeKind.RULE, int(site.statements.target[source]))]]
    asked += [[(ScopeKind.TYPE, kind)]] if site.types.names[kind] in (*site.types.declared, "page") else []
    asked += [[(ScopeKind.EVERYWHERE, 0)]]
    allowed = site.catalogue[setting].scopes
    value = _other(effective.value(page, setting))
    found = []
    for parts in asked:
        if all(scope.word in allowed for scope, _ in parts):
            pages = np.concatenate([_pages(effective, setting, scope, target, value) for scope, target in parts])
            pages = pages[has[pages]]
            have = [site.statements.find(setting, *part) for part in parts]
            place = site.statements.place(have[0]) if len(parts) == 1 and have[0] >= 0 else None
            if parts[0][0] == ScopeKind.RULE:  # it may say so through a preset
                place = site.statements.place(source)
            scope = Scope.here_and_below(tree.paths[page]) if len(parts) > 1 else scope_of(site, *parts[0])
            found.append(Way(scope, place, len(pages), bool((pages == page).any())))
    return tuple(found)


def _other(value: Plain) -> Plain:
    """A value that is not this one; but for yes and no one that no page has."""
    if isinstance(value, bool):
        return not value
    return (OTHER,) if isinstance(value, tuple) else OTHER


def _pages(effective: EffectiveModel, setting: int, scope: ScopeKind, target: int, value: Plain) -> NDArray[np.int64]:
    """The pages that change when a scope says a value; a lock that it has stays."""
    have = effective.site.statements.find(setting, scope, target)
    locked = have >= 0 and bool(effective.site.statements.locked[have])
    return reach(effective, StatementEdit(setting, scope, target, value, locked)).pages
