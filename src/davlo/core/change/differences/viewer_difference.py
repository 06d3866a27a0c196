"""What one viewer of a site meets and another does not, page by page."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ...arrays.codebooks import Mask, distinct_rows
from ...cached import cached_property
from ...fixed import Fixed
from ...outcomes.access.access_model import AccessModel
from ...resolve.effective import EffectiveModel
from .difference_rows import OutcomeChange, OutcomeRow, Pages
from .field_differences import FieldDifferences

SEEN_FIELDS = {"areas": "shows.", "menu": "menu."}
"""The groups of fields of the page record that depend on who looks, besides what they may do; by parts."""


class RightsOnPages(NamedTuple):
    """What each of two viewers may do on the same pages."""

    one: tuple[str, ...]
    other: tuple[str, ...]
    pages: Pages  # int64[n], ascending


class ViewerDifference(Fixed):
    """What one viewer meets and another does not. `Site.viewer_difference` is the call to use.

    Parameters
    ----------
    effective : EffectiveModel
    one, other : str
        A person, a group, `visitor` or `signed-in`.
    among : bool[pages], optional
        Only these pages.

    Example
    -------
    >>> import davlo
    >>> found = ViewerDifference(davlo.open_demo().resolve(), "visitor", "tomas.vell")
    >>> len(found.seen_by_one), found.site.tree.paths[found.seen_by_other[0]]
    (0, '/staff')
    """

    def __init__(self, effective: EffectiveModel, one: str, other: str, among: Mask | None = None) -> None:
        for who in (one, other):
            effective.site.people.covering(who)
        self.effective, self.site, self.one, self.other = effective, effective.site, one, other
        self.pages: Pages = np.arange(len(effective)) if among is None else np.flatnonzero(among)
        """The pages that are looked at. int64[n]"""

    def __repr__(self) -> str:
        only = f"{len(self.seen_by_one)} and {len(self.seen_by_other)} pages that one alone sees"
        return f"<ViewerDifference of {self.one} and {self.other}: {only}>"

    @property
    def _sees(self) -> tuple[Mask, Mask]:
        access = self.effective.shared(AccessModel)
        return access.may(self.one, "view")[self.pages], access.may(self.other, "view")[self.pages]

    @cached_property
    def seen_by_one(self) -> Pages:
        """The numbers of the pages that only the first viewer may view, ascending. int64[n]"""
        one, other = self._sees
        return self.pages[one & ~other]

    @cached_property
    def seen_by_other(self) -> Pages:
        """The numbers of the pages that only the second viewer may view, ascending. int64[n]"""
        one, other = self._sees
        return self.pages[other & ~one]

    @cached_property
    def rights(self) -> tuple[RightsOnPages, ...]:
        """The pages on which the two may do different things, gathered by what; the most pages first."""
        access, actions = self.effective.shared(AccessModel), self.site.actions
        columns = [access.may(who, action)[self.pages] for who in (self.one, self.other) for action in actions]
        first, codes = distinct_rows([one.astype(np.int8) for one in columns])
        found = []
        for kind, place in enumerate(first.tolist()):
            row = [bool(one[place]) for one in columns]
            mine, theirs = (
                tuple(action for action, may in zip(actions, some, strict=True) if may)
                for some in (row[: len(actions)], row[len(actions) :])
            )
            if mine != theirs:
                found.append(RightsOnPages(mine, theirs, self.pages[codes == kind]))
        return tuple(sorted(found, key=lambda one: -len(one.pages)))

    @cached_property
    def outcome_changes(self) -> tuple[OutcomeChange, ...]:
        """What differs on pages that both may view: what shows in areas, and where entries stand in the menu.

        `before` is what the first viewer meets, `after` what the second does.
        """
        one, other = self._sees
        both = self.pages[one & other]
        fields = FieldDifferences(self.effective, self.effective, lambda word: word != "access")
        found = fields.of((both, both), self.one, self.other)
        return tuple(change for change in found if change.field.startswith(tuple(SEEN_FIELDS.values())))

    @cached_property
    def outcomes(self) -> tuple[OutcomeRow, ...]:
        """A row for each page and field that differs on pages that both may view."""
        return tuple(row for one in self.outcome_changes for row in one.rows(self.site.tree.paths))

    def differs_in(self, part: str) -> bool:
        """Whether the viewers differ in `access`, `areas` or `menu`."""
        return bool(self.rights if part == "access" else self.outcomes_of((part,)))

    def outcomes_of(self, parts: Sequence[str]) -> list[OutcomeRow]:
        """The rows of `outcomes` that belong to `areas` or `menu`."""
        begins = tuple(SEEN_FIELDS[part] for part in parts if part in SEEN_FIELDS)
        return [one for one in self.outcomes if one.field.startswith(begins)]
