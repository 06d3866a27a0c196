"""Where a value came from, in words."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple, overload

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Column, Mask, distinct
from ..faults import Place
from .model import SiteModel
from .settings.scopes import BUILT_IN_SCOPE, OF_PAGES, Scope, ScopeKind
from .statements.new_statements import Form

MOST_KNOWN = 1 << 16
"""The most sources that a site remembers."""
ONE_A_SITE = (ScopeKind.ESTATE, ScopeKind.EVERYWHERE, ScopeKind.STAMP, ScopeKind.HERE)
"""Scopes that one word names, whatever they are for."""


class Source(NamedTuple):
    """Where a value came from: the scope, the file and the line.

    `locked`: the statement is a lock. `fresh`: it is a `fresh_access`. `layout`: this layout brings it.
    """

    scope: Scope
    file: str = ""
    line: int = 0
    locked: bool = False
    fresh: bool = False
    layout: str = ""

    @property
    def words(self) -> str:
        """The scope in words, or the layout that brings the value."""
        return f"layout {self.layout}" if self.layout else str(self.scope)

    @property
    def where(self) -> str:
        """The place, and what is special about the statement; empty for built-in."""
        if not self.file:
            return ""
        return (
            f"{Place(self.file, self.line)}"
            + (" locked" if self.locked else "")
            + (" fresh_access" if self.fresh else "")
        )

    def __str__(self) -> str:
        return f"{self.words}, {Place(self.file, self.line)}" if self.file else self.words


class SourceColumns(NamedTuple):
    """Many sources as columns; `scope` in words."""

    scope: Column
    file: Column  # empty for built-in
    line: NDArray[np.int32]  # int32[n]: 0 for built-in
    locked: Mask  # bool[n]


class Sources(Sequence[Source]):
    """The sources that statements are; each is made when it is asked for. `statements`: int64[n]; -1 is built-in.

    Example
    -------
    >>> import davlo, numpy as np
    >>> sources = Sources(davlo.open_demo(), np.array([-1, 0]))
    >>> [str(one.scope) for one in sources], [*sources.columns().scope]
    (['built-in', 'type plant-record'], ['built-in', 'type plant-record'])
    """

    def __init__(self, site: SiteModel, statements: NDArray[np.int64]) -> None:
        self._site, self._statements = site, statements

    def __len__(self) -> int:
        return len(self._statements)

    @overload
    def __getitem__(self, number: int) -> Source: ...

    @overload
    def __getitem__(self, number: slice) -> Sources: ...

    def __getitem__(self, number: int | slice) -> Source | Sources:
        if isinstance(number, slice):
            return Sources(self._site, self._statements[number])
        return source_of(self._site, int(self._statements[number]))

    def columns(self) -> SourceColumns:
        """The sources as columns."""
        table, numbers = self._site.statements, self._statements
        said = np.maximum(numbers, 0) if len(table) else np.zeros(0, dtype=np.int64)
        is_said = numbers >= 0
        if not is_said.any():
            none = np.zeros(len(numbers), dtype=np.int32)
            return SourceColumns(Column(none, [str(BUILT_IN_SCOPE)]), Column(none, [""]), none, none.astype(bool))
        words, scope = scope_words(self._site, table.scope[said].astype(np.int64), table.target[said])
        return SourceColumns(
            Column(np.where(is_said, scope + 1, 0), [str(BUILT_IN_SCOPE), *words]),
            Column(np.where(is_said, table.file[said] + 1, 0), ["", *table.files.items]),
            np.where(is_said, table.line[said], 0).astype(np.int32),
            is_said & table.locked[said],
        )


def scope_words(
    site: SiteModel, scope: NDArray[np.int64], target: NDArray[np.integer]
) -> tuple[list[str], NDArray[np.integer]]:
    """Scopes of statements in words: the different ones, and for each statement which. int64[n]"""
    one_a_site = np.zeros(len(ScopeKind), dtype=bool)
    one_a_site[list(ONE_A_SITE)] = True
    target = np.where(one_a_site[scope], 0, target)
    first, which = distinct((scope << 32) + target + (1 << 31))
    return [*_words(site, scope[first], target[first])], which


def _words(site: SiteModel, scope: NDArray[np.int64], target: NDArray[np.integer]) -> Iterator[str]:
    """These scopes in words. Paths of branches, which may be many, are read together."""
    branches = iter(site.tree.paths.take(target[(scope == ScopeKind.BELOW) & (target >= 0)]).tolist())
    for one, number in zip(scope.tolist(), target.tolist(), strict=True):
        is_branch = one == ScopeKind.BELOW and number >= 0
        yield f"below {next(branches)}" if is_branch else str(scope_of(site, ScopeKind(one), number))


def scope_of(site: SiteModel, kind: ScopeKind, target: int) -> Scope:
    """The scope of a kind that has a number as its target in a site's statements."""
    if kind == ScopeKind.TYPE:
        return Scope.type(site.types.names[target])
    if kind == ScopeKind.RULE:
        return Scope.rule(site.rules[target].name)
    if kind in OF_PAGES:
        return Scope(kind, site.tree.paths[target] if target >= 0 else site.statements.gone[-1 - target])
    return Scope(kind)


def source_of(site: SiteModel, statement: int) -> Source:
    """Where a value came from, by its statement; -1 is built-in."""
    if statement < 0:
        return Source(BUILT_IN_SCOPE)
    known = site.known_sources
    found = known.get(statement)
    if found is None:
        if len(known) >= MOST_KNOWN:
            known.clear()
        found = known[statement] = _source(site, statement)
    return found


def _source(site: SiteModel, statement: int) -> Source:
    statements = site.statements
    scope = scope_of(site, ScopeKind(int(statements.scope[statement])), int(statements.target[statement]))
    place = statements.place(statement)
    fresh = int(statements.form[statement]) == Form.FRESH
    return Source(scope, place.file, place.line, bool(statements.locked[statement]), fresh)
