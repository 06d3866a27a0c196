"""What two states of a site differ in, by path and by name: values, outcomes, access, findings, declarations."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any, TypeAlias

import numpy as np

from ...arrays.codebooks import Codes, Mask
from ...arrays.in_background import MANY, results_of
from ...cached import cached_property
from ...fixed import Fixed
from ...outcomes.access.access_model import AccessModel
from ...outcomes.shown_values import ShownValues
from ...records.viewpoint_results import ViewpointDifference, viewpoint_differences
from ...resolve.effective import EffectiveModel
from ...resolve.fold import Resolved
from ...site.model import Viewpoint
from ...site.people import SIGNED_IN, VISITOR
from ...site.settings.setting import ACCESS_FAMILIES
from ...site.settings.values import Plain, Value
from ...site.source import Source, source_of
from ...site.statements.scope_pages import ScopePages
from ..steps.statement_reach import common_codes
from .declared_differences import access_rows, declaration_changes
from .difference_rows import (
    AccessRow,
    DeclarationChange,
    FindingChanges,
    LockChange,
    OutcomeChange,
    OutcomeRow,
    Pages,
    ReachNumbers,
    SettingDifference,
    ShownRow,
    ValueRow,
)
from .differing_pages import below_another_page, differing_details, with_all_below
from .field_differences import FieldDifferences
from .page_pairs import PagePairs, page_pairs
from .same_parts import ACCESS, PAGE_LIST, SameParts
from .source_keys import SourceKeys

FindingsOf: TypeAlias = (
    "Callable[[EffectiveModel, EffectiveModel, Callable[[], PagePairs], SameParts | None], FindingChanges]"
)
"""Gives what becomes of the findings of two states; it may ask for the pages that both have, and for same parts."""
LOOKS = ("title", "heading", "headings", "shows.", "looks.", "theme.", "width", "phone")
"""The fields of the page record, and groups of them, that a reader can tell from what the page looks like."""
ENTRIES = ("menu.shown", "menu.label", "menu.above", "menu.level")
"""The fields that make another menu entry of a page; its position is another also where a neighbour comes or goes."""
LISTED = ("sitemap.listed", "alternates")
"""The fields that make another entry of a page in the sitemap; another address does, too."""

_OF_SCOPES = ("rule", "guarantee", "viewpoint", "site")
"""The kinds of declarations that no field of a page depends on but by its values."""
TITLE_OF_PAGE = "title"
"""The detail that also tells pages below: as the title of the page above, and of the branch."""
OF_PLACE = {"details.parent", "details.depth"}
"""The details that another place in the tree makes others."""

AfterModel: TypeAlias = "EffectiveModel | Callable[[], EffectiveModel]"


class Difference(Fixed):
    """What two states of a site differ in. Each part is worked out when it is first asked for.

    Parameters
    ----------
    before : EffectiveModel
    after : EffectiveModel, or a callable that gives one
        It is called when something is asked that needs it. Pages are the same where their paths are.
    findings_of : function, optional
    pairs : PagePairs, optional
        The pages that both states have, if they are known already.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> found = site.reach(davlo.Change().say("sidebar.right", "main", below="/visit"))
    >>> found.count(), found.values()[0].path, found.values()[0].after
    (23, '/visit/tickets', 'main')
    """

    def __init__(
        self,
        before: EffectiveModel,
        after: AfterModel,
        findings_of: FindingsOf | None = None,
        pairs: PagePairs | None = None,
    ) -> None:
        self.before, self._make_after, self._findings_of, self.viewer = before, after, findings_of, VISITOR
        if pairs is not None:
            self.page_pairs = pairs
        self._branches: dict[int, Resolved] = {}

    def __getstate__(self) -> dict[str, Any]:
        return {**super().__getstate__(), "_make_after": self.after, "_branches": {}}

    @cached_property
    def after(self) -> EffectiveModel:
        """The second state."""
        return self._make_after() if callable(self._make_after) else self._make_after

    @property
    def touched(self) -> range | None:
        """The only pages that can have another value, if both states have the same pages; None if any page can."""
        return None

    def __repr__(self) -> str:
        return f"<Difference: {self.count()} pages, {len(self.settings)} settings>"

    @cached_property
    def is_same(self) -> SameParts:
        """Says which parts of the two states are the same."""
        return SameParts(self.before.site, self.after.site, lambda: self.number_after)

    @cached_property
    def page_pairs(self) -> PagePairs:
        """The pages that both states have."""
        return page_pairs(self.before.site, self.after.site)

    @property
    def source_keys(self) -> tuple[Pages, Pages]:
        """For each statement of each state a number for its scope, target and lock, the same for the same ones."""
        return self._sources.tables

    @property
    def has_same_pages(self) -> bool:
        """Whether both states have the same tree, so that each page has one number."""
        return self.before.site.tree is self.after.site.tree

    @property
    def _pairs(self) -> tuple[Pages, Pages]:
        """The pages to compare that both states have: their numbers in each, in the first's order. Each int64[n]"""
        return self.page_pairs[:2]

    @cached_property
    def _sources(self) -> SourceKeys:
        """A function that says whether values come from the same statement in both states."""
        return SourceKeys(self.before.site, self.after.site, lambda: self.number_after)

    @cached_property
    def _takes(self) -> tuple[slice | Pages, slice | Pages]:
        """The index into a column of each state that selects the pages both have; a slice if that is all of them."""
        sites = (self.before.site, self.after.site)
        one, other = (
            slice(None) if len(pages) == len(site.tree) and (pages == np.arange(len(pages))).all() else pages
            for pages, site in zip(self._pairs, sites, strict=True)
        )
        return one, other

    @property
    def moved(self) -> tuple[tuple[str, str], ...]:
        """The paths of pages that both states have at different addresses, before and after."""
        return self.page_pairs.moved

    @property
    def _path_before(self) -> dict[str, str]:
        """The paths that moved pages had in the first state, by those in the second."""
        return {new: old for old, new in self.moved}

    @property
    def gone(self) -> tuple[str, ...]:
        """The paths of pages that are in the first state only."""
        return tuple(self.before.site.tree.paths.take(self.gone_pages).tolist())

    @property
    def gone_pages(self) -> Pages:
        """The numbers in the first state of pages that are in it only, ascending. int64[n]"""
        if self.has_same_pages:
            return np.zeros(0, dtype=np.int64)
        there = np.ones(len(self.before.site.tree), dtype=bool)
        there[self.page_pairs.before] = False
        return np.flatnonzero(there)

    @property
    def new(self) -> tuple[str, ...]:
        """The paths of pages that are in the second state only."""
        return tuple(self.after.site.tree.paths.take(self.new_pages).tolist())

    @property
    def new_pages(self) -> Pages:
        """The numbers in the second state of pages that are in it only, ascending. int64[n]"""
        if self.has_same_pages:
            return np.zeros(0, dtype=np.int64)
        there = np.ones(len(self.after.site.tree), dtype=bool)
        there[self.page_pairs.after] = False
        return np.flatnonzero(there)

    @cached_property
    def settings(self) -> tuple[SettingDifference, ...]:
        """Every setting on which some page has another value or another source."""
        before, after = self.before.site, self.after.site
        names = dict.fromkeys([s.name for s in before.catalogue.settings] + [s.name for s in after.catalogue.settings])
        asked = [name for name in names if not self.is_same.setting(name)]
        takes_long = len(after.tree) >= MANY and len(asked) > 1 and self.touched is None
        if takes_long:
            _ = self._takes, self._sources.tables  # worked out here, so that two threads do not both do it
        return tuple(one for one in results_of(self._of_setting, asked, takes_long) if one is not None)

    def differing_details(self, names: Iterable[str]) -> dict[str, Mask]:
        """For each of these details, the pages of the first state on which it differs. bool[pages] each"""
        return differing_details(self.before.site, self.after.site, self.number_after, names)

    @cached_property
    def below_another(self) -> Mask:
        """The pages that stand below another page than before, or below one that does. bool[pages of the first]"""
        return below_another_page(self.before.site.tree, self.after.site.tree, self.number_after)

    @cached_property
    def own_pages(self) -> Pages | None:
        """The only pages of the first state on which fields can differ that depend on the page itself alone. int64[n]

        Such a field depends on the page's details and values, on pages above it, and on what is declared. None: it can
        differ on any page.
        """
        one, other = self.before.site, self.after.site
        has_same_people = (one.people, one.actions) == (other.people, other.actions)
        if not (self.is_same.has_same_site and has_same_people):
            return None
        if any(declaration.kind not in _OF_SCOPES for declaration in self.declarations):
            return None
        found = np.zeros(len(one.tree), dtype=bool)
        for setting in self.settings:
            found[setting.pages[setting.changed]] = True
        if one.details is not other.details or one.tree is not other.tree:
            details = self.differing_details([*one.details.columns, *other.details.columns])
            first, second = self.page_pairs[:2]
            found[first] |= one.details.written.take(first).differ(other.details.written.take(second))
            is_home = (np.arange(len(found)) == one.details.home) != (self.number_after == other.details.home)
            # patterns show the titles of pages above; so pages below can differ, too
            found |= with_all_below(one.tree, self.below_another | is_home | details.pop(TITLE_OF_PAGE, is_home))
            for mask in details.values():
                found |= mask
        pages = np.flatnonzero(found)
        return pages if len(pages) < len(found) // 2 else None

    @cached_property
    def lock_changes(self) -> tuple[LockChange, ...]:
        """The values that stay, and are locked in one state only."""
        found = []
        for one in self.settings:
            was, now = (
                np.append(model.site.statements.locked, False)[source]
                for model, source in ((self.before, one.source_before), (self.after, one.source_after))
            )
            for is_locked in (True, False):
                pages = one.pages[~one.changed & (was != now) & (now == is_locked)]
                if len(pages):
                    found.append(LockChange(one.setting, is_locked, pages))
        return tuple(found)

    def _of_setting(self, name: str) -> SettingDifference | None:
        one, other = self.before.site.catalogue.find(name), self.after.site.catalogue.find(name)
        if one is not None and other is not None and self.touched is not None:
            return self._of_branch(name, one, other, self.touched)
        first, second = self._pairs
        take, take_other = self._takes
        if one is None or other is None:
            model, number, pages = (self.before, one, first) if other is None else (self.after, other, second)
            assert number is not None
            resolved, has = model.resolved(number), model.site.has(number)[pages]
            codes = np.where(has, resolved.value[pages], -1).astype(np.int32)
            none = np.full(len(pages), -1, dtype=np.int32)
            sources = np.where(has, resolved.source[pages], -1).astype(np.int32)
            sides = (codes, none, sources, none) if other is None else (none, codes, none, sources)
            differs = has
            words: Sequence[Value] = resolved.words
        else:
            was, now = self.before.resolved(one), self.after.resolved(other)
            now_codes, book = common_codes(was, now)
            words = book.items
            value = _of_pages(self.before.site.has(one)[take], was.value[take])
            new = _of_pages(self.after.site.has(other)[take_other], now_codes[take_other])
            sides = (value, new, was.source[take], now.source[take_other])
            differs = (value != new) | ((value >= 0) & self._sources.moved(sides[2], sides[3]))
        at = np.flatnonzero(differs)
        value, new, source, source_new = (side[at] for side in sides)
        return SettingDifference(name, first[at], value, new, source, source_new, words) if len(at) else None

    def _of_branch(self, name: str, one: int, other: int, touched: range) -> SettingDifference | None:
        """One setting on the only pages that can differ; both states have the same pages."""
        was, now = self.before.resolved_branch(one, self._part(self.before)), self._after_branch(other)
        now_codes, book = common_codes(was, now)
        some = slice(touched.start, touched.stop)
        value = np.where(self.before.site.has(one)[some], was.value, -1).astype(np.int32)
        new = np.where(self.after.site.has(other)[some], now_codes, -1).astype(np.int32)
        at = np.flatnonzero((value != new) | ((value >= 0) & self._sources.moved(was.source, now.source)))
        sides = (value[at], new[at], was.source[at], now.source[at])
        return SettingDifference(name, at + touched.start, *sides, book.items) if len(at) else None

    def _part(self, model: EffectiveModel) -> ScopePages:
        """The only pages that can differ."""
        assert self.touched is not None
        return model.site.scope_pages.part(self.touched.start, self.touched.stop)

    def _after_branch(self, setting: int) -> Resolved:
        found = self._branches.get(setting)
        if found is None:
            found = self._branches[setting] = self.after.resolved_part(setting, self._part(self.after))
        return found

    def sources_after(self, setting: int, pages: Pages) -> Codes:
        """For the pages that can differ, the statements of the second state that give them a setting. int32[n]"""
        if self.touched is not None:
            return self._after_branch(setting).source[pages - self.touched.start]
        return self.after.resolved(setting).source[pages]

    def changed_pages(self) -> Mask:
        """The pages that have another value of some setting. bool[pages of the first state]"""
        found = np.zeros(len(self.before.site.tree), dtype=bool)
        found[self.changed_numbers()] = True
        return found

    def changed_numbers(self) -> Pages:
        """The numbers in the first state of the pages that have another value of some setting, ascending. int64[n]"""
        # a page without the setting counts as having the built-in value
        parts = [one.pages[np.maximum(one.before, 0) != np.maximum(one.after, 0)] for one in self.settings]
        if len(parts) > 1:
            found = np.zeros(len(self.before.site.tree), dtype=bool)
            for pages in parts:
                found[pages] = True
            return np.flatnonzero(found)
        return parts[0] if parts else np.zeros(0, dtype=np.int64)

    def count(self) -> int:
        """How many pages have another value of some setting."""
        return len(self.changed_numbers())

    def values(self, sources_too: bool = False) -> list[ValueRow]:
        """A row for every page and setting whose value differs, or with `sources_too` whose source does."""
        found = ((one.setting, one.pages if sources_too else one.pages[one.changed]) for one in self.settings)
        return [row for setting, pages in found for row in self._rows_of(setting, pages, None, None)]

    @cached_property
    def shown(self) -> tuple[ShownRow, ...]:
        """The pages and settings whose value is shown in one state only."""
        was, now = self._shown_models
        paths, found = self.before.site.tree.paths, list[ShownRow]()
        for name, pages in self._shown_pages.items():
            one, two = was.pages(name)[pages], now.pages(name)[self.number_after[pages]]
            sides = zip(pages.tolist(), one.tolist(), two.tolist(), strict=True)
            found += [ShownRow(paths[page], name, before, after) for page, before, after in sides]
        return tuple(found)

    def not_shown(self, setting: str, pages: Pages) -> int:
        """On how many pages of the first state the setting's value in the second state is not shown."""
        number = self.after.site.catalogue.find(setting)
        there = self.numbers_after(pages)
        if number is None or not self._shown_models[1].is_asked(number):
            return 0
        return int(np.count_nonzero(self.after.site.has(number)[there] & ~self._shown_models[1].pages(number)[there]))

    def rows(self) -> Iterator[ValueRow]:
        """A row for every page and setting whose value, source or being shown differs, a setting after the other.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> rows = list(site.reach(davlo.Change().say("layout.name", "open", here="/visit/tickets")).rows())
        >>> for row in rows[:2]:
        ...     print(row.setting, row.before, row.after, row.shown_before, row.shown_after)
        layout.name two-column open True True
        sidebar.right visit-planning visit-planning True False
        """
        was, now = self._shown_models
        differing = {one.setting: one.pages for one in self.settings}
        one, other = self.before.site, self.after.site
        names = [s.name for s in one.catalogue.settings] + [s.name for s in other.catalogue.settings]
        none = np.zeros(0, dtype=np.int64)
        for name in dict.fromkeys(names):
            pages = np.union1d(differing.get(name, none), self._shown_pages.get(name, none)).astype(np.int64)
            yield from self._rows_of(name, pages, was, now)

    def _rows_of(
        self, setting: str, pages: Pages, was: ShownValues | None, now: ShownValues | None
    ) -> Iterator[ValueRow]:
        """The values of a setting on some pages in both states; with `was` and `now` also whether they are shown."""
        paths = self.before.site.tree.paths.take(pages).tolist()
        before = _side(self.before, was, setting, pages)
        after = _side(self.after, now, setting, self.number_after[pages])
        for path, (value, source, shown), (value_now, source_now, shown_now) in zip(paths, before, after, strict=True):
            yield ValueRow(path, setting, value, value_now, source, source_now, shown, shown_now)

    @cached_property
    def _shown_models(self) -> tuple[ShownValues, ShownValues]:
        return self.before.shared(ShownValues), self.after.shared(ShownValues)

    @cached_property
    def _shown_pages(self) -> dict[str, Pages]:
        """For each setting that both states have, the pages on which its value is shown in one of them only."""
        was, now = self._shown_models
        first, second = self._pairs
        found = {}
        for number, setting in enumerate(self.before.site.catalogue.settings):
            other = self.after.site.catalogue.find(setting.name)
            if (
                other is None
                or not was.is_asked(number)
                or all(map(self.is_same, (PAGE_LIST, *was.depends_on(number))))
            ):
                continue
            has = self.before.site.has(number)[first] & self.after.site.has(other)[second]
            differs = np.flatnonzero(has & (was.pages(number)[first] != now.pages(other)[second]))
            if len(differs):
                found[setting.name] = first[differs]
        return found

    @cached_property
    def number_after(self) -> Pages:
        """For each page of the first state its number in the second; -1: it is gone. int64[pages]"""
        found = np.full(len(self.before.site.tree), -1, dtype=np.int64)
        found[self.page_pairs.before] = self.page_pairs.after
        return found

    def numbers_after(self, pages: Pages) -> Pages:
        """The numbers in the second state of pages of the first, without those that are gone. int64[n]"""
        if self.has_same_pages:
            return pages
        there = self.number_after[pages]
        return there[there >= 0]

    @cached_property
    def declarations(self) -> tuple[DeclarationChange, ...]:
        """The declarations that are new, gone, or hold something else."""
        return declaration_changes(self.before.site, self.after.site)

    @cached_property
    def outcome_changes(self) -> tuple[OutcomeChange, ...]:
        """The fields of the page record that differ: for a visitor, and for each viewpoint's viewer on its page."""
        found = [*self._compared_fields.of(self._pairs, self.viewer, own=self.own_pages, details_too=True)]
        for one, changes in self._viewpoint_changes.items():
            found += changes if one.viewer != self.viewer else ()
        return tuple(found)

    @cached_property
    def _compared_fields(self) -> FieldDifferences:
        return FieldDifferences(self.before, self.after, self.is_same, self.page_pairs)

    @cached_property
    def _viewpoint_changes(self) -> dict[Viewpoint, list[OutcomeChange]]:
        """The fields that differ for each viewpoint's viewer on its page, where both states have both."""
        found = {}
        for one in filter(self._has_viewpoint, self.after.site.viewpoints):
            pages = np.array([self._page_before(one)])
            found[one] = [*self._compared_fields.of((pages, self.number_after[pages]), one.viewer, own=self.own_pages)]
        return found

    def _page_before(self, viewpoint: Viewpoint) -> int:
        """The number in the first state of a viewpoint's page; -1: it is not there."""
        return self.before.site.tree.find(self._path_before.get(viewpoint.page, viewpoint.page))

    def _has_viewpoint(self, viewpoint: Viewpoint) -> bool:
        """Whether both states have the page of a viewpoint, and know its viewer."""
        page = self._page_before(viewpoint)
        return (
            page >= 0
            and self.number_after[page] >= 0
            and all(_is_known(model, viewpoint.viewer) for model in (self.before, self.after))
        )

    @cached_property
    def looking_different(self) -> Pages:
        """The numbers in the first state of the pages that look different to the viewer, ascending. int64[n]"""
        return self._pages_of(LOOKS)

    @cached_property
    def detail_changes(self) -> tuple[OutcomeChange, ...]:
        """The details that differ; a blank cell is the same as no column."""
        found = [one.where_told() for one in self.outcome_changes if one.field.startswith("details.")]
        return tuple(one for one in found if len(one.pages))

    @property
    def _details_of_pages(self) -> list[OutcomeChange]:
        return [one for one in self.detail_changes if one.field not in OF_PLACE]

    @property
    def is_met(self) -> bool:
        """Whether somebody meets something else on some page, or may do something else there."""
        return bool(self.outcome_changes or self.access or self.settings or self.new or self.gone)

    def _pages_of(self, fields: tuple[str, ...]) -> Pages:
        """The numbers in the first state of pages on which some fields differ for the viewer, ascending. int64[n]"""
        found = np.zeros(len(self.before.site.tree), dtype=bool)
        for one in self.outcome_changes:
            if one.viewer == self.viewer and one.field.startswith(fields):
                found[one.pages] = True
        return np.flatnonzero(found)

    @cached_property
    def numbers(self) -> ReachNumbers:
        """What differs, in numbers."""
        changed = self.changed_numbers()
        gaining = {row.who for row in self.access if row.gained}
        losing = {row.who for row in self.access if row.lost}
        people, visitor = (len(gaining - {VISITOR}), len(losing - {VISITOR})), (VISITOR in gaining, VISITOR in losing)
        relocked = np.zeros(len(self.before.site.tree), dtype=bool)
        for one in self.lock_changes:
            relocked[one.pages] = True
        addresses = self._pages_of(("address",))
        listed = len(np.setdiff1d(self._pages_of(LISTED), addresses))
        looking, entries, headed = (len(self._pages_of(some)) for some in (LOOKS, ENTRIES, ("head",)))
        detailed = len(np.unique(np.concatenate([changed[:0], *(one.pages for one in self._details_of_pages)])))
        pages = (len(changed), len(self.new), len(self.gone), *self._kept(changed))
        met = (looking, len(addresses), detailed, entries, listed, headed)
        return ReachNumbers(*pages, *people, *visitor, int(relocked.sum()), *met)

    def _kept(self, changed: Pages) -> tuple[int, int, int, int]:
        """On how many pages a change has no effect: overridden, locked, kept by a stamp, there already."""
        return 0, 0, 0, 0

    @cached_property
    def viewpoint_differences(self) -> list[ViewpointDifference]:
        """The viewpoints that see something else in the second state."""
        return viewpoint_differences(self.before, self.after, self._path_before, self._sees_the_same)

    def _sees_the_same(self, viewpoint: Viewpoint) -> bool:
        """Whether a viewer meets the same on a page for certain: nothing differs there by which any word is chosen."""
        if self.own_pages is None or self._viewpoint_changes.get(viewpoint, True):
            return False
        viewer, page = viewpoint.viewer, self._page_before(viewpoint)
        may = self.before.shared(AccessModel).actions(viewer, page)
        is_same = may == self.after.shared(AccessModel).actions(viewer, int(self.number_after[page]))
        return is_same and page not in self.own_pages

    @cached_property
    def new_errors(self) -> tuple[Any, ...]:
        """The findings of level error that are new, or on more pages; accepted ones aside.

        An error is not new if others of its kind and setting already covered all its pages.
        """
        found = self.findings
        was = (*found.gone, *(one.before for one in found.changed))
        worse = (*found.new, *(one.after for one in found.changed if one.more))
        return tuple(one for one in worse if one.level == "error" and not self._is_covered(one, was))

    def _is_covered(self, finding: Any, earlier: Sequence[Any]) -> bool:
        """Whether earlier findings of the same kind, level and setting were on all pages of a finding."""
        key = (finding.kind, finding.level, finding.setting)
        same = (one for one in earlier if (one.kind, one.level, one.setting) == key)
        covered = [self.numbers_after(one.pages.numbers) for one in same]
        return bool(covered) and bool(np.isin(finding.pages.numbers, np.concatenate(covered)).all())

    @property
    def outcomes(self) -> tuple[OutcomeRow, ...]:
        """A row for each page and outcome that differs."""
        paths = self.before.site.tree.paths
        return tuple(row for one in self.outcome_changes for row in one.rows(paths))

    @cached_property
    def _has_same_access(self) -> bool:
        """Whether nothing differs that access depends on, on the pages that both states have."""
        one, other = self.before.site, self.after.site
        if self.is_same.has_same_page_list:
            return self.is_same(ACCESS)
        if (one.people, one.actions) != (other.people, other.actions):
            return False
        asked = {name for name in self.is_same.names if name.partition(".")[0] in (*ACCESS_FAMILIES, "page")}
        first, second = self._pairs
        drafts: Mask = one.details.draft[first] != other.details.draft[second]
        return not drafts.any() and not any(one.changed.any() for one in self.settings if one.setting in asked)

    @cached_property
    def access(self) -> tuple[AccessRow, ...]:
        """Who gains or loses what, on how many of the pages that both states have."""
        if self._has_same_access:
            return ()
        return access_rows(self.before, self.after, self._pairs)

    @cached_property
    def findings(self) -> FindingChanges:
        """What becomes of the findings: new, gone, or there on more or fewer pages."""
        if self._findings_of is None:
            return FindingChanges()
        return self._findings_of(self.before, self.after, lambda: self.page_pairs, self.is_same)


def _is_known(model: EffectiveModel, viewer: str) -> bool:
    return viewer == SIGNED_IN or model.site.people.has(viewer) or viewer in model.site.people.groups


def _of_pages(has: Mask, codes: Codes) -> Codes:
    """The codes of pages, -1 where a page does not have the setting. int32[n]"""
    return codes if has.all() else np.where(has, codes, -1).astype(np.int32)


def _side(
    model: EffectiveModel, shown: ShownValues | None, name: str, pages: Pages
) -> Iterator[tuple[Plain, Source | None, bool | None]]:
    """What some pages have of a setting in one state: value, source, and whether it is shown; None for what is not."""
    number = model.site.catalogue.find(name)
    if number is None:
        yield from ((None, None, None) for _ in pages)
        return
    found, has = model.resolved(number), model.site.has(number)[pages]
    is_shown = [None] * len(pages) if shown is None else shown.pages(number)[pages].tolist()
    columns = (found.value[pages].tolist(), found.source[pages].tolist(), has.tolist(), is_shown)
    for value, source, there, tells in zip(*columns, strict=True):
        yield (found.words[value], source_of(model.site, source), tells) if there else (None, None, None)
