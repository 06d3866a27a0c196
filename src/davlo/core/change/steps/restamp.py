"""Restamping: existing pages brought up to date with what a new page would get."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from ...arrays.codebooks import Mask
from ...faults import ValueFault
from ...resolve.fold import FoldStages, fold_stages
from ...site.model import SiteModel
from ...site.settings.scopes import Scope, ScopeKind
from ...site.settings.values import ListChange
from ...site.statements.new_statements import Form
from .change import Change, Say, Step, TakeAway
from .stamp_steps import Restamp, items_of, missing_items


class RestampCount(NamedTuple):
    """One setting: how many pages a change restamps, and how many keep an outdated stamp, and why."""

    setting: str
    pages: int  # how many it brings up to date
    own: int  # how many keep a value that they set themselves
    without_stamp: int  # how many stay without a stamp


class Restamping(NamedTuple):
    """What brings existing pages up to date: the change, and what it does for each setting."""

    change: Change
    counts: tuple[RestampCount, ...]


def restamp_change(
    site: SiteModel,
    settings: Sequence[str] = (),
    pages: Mask | None = None,
    *,
    add: bool = False,
    over_own: bool = False,
    new: bool = False,
) -> Restamping:
    """The change that brings existing pages up to date with the defaults for new pages.

    `settings`: settings whose default is for new pages (default: all). `pages`: bool[pages]: which pages (default:
    all). `add`: whether a list keeps its items and gets those that only the default has; settings that are no lists
    stay. `over_own`: whether pages that set a value themselves are restamped too (with `add`: their value gets the new
    items). `new`: whether pages without a stamp get one. Raises ValueFault if a setting's default is for all pages;
    with `add`, if it is no list.

    Example
    -------
    >>> import davlo
    >>> restamp_change(davlo.open_demo()).counts[0]
    RestampCount(setting='blocks.content', pages=2, own=0, without_stamp=2)
    """
    steps: list[Step] = []
    counts = []
    for name in settings or [one.name for one in site.catalogue.settings if one.default_for == "new-pages"]:
        setting = site.catalogue[site.setting_number(name)]
        if setting.default_for != "new-pages":
            raise ValueFault(f"{name} has its default for all pages: they follow it already")
        if add and setting.kind != "list":
            if settings:
                raise ValueFault(f"{name} is no list: leave out --add to take the whole default")
            continue
        one = _OneSetting(site, name, pages, add)
        mask = one.outdated & (one.is_for_new_pages | new)
        counts.append(
            RestampCount(
                name,
                int(np.count_nonzero(mask & (~one.is_own | (one.is_own_said & over_own)))),
                int(np.count_nonzero(mask & one.is_own & ~(one.is_own_said & over_own))),
                int(np.count_nonzero(one.outdated & ~one.is_for_new_pages & ~new)),
            )
        )
        steps += one.steps(mask, over_own)
    return Restamping(Change(tuple(steps)), tuple(counts))


class _OneSetting:
    """Which pages have an outdated stamp of a setting.

    `outdated`, `is_for_new_pages`, `is_own`, `is_own_said`: bool[pages]: whether a page differs from its default;
    whether it has a stamp; whether it sets a value that replaces the stamp; whether it says so plainly, and not by a
    preset.
    """

    def __init__(self, site: SiteModel, name: str, pages: Mask | None, add: bool) -> None:
        self._site, self._name, self._add = site, name, add
        number = site.setting_number(name)
        self._stages = fold_stages(site.statements, number, site.scope_pages, True)
        self.outdated = _outdated(self._stages) & site.has(number)
        self.outdated &= True if pages is None else pages
        self.is_for_new_pages = self._stages.base_source >= 0
        self.is_own, self.is_own_said = _own(site, number)
        if add:
            at = np.flatnonzero(self.outdated)
            has_more = [bool(missing_items(self._stages, page)) for page in at.tolist()]
            self.outdated[at] = has_more

    def steps(self, mask: Mask, over_own: bool) -> Iterator[Step]:
        """The steps that bring these pages up to date."""
        site, stages = self._site, self._stages
        said = mask & self.is_own_said if over_own else np.zeros(len(mask), dtype=bool)
        for page in np.flatnonzero(said).tolist():
            scope = Scope.here(site.tree.paths[page])
            if self._add:
                have, live = (items_of(stages.words[int(one[page])]) for one in (stages.value, stages.live_value))
                yield Say(scope, self._name, (*have, *(one for one in live if one not in have)))
            else:
                yield TakeAway(scope, self._name)
        chosen = mask & (~self.is_own if self._add else ~self.is_own | said)
        paths = site.tree.paths.take(np.flatnonzero(chosen)).tolist()
        if paths:
            yield Restamp(self._name, tuple(paths), self._add)


def _outdated(stages: FoldStages) -> Mask:
    """Where the stamp, or the lack of one, differs from a default that somebody states. bool[pages]"""
    found: Mask = ~stages.closed & (stages.live_source >= 0) & (stages.base_value != stages.live_value)
    return found


def _own(site: SiteModel, setting: int) -> tuple[Mask, Mask]:
    """Which pages replace the stamp by a value of their own, and which of them say it plainly. Each bool[pages]"""
    said = site.statements
    span = said.of_setting(setting, ScopeKind.HERE)
    rows = np.arange(span.start, span.stop)
    replaces = np.array([not isinstance(word, ListChange) for word in said.words[setting].items], dtype=bool)
    rows = rows[replaces[said.value[rows]] & (said.target[rows] >= 0)]
    found = []
    for some in (rows, rows[said.form[rows] == Form.SAID]):
        mask = np.zeros(len(site.tree), dtype=bool)
        mask[said.target[some]] = True
        found.append(mask)
    return found[0], found[1]
