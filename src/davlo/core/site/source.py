"""Where a value came from, in words."""

from __future__ import annotations

from typing import NamedTuple

from ..faults import Place
from .model import SiteModel
from .settings.scopes import BUILT_IN_SCOPE, OF_PAGES, Scope, ScopeKind
from .statements.new_statements import Form


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
    statements = site.statements
    scope = scope_of(site, ScopeKind(int(statements.scope[statement])), int(statements.target[statement]))
    place = statements.place(statement)
    fresh = int(statements.form[statement]) == Form.FRESH
    return Source(scope, place.file, place.line, bool(statements.locked[statement]), fresh)
