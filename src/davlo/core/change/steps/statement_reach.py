"""Reach: the pages whose value changes when one statement does, worked out without resolving the site again.

`difference` gives the same for any change; this is for questions that are asked of very many statements.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codebook, Codes, Mask
from ...faults import Place
from ...resolve.effective import EffectiveModel
from ...resolve.fold import Resolved, resolve_setting
from ...resolve.locks import ranks_at
from ...resolve.paint import says_all, values_by_winner, winners
from ...site.settings.scopes import OF_PAGES, ScopeKind
from ...site.settings.values import ByDepth, ListChange, Plain, Reference, Value
from ...site.statements.new_statements import NewStatement
from ...site.statements.scope_pages import ScopePages
from ...site.statements.statement_table import Statements


class StatementEdit(NamedTuple):
    """One statement of a scope that is added, given another value, or taken away, by numbers of one site."""

    setting: int  # the setting's number in the catalogue
    scope: ScopeKind
    target: int  # as in `Statements`: the page's number, the type's, the rule's; 0 for everywhere
    value: Value = None  # what the scope is to say
    locked: bool = False
    gone: bool = False  # whether the statement is taken away; `value` then means nothing


class Reach(NamedTuple):
    """The pages whose value of a setting would change, with both values."""

    effective: EffectiveModel
    setting: int
    pages: NDArray[np.int64]  # int64[n]: their numbers, ascending
    before: Codes  # int32[n]: codes into `words`
    after: Codes  # int32[n]: codes into `words`
    words: Sequence[Value]

    def __len__(self) -> int:
        return len(self.pages)

    def paths(self) -> list[str]:
        """The paths of the pages."""
        return self.effective.site.tree.paths.take(self.pages).tolist()

    def values(self) -> list[tuple[Plain, Plain]]:
        """What each page has, and what it would have."""
        pairs = zip(self.before.tolist(), self.after.tolist(), strict=True)
        return [(self.words[before], self.words[after]) for before, after in pairs]


def reach(effective: EffectiveModel, edit: StatementEdit) -> Reach:
    """What one edit would change.

    Only the pages that the scope is for are looked at. Where each value of the setting is one that a statement says,
    the pages that change follow from who won; where not, those pages are resolved again, with the setting's statements
    as they would be.

    `effective`: what holds.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> edit = StatementEdit(site.setting_number("sidebar.right"), ScopeKind.BELOW, site.tree.number("/visit"), "main")
    >>> found = reach(site.resolve(), edit)
    >>> len(found), found.paths()[:1], found.values()[:1]
    (23, ['/visit/tickets'], [('visit-planning', 'main')])
    """
    setting, statements = edit.setting, effective.site.statements
    part = _part(effective.site.scope_pages, edit)
    resolved = effective.resolved_branch(setting, part)
    value, source = resolved.value, resolved.source
    have = statements.find(setting, edit.scope, edit.target)
    if edit.gone and have < 0:
        return Reach(effective, setting, np.zeros(0, dtype=np.int64), value[:0], value[:0], resolved.words)
    relocked = have >= 0 and bool(statements.locked[have]) != (edit.locked and not edit.gone)
    if relocked or isinstance(edit.value, ByDepth | ListChange | Reference) or not says_all(statements, setting):
        after = resolve_setting(
            _edited(effective, edit, part, have), setting, part, effective.is_for_new_pages(setting)
        )
        return _differing(effective, setting, resolved, after, part)
    pages = np.flatnonzero(source == have if have >= 0 else _won_by(effective, edit, part, source))
    words = Codebook(resolved.words)
    if edit.gone:
        # the removed statement had won there, so nothing stronger speaks: the strongest of the weaker ones wins now
        winner = winners(statements, setting, part, effective.is_for_new_pages(setting), until=have)
        after_codes = values_by_winner(statements, setting)[winner[pages]]
    else:
        after_codes = np.full(len(pages), words.code(edit.value), dtype=np.int32)
    differ = (value[pages] != after_codes) & effective.site.has_by_type[setting][part.type_of[pages]]
    pages = pages[differ]
    return Reach(effective, setting, pages + part.begin, value[pages], after_codes[differ], words.items)


def reach_without(effective: EffectiveModel, setting: int, gone: Sequence[int]) -> Reach:
    """What taking away several statements of a setting, by their numbers, would change.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> setting = site.setting_number("sidebar.right")
    >>> said = site.statements.of_setting(setting)
    >>> found = reach_without(site.resolve(), setting, list(said))
    >>> len(found), found.values()[0]
    (138, ('main', None))
    """
    scope_pages, statements = effective.site.scope_pages, effective.site.statements
    left = statements.of_one(setting, range(scope_pages.size), sorted(gone))
    after = resolve_setting(left, setting, scope_pages, effective.is_for_new_pages(setting))
    return _differing(effective, setting, effective.resolved(setting), after, scope_pages)


def reach_together(effective: EffectiveModel, edits: Sequence[StatementEdit]) -> Reach:
    """What several edits of one setting would change together; each adds a statement, or changes the value of one."""
    setting, statements = edits[0].setting, effective.site.statements
    have = [statements.find(setting, edit.scope, edit.target) for edit in edits]
    keep = np.ones(len(statements), dtype=bool)
    keep[[number for number in have if number >= 0]] = False
    said = [NewStatement(setting, edit.scope, edit.target, edit.value, Place(""), locked=edit.locked) for edit in edits]
    edited = statements.edited(effective.site.catalogue.built_in(), keep, said)
    after = resolve_setting(edited, setting, effective.site.scope_pages, effective.is_for_new_pages(setting))
    return _differing(effective, setting, effective.resolved(setting), after, effective.site.scope_pages)


def common_codes(before: Resolved, after: Resolved) -> tuple[Codes, Codebook[Value]]:
    """The codes of `after` as codes into the words of `before`, which grow as needed. int32[pages]"""
    words: Codebook[Value] = Codebook(before.words)
    table = np.array([words.code(word) for word in after.words], dtype=np.int32)
    is_same = (table == np.arange(len(table))).all()
    return after.value if is_same else table[after.value], words


def _differing(effective: EffectiveModel, setting: int, before: Resolved, after: Resolved, part: ScopePages) -> Reach:
    codes, words = common_codes(before, after)
    pages = np.flatnonzero(before.value != codes)
    pages = pages[effective.site.has_by_type[setting][part.type_of[pages]]]
    return Reach(effective, setting, pages + part.begin, before.value[pages], codes[pages], words.items)


def _edited(effective: EffectiveModel, edit: StatementEdit, part: ScopePages, have: int) -> Statements:
    """The statements of the edited setting, as far as they are for the part."""
    said = NewStatement(edit.setting, edit.scope, edit.target, edit.value, Place(""), locked=edit.locked)
    pages = range(part.begin, part.begin + part.size)
    without = [have] if have >= 0 else []
    return effective.site.statements.of_one(edit.setting, pages, without, None if edit.gone else said)


def _won_by(effective: EffectiveModel, edit: StatementEdit, part: ScopePages, source: Codes) -> Mask:
    """Where a statement that is not there yet would win over what gave each page its value. bool[part]"""
    setting, statements = edit.setting, effective.site.statements
    is_for_new_pages = effective.is_for_new_pages(setting)
    counts = (
        edit.locked or not is_for_new_pages
        if edit.scope < ScopeKind.STAMP
        else is_for_new_pages or edit.scope == ScopeKind.HERE
    )
    if not counts:
        return np.zeros(part.size, dtype=bool)
    span = statements.of_setting(setting)
    place = statements.place_for(setting, edit.scope, edit.target) - span.start
    mine = ranks_at(np.array([place]), np.array([edit.locked]), len(span) + 1)[0]
    others = np.maximum(source.astype(np.int64) - span.start, 0)
    locked = statements.locked[span.start : span.stop].take(others, mode="clip") if len(span) else others > 0
    theirs = ranks_at(others + (others >= place), locked, len(span) + 1)  # statements after the new one move up
    wins: Mask = (source < 0) | (mine > theirs)
    if edit.scope not in OF_PAGES:  # those are for all pages of the part
        of_scope = np.zeros(part.size, dtype=bool)
        of_scope[part.of(edit.scope, edit.target)] = True
        wins &= of_scope
    return wins


def _part(scope_pages: ScopePages, edit: StatementEdit) -> ScopePages:
    """The pages that an edit may change: a branch, a page, or all."""
    if edit.scope not in OF_PAGES:
        return scope_pages
    if edit.target < 0:  # a page that is gone
        return scope_pages.part(0, 0)
    if edit.scope == ScopeKind.BELOW:
        return scope_pages.part(edit.target + 1, int(scope_pages.ends[edit.target]))
    return scope_pages.part(edit.target, edit.target + 1)
