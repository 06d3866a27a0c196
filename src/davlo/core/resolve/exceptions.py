"""Exceptions: pages that have another value of a setting than they would inherit, and for what reason."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes
from ..site.model import SiteModel
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import Plain, Value
from ..site.source import Source, source_of
from .fold import FoldStages


class PageException(NamedTuple):
    """One exception: what the page has and from where, what it would get and from where, and the reason given."""

    path: str
    value: Plain
    source: Source
    inherited: Plain
    inherited_source: Source
    because: str


class PageExceptions(NamedTuple):
    """The pages that are exceptions on a setting.

    Attributes
    ----------
    site : SiteModel
    setting : int
    pages : int64[n]
        Their numbers, ascending.
    value, source : int32[n]
        What each has, as a code of the setting's words, and the statement that gave it.
    inherited, inherited_source : int32[n]
        What comes down to it from everywhere, its type and the branches it is in: the value and the statement. If the
        page itself goes back to that value, the rule or the stamp that it overrides.
    words : sequence of values
        What the codes mean.
    """

    site: SiteModel
    setting: int
    pages: NDArray[np.int64]
    value: Codes
    source: Codes
    inherited: Codes
    inherited_source: Codes
    words: Sequence[Value]

    def __len__(self) -> int:
        return len(self.pages)

    def among(self, pages: NDArray[np.int64]) -> PageExceptions:
        """The exceptions among these pages, in the order of the pages."""
        place = np.full(len(self.site.tree), -1, dtype=np.int64)
        place[self.pages] = np.arange(len(self.pages))
        chosen = place[pages]
        chosen = chosen[chosen >= 0]
        columns = (self.value, self.source, self.inherited, self.inherited_source)
        value, source, inherited, inherited_source = (column[chosen] for column in columns)
        pages = self.pages[chosen]
        return PageExceptions(self.site, self.setting, pages, value, source, inherited, inherited_source, self.words)

    def records(self) -> list[PageException]:
        """Each of them with values, sources and reasons in words."""
        site = self.site
        statements, words = site.statements, self.words
        paths = site.tree.paths.take(self.pages).tolist()
        columns = (column.tolist() for column in self[3:7])
        return [
            PageException(
                path,
                words[value],
                source_of(site, source),
                words[inherited],
                source_of(site, inherited_source),
                statements.reasons[int(statements.because[source])] if source >= 0 else "",
            )
            for path, value, source, inherited, inherited_source in zip(paths, *columns, strict=True)
        ]


def exceptions(site: SiteModel, setting: int, found: FoldStages) -> PageExceptions:
    """The exceptions, from the stages of a setting's fold. `EffectiveModel.exceptions` is the call to use.

    A page is an exception where it has another value than what comes down to it, or where what it says itself overrides
    a rule or a stamp, also if it comes back to what comes down.
    """
    scope = np.append(site.statements.scope, ScopeKind.BUILT_IN)
    beats = (scope[found.source] == ScopeKind.HERE) & np.isin(
        scope[found.base_source], (ScopeKind.RULE, ScopeKind.STAMP)
    )
    differs = found.value != found.below_value
    back = beats & ~differs & (found.value != found.base_value)
    pages = np.flatnonzero((differs | back) & site.has(setting))
    inherited = np.where(back, found.base_value, found.below_value)
    inherited_source = np.where(back, found.base_source, found.below_source)
    columns = (found.value, found.source, inherited, inherited_source)
    value, source, inherited, inherited_source = (column[pages] for column in columns)
    return PageExceptions(site, setting, pages, value, source, inherited, inherited_source, found.words)
