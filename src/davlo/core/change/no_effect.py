"""Where a change has no effect: the pages that its statements reach and that keep their value."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.grouping import groups
from ..resolve.effective import EffectiveModel
from ..site.settings.scopes import Scope, ScopeKind
from ..site.source import Source, source_of
from ..site.statements.scope_pages import Pages
from ..site.statements.statement_table import Statements
from .differences.difference import Difference
from .steps.change import Change, Say
from .steps.statement_steps import target_of

NOWHERE, ITSELF = -3, -2
LOCKED, OVERRIDDEN, KEEPS_STAMP, ALREADY = "locked", "overridden", "keeps-stamp", "already"


class NoEffect(NamedTuple):
    """Pages on which what a change says has no effect."""

    setting: str
    scope: Scope  # the scope of the change; among several single pages, the first
    # `locked`: a lock of a weaker scope stays. `overridden`: a stronger statement sets them. `keeps-stamp`: they keep
    # their stamp. `already`: they have the value anyway.
    reason: str
    by: Source  # the statement that gives them their value; among pages that each set it themselves, the first
    because: str  # the reason that it was given; empty if there is none
    pages: NDArray[np.int64]  # int64[n]: their numbers in the state after, ascending


def no_effect(difference: Difference, change: Change) -> list[NoEffect]:
    """Where a change has no effect, and why; the most pages first.

    `difference`: what the change does.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> change = davlo.Change().say("sidebar.right", "main", everywhere=True).say("band.footer", "none", below="/press")
    >>> for one in site.reach(change).no_effect[:3]:
    ...     print(one.setting, one.reason, one.by.scope, len(one.pages))
    sidebar.right already everywhere 52
    sidebar.right overridden type plant-record 31
    sidebar.right overridden below /visit 23
    """
    said: dict[tuple[str, Scope], list[Scope]] = {}
    for step in change.steps:
        if isinstance(step, Say):
            for part in step.scope.parts:  # the statements of many single pages are handled together
                together = Scope(part.kind) if part.kind == ScopeKind.HERE else part
                said.setdefault((step.setting, together), []).append(part)
    found: list[NoEffect] = []
    for (setting, _), scopes in said.items():
        others = [scope for (name, _), some in said.items() if name == setting for scope in some]
        found += _of_statements(difference, scopes, setting, others if len(others) > len(scopes) else ())
    return sorted(found, key=lambda one: -len(one.pages))


def _of_statements(
    difference: Difference, scopes: Sequence[Scope], setting: str, others: Sequence[Scope]
) -> Iterator[NoEffect]:
    """Where statements of a setting have no effect: one statement of a scope, or those of single pages.

    Left out are pages that get theirs from another statement of the change (`others`), and those that a lock binds now.
    """
    after = difference.after
    site = after.site
    number = site.catalogue.find(setting)
    if number is None:
        return
    kind = scopes[0].kind
    pages, mine = _spoken_to(difference, number, scopes)
    has = site.has_by_type[number][site.details.type_of[pages]]
    keeps = has & ~np.isin(pages, _changed(difference, setting), assume_unique=True)
    pages, mine = pages[keeps], mine[keeps]
    source = difference.sources_after(number, pages).astype(np.int64)
    own = {site.statements.find(number, one.kind, target_of(site, one)) for one in others}
    for _, at in groups(_alike(site.statements, source, mine)):
        by, says = int(source[at[0]]), int(mine[at[0]])
        if (by != says and by in own) or (by == says and site.statements.locked[by]):
            continue
        reason = ALREADY if by == says else OVERRIDDEN
        if reason == OVERRIDDEN and by >= 0 and site.statements.locked[by] and _is_weaker(after, by, says):
            reason = LOCKED
        elif reason == OVERRIDDEN and after.is_for_new_pages(number) and kind <= ScopeKind.RULE:
            keeps_stamp = by < 0 or site.statements.scope[by] == ScopeKind.STAMP
            reason = KEEPS_STAMP if keeps_stamp else OVERRIDDEN
        because = site.statements.reasons[int(site.statements.because[by])] if by >= 0 else ""
        yield NoEffect(setting, scopes[0], reason, source_of(site, by), because, pages[at])


def _alike(statements: Statements, source: NDArray[np.int64], mine: NDArray[np.int64]) -> NDArray[np.int64]:
    """A number for each page, the same for pages that one sentence can report. int64[n]

    One sentence reports the pages of one statement, the pages that set it themselves or have stamps for the same
    reason, or those that have the value already.
    """
    at = np.maximum(source, 0)
    if not len(statements):
        return np.where(source == mine, ITSELF, source)
    single = (source >= 0) & (statements.scope[at] >= ScopeKind.STAMP)
    together = -10 - 2 * statements.because[at].astype(np.int64) - (statements.scope[at] == ScopeKind.HERE)
    return np.where(source == mine, ITSELF, np.where(single, together, source))


def _spoken_to(
    difference: Difference, setting: int, scopes: Sequence[Scope]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The pages that statements of one kind of scope are for, ascending, and each page's statement. Each int64[n]"""
    site = difference.after.site
    found = {}
    for scope in scopes:
        target = target_of(site, scope)
        said = site.statements.find(setting, scope.kind, target)
        if said >= 0:
            found[said] = site.scope_pages.of(scope.kind, target)
    parts = [_numbers(some, len(site.tree)) for some in found.values()]
    pages = np.concatenate([np.zeros(0, dtype=np.int64), *parts])
    mine = np.repeat(np.array(list(found), dtype=np.int64), [len(some) for some in parts])
    order = np.argsort(pages, kind="stable")
    return pages[order], mine[order]


def _numbers(some: Pages | Mask, size: int) -> NDArray[np.int64]:
    """The numbers of pages that are given in any form. int64[n]"""
    if isinstance(some, slice):
        return np.arange(*some.indices(size))
    return np.flatnonzero(some) if some.dtype == np.bool_ else some.astype(np.int64)


def _changed(difference: Difference, setting: str) -> NDArray[np.int64]:
    """The pages of the state after that have another value of a setting than before, or are new. int64[n]"""
    parts = [one.pages[one.changed] for one in difference.settings if one.setting == setting]
    return np.concatenate([difference.new_pages, *map(difference.numbers_after, parts)])


def _is_weaker(effective: EffectiveModel, one: int, other: int) -> bool:
    strength = effective.site.statements.strength(np.array([one, other]))
    return bool(strength[0] <= strength[1])
