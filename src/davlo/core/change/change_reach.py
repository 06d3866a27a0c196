"""What a change would do: the difference that it makes, where it has no effect, and all of it in numbers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..cached import cached_property
from ..resolve.effective import EffectiveModel
from ..site.settings.scopes import OF_PAGES
from .differences.difference import AfterModel, Difference, FindingsOf
from .differences.difference_rows import Pages
from .differences.page_pairs import PagePairs, page_pairs
from .no_effect import ALREADY, KEEPS_STAMP, LOCKED, OVERRIDDEN, NoEffect, no_effect
from .steps.change import Change, MovePage, SetDetail, StatementStep
from .steps.statement_reach import StatementEdit, reach

REASONS = (LOCKED, OVERRIDDEN, KEEPS_STAMP, ALREADY)
"""Why a change has no effect on a page, in the order in which a page is counted."""


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
    moves : sequence of (str, str), optional
        The paths of pages that move besides, before and after.

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
        moves: Sequence[tuple[str, str]] = (),
    ) -> None:
        super().__init__(before, after, findings_of)
        self.change, self._edit, self._moves = change, edit, moves

    @cached_property
    def page_pairs(self) -> PagePairs:
        moves = [(step.path, step.new) for step in self.change.steps if isinstance(step, MovePage)]
        names = self.before.site.page_names
        named = [(names.path(old), names.path(new)) for old, new in (*moves, *self._moves)]
        return page_pairs(self.before.site, self.after.site, named)

    @cached_property
    def touched(self) -> range | None:
        """The branch that the change reaches, if it reaches one branch, or single pages near one another."""
        tree = self.before.site.tree
        catalogue = self.before.site.catalogue
        names = dict[str, None]()
        for step in self.change.steps if self.after.site.tree is tree else ():
            if isinstance(step, SetDetail) and self.is_same.has_same_page_list:
                names[step.path] = None
            elif isinstance(step, StatementStep) and step.scope.kind in OF_PAGES:
                if catalogue.find(step.setting) is None:
                    return None
                names[step.scope.name] = None
            else:
                return None
        pages = self.before.site.page_numbers(names)
        if not pages or min(pages) < 0:
            return None
        begin, end = min(pages), int(tree.end[pages].max())
        return range(begin, end) if end - begin < len(tree) // 2 else None

    def changed_numbers(self) -> Pages:
        """The numbers in the first state of the pages that have another value of some setting, ascending. int64[n]"""
        return super().changed_numbers() if self._edit is None else reach(self.before, self._edit).pages

    @cached_property
    def no_effect(self) -> tuple[NoEffect, ...]:
        """Where the change reaches pages that keep their value, and why; the most pages first."""
        return tuple(no_effect(self, self.change))

    def _kept(self, changed: Pages) -> tuple[int, int, int, int]:
        some = self.touched or range(len(self.after.site.tree))
        counted = np.zeros(len(some), dtype=bool)
        counted[self.numbers_after(changed) - some.start] = True
        kept = dict.fromkeys(REASONS, 0)
        for reason in REASONS:
            before = int(np.count_nonzero(counted))
            for one in self.no_effect:
                if one.reason == reason:
                    counted[one.pages - some.start] = True
            kept[reason] = int(np.count_nonzero(counted)) - before
        return kept[OVERRIDDEN], kept[LOCKED], kept[KEEPS_STAMP], kept[ALREADY]

    @property
    def published_elsewhere(self) -> dict[str, str]:
        """The paths, before and after, of pages that moved or got another address."""
        names = self.before.site.page_names
        steps = (step for step in self.change.steps if isinstance(step, SetDetail) and step.detail == "address")
        both = (self.before.site.tree, self.after.site.tree)
        told = [names.path(step.path) for step in steps]
        return {**{path: path for path in told if all(tree.find(path) >= 0 for tree in both)}, **dict(self.moved)}
