"""Pages that are alike for one setting: the same statements speak to them, in the same order.

Whatever is asked of a setting, page by page, has one answer for all pages that are alike. So it is asked of one page of
each group, of which there are about as many as there are statements, and the answer holds for the group.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..site.scope_pages import ScopePages
from ..site.scopes import ScopeKind
from ..site.statements import Statements
from ..site.values import ByDepth

MOST_KEYS = 1 << 24
"""Up to this many numbers are counted in a table; of more, those that occur are sorted."""
Pages = NDArray[np.int64]


class PageGroups(NamedTuple):
    """The groups of pages that are alike for one setting.

    Attributes
    ----------
    group : int64[pages]
        The group of each page.
    sample : int64[groups]
        A page of each group, ascending.
    """

    group: NDArray[np.intp]
    sample: Pages

    def pages(self, groups: Mask) -> Pages:
        """The pages of the groups that are marked, ascending. int64[n]"""
        return np.flatnonzero(groups.take(self.group, mode="clip"))

    def sizes(self) -> Pages:
        """How many pages each group has. int64[groups]"""
        return np.bincount(self.group, minlength=len(self.sample))


def page_groups(
    statements: Statements, setting: int, scope_pages: ScopePages, has_by_type: Mask, stamped: bool
) -> PageGroups:
    """The groups of pages that are alike for one setting.

    Parameters
    ----------
    statements : Statements
    setting : int
    scope_pages : ScopePages
    has_by_type : bool[types]
        Which types have the setting: their pages are never alike those of the others.
    stamped : bool
        Whether its flow is stamped.

    Returns
    -------
    PageGroups

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> number = site.setting_number("layout.theme")
    >>> found = page_groups(site.statements, number, site.scope_pages, site.has_by_type[number], stamped=False)
    >>> sorted(found.sizes().tolist())      # one rule speaks to them too, another does, `everywhere` alone
    [3, 6, 149]
    """
    group = _by_type(statements, setting, scope_pages, has_by_type)[scope_pages.type_of]
    group = _joined(group, _innermost(statements, setting, scope_pages))
    if any(isinstance(word, ByDepth) for word in statements.words[setting].items):
        group = _joined(group, scope_pages.depth)
    count = int(group.max(initial=-1)) + 1
    for rule in np.unique(statements.target[_span(statements, setting, ScopeKind.RULE)]).tolist():
        met = scope_pages.matched(rule)
        new = _renumbered(group[met])
        group[met] = new + count
        count += int(new.max(initial=-1)) + 1
    for scope in (ScopeKind.STAMP, ScopeKind.HERE) if stamped else (ScopeKind.HERE,):
        _, pages = scope_pages.single(statements.target[_span(statements, setting, scope)])
        group[pages] = count + np.arange(len(pages))
        count += len(pages)
    return _sampled(_renumbered(group))


def _span(statements: Statements, setting: int, scope: ScopeKind) -> slice:
    span = statements.of_setting(setting, scope)
    return slice(span.start, span.stop)


def _by_type(statements: Statements, setting: int, scope_pages: ScopePages, has_by_type: Mask) -> NDArray[np.intp]:
    """A number for each type; the same for types of which the same is said. int64[types]"""
    said = set(statements.target[_span(statements, setting, ScopeKind.TYPE)].tolist())
    types = range(len(scope_pages.types))
    keys = [(bool(has_by_type[t]), *(one for one in scope_pages.types.chain(t) if one in said)) for t in types]
    numbers = {key: number for number, key in enumerate(dict.fromkeys(keys))}
    return np.array([numbers[key] for key in keys], dtype=np.intp)


def _innermost(statements: Statements, setting: int, scope_pages: ScopePages) -> NDArray[np.intp]:
    """For each page the innermost branch with a statement; it determines all outer ones. 0: none. int64[pages]"""
    found = np.zeros(scope_pages.size, dtype=np.intp)
    targets = np.unique(statements.target[_span(statements, setting, ScopeKind.BELOW)])
    begins, ends = scope_pages.below(targets)
    for number, (begin, end) in enumerate(zip(begins.tolist(), ends.tolist(), strict=True), 1):
        found[begin:end] = number
    return found


def _joined(group: NDArray[np.intp], other: NDArray[np.integer]) -> NDArray[np.intp]:
    """Numbers for the pairs of two numbers. int64[pages]"""
    many = int(other.max(initial=0)) + 1
    return _renumbered(group * many + other) if many > 1 else group


def _renumbered(keys: NDArray[np.intp]) -> NDArray[np.intp]:
    """The numbers without gaps: only those that occur. int64[n]"""
    most = int(keys.max(initial=-1)) + 1
    if most > MOST_KEYS:
        return np.unique(keys, return_inverse=True)[1]
    there = np.zeros(most, dtype=bool)
    there[keys] = True
    table = np.cumsum(there) - 1
    return table.take(keys, mode="clip")


def _sampled(group: NDArray[np.intp]) -> PageGroups:
    """Groups in the order of their samples."""
    sample = np.zeros(int(group.max(initial=-1)) + 1, dtype=np.int64)
    sample[group] = np.arange(len(group))
    order = np.argsort(sample)
    place = np.empty(len(order), dtype=np.intp)
    place[order] = np.arange(len(order))
    return PageGroups(place.take(group, mode="clip"), sample[order])
