"""Pages that are alike for some settings: the same statements reach them, in the same order.

Whatever is asked of a setting, page by page, has one answer for all pages that are alike. So one page of each group is
enough, and there are about as many groups as statements.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..arrays.grouping import distinct_numbers
from ..site.model import SiteModel
from ..site.settings.scopes import ScopeKind
from ..site.settings.values import ByDepth
from ..site.statements.scope_pages import ScopePages

MOST_KEYS = 1 << 24
"""Up to this many numbers are counted in a table; more are sorted."""
Pages = NDArray[np.int64]


class PageGroups(NamedTuple):
    """The groups of pages that are alike."""

    group: NDArray[np.intp]  # int64[pages]: the group of each page
    sample: Pages  # int64[groups]: a page of each group, ascending

    def pages(self, groups: Mask) -> Pages:
        """The pages of the groups that are marked, ascending. int64[n]"""
        return np.flatnonzero(groups.take(self.group, mode="clip"))

    def sizes(self) -> Pages:
        """How many pages each group has. int64[groups]"""
        return np.bincount(self.group, minlength=len(self.sample))


def page_groups(site: SiteModel, *settings: int, same: Sequence[NDArray[np.integer]] = ()) -> PageGroups:
    """The groups of pages that are alike for these settings.

    `*settings`: their numbers. Pages of types that have a setting are never alike those of types that do not. `same`:
    int[pages]: what else pages of one group share, as numbers from 0.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> found = page_groups(site, site.setting_number("layout.theme"))
    >>> sorted(found.sizes().tolist())      # one rule speaks to them too, another does, `everywhere` alone
    [3, 6, 149]
    """
    statements, scope_pages = site.statements, site.scope_pages

    def targets(scope: ScopeKind) -> Codes:
        """The targets of the statements of a scope; stamps count only for settings whose default is for new pages."""
        some = [one for one in settings if scope != ScopeKind.STAMP or site.catalogue[one].default_for == "new-pages"]
        spans = [statements.of_setting(one, scope) for one in some]
        found = [statements.target[span.start : span.stop] for span in spans]
        return np.array(distinct_numbers(np.concatenate(found)) if found else [], dtype=np.int32)

    by_type = _by_type(scope_pages, targets(ScopeKind.TYPE), site.has_by_type[[*settings]])
    group, bound = by_type.take(scope_pages.type_of, mode="clip"), int(by_type.max(initial=0)) + 1
    group, bound = _joined(group, bound, _innermost(scope_pages, targets(ScopeKind.BELOW)))
    if any(isinstance(word, ByDepth) for one in settings for word in statements.words[one].items):
        group, bound = _joined(group, bound, scope_pages.depth)
    for numbers in same:
        group, bound = _joined(group, bound, numbers)
    rules = targets(ScopeKind.RULE).tolist()
    if rules:
        group, bound = _renumbered(group)
    for rule in rules:
        matched = scope_pages.matched(rule)
        new, more = _renumbered(group[matched])
        group[matched] = new + bound
        bound += more
    for scope in (ScopeKind.STAMP, ScopeKind.HERE):
        _, pages = scope_pages.single(targets(scope))
        group[pages] = bound + np.arange(len(pages))
        bound += len(pages)
    return _sampled(group, bound)


def _by_type(scope_pages: ScopePages, said: Codes, has_by_type: Mask) -> NDArray[np.intp]:
    """A number for each type, the same for types with the same statements. int64[types]

    `said` are the types with a statement, `has_by_type` is bool[settings, types].
    """
    some, innermost, numbers = set(said.tolist()), list[int](), dict[tuple[int, bytes], int]()
    for number, base in enumerate(scope_pages.types.base):  # a base has a smaller number than what is based on it
        innermost.append(number if number in some or base < 0 else innermost[base])
    keys = [(one if one in some else -1, has_by_type[:, t].tobytes()) for t, one in enumerate(innermost)]
    return np.array([numbers.setdefault(key, len(numbers)) for key in keys], dtype=np.intp)


def _innermost(scope_pages: ScopePages, branches: Codes) -> NDArray[np.intp]:
    """For each page the innermost of some ascending branches, which determines all outer ones. 0: none. int64[pages]"""
    found = np.zeros(scope_pages.size, dtype=np.intp)
    begins, ends = scope_pages.below(branches)
    for number, (begin, end) in enumerate(zip(begins.tolist(), ends.tolist(), strict=True), 1):
        found[begin:end] = number
    return found


def _joined(group: NDArray[np.intp], bound: int, other: NDArray[np.integer]) -> tuple[NDArray[np.intp], int]:
    """Numbers for the pairs of two numbers, int64[pages], and their bound; `bound` is that of `group`."""
    many = int(other.max(initial=0)) + 1
    if many == 1:
        return group, bound
    if bound == 1:
        return other.astype(np.intp), many
    if bound * many > MOST_KEYS:
        group, bound = _renumbered(group)
    return group * many + other, bound * many


def _renumbered(keys: NDArray[np.intp]) -> tuple[NDArray[np.intp], int]:
    """The numbers without gaps, int64[n], and how many there are."""
    most = int(keys.max(initial=-1)) + 1
    if most > MOST_KEYS:
        different, numbers = np.unique(keys, return_inverse=True)
        return numbers, len(different)
    there = np.zeros(most, dtype=bool)
    there[keys] = True
    table = np.cumsum(there) - 1
    return table.take(keys, mode="clip"), int(np.count_nonzero(there))


def _sampled(group: NDArray[np.intp], bound: int) -> PageGroups:
    """Groups in the order of their samples, without gaps."""
    if bound > MOST_KEYS:
        group, bound = _renumbered(group)
    sample = np.full(bound, -1, dtype=np.int64)
    sample[group] = np.arange(len(group))
    there = np.flatnonzero(sample >= 0)
    order = there[np.argsort(sample[there])]
    place = np.zeros(bound, dtype=np.intp)
    place[order] = np.arange(len(order))
    return PageGroups(place.take(group, mode="clip"), sample[order])
