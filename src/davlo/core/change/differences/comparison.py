"""How two states of a site differ, on some of their pages, without knowing what change lies between them."""

from __future__ import annotations

import numpy as np

from ...arrays.codebooks import Mask
from ...cached import cached_property
from ...resolve.effective import EffectiveModel
from ...site.people import VISITOR
from .causes import Cause, causes
from .difference import Difference, FindingsOf
from .difference_rows import FindingChanges, OutcomeChange, Pages
from .page_pairs import PagePairs

OF_OUTCOMES = {
    "titles": ("title", "heading", "headings", "menu.label"),
    "areas": ("shows.", "looks.", "width", "theme.", "phone"),
    "menu": ("menu.shown", "menu.above", "menu.level", "menu.position"),
    "addresses": ("address",),
    "sitemap": ("sitemap.", "alternates"),
}
"""The parts of a comparison that are outcomes, and the fields of the page record, or groups of them, in each."""
PARTS = ("pages", "values", "access", *OF_OUTCOMES, "details", "declarations", "findings")
"""The parts of a comparison."""


class Comparison(Difference):
    """What two states of a site differ in. `Site.difference` is the call to use.

    `among`: bool[pages]: only these pages of each state; a page in both counts if either mask has it. `viewer`: who
    meets the outcomes.

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
        viewer: str = VISITOR,
    ) -> None:
        super().__init__(before, after, findings_of)
        self._among, self.viewer = among, viewer

    @cached_property
    def _chosen(self) -> PagePairs:
        """The pages that both states have, of those to compare."""
        if self._among is None:
            return self.page_pairs
        first, second, moved = self.page_pairs
        some = self._among[0][first] | self._among[1][second]
        there = set(self.before.site.tree.paths.take(first[some])) if moved else ()
        return PagePairs(first[some], second[some], tuple(one for one in moved if one[0] in there))

    @property
    def _pairs(self) -> tuple[Pages, Pages]:
        return self._chosen[:2]

    @property
    def moved(self) -> tuple[tuple[str, str], ...]:
        """The paths of pages that both states have at different addresses, before and after."""
        return self._chosen.moved

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

    @cached_property
    def findings(self) -> FindingChanges:
        """What becomes of the findings about these pages."""
        found = super().findings
        if self._among is None:
            return found
        before, after = self._among
        return FindingChanges(
            tuple(one for one in found.new if after[one.pages.numbers].any()),
            tuple(one for one in found.gone if before[one.pages.numbers].any()),
            tuple(
                one
                for one in found.changed
                if after[one.after.pages.numbers].any() or before[one.before.pages.numbers].any()
            ),
        )

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
        found = {name: np.flatnonzero(mask & among) for name, mask in self.differing_details(names).items()}
        return {name: pages for name, pages in found.items() if len(pages)}

    def outcomes_of(self, part: str) -> list[OutcomeChange]:
        """The fields of the page record that differ for the viewer, of one part of the outcomes."""
        fields = OF_OUTCOMES[part]
        groups = tuple(one for one in fields if one.endswith("."))
        every = (one for one in self.outcome_changes if one.viewer == self.viewer)
        return [one for one in every if one.field in fields or one.field.startswith(groups)]

    def differs_in(self, part: str) -> bool:
        """Whether anything differs in one of `PARTS`.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
        >>> [part for part in PARTS if site.difference(after).differs_in(part)]
        ['values', 'areas']
        """
        if part in OF_OUTCOMES:
            return bool(self.outcomes_of(part))
        if part == "pages":
            return bool(self.new or self.gone or self.moved)
        if part == "values":
            return bool(self.settings or self.shown)
        return any(self.findings) if part == "findings" else bool(getattr(self, part))
