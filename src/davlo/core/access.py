"""Access: who may do what, on which pages."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from .columns import Mask
from .effective import EffectiveModel
from .faults import UnknownName
from .source import Source, source_of

VISITOR = "visitor"


class Decision(NamedTuple):
    """Whether someone may do an action on a page, and the subjects and statements that decide it.

    `allowed_by` and `denied_by` pair a subject with the source of its statement.
    """

    may: bool
    allowed_by: tuple[tuple[str, Source], ...]
    denied_by: tuple[tuple[str, Source], ...]
    reason: str


class Access:
    """Who may do what.

    Parameters
    ----------
    effective : EffectiveModel

    Example
    -------
    >>> import davlo
    >>> access = davlo.open_demo().access()
    >>> page = access.site.tree.number("/staff")
    >>> bool(access.may("visitor", "view")[page]), bool(access.may("tomas.vell", "view")[page])
    (False, True)
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self.effective = effective
        self.site = effective.site
        self._granted: dict[tuple[str, str, str], Mask] = {}

    def persons(self) -> tuple[str, ...]:
        """Everyone who is declared."""
        return self.site.people.names

    def subjects(self) -> tuple[str, ...]:
        """Every subject that a setting speaks of, in order; `everyone` always."""
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
        if who not in self.site.people.names:
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
                codes = self.effective.resolved(number).value
                words = self.site.statements.words[number].items
                table = np.array([isinstance(word, tuple) and action in word for word in words], dtype=bool)
                self._granted[key] = table[codes] & self.site.has(number)
        return self._granted[key]

    def covered(self, who: str, subject: str) -> Mask:
        """Where a subject that may cover a person does. bool[pages]"""
        if subject not in ("owner", "owner-group"):
            return np.ones(len(self.site.tree), dtype=bool)
        number = self.site.setting_number("page.owner" if subject == "owner" else "page.group")
        names = {who} if subject == "owner" else set(self.site.people.groups_of(who))
        words = self.site.statements.words[number].items
        table = np.array([word in names for word in words], dtype=bool)
        return table[self.effective.resolved(number).value] & self.site.has(number)

    def allowed(self, who: str, action: str) -> Mask:
        """Where someone may do an action, drafts as their access says. bool[pages]"""
        if self.is_admin(who):
            return np.ones(len(self.site.tree), dtype=bool)
        may = np.zeros(len(self.site.tree), dtype=bool)
        deny = np.zeros(len(self.site.tree), dtype=bool)
        for subject in self.covering(who):
            covered = self.covered(who, subject)
            may |= covered & self.states("access", subject, action)
            deny |= covered & self.states("deny", subject, action)
        return may & ~deny

    def may(self, who: str, action: str) -> Mask:
        """Where someone may do an action; a draft is seen only by those who may also edit it. bool[pages]"""
        allowed = self.allowed(who, action)
        if action == "view":
            allowed = allowed & (self.site.facts.live | self.allowed(who, "edit"))
        return allowed

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
                        number = self.site.setting_number(f"{family}.{subject}")
                        told.append((subject, source_of(self.site, int(self.effective.resolved(number).source[page]))))
        may = bool(self.may(who, action)[page])
        return Decision(may, tuple(found["access"]), tuple(found["deny"]), self._reason(who, action, page, may, found))

    def _reason(self, who: str, action: str, page: int, may: bool, found: dict[str, list[tuple[str, Source]]]) -> str:
        if found["deny"]:
            subject, source = found["deny"][0]
            return f"deny.{subject} takes it away ({source})"
        if not found["access"]:
            return f"no access statement gives {action} to {_among(self._covering_here(who, page))}"
        subject, source = found["access"][0]
        if not may:
            return f"a draft is seen only by those who may edit it; access.{subject} gives view alone ({source})"
        return f"access.{subject} gives it ({source})"

    def _covering_here(self, who: str, page: int) -> list[str]:
        return [subject for subject in self.covering(who) if self.covered(who, subject)[page]]

    def people_ever_covered(self, subject: str) -> tuple[str, ...]:
        """Everyone a subject can cover on some page (`covered` tells which); `everyone` is a visitor."""
        if subject == "everyone":
            return (VISITOR,)
        if subject in self.site.people.groups:
            return self.site.people.members_of(subject)
        return self.site.people.names if subject in ("signed-in", "owner", "owner-group") else (subject,)


def _among(subjects: Sequence[str]) -> str:
    return subjects[0] if len(subjects) == 1 else f"any of {', '.join(subjects)}"
