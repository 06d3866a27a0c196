"""Access: who may do what, on which pages."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Codes, Mask
from ..faults import UnknownName
from ..resolve.effective import EffectiveModel
from ..resolve.item_sources import item_sources
from ..site.source import Source, source_of

VISITOR = "visitor"
OWNING = ("owner", "owner-group")
"""Subjects that cover a person on some pages alone."""


class Decision(NamedTuple):
    """Whether someone may do an action on a page, and the subjects and statements that decide it.

    `allowed_by` and `denied_by` pair a subject with the source of its statement.
    """

    may: bool
    allowed_by: tuple[tuple[str, Source], ...]
    denied_by: tuple[tuple[str, Source], ...]
    reason: str


class Grant(NamedTuple):
    """That someone may do an action on some pages.

    Attributes
    ----------
    who : str
    pages : int
        On how many.
    through : tuple of (subject, Source, int)
        The statements that give it, and on how many pages each does; the most pages first. Empty for an admin.
    """

    who: str
    pages: int
    through: tuple[tuple[str, Source, int], ...]


class Closed(NamedTuple):
    """Pages that someone does not see, and why: the statement on access that is closest to them, or that they are
    drafts."""

    pages: NDArray[np.int64]
    source: Source | None


class AccessModel:
    """Who may do what, by the numbers of pages.

    Parameters
    ----------
    effective : EffectiveModel

    Example
    -------
    >>> import davlo
    >>> access = AccessModel(davlo.open_demo().resolve())
    >>> page = access.site.page_number("/staff")
    >>> bool(access.may("visitor", "view")[page]), bool(access.may("tomas.vell", "view")[page])
    (False, True)
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site
        self._granted: dict[tuple[str, str, str], Mask] = {}
        self._by_all: dict[tuple[tuple[str, ...], str], tuple[Mask, Mask]] = {}
        self._somebody: dict[str, Mask] = {}
        self._giving: dict[tuple[str, str, str], Codes] = {}
        self._owned: dict[tuple[str, str], Mask] = {}

    def persons(self) -> tuple[str, ...]:
        """Everyone who is declared."""
        return self.site.people.names

    def subjects(self) -> tuple[str, ...]:
        """Every subject that has a setting, in order; `everyone` always."""
        catalogue = self.site.catalogue
        return tuple(dict.fromkeys(catalogue[n].member for n in catalogue.access_numbers()))

    def covering(self, who: str) -> tuple[str, ...]:
        """The subjects that cover a person, or a visitor; `owner` and `owner-group` depend on the page.

        Raises
        ------
        UnknownName
            If there is no such person.
        """
        if who == VISITOR:
            return ("everyone",)
        if not self.site.people.has(who):
            raise UnknownName("person", who, (*self.site.people.names, VISITOR))
        return ("everyone", "signed-in", who, *self.site.people.groups_of(who), "owner", "owner-group")

    def is_admin(self, who: str) -> bool:
        """Whether everything is open to a person."""
        return who in self.site.people.admins

    def states(self, family: str, subject: str, action: str) -> Mask:
        """Where `access.SUBJECT` or `deny.SUBJECT` holds an action. bool[pages]"""
        key = (family, subject, action)
        if key not in self._granted:
            number = self.site.catalogue.find(f"{family}.{subject}")
            if number is None:
                self._granted[key] = np.zeros(len(self.site.tree), dtype=bool)
            else:
                found = self.effective.resolved(number)
                self._granted[key] = found.where(lambda word: isinstance(word, tuple) and action in word)
        return self._granted[key]

    def covered(self, who: str, subject: str) -> Mask:
        """Where a subject that may cover a person does. bool[pages]"""
        if subject not in OWNING:
            return np.ones(len(self.site.tree), dtype=bool)
        if (who, subject) not in self._owned:
            self._owned[who, subject] = self._owns(who, subject)
        return self._owned[who, subject]

    def _owns(self, who: str, subject: str) -> Mask:
        names = {who} if subject == "owner" else set(self.site.people.groups_of(who))
        return self.effective.where("page.owner" if subject == "owner" else "page.group", names.__contains__)

    def covers_somebody(self, subject: str) -> Mask:
        """Where a subject covers at least one person. bool[pages]"""
        if subject not in self._somebody:
            if subject in OWNING:
                people = self.site.people
                known = people.names if subject == "owner" else [one for one in people.groups if people.members_of(one)]
                setting = "page.owner" if subject == "owner" else "page.group"
                self._somebody[subject] = self.effective.column(setting).where(frozenset(known).__contains__)
            else:
                self._somebody[subject] = np.full(len(self.site.tree), bool(self.people_ever_covered(subject)))
        return self._somebody[subject]

    def lacking(self, subject: str, page: int) -> str:
        """Why a subject covers nobody on a page, in words; empty where it covers somebody."""
        if self.covers_somebody(subject)[page]:
            return ""
        if subject not in OWNING:
            return (
                f"nobody is in the group {subject}" if subject in self.site.people.groups else "the site has no people"
            )
        what = "owner" if subject == "owner" else "group"
        value = self.effective.column(f"page.{what}").at(page)
        if not isinstance(value, str):
            return f"the page has no {what}"
        known = value in (self.site.people.names if what == "owner" else self.site.people.groups)
        return f"nobody is in its group {value}" if known else f"its {what} {value} is not known"

    def allowed(self, who: str, action: str) -> Mask:
        """Where someone may do an action, drafts as their access says. bool[pages]"""
        if self.is_admin(who):
            return np.ones(len(self.site.tree), dtype=bool)
        covering = self.covering(who)
        may, deny = self._on_all(tuple(s for s in covering if s not in (who, *OWNING)), action)
        for subject in (who, *OWNING):
            if subject in covering and self._is_stated(subject, action):
                covered = self.covered(who, subject)
                may = may | (covered & self.states("access", subject, action))
                deny = deny | (covered & self.states("deny", subject, action))
        return may & ~deny

    def denied(self, who: str, action: str) -> Mask:
        """Where a `deny` that covers someone takes an action away. bool[pages]"""
        found = np.zeros(len(self.site.tree), dtype=bool)
        for subject in self.covering(who):
            found |= self.states("deny", subject, action) & self.covered(who, subject)
        return found

    def _on_all(self, subjects: tuple[str, ...], action: str) -> tuple[Mask, Mask]:
        """Where one of several subjects, which cover a person everywhere, has an action in access, and in deny; kept,
        since people who are in the same groups share it. Each bool[pages]"""
        if (subjects, action) not in self._by_all:
            may, deny = np.zeros((2, len(self.site.tree)), dtype=bool)
            for subject in subjects:
                if self._is_stated(subject, action):
                    may |= self.states("access", subject, action)
                    deny |= self.states("deny", subject, action)
            self._by_all[subjects, action] = may, deny
        return self._by_all[subjects, action]

    def _is_stated(self, subject: str, action: str) -> bool:
        """Whether any statement gives a subject an action."""
        for family in ("access", "deny"):
            number = self.site.catalogue.find(f"{family}.{subject}")
            if number is not None and self.states(family, subject, action).any():
                return True
        return False

    def may(self, who: str, action: str) -> Mask:
        """Where someone may do an action; a draft is seen only by those who may also edit it. bool[pages]"""
        allowed = self.allowed(who, action)
        if action == "view":
            allowed = allowed & (~self.site.facts.draft | self.allowed(who, "edit"))
        return allowed

    def check_action(self, action: str) -> None:
        """Make sure that there is an action.

        Raises
        ------
        UnknownName
            If there is not.
        """
        if action not in self.site.actions:
            raise UnknownName("action", action, self.site.actions)

    def who_may(self, action: str, pages: NDArray[np.int64]) -> list[Grant]:
        """Everyone who may do an action on some of these pages, visitors too.

        Raises
        ------
        UnknownName
            If there is no such action.

        Example
        -------
        >>> import davlo
        >>> access = AccessModel(davlo.open_demo().resolve())
        >>> grants = access.who_may("edit", np.array([access.site.tree.number("/staff/noticeboard")]))
        >>> [grant.who for grant in grants]
        ['rowan.pike', 'ida.marsh', 'noor.haddad']
        """
        self.check_action(action)
        found = []
        for who in (VISITOR, *self.persons()):
            mine = pages[self.may(who, action)[pages]]
            if len(mine):
                found.append(Grant(who, len(mine), () if self.is_admin(who) else self._through(who, action, mine)))
        return found

    def _through(self, who: str, action: str, pages: NDArray[np.int64]) -> tuple[tuple[str, Source, int], ...]:
        """The statements that give someone an action on these pages."""
        found = []
        for subject in self.covering(who):
            given = pages[(self.covered(who, subject) & self.states("access", subject, action))[pages]]
            if len(given):
                sources = self.giving("access", subject, action)[given]
                found += [(subject, source_of(self.site, one), count) for one, count in self._by_place(sources)]
        return tuple(sorted(found, key=lambda one: -one[2]))

    def _by_place(self, statements: NDArray[np.integer]) -> list[tuple[int, int]]:
        """Each statement of these, and how many there are; those that stand on one line, as of a `here_and_below`, are
        told as the first."""
        counts: dict[object, list[int]] = {}
        for one, count in enumerate(np.bincount(statements + 1, minlength=1).tolist(), start=-1):
            if count:
                key = self.site.statements.place(one) if one >= 0 else one
                counts.setdefault(key, [one, 0])[1] += count
        return [(one, count) for one, count in counts.values()]

    def closed(self, who: str, pages: NDArray[np.int64]) -> list[Closed]:
        """Those of these pages that someone does not see, by what closes them; the most pages first."""
        hidden = pages[~self.may(who, "view")[pages]]
        drafts = self.allowed(who, "view")[hidden]
        rest = hidden[~drafts]
        closest = np.full(len(rest), -1, dtype=np.int64)
        strength = np.full(len(rest), -1, dtype=np.int64)
        for number in self.site.catalogue.access_numbers():
            if self.site.catalogue[number].member in self.covering(who):
                source = self.effective.resolved(number).source[rest]
                found = self.site.statements.strength(source)
                closest = np.where(found > strength, source, closest)
                strength = np.maximum(found, strength)
        place = np.append(self.site.statements.line, 0) + (
            np.append(self.site.statements.file, -1).astype(np.int64) << 32
        )
        causes = []
        for one, _ in self._by_place(closest):
            causes.append(Closed(rest[place[closest] == place[one]], source_of(self.site, one)))
        causes += [Closed(hidden[drafts], None)] if drafts.any() else []
        return sorted(causes, key=lambda cause: -len(cause.pages))

    def actions(self, who: str, page: int) -> tuple[str, ...]:
        """What someone may do on a page."""
        return tuple(action for action in self.site.actions if self.may(who, action)[page])

    def why(self, who: str, action: str, page: int) -> Decision:
        """Whether someone may do an action on a page, and because of which statements."""
        if self.is_admin(who):
            return Decision(True, (), (), f"{who} is an admin")
        found: dict[str, list[tuple[str, Source]]] = {"access": [], "deny": []}
        for subject in self.covering(who):
            if self.covered(who, subject)[page]:
                for family, told in found.items():
                    if self.states(family, subject, action)[page]:
                        told.append((subject, source_of(self.site, int(self.giving(family, subject, action)[page]))))
        may = bool(self.may(who, action)[page])
        return Decision(may, tuple(found["access"]), tuple(found["deny"]), self._reason(who, action, page, may, found))

    def giving(self, family: str, subject: str, action: str) -> Codes:
        """The statement that gave or took an action where `access.SUBJECT` or `deny.SUBJECT` holds it; -1: built in.
        int32[pages]"""
        key = (family, subject, action)
        if key not in self._giving:
            self._giving[key] = item_sources(self.effective, self.site.setting_number(f"{family}.{subject}"), action)
        return self._giving[key]

    def _reason(self, who: str, action: str, page: int, may: bool, found: dict[str, list[tuple[str, Source]]]) -> str:
        if found["deny"]:
            subject, source = found["deny"][0]
            return f"deny.{subject} takes it away ({source})"
        if not found["access"]:
            nobody = f"no access statement gives {action} to {_among(self._covering_here(who, page))}"
            return "; ".join([nobody, *self._of_others(action, page)]) if who != VISITOR else nobody
        subject, source = found["access"][0]
        if not may:
            return f"a draft is seen only by those who may edit it; access.{subject} gives view alone ({source})"
        return f"access.{subject} gives it ({source})"

    def _of_others(self, action: str, page: int) -> list[str]:
        """Whom the page's owner or group gives an action, since it is not the one who asks."""
        told = []
        for subject, what in zip(OWNING, ("owner", "group"), strict=True):
            if self.states("access", subject, action)[page]:
                value = self.effective.column(f"page.{what}").at(page)
                whose = self.lacking(subject, page) or f"its {what} is {value}"
                told.append(f"its {what} may, but {whose}")
        return told

    def _covering_here(self, who: str, page: int) -> list[str]:
        return [subject for subject in self.covering(who) if self.covered(who, subject)[page]]

    def people_ever_covered(self, subject: str) -> tuple[str, ...]:
        """Everyone a subject can cover on some page (`covered` gives the pages); `everyone` is a visitor."""
        if subject == "everyone":
            return (VISITOR,)
        if subject in self.site.people.groups:
            return self.site.people.members_of(subject)
        return self.site.people.names if subject in ("signed-in", "owner", "owner-group") else (subject,)


def _among(subjects: Sequence[str]) -> str:
    return subjects[0] if len(subjects) == 1 else f"any of {', '.join(subjects)}"
