"""Whether a value comes from the same scope in two states of a site: statements as numbers that both states share."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...cached import cached_property
from ...site.model import SiteModel
from ...site.settings.scopes import OF_PAGES, ScopeKind

NOWHERE = -(1 << 31)


class SourceKeys:
    """Numbers for the scope and the lock of statements, the same for the same ones of both states.

    `number_after`: gives for each page of the first state its number in the second, -1 where it is gone. int64[pages].
    """

    def __init__(self, before: SiteModel, after: SiteModel, number_after: Callable[[], NDArray[np.int64]]) -> None:
        self._before, self._after, self._number_after = before, after, number_after

    def moved(self, before: Codes, after: Codes) -> Mask:
        """Where a value comes from another scope, or from a lock where it came from none. bool[n]"""
        if len(before) > len(self._before.statements):
            keys, others = self.tables
            keys, others = keys[before], others[after]  # -1, the built-in value, is the last
        else:
            keys = self._source_keys(before, self._before, True)
            others = self._source_keys(after, self._after, False)
        differs: Mask = keys != others
        return differs

    @cached_property
    def tables(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """A number for the scope and the lock of every statement of each state; the last is for the built-in value."""
        one, other = (np.append(np.arange(len(site.statements)), -1) for site in (self._before, self._after))
        return self._source_keys(one, self._before, True), self._source_keys(other, self._after, False)

    def _source_keys(self, statements: NDArray[np.integer], site: SiteModel, is_before: bool) -> NDArray[np.int64]:
        """A number for the scope and the lock of each statement, the same for the same ones of both states. int64[n]"""
        said, built_in = site.statements, statements < 0
        if not len(said):
            return np.full(len(statements), -1, dtype=np.int64)
        at = np.where(built_in, 0, statements)
        kind, target, locked = said.scope[at].astype(np.int64), said.target[at].astype(np.int64), said.locked[at]
        if is_before and not self._has_same_targets:
            target = self._targets_after(kind, target)
        return np.where(built_in, -1, ((kind << 33) + target + (1 << 32)) * 2 + locked)

    @cached_property
    def _has_same_targets(self) -> bool:
        """Whether pages, types and rules have the same numbers in both states."""
        one, other = self._before, self._after
        same = one.tree is other.tree and one.types is other.types and one.rules is other.rules
        return same and one.statements.gone == other.statements.gone

    def _targets_after(self, kind: NDArray[np.int64], target: NDArray[np.int64]) -> NDArray[np.int64]:
        """The second state's number for each target of the first state; a number out of range if it is not there."""
        one, other, found = self._before, self._after, target.copy()
        gone = {path: -1 - place for place, path in enumerate(other.statements.gone)}
        away = [gone.get(path, NOWHERE) for path in one.statements.gone]
        rules = {rule.name: number for number, rule in enumerate(other.rules)}
        tables = {
            ScopeKind.TYPE: [other.types.find(name) for name in one.types.names],
            ScopeKind.RULE: [rules.get(rule.name, NOWHERE) for rule in one.rules],
        }
        for scope, table in tables.items():
            mine = kind == scope
            found[mine] = np.array([*table, NOWHERE], dtype=np.int64)[target[mine]]
        of_pages = np.isin(kind, OF_PAGES)
        there, missing = of_pages & (target >= 0), of_pages & (target < 0)
        found[there] = self._number_after()[target[there]]
        found[missing] = np.array([*away, NOWHERE], dtype=np.int64)[-1 - target[missing]]
        return found
