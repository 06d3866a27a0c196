"""The site as a library user holds it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .effective import Effective
from .model import SiteModel

if TYPE_CHECKING:
    from .access import Access
    from .findings import Report


class Site(SiteModel):
    """One website's pages, pieces and decisions, as `davlo.open_site` reads them.

    Example
    -------
    >>> import davlo
    >>> davlo.open_demo().name
    'Quillmere Botanic Garden'
    """

    def resolve(self) -> Effective:
        """The effective settings of every page.

        Example
        -------
        >>> import davlo
        >>> effective = davlo.open_demo().resolve()
        >>> effective["/visit/tickets"]["sidebar.right"]
        'visit-planning'
        """
        return Effective(self)

    def check(self) -> Report:
        """Every finding, the worst first.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().check().findings[0].level
        'error'
        """
        from .findings import check

        return check(self.resolve())

    def access(self) -> Access:
        """Who may do what, on which pages.

        Example
        -------
        >>> import davlo
        >>> access = davlo.open_demo().access()
        >>> access.actions("sefa.moana", access.site.tree.number("/members/pages/sefa-moana"))
        ('view', 'edit')
        """
        from .access import Access

        return Access(self.resolve())
