"""What a scope says already, and what it must say so that items are put into a list, or taken out of it."""

from __future__ import annotations

from ...faults import ValueFault
from ...site.model import SiteModel
from ...site.settings.scopes import Scope
from ...site.settings.values import ByDepth, ListChange, Reference, Value, expand_roles
from ..steps.statement_steps import said_by


def changed_list(site: SiteModel, scope: Scope, setting: str, change: ListChange) -> Value:
    """What a scope must say about a list to apply a change to what it says already.

    A plain list is changed itself. If the scope says nothing, or a change, the list of weaker scopes is kept and
    changed.

    `setting`: a list setting. Raises ValueFault if the setting is no list, or the scope says a reference.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> changed_list(site, Scope.type("event"), "blocks.content", ListChange(add=("donate",)))
    ListChange(first=(), add=('booking-link', 'donate'), remove=())
    """
    declared = site.catalogue.setting(setting)
    if declared.kind != "list":
        raise ValueFault(f"{setting} takes {declared.takes}: say it with =, as in {setting}=VALUE")
    change = ListChange(
        *(expand_roles(declared.stands_for, some) for some in (change.first, change.add, change.remove))
    )
    row = said_by(site, scope.parts[0], setting)
    said = site.statements.said(row) if row >= 0 else ListChange()
    if isinstance(said, Reference | ByDepth):
        raise ValueFault(f"{scope.sentence} says {setting} by a reference: say the whole list with =")
    if not isinstance(said, ListChange):
        return change.apply(said if isinstance(said, tuple) else ())
    more, less = (*change.first, *change.add), change.remove
    first = (*change.first, *(one for one in said.first if one not in (*less, *more)))
    added = (*(one for one in said.add if one not in (*less, *change.first)), *change.add)
    removed = (*(one for one in said.remove if one not in more), *less)
    return ListChange(first, tuple(dict.fromkeys(added)), tuple(dict.fromkeys(removed)))


def said_before(site: SiteModel, scope: Scope, setting: str) -> tuple[bool, str]:
    """Whether a scope locks a setting, and its reason; no and empty if it does not set it.

    Example
    -------
    >>> import davlo
    >>> said_before(davlo.open_demo(), Scope.everywhere(), "band.footer")[0]
    True
    """
    found = [row for part in scope.parts if (row := said_by(site, part, setting)) >= 0]
    if not found:
        return False, ""
    said = site.statements
    return bool(said.locked[found].any()), said.reasons[int(said.because[found[0]])]
