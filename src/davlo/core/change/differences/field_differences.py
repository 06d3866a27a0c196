"""The fields of the page record in which two states of a site differ, page by page."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np

from ...arrays.codebooks import Codes, Mask
from ...arrays.in_background import MANY, results_of
from ...arrays.texts import Texts
from ...cached import cached_property
from ...outcomes.link_lists import LISTING, LinkList, link_list, same_links
from ...outcomes.page_outcomes import Outcomes
from ...records.area_fields import OF_LISTS, shows_field
from ...records.detail_fields import detail_fields
from ...records.outcome_fields import OF_PAGE, WHO_MAY, outcome_fields
from ...records.record import Field, FieldValues, Group, RecordPages
from ...resolve.effective import EffectiveModel
from ...site.people import VISITOR
from .difference_rows import OutcomeChange, Pages
from .page_pairs import PagePairs
from .same_parts import PAGE_LIST

MENU_PLACES = frozenset({"menu.above", "menu.level", "menu.position"})
"""The fields that need all places in the menu."""
Pairs = tuple[Pages, Pages]
"""The pages that both states have: their numbers in each. Each int64[n]"""


class FieldDifferences:
    """Compares the fields of outcomes of two states.

    `is_same`: whether what a field depends on, by a word of its `depends_on`, is the same in both states, as
    `SameParts` tells. `pairs`: all pages that both states have (default: both have the same pages).
    """

    def __init__(
        self,
        before: EffectiveModel,
        after: EffectiveModel,
        is_same: Callable[[str], bool],
        pairs: PagePairs | None = None,
    ) -> None:
        self._states, self._is_same, self._all_pairs = (before, after), is_same, pairs
        self._same_lists: dict[tuple[str, str], bool] = {}

    def of(
        self,
        pairs: Pairs,
        viewer: str = VISITOR,
        viewer_after: str = "",
        own: Pages | None = None,
        details_too: bool = False,
    ) -> Iterator[OutcomeChange]:
        """The fields that differ on some of these pages, as a viewer meets them; or as another does in the second.

        `own`: the only pages of the first state on which fields can differ that depend on the page itself alone, as
        `Difference.own_pages` has them. `details_too`: also the details and who may do what, which are the same for
        all viewers.
        """
        viewers = (viewer, viewer_after or viewer)
        if own is None:
            yield from self._of(pairs, viewers, lambda field: True, details_too)
            return

        def reaches_others(field: Field[Any]) -> bool:
            return self._reaches_others(field, viewers)

        is_own = np.zeros(len(self._states[0]), dtype=bool)
        is_own[own] = True
        within = is_own[pairs[0]]
        near = (pairs[0][within], pairs[1][within])
        yield from self._of(near, viewers, lambda field: not reaches_others(field), details_too)
        if any(reaches_others(field) for field in (*Group("", OF_PAGE).fields(), shows_field(""))):
            yield from self._of(pairs, viewers, reaches_others, False)

    def _of(
        self, pairs: Pairs, viewers: tuple[str, str], is_asked: Callable[[Field[Any]], bool], details_too: bool
    ) -> Iterator[OutcomeChange]:
        sides = []
        for model, pages, who in zip(self._states, pairs, viewers, strict=True):
            is_all = len(pages) == len(model) and bool((pages == np.arange(len(pages))).all())
            sides.append(RecordPages(model, None if is_all else pages, viewer=who))
        groups = [(*outcome_fields(side), *(_same_for_all(side) if details_too else ())) for side in sides]
        fields = [{one.name: one for one in Group("", some).fields()} for some in groups]
        every = {name: fields[1].get(name) or fields[0][name] for name in dict.fromkeys([*fields[0], *fields[1]])}
        asked = {name: one for name, one in every.items() if not self._is_untouched(one) and is_asked(one)}
        if len(pairs[0]) >= MANY and not MENU_PLACES.isdisjoint(asked):  # kept by each side, and the longest step
            _share_order(*(side.outcomes for side in sides))
            results_of(lambda side: side.menu_places, sides, takes_long=True)
        for name, one in asked.items():
            was, now = (_values(side, mine.get(name)) for side, mine in zip(sides, fields, strict=True))
            at = np.flatnonzero(self._differ(was, now, one.as_json))
            if len(at):
                before, after = (FieldValues(some.codes[at], some.values) for some in (was, now))
                yield OutcomeChange(name, viewers[0], pairs[0][at], before, after, one.as_json)

    def _reaches_others(self, field: Field[Any], viewers: tuple[str, str]) -> bool:
        """Whether something differs by which the field of a page depends on other pages."""
        if field.depends_on is None:
            return True
        differs = not all(map(self._is_same, (PAGE_LIST, *field.across))) if field.across else False
        if differs and field.across == OF_LISTS and self._has_same_declarations:
            return not self._lists_are_same(viewers)
        return differs

    @property
    def _has_same_declarations(self) -> bool:
        one, other = (model.site for model in self._states)
        return one.declarations == other.declarations and one.languages == other.languages

    def _lists_are_same(self, viewers: tuple[str, str]) -> bool:
        """Whether each block that lists pages lists the same in both states, in every language."""
        if viewers not in self._same_lists:
            site, there = self._states[0].site, self._number_of_path
            outcomes = [model.shared(Outcomes) for model in self._states]

            def links(side: int, block: str, language: str) -> LinkList:
                return link_list(outcomes[side], block, language, viewers[side])

            self._same_lists[viewers] = all(
                same_links(links(0, name, language), links(1, name, language), there)
                for name, block in site.declarations.blocks.items()
                if block.kind in LISTING
                for language in site.languages or [""]
            )
        return self._same_lists[viewers]

    @cached_property
    def _number_of_path(self) -> Pages | None:
        """For each page of the first state the number in the second of the page with its path; -1: none. int64[pages]

        None if both have the same pages.
        """
        one, other = (model.site.tree for model in self._states)
        if self._all_pairs is None or one is other:
            return None
        found = np.full(len(one) + 1, -1, dtype=np.int64)  # the last: no page
        found[self._all_pairs.before] = self._all_pairs.after
        found[[one.number(path) for path, _ in self._all_pairs.moved]] = -1
        return found[:-1]

    def _differ(self, was: FieldValues[Any], now: FieldValues[Any], as_json: Callable[[Any], object]) -> Mask:
        """Where two columns of values differ. bool[n]"""
        found: Mask = (was.codes < 0) != (now.codes < 0)
        trees = [model.site.tree for model in self._states]
        if was.values is trees[0].paths and now.values is trees[1].paths:
            there = self._number_of_path
            codes = was.codes if there is None else np.append(there, -1)[was.codes]
            found |= (was.codes >= 0) & (codes != now.codes)
            return found
        if isinstance(was.values, Texts) or isinstance(now.values, Texts):
            both = np.flatnonzero((was.codes >= 0) & (now.codes >= 0))
            if was.values is now.values:
                both = both[was.codes[both] != now.codes[both]]
            one, other = (_texts(some.values).take(some.codes[both]) for some in (was, now))
            found[both] = one.differ(other)
            return found
        known: dict[str, int] = {}
        one_codes, other_codes = (_numbers(some, as_json, known) for some in (was, now))
        differs: Mask = one_codes != other_codes
        return differs

    def _is_untouched(self, field: Field[Any]) -> bool:
        return field.depends_on is not None and self._is_same(PAGE_LIST) and all(map(self._is_same, field.depends_on))


def _share_order(one: Outcomes, other: Outcomes) -> None:
    """Let two states share the order of their pages, where the same sorts them."""
    mine, theirs = one.site, other.site
    details = mine.details, theirs.details
    if mine.tree is theirs.tree and details[0].order is details[1].order and details[0].home == details[1].home:
        other.order = one.order


def _same_for_all(side: RecordPages) -> tuple[Field[Any] | Group, ...]:
    """The fields that are the same for all viewers: details, and who may do what."""
    return Group("details", detail_fields(side.site)), WHO_MAY


def _values(side: RecordPages, field: Field[Any] | None) -> FieldValues[Any]:
    """The values of a field; none where the state does not have it."""
    return FieldValues(np.full(len(side), -1, dtype=np.int32), ()) if field is None else side.values(field)


def _texts(values: Sequence[Any]) -> Texts:
    return values if isinstance(values, Texts) else Texts.of(values)


def _numbers(some: FieldValues[Any], as_json: Callable[[Any], object], known: dict[str, int]) -> Codes:
    """For each page a number for its value, the same in both states for the same one. int32[n]"""
    used = np.bincount(some.codes[some.codes >= 0], minlength=len(some.values)).tolist()
    table = [
        known.setdefault(repr(as_json(value)), len(known)) if uses else -1
        for value, uses in zip(some.values, used, strict=True)
    ]
    return np.array([*table, -1], dtype=np.int32)[some.codes]
