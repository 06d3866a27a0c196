"""How two states of a site differ, on some of their pages, without knowing what change lies between them."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np

from ...arrays.codebooks import Mask
from ...resolve.effective import EffectiveModel
from ..change_reach import ChangeReach
from ..steps.change import Change
from .causes import Cause, causes, differing_details
from .difference import FindingsOf
from .difference_rows import OutcomeChange, Pages
from .page_pairs import PagePairs

OF_OUTCOMES = {
    "titles": ("title", "heading", "menu label"),
    "menu": ("menu",),
    "sitemap": ("sitemap",),
    "lists": ("list",),
}
"""The parts of a comparison that are outcomes, and the kinds of these."""
PARTS = ("pages", "values", "access", *OF_OUTCOMES, "details", "declarations", "findings")
"""The parts of a comparison."""


class Comparison(ChangeReach):
    """What two states of a site differ in. `Site.difference` is the call to use.

    `among`: bool[pages]: only these pages of each state; a page in both counts if either mask has it.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
    >>> found = Comparison(site.resolve(), after.resolve())
    >>> found.count(), found.causes[0].what, found.causes[0].source.where
    (23, 'says', 'the change')
    """

    def __init__(
        self,
        before: EffectiveModel,
        after: EffectiveModel,
        findings_of: FindingsOf | None = None,
        among: tuple[Mask, Mask] | None = None,
    ) -> None:
        super().__init__(before, after, Change(), findings_of)
        self._among = among

    @cached_property
    def _kept(self) -> PagePairs:
        """The pages that both states have, of those to compare."""
        if self._among is None:
            return self.page_pairs
        first, second, moved = self.page_pairs
        some = self._among[0][first] | self._among[1][second]
        there = set(self.before.site.tree.paths.take(first[some])) if moved else ()
        return PagePairs(first[some], second[some], tuple(one for one in moved if one[0] in there))

    @property
    def _pairs(self) -> tuple[Pages, Pages]:
        return self._kept[:2]

    @property
    def moved(self) -> tuple[tuple[str, str], ...]:
        """The paths of pages that both states have at different addresses, before and after."""
        return self._kept.moved

    @property
    def gone_pages(self) -> Pages:
        """The numbers in the first state of pages that are in it only, ascending. int64[n]"""
        gone = super().gone_pages
        return gone if self._among is None else gone[self._among[0][gone]]

    @property
    def new_pages(self) -> Pages:
        """The numbers in the second state of pages that are in it only, ascending. int64[n]"""
        new = super().new_pages
        return new if self._among is None else new[self._among[1][new]]

    @property
    def findings(self) -> tuple[tuple[Any, ...], tuple[Any, ...]]:
        """The findings that are new in the second state, and those that are gone, about these pages."""
        new, gone = super().findings
        if self._among is None:
            return new, gone
        before, after = self._among
        mine = tuple(one for one in new if after[one.pages.numbers].any())
        return mine, tuple(one for one in gone if before[one.pages.numbers].any())

    @cached_property
    def causes(self) -> list[Cause]:
        """Why values differ, the cause of most pages first."""
        return causes(self)

    @cached_property
    def details(self) -> dict[str, Pages]:
        """For each detail of the page list that differs, the pages of the first state on which it does."""
        names = dict.fromkeys([*self.before.site.details.columns, *self.after.site.details.columns])
        among = np.zeros(len(self.before.site.tree), dtype=bool)
        among[self._pairs[0]] = True
        found = {name: np.flatnonzero(mask & among) for name, mask in differing_details(self, names).items()}
        return {name: pages for name, pages in found.items() if len(pages)}

    def outcomes_of(self, part: str) -> list[OutcomeChange]:
        """The outcomes of one part that differ: titles, menu, sitemap or lists."""
        return [one for one in self.outcome_changes if one.kind in OF_OUTCOMES[part]]

    def differs_in(self, part: str) -> bool:
        """Whether anything differs in one of `PARTS`.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
        >>> [part for part in PARTS if site.difference(after).differs_in(part)]
        ['values', 'findings']
        """
        if part in OF_OUTCOMES:
            return bool(self.outcomes_of(part))
        if part == "pages":
            return bool(self.new or self.gone or self.moved)
        if part == "values":
            return bool(self.settings or self.shown)
        return any(self.findings) if part == "findings" else bool(getattr(self, part))
