"""Which statement wins on each page, if every statement replaces what weaker ones gave.

Nothing is folded: statements are painted over each other, each on the pages of its scope, and locks last.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes
from ..site.settings.scopes import FOR_ALL, SINGLE, ScopeKind
from ..site.settings.values import ByDepth, ListChange, Reference
from ..site.statements.scope_pages import ScopePages
from ..site.statements.statement_table import Statements
from .locks import ranks_at


class Painting:
    """The winner of one setting on every page.

    Statements are counted from 1 among those of the setting, so that tables of them are small; 0 is none. Those from
    `until` on are left out.
    """

    def __init__(self, statements: Statements, setting: int, scope_pages: ScopePages, until: int | None = None) -> None:
        self.statements = statements
        self.setting = setting
        self.scope_pages = scope_pages
        span = statements.of_setting(setting)
        self.before_first = span.start - 1
        self.until = span.stop if until is None else until
        self.winner = np.zeros(0, dtype=np.intp)  # NumPy gathers with its native index type twice as fast

    def run(self, for_new_pages: bool) -> NDArray[np.intp]:
        """The statement that won on each page. int64[pages]"""
        pages, statements = self.scope_pages, self.statements
        if for_new_pages:  # of the live fold only what is locked counts
            self.winner = np.zeros(pages.size, dtype=np.intp)
            self._paint(ScopeKind.STAMP)
        else:
            by_type = np.zeros(len(pages.types), dtype=np.intp)
            for statement in (one for scope in FOR_ALL for one in self._of(scope)):
                by_type[:] = statement - self.before_first
            for statement in self._of(ScopeKind.TYPE):
                by_type[pages.types_based_on(int(statements.target[statement]))] = statement - self.before_first
            self.winner = by_type.take(pages.type_of, mode="clip")
            self._paint(ScopeKind.BELOW)
            self._paint(ScopeKind.RULE)
        self._paint(ScopeKind.HERE)
        first = self.before_first + 1
        locked = statements.locked[first : self.until]
        some = np.flatnonzero(locked)
        for number in some[np.argsort(ranks_at(some, locked[some], len(locked)))].tolist():
            scope, target = ScopeKind(int(statements.scope[first + number])), int(statements.target[first + number])
            self.winner[pages.of(scope, target)] = number + 1
        return self.winner

    def _of(self, scope: ScopeKind) -> range:
        span = self.statements.of_setting(self.setting, scope)
        return range(min(span.start, self.until), min(span.stop, self.until))

    def _paint(self, scope: ScopeKind) -> None:
        span, pages = self._of(scope), self.scope_pages
        target = self.statements.target[span.start : span.stop]
        first = span.start - self.before_first
        if scope in SINGLE:  # in the order of their strength: the last on a page is the strongest
            inside, single = pages.single(target)
            self.winner[single] = inside + first
        elif scope == ScopeKind.RULE:
            for number, rule in enumerate(target.tolist(), first):
                self.winner[pages.matched(rule)] = number
        else:
            winner, (begins, ends) = self.winner, pages.below(target)
            some = np.flatnonzero(ends > begins)
            for at, begin, end in zip(some.tolist(), begins[some].tolist(), ends[some].tolist(), strict=True):
                winner[begin:end] = first + at


def says_all(statements: Statements, setting: int) -> bool:
    """Whether every value of a setting is one that a statement says: no changed list, no depth, no other scope."""
    return not any(isinstance(word, ByDepth | ListChange | Reference) for word in statements.words[setting].items)


def winners(
    statements: Statements, setting: int, scope_pages: ScopePages, for_new_pages: bool, until: int | None = None
) -> NDArray[np.intp]:
    """Which statement won on each page, counted from 1 among those of a setting; 0 where none did. int64[pages]

    It is for settings whose statements say all their values. Statements from `until` on are left out.
    """
    return Painting(statements, setting, scope_pages, until).run(for_new_pages)


def values_by_winner(statements: Statements, setting: int) -> Codes:
    """The built-in value, and what each statement of a setting says. int32[1 + statements of the setting]"""
    span = statements.of_setting(setting)
    values = np.zeros(1 + len(span), dtype=np.int32)
    values[1:] = statements.value[span.start : span.stop]
    return values
