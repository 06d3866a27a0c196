"""Access: who may do what, on which pages."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Codes, Mask
from ...cached import cached_property
from ...faults import UnknownName
from ...resolve.effective import EffectiveModel
from ...site.people import OWNING, SIGNED_IN, VISITOR
from ...site.source import Source, source_of
from .access_classes import AccessClasses


class Decision(NamedTuple):
    """Whether someone may do an action on a page, and the subjects and statements that decide it.

    `allowed_by` and `denied_by` pair a subject with the source of its statement.
    """

    may: bool
    allowed_by: tuple[tuple[str, Source], ...]
    denied_by: tuple[tuple[str, Source], ...]
    reason: str


class Grant(NamedTuple):
    """On how many pages someone may do an action, and by which statements.

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
    """Pages that someone does not see, and why: the closest access statement, or that they are drafts."""

    pages: NDArray[np.int64]
    source: Source | None


class AccessModel:
    """Who may do what, by the numbers of pages.

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

    @cached_property
    def classes(self) -> AccessClasses:
        """Access by classes of pages, of which there are few."""
        return AccessClasses(self.effective)

    def allowed(self, who: str, action: str) -> Mask:
        """Where someone may do an action; drafts count as their access says. bool[pages]"""
        return self.classes.allowed(who, action)[self.classes.of]

    def may(self, who: str, action: str) -> Mask:
        """Where someone may do an action; a draft is seen only by those who may also edit it. bool[pages]"""
        return self.classes.may(who, action)[self.classes.of]

    @cached_property
    def anyone_may_view(self) -> Mask:
        """The pages that a visitor or some person may view. bool[pages]"""
        classes = self.classes
        found = np.any([classes.may(who, "view") for who in (VISITOR, SIGNED_IN, *self.site.people.names)], axis=0)
        return np.asarray(found, dtype=bool)[classes.of]

    def lacking(self, subject: str, page: int) -> str:
        """Why a subject covers nobody on a page, in words; empty where it covers somebody."""
        people = self.site.people
        if self.classes.covers_somebody(subject)[self.classes.of[page]]:
            return ""
        if subject not in OWNING:
            return f"nobody is in the group {subject}" if subject in people.groups else "the site has no people"
        what = "owner" if subject == "owner" else "group"
        value = self.effective.column(f"page.{what}").at(page)
        if not isinstance(value, str):
            return f"the page has no {what}"
        known = value in (people.names if what == "owner" else people.groups)
        return f"nobody is in its group {value}" if known else f"its {what} {value} is not known"

    def check_action(self, action: str) -> None:
        """Make sure that there is an action.

        Raises UnknownName if there is not.
        """
        if action not in self.site.actions:
            raise UnknownName("action", action, self.site.actions)

    def who_may(self, action: str, pages: NDArray[np.int64]) -> list[Grant]:
        """Everyone who may do an action on some of these pages, visitors too.

        Example
        -------
        >>> import davlo
        >>> access = AccessModel(davlo.open_demo().resolve())
        >>> grants = access.who_may("edit", np.array([access.site.tree.number("/staff/noticeboard")]))
        >>> [grant.who for grant in grants]
        ['rowan.pike', 'ida.marsh', 'noor.haddad']
        """
        self.check_action(action)
        found, sizes = [], self.classes.sizes(pages)
        for who in (VISITOR, *self.site.people.names):
            may = self.classes.may(who, action)
            number = int(sizes[may].sum())
            if number:
                is_admin = self.site.people.is_admin(who)
                found.append(Grant(who, number, () if is_admin else self._through(who, action, sizes * may)))
        return found

    def _through(self, who: str, action: str, sizes: NDArray[np.int64]) -> tuple[tuple[str, Source, int], ...]:
        """The statements that give someone an action; `sizes: int64[classes]` are the pages to count in each class."""
        found, classes = [], self.classes
        for subject in self.site.people.covering(who):
            given = sizes * (classes.covered(who, subject) & classes.states("access", subject, action))
            if given.any():
                by_place = self._by_place(classes.giving("access", subject, action), given)
                found += [(subject, source_of(self.site, one), count) for one, count in by_place]
        return tuple(sorted(found, key=lambda one: -one[2]))

    def _by_place(
        self, statements: NDArray[np.integer], sizes: NDArray[np.int64] | None = None
    ) -> list[tuple[int, int]]:
        """Each of these statements with its number, or with the sum of its sizes.

        Statements on one line, as of a `here_and_below`, count as the first.
        """
        counts: dict[object, list[int]] = {}
        for one, count in enumerate(np.bincount(statements + 1, sizes, minlength=1).tolist(), start=-1):
            if count:
                key = self.site.statements.place(one) if one >= 0 else one
                counts.setdefault(key, [one, 0])[1] += int(count)
        return [(one, count) for one, count in counts.values()]

    def closed(self, who: str, pages: NDArray[np.int64]) -> list[Closed]:
        """Those of these pages that someone does not see, by what closes them; the most pages first."""
        classes = self.classes
        hidden = pages[~classes.may(who, "view")[classes.of[pages]]]
        drafts = classes.allowed(who, "view")[classes.of[hidden]]
        rest = hidden[~drafts]
        closest = self.closing(who, rest)
        place = np.append(self.site.statements.line, 0) + (
            np.append(self.site.statements.file, -1).astype(np.int64) << 32
        )
        causes = []
        for one, _ in self._by_place(closest):
            causes.append(Closed(rest[place[closest] == place[one]], source_of(self.site, one)))
        causes += [Closed(hidden[drafts], None)] if drafts.any() else []
        return sorted(causes, key=lambda cause: -len(cause.pages))

    def closing(self, who: str, pages: NDArray[np.int64]) -> Codes:
        """For each of some pages the closest statement about someone's access; -1: nobody says anything. int32[n]"""
        covering = self.site.people.covering(who)
        numbers = [n for n in self.site.catalogue.access_numbers() if self.site.catalogue[n].member in covering]
        return self.classes.closest(numbers)[self.classes.of[pages]].astype(np.int32)

    def actions(self, who: str, page: int) -> tuple[str, ...]:
        """What someone may do on a page."""
        of = self.classes.of[page]
        return tuple(action for action in self.site.actions if self.classes.may(who, action)[of])

    def why(self, who: str, action: str, page: int) -> Decision:
        """Whether someone may do an action on a page, and because of which statements."""
        if self.site.people.is_admin(who):
            return Decision(True, (), (), f"{who} is an admin")
        found: dict[str, list[tuple[str, Source]]] = {"access": [], "deny": []}
        classes, of = self.classes, self.classes.of[page]
        for subject in self._covering_here(who, page):
            for family, told in found.items():
                if classes.states(family, subject, action)[of]:
                    told.append((subject, source_of(self.site, int(classes.giving(family, subject, action)[of]))))
        may = bool(classes.may(who, action)[of])
        return Decision(may, tuple(found["access"]), tuple(found["deny"]), self._reason(who, action, page, may, found))

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
        """Who else gets an action as the page's owner or through its group."""
        told = []
        for subject, what in zip(OWNING, ("owner", "group"), strict=True):
            if self.classes.states("access", subject, action)[self.classes.of[page]]:
                value = self.effective.column(f"page.{what}").at(page)
                whose = self.lacking(subject, page) or f"its {what} is {value}"
                told.append(f"its {what} may, but {whose}")
        return told

    def _covering_here(self, who: str, page: int) -> list[str]:
        of = self.classes.of[page]
        return [one for one in self.site.people.covering(who) if self.classes.covered(who, one)[of]]


def _among(subjects: Sequence[str]) -> str:
    return subjects[0] if len(subjects) == 1 else f"any of {', '.join(subjects)}"
