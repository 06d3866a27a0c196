"""Where a change has no effect: the pages that its statements reach, and that keep the value they have."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.grouping import groups
from ..resolve.effective import EffectiveModel
from ..site.scopes import Scope, ScopeKind
from ..site.source import Source, source_of
from .difference import Difference
from .statement_steps import target_of
from .steps import Change, Say

LOCKED, OVERRIDDEN, STAMPED, ALREADY = "locked", "overridden", "stamped", "already"


class NoEffect(NamedTuple):
    """Pages on which what a change says has no effect.

    Attributes
    ----------
    setting : str
    scope : Scope
        The scope that the change says it in.
    reason : str
        `locked`: a lock of a weaker scope stays. `overridden`: a stronger statement sets them. `stamped`: they keep
        what they were given when they were made. `already`: they have the value anyway.
    by : Source
        The statement that gives them their value.
    pages : int64[n]
        Their numbers in the state after, ascending.
    """

    setting: str
    scope: Scope
    reason: str
    by: Source
    pages: NDArray[np.int64]


def no_effect(difference: Difference, change: Change) -> list[NoEffect]:
    """Where a change has no effect, and why; the most pages first.

    Parameters
    ----------
    difference : Difference
        What the change does.
    change : Change

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> change = davlo.Change().say("sidebar.right", "main", everywhere=True).say("band.footer", "none", below="/press")
    >>> for one in site.reach(change).no_effect[:3]:
    ...     print(one.setting, one.reason, one.by.scope, len(one.pages))
    sidebar.right already everywhere 52
    sidebar.right overridden type plant-record 31
    sidebar.right overridden below /visit 23
    """
    found = []
    for step in change.steps:
        if isinstance(step, Say):
            for part in step.scope.parts:
                found += _of_statement(difference, part, step.setting)
    return sorted(found, key=lambda one: -len(one.pages))


def _of_statement(difference: Difference, scope: Scope, setting: str) -> list[NoEffect]:
    after = difference.after
    site = after.site
    number = site.catalogue.find(setting)
    if number is None:
        return []
    kind, target = scope.kind, target_of(site, scope)
    said = site.statements.find(number, kind, target)
    if said < 0:
        return []
    reached = np.zeros(len(site.tree), dtype=bool)
    reached[site.scope_pages.of(kind, target)] = True
    reached &= site.has(number) & ~_changed(difference, setting)
    pages = np.flatnonzero(reached)
    source = after.resolved(number).source[pages]
    found = []
    for (by,), at in groups(source):
        reason = ALREADY if by == said else OVERRIDDEN
        if reason == OVERRIDDEN and by >= 0 and site.statements.locked[by] and _is_weaker(after, by, said):
            reason = LOCKED
        elif reason == OVERRIDDEN and after.is_stamped(number) and kind <= ScopeKind.RULE:
            keeps_stamp = by < 0 or site.statements.scope[by] == ScopeKind.STAMP
            reason = STAMPED if keeps_stamp else OVERRIDDEN
        found.append(NoEffect(setting, scope, reason, source_of(site, by), pages[at]))
    return found


def _changed(difference: Difference, setting: str) -> Mask:
    """Which pages of the state after have another value of a setting than before. bool[pages]"""
    found = np.zeros(len(difference.after.site.tree), dtype=bool)
    for one in difference.settings:
        if one.setting == setting:
            paths = difference.before.site.tree.paths.take(one.pages[one.changed])
            numbers = difference.after.site.tree.find_all(paths)
            found[numbers[numbers >= 0]] = True
    return found


def _is_weaker(effective: EffectiveModel, one: int, other: int) -> bool:
    strength = effective.site.statements.strength(np.array([one, other]))
    return bool(strength[0] <= strength[1])
