"""Where a value came from, in words."""

from __future__ import annotations

from typing import NamedTuple

from .model import SiteModel
from .statements import Form, Scope


class Source(NamedTuple):
    """Where a value came from: the scope in words (`below /visit`), the file and the line.

    `locked`: the statement is a lock. `fresh`: it is a `fresh_access`.
    """

    scope: str
    file: str = ""
    line: int = 0
    locked: bool = False
    fresh: bool = False

    @property
    def where(self) -> str:
        """The place, and what is special about the statement; empty for built-in."""
        if not self.file:
            return ""
        return f"{self.file}:{self.line}" + (" locked" if self.locked else "") + (" fresh_access" if self.fresh else "")

    def __str__(self) -> str:
        return self.scope + (f", {self.file}:{self.line}" if self.file else "")


def scope_words(site: SiteModel, scope: int, target: int) -> str:
    """A scope in words: `everywhere`, `type event`, `below /visit`, `rule NAME`, `stamp`, `here`."""
    if scope == Scope.TYPE:
        return f"type {site.types.names[target]}"
    if scope == Scope.BELOW:
        return f"below {site.tree.paths[target] if target >= 0 else site.statements.gone[-1 - target]}"
    if scope == Scope.RULE:
        return f"rule {site.rules[target].name}"
    return ("built-in", "everywhere", "type", "below", "rule", "stamp", "here")[scope]


def source_of(site: SiteModel, statement: int) -> Source:
    """Where a value came from, by its statement; -1 is built-in."""
    if statement < 0:
        return Source("built-in")
    statements = site.statements
    words = scope_words(site, int(statements.scope[statement]), int(statements.target[statement]))
    place = statements.place(statement)
    fresh = int(statements.form[statement]) == Form.FRESH
    return Source(words, place.file, place.line, bool(statements.locked[statement]), fresh)
