"""Access by classes of pages: whoever may do something on one page of a class may do it on all pages of the class.

A site has few classes, however many pages and people it has. So everything about access is worked out once a class, and
laid out over the pages at the end.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask, words_where
from ...cached import cached_property
from ...resolve.effective import EffectiveModel
from ...resolve.fold import Resolved
from ...resolve.item_sources import item_sources
from ...resolve.page_groups import page_groups
from ...site.people import OWNING
from ...site.settings.values import Value


class AccessClasses:
    """Who may do what, by classes of pages.

    The same access statements speak to all pages of a class; they have the same owner and the same group, and are all
    drafts or none is.

    `of`: int64[pages]: the class of each page. `sample`: int64[classes]: a page of each class, ascending.

    Example
    -------
    >>> import davlo
    >>> classes = AccessClasses(davlo.open_demo().resolve())
    >>> staff = classes.of[classes.site.page_number("/staff")]
    >>> bool(classes.may("visitor", "view")[staff]), bool(classes.may("tomas.vell", "view")[staff])
    (False, True)
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site
        owners, groups = (self._owning(subject) for subject in OWNING)
        draft = self.site.details.draft
        found = page_groups(
            self.site, *self.site.catalogue.access_numbers(), same=(owners, groups, draft.view(np.int8))
        )
        self.of, self.sample = found.group, found.sample
        self._part = self.site.scope_pages.sampled(self.sample)
        self._draft = draft[self.sample]
        self._owner_codes = {"owner": owners[self.sample], "owner-group": groups[self.sample]}
        self._resolved: dict[int, Resolved] = {}
        self._states: dict[tuple[str, str, str], Mask] = {}
        self._by_all: dict[tuple[tuple[str, ...], str], tuple[Mask, Mask]] = {}
        self._giving: dict[tuple[str, str, str], Codes] = {}

    def __len__(self) -> int:
        return len(self.sample)

    def _owning(self, subject: str) -> NDArray[np.integer]:
        """The owner or the group of each page: its code and 1, or 0 for pages that do not have the setting."""
        number = self.site.setting_number(setting_of(subject))
        return np.where(self.site.has(number), self.effective.resolved(number).value + 1, 0)

    def pages(self, classes: Mask) -> NDArray[np.int64]:
        """The pages of the classes that are marked, ascending. int64[n]"""
        return np.flatnonzero(classes.take(self.of, mode="clip"))

    def sizes(self, pages: NDArray[np.int64]) -> NDArray[np.int64]:
        """How many of these pages are in each class. int64[classes]"""
        return np.bincount(self.of[pages], minlength=len(self))

    def subjects(self) -> tuple[str, ...]:
        """Every subject that has a setting, in order; `everyone` always."""
        catalogue = self.site.catalogue
        return tuple(dict.fromkeys(catalogue[n].member for n in catalogue.access_numbers()))

    def resolved(self, setting: int) -> Resolved:
        """One access setting of every class. Its arrays are int32[classes]."""
        if setting not in self._resolved:
            self._resolved[setting] = self.effective.resolved_part(setting, self._part)
        return self._resolved[setting]

    def states(self, family: str, subject: str, action: str) -> Mask:
        """Where `access.SUBJECT` or `deny.SUBJECT` holds an action. bool[classes]"""
        key = (family, subject, action)
        if key not in self._states:
            number = self.site.catalogue.find(f"{family}.{subject}")
            if number is None:
                self._states[key] = np.zeros(len(self), dtype=bool)
            else:
                found = self.resolved(number)
                self._states[key] = found.where(lambda word: isinstance(word, tuple) and action in word)
        return self._states[key]

    def giving(self, family: str, subject: str, action: str) -> Codes:
        """The statement that put an action into `access.SUBJECT` or `deny.SUBJECT`, or -1. int32[classes]"""
        key = (family, subject, action)
        if key not in self._giving:
            number = self.site.setting_number(f"{family}.{subject}")
            self._giving[key] = item_sources(self.effective, number, action, self._part)
        return self._giving[key]

    def closest(self, settings: Sequence[int]) -> NDArray[np.int64]:
        """The strongest statement among those that gave these access settings their values; -1: all are built in.
        int64[classes]"""
        closest = np.full(len(self), -1, dtype=np.int64)
        strength = self.site.statements.strength(closest)
        for number in settings:
            source = self.resolved(number).source
            mine = self.site.statements.strength(source)
            closest = np.where(mine > strength, source, closest)
            strength = np.maximum(strength, mine)
        return closest

    def covered(self, who: str, subject: str) -> Mask:
        """Where a subject covers a viewer. bool[classes]"""
        if subject not in OWNING:
            return np.ones(len(self), dtype=bool)
        found, codes = np.zeros(len(self), dtype=bool), self._codes_of_owners[subject]
        for name in (who,) if subject == "owner" else self.site.people.groups_covering(who):
            if name in codes:
                found |= self._owner_codes[subject] == codes[name]
        return found

    @cached_property
    def _codes_of_owners(self) -> dict[str, dict[Value, int]]:
        """The code of each owner, and of each group, as the classes have it."""
        words = {subject: self.effective.column(setting_of(subject)).words for subject in OWNING}
        return {subject: {word: code for code, word in enumerate(some, 1)} for subject, some in words.items()}

    def owned_where(self, subject: str, holds: Callable[[Value], bool]) -> Mask:
        """Where the pages have an owner (or a group, for the subject `owner-group`) that meets a test. bool[classes]"""
        words = self.effective.column(setting_of(subject)).words
        found: Mask = words_where(words, holds)[self._owner_codes[subject] - 1]
        return found

    def covers_somebody(self, subject: str) -> Mask:
        """Where a subject covers at least one person. bool[classes]"""
        people = self.site.people
        if subject not in OWNING:
            return np.full(len(self), bool(people.ever_covered(subject)))
        known = people.names if subject == "owner" else [one for one in people.groups if people.members_of(one)]
        return self.owned_where(subject, frozenset(known).__contains__)

    def may(self, who: str, action: str) -> Mask:
        """Where someone may do an action; a draft is seen only by those who may also edit it. bool[classes]"""
        allowed = self.allowed(who, action)
        return allowed & (~self._draft | self.allowed(who, "edit")) if action == "view" else allowed

    def allowed(self, who: str, action: str) -> Mask:
        """Where someone may do an action, drafts as their access says. bool[classes]"""
        if self.site.people.is_admin(who):
            return np.ones(len(self), dtype=bool)
        covering = self.site.people.covering(who)
        may, deny = self._on_all(tuple(s for s in covering if s not in (who, *OWNING)), action)
        for subject in (who, *OWNING):
            if subject in covering and self._is_stated(subject, action):
                covered = self.covered(who, subject)
                may = may | (covered & self.states("access", subject, action))
                deny = deny | (covered & self.states("deny", subject, action))
        return may & ~deny

    def denied(self, who: str, action: str) -> Mask:
        """Where a `deny` that covers someone takes an action away. bool[classes]"""
        found = np.zeros(len(self), dtype=bool)
        for subject in self.site.people.covering(who):
            found |= self.states("deny", subject, action) & self.covered(who, subject)
        return found

    def _on_all(self, subjects: tuple[str, ...], action: str) -> tuple[Mask, Mask]:
        """Where one of several subjects, which cover a person everywhere, has an action in access, and in deny.

        The result is kept, since people in the same groups share it. Each bool[classes]
        """
        if (subjects, action) not in self._by_all:
            may, deny = np.zeros((2, len(self)), dtype=bool)
            for subject in subjects:
                may |= self.states("access", subject, action)
                deny |= self.states("deny", subject, action)
            self._by_all[subjects, action] = may, deny
        return self._by_all[subjects, action]

    def _is_stated(self, subject: str, action: str) -> bool:
        """Whether any statement gives a subject an action, or takes it away."""
        return any(self.states(family, subject, action).any() for family in ("access", "deny"))


def setting_of(subject: str) -> str:
    """The setting that decides who `owner` or `owner-group` is."""
    return "page.owner" if subject == "owner" else "page.group"
