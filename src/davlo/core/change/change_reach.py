"""What a change would do: the difference that it makes, where it has no effect, and all of it in numbers."""

from __future__ import annotations

from functools import cached_property
from typing import Any, NamedTuple

import numpy as np

from ..records.viewpoint_results import ViewpointDifference, viewpoint_differences
from ..resolve.effective import EffectiveModel
from ..site.people import VISITOR
from ..site.settings.scopes import OF_PAGES
from .differences.difference import AfterModel, Difference, FindingsOf
from .differences.difference_rows import Pages
from .differences.page_pairs import PagePairs, page_pairs
from .no_effect import ALREADY, KEEPS_STAMP, LOCKED, OVERRIDDEN, NoEffect, no_effect
from .steps.change import Change, MovePage, SetDetail, StatementStep
from .steps.statement_reach import StatementEdit, reach

REASONS = (LOCKED, OVERRIDDEN, KEEPS_STAMP, ALREADY)
"""Why a change has no effect on a page, in the order in which a page is counted."""
NO_PAGE = -1
"""Stands for the first page of a finding that has none, and for a page that is gone."""


class ReachNumbers(NamedTuple):
    """What a change would do, in numbers."""

    changed: int  # on how many pages the value of some setting changes
    new: int  # how many pages there are in one state only
    gone: int  # how many pages there are in one state only
    # `own`, `locked`, `keep_stamp`, `already`: how many pages the change reaches without effect: a stronger statement,
    # a lock or their stamp decides, or they have the value already. A page counts once, as the first of these that
    # fits: locked, overridden, keeps its stamp, has it already. A page on which something changes does not count.
    own: int
    locked: int
    keep_stamp: int
    already: int
    gaining: int  # `gaining`, `losing`: how many people gain or lose an action on some page
    losing: int
    visitor_gains: bool = False  # whether a visitor does
    visitor_loses: bool = False  # whether a visitor does
    relocked: int = 0  # on how many pages some value stays, and is locked now or no longer locked


class FindingsApart(NamedTuple):
    """Findings that a change brings about, that go with it, and that stay in other words. Each tuple of Finding."""

    new: tuple[Any, ...]
    gone: tuple[Any, ...]
    staying: tuple[Any, ...]


