"""Which parts of two states of a site are the same, so that what depends on them alone need not be compared."""

from __future__ import annotations

import operator

import numpy as np

from ...arrays.codebooks import Mask
from ...cached import cached_property
from ...site.model import SiteModel
from ...site.pages.details import STRUCTURAL
from ...site.settings.scopes import ScopeKind
from ...site.settings.setting import ACCESS_FAMILIES
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

    A part is a setting, a family of settings (`layout.`), or one of the words above. If the page list differs, nothing
    else counts as the same.

    Example
    -------
    >>> import davlo
    >>> site = davlo.open_demo()
    >>> is_same = SameParts(site, site.apply(davlo.Change().say("sidebar.right", "main", below="/visit")))
    >>> [is_same(word) for word in ("page list", "sidebar.", "layout.", "access")]
    [True, False, True, True]
    """

    def __init__(self, before: SiteModel, after: SiteModel) -> None:
        self._before, self._after = before, after
        self._known: dict[str, bool] = {}
        self._same_contents: dict[str, bool] = {}

    def __call__(self, word: str) -> bool:
        if word not in self._known:
            self._known[word] = self.has_same_page_list and self._is_same(word)
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
            return True
        if word == TEXTS:
            return one.details is other.details
        if word == ACCESS:
            names = [name for name in self.names if name.partition(".")[0] in (*ACCESS_FAMILIES, "page")]
            return (one.people, one.actions) == (other.people, other.actions) and all(map(self, names))
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
        return bool(placeless(self._before.accepts) == placeless(self._after.accepts))

    @cached_property
    def rules_touched(self) -> Mask:
        """For two states with one page list: the rules that set, in either, what is not the same. bool[rules]"""
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
        if one.tree is not other.tree or not self.has_same_structure or not self._holds_the_same(RULES):
            return False
        first, second = one.catalogue.find(name), other.catalogue.find(name)
        if first is None or second is None:
            return False
        mine, theirs = one.catalogue[first], other.catalogue[second]
        if mine is not theirs and placeless(mine) != placeless(theirs):
            return False
        if not self._holds_the_same(TYPES) or not (one.has_by_type[first] == other.has_by_type[second]).all():
            return False
        return one.statements.says_the_same(first, other.statements, second)


def _parts_of(site: SiteModel, part: str) -> tuple[object, ...]:
    """What holds the declarations, the rules or the types of a site."""
    if part == TYPES:
        return (*site.types.declared.values(), *site.types.names)
    return site.rules if part == RULES else (site.declarations,)
