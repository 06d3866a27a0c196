"""Statements that have no effect: taking them away changes nothing on any page."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..arrays.codebooks import Mask
from ..change.steps.change import Step, TakeAway
from ..change.steps.statement_reach import StatementEdit, common_codes, reach, reach_without
from ..site.settings.scopes import Scope, ScopeKind
from .free_statements import FreeStatements


def redundant_steps(free: FreeStatements, placed: Mask) -> list[Step]:
    """The steps that take away what has no effect of one setting, and may go.

    Of a setting whose default is for new pages only what single pages say: the rest is for new pages. `placed` are
    those that were put where they are best, so that each has an effect. bool[rows]
    """
    site, effective = free.effective.site, free.effective
    scope, target, both = free.column("scope"), free.column("target"), free.column("both") != 0
    candidates = np.flatnonzero(free.may_go & ~placed)
    here = candidates[(scope[candidates] == ScopeKind.HERE) & ~both[candidates]]
    gone: list[int] = []
    if len(here):
        mask = np.zeros(len(free.rows), dtype=bool)
        mask[here] = True
        pages, now = target[here], effective.resolved(free.setting)
        codes, _ = common_codes(now, free.resolved_without((), mask))
        same = (now.value[pages] == codes[pages]) | ~site.has(free.setting)[pages]
        gone += here[same].tolist()
    rest = [row for row in candidates.tolist()[::-1] if scope[row] != ScopeKind.HERE or both[row]]
    for rows in _together(free, rest) if not effective.is_for_new_pages(free.setting) else ():
        if all(not len(reach(effective, _taken(free, row))) for row in rows):
            numbers = [row + free.rows.start for row in (*gone, *rows)]
            if not len(reach_without(effective, free.setting, numbers)):
                gone += rows
    return list(_steps(free, gone))


def _taken(free: FreeStatements, row: int) -> StatementEdit:
    """A statement taken away."""
    scope, target = (int(free.column(name)[row]) for name in ("scope", "target"))
    return StatementEdit(free.setting, ScopeKind(scope), target, gone=True)


def _together(free: FreeStatements, rows: list[int]) -> Iterator[list[int]]:
    """The rows one by one, the halves of a `here_and_below` together; the strongest first."""
    target, both = free.column("target"), free.column("both") != 0
    done: set[int] = set()
    for row in rows:
        if not both[row]:
            yield [row]
        elif int(target[row]) not in done:
            done.add(int(target[row]))
            yield [one for one in rows if both[one] and target[one] == target[row]]


def _steps(free: FreeStatements, rows: list[int]) -> Iterator[Step]:
    site, name = free.effective.site, free.effective.site.catalogue[free.setting].name
    scope, target, both = free.column("scope"), free.column("target"), free.column("both") != 0
    for row in sorted(rows):
        kind, at = ScopeKind(int(scope[row])), int(target[row])
        if both[row]:
            if kind == ScopeKind.BELOW:
                yield TakeAway(Scope.here_and_below(site.tree.paths[at]), name)
        elif kind == ScopeKind.TYPE:
            yield TakeAway(Scope.type(site.types.names[at]), name)
        else:
            yield TakeAway(Scope(kind, site.tree.paths[at] if kind != ScopeKind.EVERYWHERE else ""), name)
