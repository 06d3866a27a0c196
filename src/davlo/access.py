"""Who may do what, as a library user asks: by the names of pages and people."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np

from davlo.core.fixed import Fixed
from davlo.core.outcomes.access.access_model import AccessModel, Decision, Grant

if TYPE_CHECKING:
    from davlo.core.outcomes.access.access_changes import AccessChange
    from davlo.core.resolve.effective import EffectiveModel


class Access(Fixed):
    """Who may do what, on which pages.

    Someone is a person, `visitor`, `signed-in`, or a group: somebody who is in it and in nothing else.

    Example
    -------
    >>> import davlo
    >>> access = davlo.open_demo().access()
    >>> access.may("visitor", "view", "/staff"), access.may("tomas.vell", "view", "/staff")
    (False, True)
    >>> access.may("staff", "view", "/staff"), access.may("signed-in", "view", "/staff")
    (True, False)
    >>> access.actions("sefa.moana", "/members/pages/sefa-moana")
    ('view', 'edit')
    """

    def __init__(self, effective: EffectiveModel) -> None:
        self._model = effective.shared(AccessModel)
        self._effective = effective

    def __reduce__(self) -> tuple[type[Access], tuple[EffectiveModel]]:
        return Access, (self._effective,)

    def people(self) -> tuple[str, ...]:
        """Everyone who is declared."""
        return self._effective.site.people.names

    def is_admin(self, who: str) -> bool:
        """Whether a person may do everything."""
        return self._effective.site.people.is_admin(who)

    def may(self, who: str, action: str, page: str) -> bool:
        """Whether someone may do an action on a page.

        Raises
        ------
        UnknownName
            If there is no such viewer, action or page.
        """
        self._model.check_action(action)
        return bool(self._model.may(who, action)[self._effective.page_number(page)])

    def actions(self, who: str, page: str) -> tuple[str, ...]:
        """What someone may do on a page.

        Raises
        ------
        UnknownName
            If there is no such viewer or page.
        """
        return self._model.actions(who, self._effective.page_number(page))

    def pages(self, who: str, action: str) -> list[str]:
        """The paths of the pages on which someone may do an action, in the order of the tree.

        Raises
        ------
        UnknownName
            If there is no such viewer or action.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().access().pages("owen.tarrant", "edit")
        ['/members/pages/owen-tarrant']
        """
        self._model.check_action(action)
        found = np.flatnonzero(self._model.may(who, action))
        return self._effective.site.tree.paths.take(found).tolist()

    def why(self, who: str, action: str, page: str) -> Decision:
        """Whether someone may do an action on a page, and because of which statements.

        Raises
        ------
        UnknownName
            If there is no such viewer, action or page.
        """
        self._model.check_action(action)
        return self._model.why(who, action, self._effective.page_number(page))

    def who_may(self, action: str, pages: Iterable[str] | None = None) -> list[Grant]:
        """Everyone who may do an action on some of these pages, or of all; visitors too.

        Raises
        ------
        UnknownName
            If there is no such action or page.

        Example
        -------
        >>> import davlo
        >>> [grant.who for grant in davlo.open_demo().access().who_may("edit", ["/staff/noticeboard"])]
        ['rowan.pike', 'ida.marsh', 'noor.haddad']
        """
        names = list(self._effective.site.tree.paths) if pages is None else pages
        numbers = [self._effective.page_number(page) for page in names]
        return self._model.who_may(action, np.array(numbers, dtype=np.int64))

    def changes(self, pages: Iterable[str] | None = None) -> list[AccessChange]:
        """Where somebody may do more or less than on the page above, in the order of the tree.

        Parameters
        ----------
        pages : paths, optional
            Only these pages.

        Raises
        ------
        UnknownName
            If there is no such page.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().access().changes(["/staff"])[0]
        >>> [(one.who, one.loses) for one in found.changes], str(found.source)
        ([('visitor', ('view',)), ('signed-in', ('view',)), ('members', ('view',))], 'here, davlo.yaml:105')
        """
        from davlo.core.outcomes.access.access_changes import access_changes

        tree = self._effective.site.tree
        numbers = np.arange(len(tree)) if pages is None else [self._effective.page_number(page) for page in pages]
        return access_changes(self._model, np.array(numbers, dtype=np.int64))