class ChangeReach(Difference):
    """What a change would do. `Site.reach` is the call to use.

    Parameters
    ----------
    before, after
        As of a `Difference`.
    change : Change
        What makes the second state of the first.
    edit : StatementEdit, optional
        The change, where it is the edit of one statement: `count` then asks nothing else.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> reach = site.reach(davlo.Change().say("sidebar.right", "main", type="article"))
    >>> reach.numbers.changed, reach.numbers.own, reach.numbers.gaining
    (17, 15, 0)
    """

    def __init__(
        self,
        before: EffectiveModel,
        after: AfterModel,
        change: Change,
        findings_of: FindingsOf | None = None,
        edit: StatementEdit | None = None,
    ) -> None:
        super().__init__(before, after, findings_of)
        self.change, self._edit = change, edit

    @cached_property
    def page_pairs(self) -> PagePairs:
        if not self.change.steps:  # two states without a change between them
            return page_pairs(self.before.site, self.after.site)
        moves = [(step.path, step.new) for step in self.change.steps if isinstance(step, MovePage)]
        names = self.before.site.page_names
        return page_pairs(self.before.site, self.after.site, [(names.path(old), names.path(new)) for old, new in moves])

    @cached_property
    def touched(self) -> range | None:
        """The branch that the change reaches, if it reaches one branch, or single pages near one another."""
        tree = self.before.site.tree
        spans = []
        for step in self.change.steps if self.after.site.tree is tree else ():
            if not isinstance(step, StatementStep) or step.scope.kind not in OF_PAGES:
                return None
            page = tree.find(self.before.site.page_names.path(step.scope.name))
            if page < 0 or self.before.site.catalogue.find(step.setting) is None:
                return None
            spans.append((page, int(tree.end[page])))
        if not spans:
            return None
        begin, end = min(one for one, _ in spans), max(end for _, end in spans)
        return range(begin, end) if end - begin < len(tree) // 2 else None

    def changed_numbers(self) -> Pages:
        """The numbers in the first state of the pages that have another value of some setting, ascending. int64[n]"""
        return super().changed_numbers() if self._edit is None else reach(self.before, self._edit).pages

    @cached_property
    def no_effect(self) -> tuple[NoEffect, ...]:
        """Where the change reaches pages that keep their value, and why; the most pages first."""
        return tuple(no_effect(self, self.change))

    @cached_property
    def numbers(self) -> ReachNumbers:
        """What the change would do, in numbers."""
        some = self.touched or range(len(self.after.site.tree))
        counted = np.zeros(len(some), dtype=bool)
        changed = self.changed_numbers()
        counted[self.numbers_after(changed) - some.start] = True
        kept = dict.fromkeys(REASONS, 0)
        for reason in REASONS:
            before = int(np.count_nonzero(counted))
            for one in self.no_effect:
                if one.reason == reason:
                    counted[one.pages - some.start] = True
            kept[reason] = int(np.count_nonzero(counted)) - before
        own, locked, keep_stamp, already = (kept[one] for one in (OVERRIDDEN, LOCKED, KEEPS_STAMP, ALREADY))
        gaining = {row.who for row in self.access if row.gained}
        losing = {row.who for row in self.access if row.lost}
        pages = (len(changed), len(self.new), len(self.gone))
        people, visitor = (len(gaining - {VISITOR}), len(losing - {VISITOR})), (VISITOR in gaining, VISITOR in losing)
        relocked = {page for one in self.lock_changes for page in one.pages.tolist()}
        return ReachNumbers(*pages, own, locked, keep_stamp, already, *people, *visitor, len(relocked))

    @cached_property
    def findings_apart(self) -> FindingsApart:
        """The findings that are new or gone, and those that stay but name another statement or value."""
        new, gone = self.findings
        first, second, _ = self.page_pairs
        after = np.full(len(self.before.site.tree), -1, dtype=np.int64)
        after[first] = second
        pages = [after[old.pages.numbers] for old in gone]
        firsts: dict[tuple[str, ...], list[int]] = {}
        for one in new:
            firsts.setdefault(_key(one), []).append(_first(one.pages.numbers))
        about: dict[tuple[tuple[str, ...], int], list[int]] = {}
        for number, old in enumerate(gone):
            if key := firsts.get(_key(old)):
                asked = pages[number][np.isin(pages[number], key)]
                for page in (*asked.tolist(), NO_PAGE):
                    about.setdefault((_key(old), page), []).append(number)
        kept, staying, left = [], [], dict.fromkeys(range(len(gone)))
        for one in new:
            mine = one.pages.numbers
            others = about.get((_key(one), _first(mine)), ())
            same = next((n for n in others if n in left and np.isin(mine, pages[n]).all()), None)
            if same is None:
                kept.append(one)
            else:
                del left[same]
                staying.append(one)
        return FindingsApart(tuple(kept), tuple(gone[number] for number in left), tuple(staying))

    @property
    def new_errors(self) -> tuple[Any, ...]:
        """The findings of level error that the change brings about, accepted ones aside."""
        return tuple(one for one in self.findings_apart.new if one.level == "error")

    @property
    def published_elsewhere(self) -> dict[str, str]:
        """The paths, before and after, of pages that moved or got another address."""
        names = self.before.site.page_names
        steps = (step for step in self.change.steps if isinstance(step, SetDetail) and step.detail == "address")
        both = (self.before.site.tree, self.after.site.tree)
        told = [names.path(step.path) for step in steps]
        return {**{path: path for path in told if all(tree.find(path) >= 0 for tree in both)}, **dict(self.moved)}

    @cached_property
    def viewpoint_differences(self) -> list[ViewpointDifference]:
        """The viewpoints that see something else after the change."""
        return viewpoint_differences(self.before, self.after)


def _first(pages: Pages) -> int:
    return int(pages[0]) if len(pages) else NO_PAGE


def _key(finding: Any) -> tuple[str, ...]:
    """The key that two findings about the same thing share, whatever their statements, values and pages."""
    return finding.kind, finding.level, finding.setting or ""
