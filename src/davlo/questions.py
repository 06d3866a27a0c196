"""The questions that a library user asks of a site: its pages, declarations, links, viewpoints, access."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Self

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.site.model import SiteModel
from davlo.effective import Effective

if TYPE_CHECKING:
    from davlo.access import Access
    from davlo.core.outcomes.area_fits import AreaFits
    from davlo.core.outcomes.declaration_list import Declaration
    from davlo.core.outcomes.link_lists import LinkList
    from davlo.core.records.record import PageRecord
    from davlo.core.records.viewpoint_results import ViewpointResult


class Questions(SiteModel):
    """The questions that a library user can ask of a site; `Site` has all of them."""

    def resolve(self, settings: Iterable[str] | None = None, pages: Iterable[str] | None = None) -> Effective:
        """The effective settings of every page, or of some.

        Parameters
        ----------
        settings : names of settings, optional
            The result covers only these, in this order.
        pages : paths, optional
            The result covers only these, in this order.

        Raises
        ------
        UnknownName
            If there is no such setting or page.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> site.resolve()["/visit/tickets"]["sidebar.right"]
        'visit-planning'
        >>> dict(site.resolve(["heading.show", "layout.name"], ["/campaigns/spring"])["/campaigns/spring"])
        {'heading.show': False, 'layout.name': 'open'}
        """
        return self._effective if settings is None and pages is None else Effective(self, settings, pages)

    @cached_property
    def _effective(self) -> Effective:
        """All settings of all pages: a site never changes, so they are worked out once."""
        return Effective(self)

    def page(self, path: str) -> PageRecord:
        """One page whole: its details, what readers and search engines see, its settings in groups.

        Raises
        ------
        UnknownName
            If there is no such page.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().page("/visit/tickets")
        >>> page["title"], page.said()[0].name, str(page.said()[0].source)
        ('Tickets · Quillmere Botanic Garden', 'title.pattern', 'everywhere, davlo.yaml:36')
        """
        from davlo.core.records.page_record import page_record

        return page_record(self.resolve(), self.page_number(path))

    def new_page(self, path: str, *, by: str = "", **details: str) -> PageRecord:
        """What a page would get once its row and its stamps are written; nothing is written now.

        `by_hand` of the record holds what would differ for a row that somebody types without stamps.

        Parameters
        ----------
        path : str
            Starts with `/`.
        by : str
            The person who makes the page, and owns it unless a default names another.
        details : str
            What the page list would say of it: `type="event"`, `title=…`, `status="draft"`, or any other detail.

        Raises
        ------
        UnknownName
            If there is no such type, detail or person.
        SiteError
            If there cannot be such a page: the path is taken or no path, or the parent is not there.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().new_page("/visit/picnic", type="event", title="Picnic")
        >>> page.parent, page["title"]
        ('/visit', 'Picnic · Quillmere Botanic Garden')
        """
        from davlo.core.change.steps.new_page import new_page_record

        return new_page_record(self, path, details, by)

    def with_page(self, path: str, *, by: str = "", **details: str) -> Self:
        """The site as it would be with one more page, with its stamps; nothing is written.

        Takes and raises what `new_page` does.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo().with_page("/members/pages/ada-lune", by="ida.marsh")
        >>> site.access().actions("ida.marsh", "/members/pages/ada-lune")
        ('view', 'edit')
        """
        from davlo.core.change.steps.new_page import with_page

        return with_page(self, path, details, by=by)[0]

    def declared(self, kind: str | None = None) -> list[Declaration]:
        """Every declaration with what it says, and where it is used: on how many pages, and in which areas.

        Settings, types, rules and guarantees count among them.

        Parameters
        ----------
        kind : str, optional
            `layout`, `theme`, `sidebar`, `look`, `band`, `block`, `preset`, `type`, `setting`, `rule`, `guarantee`,
            `person`, `group` or `role`: these alone.

        Raises
        ------
        UnknownName
            If there is no such kind.

        Example
        -------
        >>> import davlo
        >>> {declaration.name: declaration.pages for declaration in davlo.open_demo().declared("theme")}
        {'day': 149, 'evening': 9}
        >>> rule = davlo.open_demo().declared("rule")[3]
        >>> rule.details["when"], rule.pages, rule.decides
        ({'type': ('event',), 'tag': ('night',)}, 3, 3)
        """
        from davlo.core.outcomes.declaration_list import DeclarationList

        return list(DeclarationList(self.resolve()).declarations(kind))

    def declared_names(self, kind: str | None = None) -> dict[str, tuple[str, ...]]:
        """The names of all that is declared, by kind; or those of one kind.

        Raises
        ------
        UnknownName
            If there is no such kind.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().declared_names("look")
        {'look': ('usual', 'pinned')}
        """
        from davlo.core.site.declared_names import DECLARED_KINDS, declared_names

        return {one: declared_names(self, one) for one in (DECLARED_KINDS if kind is None else (kind,))}

    def fits(self, area: str) -> AreaFits:
        """What may stand in an area, and which bands may not, and why.

        Raises
        ------
        UnknownName
            If no layout has the area.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().fits("footer")
        >>> found.bands, found.not_offered["menu-main"]
        (('footer-legal', 'footer-press'), 'fits menu, not footer')
        """
        from davlo.core.outcomes.area_fits import area_fits

        return area_fits(self, area)

    def links(self, block: str = "", on: str | None = None, language: str = "", viewer: str = "visitor") -> LinkList:
        """The menu, or what a block of links lists: in order, with what is left out and why.

        Parameters
        ----------
        block : str
            A block of the kind `menu`, `branch-links` or `links`; empty: the site's menu.
        on : path, optional
            The page on which it stands: its language is that of the readers.
        language : str
            The language of the readers (default: that of the page, or the site's first).
        viewer : str
            A person, `visitor`, `signed-in` or a group.

        Raises
        ------
        UnknownName
            If there is no such list, page, language or viewer.

        Example
        -------
        >>> import davlo
        >>> menu = davlo.open_demo().links(language="fr")
        >>> [(link.level, link.label) for link in menu.links()][:2]
        [(1, 'Jardin botanique de Quillmere'), (2, 'Agenda')]
        >>> every = davlo.open_demo().links()
        >>> [path for path, why in every.omitted() if why == "a visitor may not view it"][:2]
        ['/members', '/members/benefits']
        """
        from davlo.core.faults import UnknownName
        from davlo.core.outcomes.link_lists import link_list

        if language and language not in self.languages:
            raise UnknownName("language", language, self.languages)
        if on is not None and not language:
            language = self.details.language[self.page_number(on)]
        return link_list(self.resolve().outcomes, block, language, viewer)

    def viewpoint_results(self) -> list[ViewpointResult]:
        """What each viewpoint of the site sees: a viewer on a page.

        Example
        -------
        >>> import davlo
        >>> first = davlo.open_demo().viewpoint_results()[0]
        >>> first.page, first.viewer, first.may, first.fields()["area right"]
        ('/visit/tickets', 'visitor', ('view',), 'sidebar visit-planning')
        """
        from davlo.core.records.viewpoint_results import viewpoint_results

        return viewpoint_results(self.resolve())

    def pages_when(self, *conditions: str) -> list[str]:
        """The paths of the pages that meet conditions, in the order of the tree.

        Parameters
        ----------
        conditions : str
            `KEY=VALUE` as a rule's `when` has it, or a column of the page list. All keys must match; repeat a key to
            allow either value.

        Raises
        ------
        SiteError
            If a condition is not understood.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().pages_when("type=event", "below=/visit")[:2]
        ['/visit/schools/workshops/pond-dipping', '/visit/schools/workshops/owl-night']
        """
        return self.tree.paths.take(np.flatnonzero(self.mask_when(conditions))).tolist()

    def mask_when(self, conditions: Sequence[str]) -> Mask:
        """Where conditions hold, as `pages_when` takes them. bool[pages]"""
        from davlo.files.read.sections.when import asked_condition

        return self.pages(asked_condition(conditions, self))

    def access(self) -> Access:
        """Who may do what, on which pages.

        Example
        -------
        >>> import davlo
        >>> access = davlo.open_demo().access()
        >>> access.actions("sefa.moana", "/members/pages/sefa-moana")
        ('view', 'edit')
        """
        from davlo.access import Access

        return Access(self.resolve())
