"""Which statements of a setting condensing may move or take away, and which stay."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..cached import cached_property
from ..resolve.effective import EffectiveModel
from ..resolve.fold import Resolved, resolve_setting
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import ByDepth, ListChange, Reference
from ..site.statements.new_statements import Form

PLACED = (ScopeKind.TYPE, ScopeKind.BELOW, ScopeKind.HERE)
"""The scopes whose statements may move; those of all others stay."""


class Intent(NamedTuple):
    """What people want to keep."""

    branch: range | None = None  # only statements of these pages, which are a branch, may move or go
    keep_here: bool = False  # statements of single pages stay
    drop_reasons: bool = False  # a statement with a reason may go, too


@dataclass(frozen=True)
class FreeStatements:
    """The statements of one setting, and which of them may move."""

    effective: EffectiveModel
    setting: int
    intent: Intent

    @property
    def rows(self) -> range:
        """The numbers of the setting's statements."""
        return self.effective.site.statements.of_setting(self.setting)

    def column(self, name: str) -> NDArray[np.int64]:
        """A column of the setting's statements. int64[rows]"""
        column: NDArray[np.generic] = getattr(self.effective.site.statements, name)
        return column[self.rows.start : self.rows.stop].astype(np.int64)

    @cached_property
    def plain(self) -> Mask:
        """Which of them replace what weaker scopes say by one value. bool[rows]"""
        words = self.effective.site.statements.words[self.setting].items
        plain = np.array([not isinstance(word, ByDepth | ListChange | Reference) for word in words], dtype=bool)
        return plain[self.column("value")]

    @cached_property
    def alone(self) -> Mask:
        """Which of them stand alone in their scope: no preset and no fresh access beside them. bool[rows]"""
        key = (self.column("scope") << 33) + self.column("target") + (1 << 32)
        _, which, counts = np.unique(key, return_inverse=True, return_counts=True)
        alone: Mask = (counts[which] == 1) & (self.column("form") == Form.SAID) & (self.column("preset") == 0)
        return alone

    @cached_property
    def may_go(self) -> Mask:
        """Which of them may go if they have no effect. bool[rows]"""
        scope, target = self.column("scope"), self.column("target")
        stay = (ScopeKind.ESTATE, ScopeKind.RULE, ScopeKind.STAMP)
        some: Mask = self.alone & (self.column("locked") == 0) & ~np.isin(scope, stay)
        of_page = np.isin(scope, (ScopeKind.BELOW, ScopeKind.HERE))
        some &= ~(of_page & (target < 0))
        if not self.intent.drop_reasons:
            some &= (self.column("because") == 0) & ~self._accepted
        if self.intent.keep_here:
            some &= scope != ScopeKind.HERE
        if self.intent.branch is not None:
            some &= of_page & (target >= self.intent.branch.start) & (target < self.intent.branch.stop)
        return self._whole(some)

    @property
    def _accepted(self) -> Mask:
        """Which of them have no effect, and somebody accepted that. bool[rows]"""
        site, scope, target = self.effective.site, self.column("scope"), self.column("target")
        found, name = np.zeros(len(self.rows), dtype=bool), site.catalogue[self.setting].name
        for accept in site.accepts:
            if accept.setting in ("", name):
                here = (scope == ScopeKind.HERE) & (target >= 0)
                if accept.when is not None:
                    here[here] = site.pages(accept.when)[target[here]]
                found |= here & (accept.kind in ("", "repeats-inherited"))
                found |= (scope < ScopeKind.RULE) & (accept.kind in ("", "redundant-default") and accept.when is None)
        return found

    @cached_property
    def free(self) -> Mask:
        """Which of them may move: plain values of types, branches and single pages. bool[rows]"""
        return self._whole(self.may_go & self.plain & np.isin(self.column("scope"), PLACED))

    def _whole(self, some: Mask) -> Mask:
        """Some statements without the halves of a `here_and_below` whose other half is not among them. bool[rows]"""
        target, both = self.column("target"), self.column("both") != 0
        pages, counts = np.unique(target[both & some], return_counts=True)
        whole: Mask = some & (~both | np.isin(target, pages[counts == 2]))
        return whole

    def places(self, source: Codes) -> Codes:
        """For statements of the setting their places among its own, from 1; 0 for what is built in. int32[n]"""
        places: Codes = np.maximum(source - np.int32(self.rows.start - 1), np.int32(0))
        return places

    def resolved_without(
        self, scopes: Collection[ScopeKind], and_rows: Mask | None = None, sources: bool = False
    ) -> Resolved:
        """The setting of every page without the statements of these kinds of scope, and without `and_rows`.

        With `sources`, statements have the numbers that they have in the site; without, sources mean nothing.
        """
        site, gone = self.effective.site, np.isin(self.column("scope"), list(scopes))
        if and_rows is not None:
            gone |= and_rows
        numbers = (np.flatnonzero(gone) + self.rows.start).tolist()
        left = site.statements.of_one(self.setting, range(len(site.tree)), numbers)
        for_new_pages = self.effective.is_for_new_pages(self.setting)
        found = resolve_setting(left, self.setting, site.scope_pages, for_new_pages)
        return found._replace(source=self._renumbered(found.source, gone)) if sources else found

    def _renumbered(self, source: Codes, gone: Mask) -> Codes:
        """The statements of a table without some, by their numbers in the site's. int32[pages]"""
        numbers = np.concatenate([[-1], np.flatnonzero(~gone) + self.rows.start]).astype(np.int32)
        return numbers.take(source + 1, mode="clip")
