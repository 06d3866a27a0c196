"""Which parts of two states of a site are the same, so that what depends on them alone need not be compared."""

from __future__ import annotations

import operator
from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Mask
from ...cached import cached_property
from ...site.model import SiteModel
from ...site.pages.details import STRUCTURAL
from ...site.settings.scopes import ScopeKind
from ...site.settings.setting import ACCESS_FAMILIES
from ...site.settings.values import ByDepth
from .same_state import placeless

PAGE_LIST = "page list"
"""The word for the page list and the site's own words: where they are the same, each page has one number."""
ACCESS, DECLARATIONS, RULES, TYPES, OWN = "access", "declarations", "rules", "types", "own"
"""Words for what people may do, what is declared for areas, rules, types, and all settings of the site's own."""
TEXTS = "texts"
"""The word for columns of the page list that only fill patterns and links: titles, dates, the site's own details."""
_OF_SITE = (
    "name",
    "url",
    "languages",
    "language_paths",
    "ownership_proofs",
    "max_entries",
    "sitemap",
    "home_path",
    "index_files",
    "for_other_languages",
)


class SameParts:
    """Says whether a part of two sites is the same, for certain.

    A part is a setting, a family of settings (`layout.`), or one of the words above. Where a page moved, or the page
    list says something else of it, a setting is the same if the same statements speak to each page.

    `number_after`: gives for each page of the first its number in the second, int64[pages]; -1: it is gone
    (default: both have the same tree).

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> is_same = SameParts(site, site.apply(davlo.Change().say("sidebar.right", "main", below="/visit")))
    >>> [is_same(word) for word in ("page list", "sidebar.", "layout.", "access")]
    [True, False, True, True]
    """

    def __init__(
        self, before: SiteModel, after: SiteModel, number_after: Callable[[], NDArray[np.int64]] | None = None
    ) -> None:
        self._before, self._after, self._number_after = before, after, number_after
        self._known: dict[str, bool] = {}
        self._same_contents: dict[str, bool] = {}

    def __call__(self, word: str) -> bool:
        if word not in self._known:
            self._known[word] = self._is_same(word)
        return self._known[word]

    @cached_property
    def has_same_page_list(self) -> bool:
        """Whether the page list, texts aside, and the words of the site are the same."""
        return self.has_same_site and self._before.tree is self._after.tree and self.has_same_structure

    @cached_property
    def has_same_site(self) -> bool:
        """Whether the words of the site itself, and its people, are the same."""
        return all(getattr(self._before, name) == getattr(self._after, name) for name in _OF_SITE)

    @cached_property
    def has_same_structure(self) -> bool:
        """Whether nothing differs in the details of pages but texts of which no condition asks."""
        one, other = self._before.details, self._after.details
        if one is other:
            return True
        if self._texts is None:
            return False
        conditions = [
            *(condition for rule in self._before.rules for condition in (rule.when, *rule.excepts)),
            *(accept.when for site in (self._before, self._after) for accept in site.accepts if accept.when),
        ]
        return not any(name in condition.details for condition in conditions for name in self._texts)

    @cached_property
    def _texts(self) -> tuple[str, ...] | None:
        """The columns that differ, if all of them are texts; else None."""
        one, other = self._before.details, self._after.details
        if [*one.columns] != [*other.columns] or one.type_of is not other.type_of or one.order is not other.order:
            return None
        differing = tuple(name for name, column in one.columns.items() if column is not other.columns[name])
        return None if set(differing) & STRUCTURAL or one.written is not other.written else differing

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The settings of both sites."""
        return tuple(dict.fromkeys(s.name for site in (self._before, self._after) for s in site.catalogue.settings))

    def _is_same(self, word: str) -> bool:
        one, other = self._before, self._after
        if word == PAGE_LIST:
            return self.has_same_page_list
        if word == TEXTS:
            return self.has_same_page_list and one.details is other.details
        if word == ACCESS:
            names = [name for name in self.names if name.partition(".")[0] in (*ACCESS_FAMILIES, "page")]
            has_same_people = (one.people, one.actions) == (other.people, other.actions)
            return has_same_people and self._has_same_drafts and all(map(self, names))
        if word in (DECLARATIONS, RULES, TYPES):
            return self._holds_the_same(word)
        if word == OWN:
            own = dict.fromkeys(setting.name for site in (one, other) for setting in site.catalogue.own)
            return all(map(self, own))
        if word.endswith("."):
            return all(map(self, [name for name in self.names if name.startswith(word)]))
        return self.setting(word)

    def _holds_the_same(self, part: str) -> bool:
        """Whether the declarations, the rules or the types hold the same, wherever they stand."""
        if part not in self._same_contents:
            one, other = (_parts_of(site, part) for site in (self._before, self._after))
            is_one = len(one) == len(other) and all(map(operator.is_, one, other))
            self._same_contents[part] = is_one or placeless(one) == placeless(other)
        return self._same_contents[part]

    @cached_property
    def has_same_accepts(self) -> bool:
        """Whether the same findings are accepted."""
        one, other = self._before.accepts, self._after.accepts
        if placeless(one) != placeless(other):
            return False
        pairs = ((mine.when, theirs.when) for mine, theirs in zip(one, other, strict=True) if mine.when and theirs.when)
        return self.has_same_page_list or all(
            self._are_same_pages(np.flatnonzero(self._before.pages(was)), np.flatnonzero(self._after.pages(now)))
            for was, now in pairs
        )

    @cached_property
    def rules_touched(self) -> Mask:
        """For two states with the same rules: the rules that set, in either, what is not the same. bool[rules]"""
        found = np.zeros(len(self._before.rules), dtype=bool)
        for site in (self._before, self._after):
            said = site.statements
            of_rules = np.flatnonzero(said.scope == ScopeKind.RULE)
            differs = np.array([not self(setting.name) for setting in site.catalogue.settings], dtype=bool)
            found[said.target[of_rules[differs[said.setting[of_rules]]]]] = True
        return found

    def setting(self, name: str) -> bool:
        """Whether a setting is the same in both states, so that no page can differ."""
        one, other = self._before, self._after
        if not self._has_same_pages or not self._holds_the_same(RULES):
            return False
        first, second = one.catalogue.find(name), other.catalogue.find(name)
        if first is None or second is None:
            return False
        mine, theirs = one.catalogue[first], other.catalogue[second]
        if mine is not theirs and placeless(mine) != placeless(theirs):
            return False
        if not self._holds_the_same(TYPES) or not (one.has_by_type[first] == other.has_by_type[second]).all():
            return False
        if not one.statements.says_the_same(first, other.statements, second, self._there):
            return False
        return self.has_same_page_list or self._speaks_to_the_same(first)

    @cached_property
    def _there(self) -> NDArray[np.int64] | None:
        """For each page of the first state its number in the second; None: each has the same one. int64[pages]"""
        if self._before.tree is self._after.tree or self._number_after is None:
            return None
        return self._number_after()

    @cached_property
    def _has_same_pages(self) -> bool:
        """Whether both states have the same pages, wherever they stand, and each has the type that it had."""
        one, other = self._before, self._after
        if one.tree is not other.tree and (self._there is None or len(one.tree) != len(other.tree)):
            return False
        if self._there is not None and (self._there < 0).any():
            return False
        return one.details.type_of is other.details.type_of or self._is_same_column(
            one.details.type_of, other.details.type_of
        )

    @cached_property
    def _has_same_drafts(self) -> bool:
        return self.has_same_page_list or (
            self._has_same_pages and self._is_same_column(self._before.details.draft, self._after.details.draft)
        )

    def _is_same_column(self, was: NDArray[np.generic], now: NDArray[np.generic]) -> bool:
        """Whether each page has the same in two columns, each [pages]."""
        return np.array_equal(was, now if self._there is None else now[self._there])

    def _are_same_pages(self, was: NDArray[np.int64], now: NDArray[np.int64]) -> bool:
        """Whether some pages of the first state, ascending, are these of the second. Each int64[n]"""
        return len(was) == len(now) and np.array_equal(was if self._there is None else np.sort(self._there[was]), now)

    def _speaks_to_the_same(self, setting: int) -> bool:
        """Whether each statement of a setting, which both states have, is for the same pages."""
        said = self._before.statements
        span = said.of_setting(setting)
        scope, target = said.scope[span.start : span.stop], said.target[span.start : span.stop]
        if np.isin(target[scope == ScopeKind.BELOW], self._branches_changed).any():
            return False
        if any(isinstance(word, ByDepth) for word in said.words[setting].items) and not self._has_same_depths:
            return False
        return all(map(self._rule_matches_the_same, np.unique(target[scope == ScopeKind.RULE]).tolist()))

    @cached_property
    def _has_same_depths(self) -> bool:
        return self._is_same_column(self._before.tree.depth, self._after.tree.depth)

    @cached_property
    def _rule_matches_the_same(self) -> Callable[[int], bool]:
        """Whether a rule, by its number, matches the same pages in both states."""
        rules = [site.scope_pages.rule_pages for site in (self._before, self._after)]
        return cache(lambda rule: self._are_same_pages(rules[0][rule], rules[1][rule]))

    @cached_property
    def _branches_changed(self) -> NDArray[np.int64]:
        """The pages of the first state below which other pages stand in the second. int64[n]"""
        there = self._there
        if there is None:
            return np.zeros(0, dtype=np.int64)
        one, other = self._before.tree, self._after.tree
        back = np.zeros(len(there), dtype=np.int64)
        back[there] = np.arange(len(there))
        found = set[int]()
        for page in np.flatnonzero(np.append(there, -1)[one.parent] != other.parent[there]).tolist():
            above = set(one.ancestors(page))
            above_after = {int(back[number]) for number in other.ancestors(int(there[page]))}
            found |= above ^ above_after
        return np.array(sorted(found), dtype=np.int64)


def _parts_of(site: SiteModel, part: str) -> tuple[object, ...]:
    """What holds the declarations, the rules or the types of a site."""
    if part == TYPES:
        return (*site.types.declared.values(), *site.types.names)
    return site.rules if part == RULES else (site.declarations,)
