"""How statements are used: how many pages each reaches, and on how many it decides the value."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.grouping import groups
from ..cached import cached_property
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import Value
from ..site.source import Source, source_of
from .effective import EffectiveModel

Rows = NDArray[np.int64]


class StatementUse(NamedTuple):
    """One statement and its use.

    Attributes
    ----------
    setting : str
    source : Source
        Its scope, file and line.
    says : value
        Its value, which may be a change of a list or a reference to another scope.
    preset : str
        The preset that it comes from; empty if it stands in the scope itself.
    because : str
        The reason that its author gave.
    reaches : int
        How many pages its scope is for, of those that have the setting.
    decides : int
        On how many of them it is the source of the value.
    alike : int
        How many statements this one stands for.
    """

    setting: str
    source: Source
    says: Value
    preset: str
    because: str
    reaches: int
    decides: int
    alike: int = 1


class StatementUses:
    """Some statements and the pages that they reach and decide. `Effective.statements` is the call to use.

    `rows`: int64[n]: statements by their numbers, ascending.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> uses = StatementUses(effective, of_setting(effective, "menu.show"))
    >>> int(uses.reaches.sum()) >= int(uses.decides.sum())
    True
    """

    def __init__(self, effective: EffectiveModel, rows: Rows) -> None:
        self.effective, self.site, self.rows = effective, effective.site, rows

    @cached_property
    def reaches(self) -> Rows:
        """How many pages each reaches, of those that have the setting. int64[n]"""
        statements, pages = self.site.statements, self.site.scope_pages
        found = np.zeros(len(self.rows), dtype=np.int64)
        for (setting,), at in groups(statements.setting[self.rows]):
            rows = self.rows[at]
            found[at] = pages.counts(statements.scope[rows], statements.target[rows], self.site.has(setting))
        return found

    @cached_property
    def decides(self) -> Rows:
        """On how many pages each is the source. int64[n]"""
        found = np.zeros(len(self.rows), dtype=np.int64)
        for (setting,), at in groups(self.site.statements.setting[self.rows]):
            source = self.effective.resolved(setting).source[self.site.has(setting)]
            found[at] = np.bincount(source + 1, minlength=len(self.site.statements) + 1)[self.rows[at] + 1]
        return found

    def __len__(self) -> int:
        return len(self.rows)

    def records(self) -> Iterator[StatementUse]:
        """Each statement with its use, in the order of `rows`."""
        return (self._record(np.array([at])) for at in range(len(self.rows)))

    def gathered(self) -> Iterator[StatementUse]:
        """Each statement with its use; equal statements of single pages in one file become one record."""
        statements, rows = self.site.statements, self.rows
        scope = statements.scope[rows]
        alone = np.where(scope >= ScopeKind.STAMP, -1, np.arange(len(rows)))
        columns = (statements.setting, statements.value, statements.file, statements.preset)
        found = [at for _, at in groups(alone, scope, *(column[rows] for column in columns))]
        return (self._record(at) for at in sorted(found, key=lambda at: int(at[0])))

    def _record(self, at: Rows) -> StatementUse:
        """One record for some equal statements: the first, with the pages of all."""
        row, statements = int(self.rows[at[0]]), self.site.statements
        return StatementUse(
            self.site.catalogue[int(statements.setting[row])].name,
            source_of(self.site, row),
            statements.said(row),
            statements.presets[int(statements.preset[row])][0],
            statements.reasons[int(statements.because[row])],
            int(self.reaches[at].sum()),
            int(self.decides[at].sum()),
            len(at),
        )

    def decided(self, pages: NDArray[np.int64]) -> Mask:
        """On which of these pages any of the statements is the source of a value. bool[n]"""
        found = np.zeros(len(pages), dtype=bool)
        for (setting,), at in groups(self.site.statements.setting[self.rows]):
            source = self.effective.resolved(setting).source[pages]
            found |= np.isin(source, self.rows[at]) & self.site.has(setting)[pages]
        return found


def of_setting(effective: EffectiveModel, setting: str) -> Rows:
    """The statements of a setting, weakest first. int64[n]"""
    span = effective.site.statements.of_setting(effective.setting_number(setting))
    return np.arange(span.start, span.stop)


def of_scope(effective: EffectiveModel, kind: ScopeKind, target: int) -> Rows:
    """The statements of one scope, a setting after the other. int64[n]"""
    statements = effective.site.statements
    found: Rows = np.flatnonzero((statements.scope == kind) & (statements.target == target))
    return found
