"""Reach: what a change of one statement would change, worked out beside what holds; nothing of the site is changed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..faults import Place
from ..resolve.effective import EffectiveModel
from ..resolve.fold import resolve_setting, says_all, values_by_winner, winners
from ..resolve.scope_pages import ScopePages
from ..site.statements import OF_PAGES, NewStatement, Scope
from ..site.values import ByDepth, Change, Plain, Reference, Value


class Edit(NamedTuple):
    """One statement of a scope that is added, given another value, or taken away.

    Attributes
    ----------
    setting : int
        The setting's number in the catalogue.
    scope : Scope
    target : int
        As in `Statements`: the page's number, the type's, the rule's; 0 for everywhere.
    value : Value
        What the scope is to say.
    locked : bool
    gone : bool
        Whether the statement is taken away; `value` then means nothing.
    """

    setting: int
    scope: Scope
    target: int
    value: Value = None
    locked: bool = False
    gone: bool = False


class Reach(NamedTuple):
    """The pages whose value of a setting would change, with both values.

    Attributes
    ----------
    setting : int
    pages : int64[n]
        Their numbers, ascending.
    before, after : int32[n]
        Codes of the setting's words.
    """

    effective: EffectiveModel
    setting: int
    pages: NDArray[np.int64]
    before: Codes
    after: Codes

    def __len__(self) -> int:
        return len(self.pages)

    def paths(self) -> list[str]:
        """The paths of the pages."""
        return self.effective.site.tree.paths.take(self.pages).tolist()

    def values(self) -> list[tuple[Plain, Plain]]:
        """What each page has, and what it would have."""
        words = self.effective.site.statements.words[self.setting].items
        pairs = zip(self.before.tolist(), self.after.tolist(), strict=True)
        return [(words[before], words[after]) for before, after in pairs]


def reach(effective: EffectiveModel, edit: Edit) -> Reach:
    """What one edit would change.

    Only the pages that the scope is for are looked at. Where each value of the setting is one that a statement says,
    the pages that change follow from who won; where not, those pages are resolved again, with the setting's statements
    as they would be.

    Parameters
    ----------
    effective : EffectiveModel
        What holds; the setting is resolved first where it is not yet.
    edit : Edit

    Returns
    -------
    Reach

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> edit = Edit(site.setting_number("sidebar.right"), Scope.BELOW, site.tree.number("/visit"), "main")
    >>> found = reach(site.resolve(), edit)
    >>> len(found), found.paths()[:1], found.values()[:1]
    (23, ['/visit/tickets'], [('visit-planning', 'main')])
    """
    setting, statements = edit.setting, effective.site.statements
    part = _part(effective.site.scope_pages, edit)
    some = slice(part.begin, part.begin + part.pages)
    value, source = (column[some] for column in effective.resolved(setting))
    have = statements.find(setting, edit.scope, edit.target)
    if edit.gone and have < 0:
        return Reach(effective, setting, np.zeros(0, dtype=np.int64), value[:0], value[:0])
    relocked = have >= 0 and bool(statements.locked[have]) != (edit.locked and not edit.gone)
    if relocked or isinstance(edit.value, ByDepth | Change | Reference) or not says_all(statements, setting):
        after = _resolved_again(effective, edit, part, have)
        pages = np.flatnonzero(value != after)
        return Reach(effective, setting, pages + part.begin, value[pages], after[pages])
    pages = np.flatnonzero(source == have if have >= 0 else _won_by(effective, edit, part, source))
    if edit.gone:
        # what was taken away had won there, so nothing stronger speaks: the strongest of what is weaker wins now
        winner = winners(statements, setting, part, effective.is_stamped(setting), until=have)
        after = values_by_winner(statements, setting)[winner[pages]]
    else:
        after = np.full(len(pages), statements.words[setting].code(edit.value), dtype=np.int32)
    differ = value[pages] != after
    pages = pages[differ]
    return Reach(effective, setting, pages + part.begin, value[pages], after[differ])


def reach_without(effective: EffectiveModel, setting: int, gone: Sequence[int]) -> Reach:
    """What it would change if several statements of a setting, by their numbers, were taken away together.

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
    value = effective.resolved(setting).value
    left = statements.of_one(setting, range(scope_pages.pages), sorted(gone))
    after = resolve_setting(left, setting, scope_pages, effective.is_stamped(setting)).value
    pages = np.flatnonzero(value != after)
    return Reach(effective, setting, pages, value[pages], after[pages])


def _resolved_again(effective: EffectiveModel, edit: Edit, part: ScopePages, have: int) -> Codes:
    """What each page of the part gets when it is resolved with the edited statements. int32[part]"""
    setting, statements = edit.setting, effective.site.statements
    said = NewStatement(setting, edit.scope, edit.target, edit.value, Place(""), locked=edit.locked)
    pages = range(part.begin, part.begin + part.pages)
    changed = statements.of_one(setting, pages, [have] if have >= 0 else [], None if edit.gone else said)
    return resolve_setting(changed, setting, part, effective.is_stamped(setting)).value


def _won_by(effective: EffectiveModel, edit: Edit, part: ScopePages, source: Codes) -> Mask:
    """Where a statement that is not there yet would win over what gave each page its value. bool[part]"""
    setting, statements = edit.setting, effective.site.statements
    is_stamped = effective.is_stamped(setting)
    is_heard = edit.locked or not is_stamped if edit.scope < Scope.STAMP else is_stamped or edit.scope == Scope.HERE
    if not is_heard:
        return np.zeros(part.pages, dtype=bool)
    span = statements.of_setting(setting)
    locked = statements.locked[span.start : span.stop]
    wins = source < statements.place_for(setting, edit.scope, edit.target)
    if edit.locked or locked.any():  # of locks the weakest wins: it ends the fold
        closed = np.r_[False, locked].take(source - (span.start - 1), mode="clip")
        wins = ~(wins & closed) if edit.locked else wins & ~closed
    if edit.scope not in OF_PAGES:  # those are for all pages of the part
        met = np.zeros(part.pages, dtype=bool)
        met[part.cells(edit.scope, edit.target)] = True
        wins &= met
    return wins


def _part(scope_pages: ScopePages, edit: Edit) -> ScopePages:
    """The pages that an edit may change: a branch, a page, or all."""
    if edit.scope not in OF_PAGES:
        return scope_pages
    if edit.target < 0:  # a page that is gone
        return scope_pages.part(0, 0)
    if edit.scope == Scope.BELOW:
        return scope_pages.part(edit.target + 1, int(scope_pages.ends[edit.target]))
    return scope_pages.part(edit.target, edit.target + 1)
