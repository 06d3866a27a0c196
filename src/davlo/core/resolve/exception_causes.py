"""All exceptions of a site, by cause: a rule, what pages say themselves in one file, or stamps."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask, distinct
from ..arrays.grouping import groups
from ..site.settings.scopes import Scope, ScopeKind
from ..site.settings.values import Plain, Value
from ..site.source import Source, source_of
from .effective import EffectiveModel
from .exceptions import PageExceptions

_ORDER = (ScopeKind.RULE, ScopeKind.HERE, ScopeKind.STAMP, ScopeKind.BUILT_IN)


class _Key(NamedTuple):
    """What exceptions of one cause share: the kind of scope, the rule, the reason and the file, or -1."""

    kind: int
    rule: int
    because: int
    file: int


class ExceptionValue(NamedTuple):
    """A value that pages have instead of another. `pages: int64[n]` are their numbers, ascending."""

    value: Plain
    inherited: Plain
    pages: NDArray[np.int64]


class SettingExceptions(NamedTuple):
    """What one cause does to one setting."""

    setting: str
    pages: NDArray[np.int64]  # int64[n]: the pages that are exceptions, ascending
    value: Codes  # `value`, `inherited`: int32[n]: what each has, and what it would inherit, as codes of `words`
    inherited: Codes
    source: Codes  # int32[n]: the statement that gave it; -1: built in
    words: Sequence[Value]

    def values(self) -> list[ExceptionValue]:
        """The different values, that of the most pages first."""
        found = [
            ExceptionValue(self.words[value], self.words[inherited], self.pages[at])  # type: ignore[arg-type]
            for (value, inherited), at in groups(self.value, self.inherited)
        ]
        return sorted(found, key=lambda one: -len(one.pages))

    def different(self) -> int:
        """How many different values there are."""
        return len(distinct(self.value.astype(np.int64))[0])


class ExceptionCause(NamedTuple):
    """What makes pages exceptions, and how.

    Attributes
    ----------
    source : Source
        The first statement: its scope, file and line. All of the cause share the scope's kind, the rule, and the file.
    because : str
        The reason that was given; empty if none was.
    settings : tuple of SettingExceptions
        In their order.
    pages : int64[n]
        All pages, each once, ascending.
    """

    source: Source
    because: str
    settings: tuple[SettingExceptions, ...]
    pages: NDArray[np.int64]

    @property
    def scope(self) -> Scope:
        """The scope of the first statement."""
        return self.source.scope


def exception_causes(effective: EffectiveModel, among: Mask | None = None) -> list[ExceptionCause]:
    """Why pages are exceptions, for all settings.

    Rules come first, then what pages say themselves, then stamps; the cause of the most pages first.

    `among`: bool[pages]: only these pages.

    Example
    -------
    >>> import davlo
    >>> found = exception_causes(davlo.open_demo().resolve())
    >>> [(one.scope.name, len(one.pages)) for one in found[:2]]
    [('Campaign pages show what to do', 6), ('Hand-built pages run edge to edge', 4)]
    """
    site, found = effective.site, dict[_Key, list[tuple[int, SettingExceptions]]]()
    for setting in range(len(site.catalogue)):
        if len(site.statements.of_setting(setting)):
            for key, first, one in _of_setting(effective.exceptions(site.catalogue[setting].name), among):
                found.setdefault(key, []).append((first, one))
    causes = []
    for key, some in found.items():
        pages = np.unique(np.concatenate([one.pages for _, one in some]))
        reason = site.statements.reasons[key.because] if key.because >= 0 else ""
        first = min(source for source, _ in some)
        causes.append(ExceptionCause(source_of(site, first), reason, tuple(one for _, one in some), pages))
    return sorted(causes, key=lambda cause: (_ORDER.index(cause.scope.kind), -len(cause.pages)))


def _of_setting(found: PageExceptions, among: Mask | None) -> Iterator[tuple[_Key, int, SettingExceptions]]:
    """The exceptions of one setting by cause: the cause, its first statement, and what it does."""
    site, statements = found.site, found.site.statements
    keep = np.flatnonzero(among[found.pages]) if among is not None else np.arange(len(found.pages))
    source = found.source[keep]
    said, is_said = np.maximum(source, 0), source >= 0
    kind = np.where(is_said, statements.scope[said], ScopeKind.BUILT_IN)
    rule = np.where(kind == ScopeKind.RULE, statements.target[said], -1)
    of_said = [np.where(is_said, column[said], -1) for column in (statements.because, statements.file)]
    name = site.catalogue[found.setting].name
    for key, at in groups(kind, rule, *of_said):
        some = keep[at]
        columns = found.pages[some], found.value[some], found.inherited[some], source[at]
        yield _Key(*key), int(source[at].min()), SettingExceptions(name, *columns, found.words)
