"""The value changes of a difference: on which pages a setting goes from one value to another."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.grouping import groups
from ...site.settings.values import Value
from .difference import Difference

NOT_THERE = -1


class ValueChange(NamedTuple):
    """Pages on which a setting goes from one value to another."""

    setting: str
    # `before`, `after`: also None if `has_before` or `has_after` is no: the pages do not have the setting in that state
    before: Value
    after: Value
    has_before: bool
    has_after: bool
    pages: NDArray[np.int64]  # int64[n]: their numbers in the state before, ascending
    not_shown: int  # on how many of them the new value is not shown


def value_changes(difference: Difference) -> list[ValueChange]:
    """The value changes, setting by setting; within a setting, those of most pages first.

    Example
    -------
    >>> import davlo
    >>> found = value_changes(davlo.open_demo().reach(davlo.Change().say("sidebar.right", "main", below="/visit")))
    >>> [(one.before, one.after, len(one.pages), one.not_shown) for one in found]
    [('visit-planning', 'main', 23, 0)]
    """
    found = []
    for one in difference.settings:
        at = np.flatnonzero(one.changed)
        mine = []
        for (before, after), rows in groups(one.before[at], one.after[at]):
            pages = one.pages[at[rows]]
            was, now = (None if code == NOT_THERE else one.words[code] for code in (before, after))
            not_shown = difference.not_shown(one.setting, pages) if after != NOT_THERE else 0
            mine.append(ValueChange(one.setting, was, now, before != NOT_THERE, after != NOT_THERE, pages, not_shown))
        found += sorted(mine, key=lambda one: (-len(one.pages), int(one.pages[0])))
    return found
