"""Reach: what a change of one statement would change, worked out beside what holds; nothing of the site is changed."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .columns import Codes
from .effective import EffectiveModel
from .faults import Place
from .resolve import Ground, resolve_setting
from .statements import Scope, Stated
from .values import Plain, Value


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

    Only the pages that the scope is for are resolved again, with the setting's statements as they would be.

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
    site, setting = effective.site, edit.setting
    statements = site.statements
    have = statements.find(setting, edit.scope, edit.target)
    said = Stated(setting, edit.scope, edit.target, edit.value, Place(""), locked=edit.locked)
    part = _part(site.ground, edit)
    pages = range(part.begin, part.begin + part.pages)
    changed = statements.of_one(setting, pages, have, None if edit.gone else said)
    after = resolve_setting(changed, setting, part, site.catalogue[setting].flow == "stamped").value
    before = effective.resolved(setting).value[part.begin : part.begin + part.pages]
    differ = np.flatnonzero(before != after)
    return Reach(effective, setting, differ + part.begin, before[differ], after[differ])


def _part(ground: Ground, edit: Edit) -> Ground:
    """The pages that an edit may change: a branch, a page, or all."""
    if edit.scope not in (Scope.BELOW, Scope.STAMP, Scope.HERE):
        return ground
    if edit.target < 0:  # a page that is gone
        return ground.part(0, 0)
    if edit.scope == Scope.BELOW:
        return ground.part(edit.target + 1, int(ground.ends[edit.target]))
    return ground.part(edit.target, edit.target + 1)
