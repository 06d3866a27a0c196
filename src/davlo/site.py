"""The site and its effective settings as a library user holds them."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.faults import SiteError
from davlo.core.site.model import SiteModel
from davlo.files.read.site_folder import read_folder, read_tables

from .effective import Effective

if TYPE_CHECKING:
    import datetime

    from davlo.core.change.difference import Difference
    from davlo.core.change.steps import Change
    from davlo.core.findings.check import Report
    from davlo.core.outcomes.area_fits import AreaFits
    from davlo.core.outcomes.declaration_list import Declaration
    from davlo.core.outcomes.link_lists import LinkList
    from davlo.core.outcomes.page_view import PageView
    from davlo.core.outcomes.probe_views import ProbeDifference, ProbeView

    from .access import Access


def open_site(folder: str | Path) -> Site:
    """Read a site folder.

    Parameters
    ----------
    folder : str or Path
        The folder that holds `davlo.yaml`. Nothing in it is written, run or fetched.

    Returns
    -------
    Site

    Raises
    ------
    SiteError
        If a file cannot be understood; it lists every fault with its place.

    Example
    -------
    >>> import davlo
    >>> try:
    ...     davlo.open_site("no-such-folder")
    ... except davlo.SiteError as error:
    ...     print(error.faults[0].what)
    there is no davlo.yaml in no-such-folder
    """
    return read_folder(Path(folder), Site)


class Site(SiteModel):
    """One website's pages, declarations and decisions, as `davlo.open_site` reads them.

    Example
    -------
    >>> import davlo
    >>> davlo.open_demo().name
    'Quillmere Botanic Garden'
    """

    @classmethod
    def from_frames(cls, inventory: Any, decisions: Mapping[str, Any]) -> Site:
        """A site that is in no folder: its inventory a table in memory, its decisions a dictionary.

        Parameters
        ----------
        inventory : pandas.DataFrame, pyarrow.Table, or mapping of str to a sequence of values
            A row a page, the columns of `pages.csv`; None, NaN and the like are blank cells. A frame whose index is
            called `path` has that for a column.
        decisions : mapping
            What `davlo.yaml` holds, as `yaml.safe_load` would give it; `include`, `values` and `inventory` name
            files and may not stand in it.

        Returns
        -------
        Site

        Raises
        ------
        SiteError
            If they cannot be understood; the places read `inventory:3` (the third row) and `decisions[pages][/a]`.

        Example
        -------
        >>> import davlo
        >>> site = davlo.Site.from_frames(
        ...     {"path": ["/", "/visit", "/visit/tickets"], "title": ["Home", "Visit", "Tickets"]},
        ...     {
        ...         "davlo": 1,
        ...         "site": {"name": "Quillmere", "url": "https://quillmere.example"},
        ...         "pages": {"/visit": {"below": {"title.limit": 40}}},
        ...     },
        ... )
        >>> site.resolve()["/visit/tickets"]["title.limit"]
        40
        """
        return read_tables(inventory, decisions, cls)

    def _repr_html_(self) -> str:
        from davlo.frames.notebook import site_html

        return site_html(self)

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
        >>> dict(site.resolve(["title.show", "layout.name"], ["/campaigns/spring"])["/campaigns/spring"])
        {'title.show': False, 'layout.name': 'open'}
        """
        return Effective(self, settings, pages)

    def page(self, path: str) -> PageView:
        """One page whole: its facts, what readers and search engines meet, its settings in groups.

        Raises
        ------
        UnknownName
            If there is no such page.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().page("/visit/tickets")
        >>> page.outcomes.title, page.said()[0].name, str(page.said()[0].source)
        ('Tickets · Quillmere Botanic Garden', 'title.pattern', 'everywhere, davlo.yaml:36')
        """
        from davlo.core.outcomes.page_view import page_view

        return page_view(self.resolve(), self.page_number(path))

    def new_page(self, path: str, *, by: str = "", **facts: str) -> PageView:
        """What a page would get once its row and its stamps are written; nothing is written now.

        `by_hand` of the view holds what would differ for a row that somebody types without stamps.

        Parameters
        ----------
        path : str
            Starts with `/`.
        by : str
            The person who makes it: its owner, where no default names another.
        facts : str
            What the inventory would say of it: `type="event"`, `title=…`, `status="draft"`, or any other fact.

        Raises
        ------
        UnknownName
            If there is no such type, fact or person.
        SiteError
            If there cannot be such a page: the path is taken or no path, or the parent is not there.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().new_page("/visit/picnic", type="event", title="Picnic")
        >>> page.parent, page.outcomes.title
        ('/visit', 'Picnic · Quillmere Botanic Garden')
        """
        from davlo.core.change.new_page import new_page_view

        return new_page_view(self, path, facts, by)

    def with_page(self, path: str, *, by: str = "", **facts: str) -> Site:
        """The site as it would be with one more page, with its stamps; nothing is written.

        Takes and raises what `new_page` does.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo().with_page("/members/pages/ada-lune", by="ida.marsh")
        >>> site.access().actions("ida.marsh", "/members/pages/ada-lune")
        ('view', 'edit')
        """
        from davlo.core.change.new_page import with_page

        return with_page(self, path, facts, by=by)[0]

    def declared(self, kind: str | None = None) -> list[Declaration]:
        """Every declaration with what it says, and where it is used: on how many pages, and in which areas.

        Settings, types, rules and promises count among them.

        Parameters
        ----------
        kind : str, optional
            `layout`, `theme`, `sidebar`, `look`, `band`, `block`, `preset`, `type`, `setting`, `rule`, `promise`,
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
            language = self.facts.language[self.page_number(on)]
        return link_list(self.resolve().outcomes, block, language, viewer)

    def probe_views(self) -> list[ProbeView]:
        """What each probe of the site sees: a viewer on a page.

        Example
        -------
        >>> import davlo
        >>> first = davlo.open_demo().probe_views()[0]
        >>> first.page, first.viewer, first.may, dict(first.areas)["right"]
        ('/visit/tickets', 'visitor', ('view',), 'visit-planning')
        """
        from davlo.core.outcomes.probe_views import probe_views

        return probe_views(self.resolve())

    def probe_differences(self, before: Site) -> list[ProbeDifference]:
        """The probes of this site that see something else than they would in another state of it.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
        >>> [(one.page, one.facts) for one in after.probe_differences(site)]
        [('/visit/tickets', (('area right', 'visit-planning', 'main'),))]
        """
        from davlo.core.outcomes.probe_views import probe_differences

        return probe_differences(before.resolve(), self.resolve())

    def apply(self, change: Change) -> Site:
        """The site after a change; nothing is written, and this one stays as it is.

        Raises
        ------
        ChangeError
            If a step cannot be done.

        Example
        -------
        >>> import davlo
        >>> after = davlo.open_demo().apply(davlo.Change().say("menu.show", False, here="/visit/maps"))
        >>> after.resolve()["/visit/maps"]["menu.show"]
        False
        """
        from .core.change.apply import apply

        return apply(self, change)

    def reach(self, change: Change) -> Difference:
        """What a change would do; nothing is written.

        Raises
        ------
        ChangeError
            If a step cannot be done.

        Example
        -------
        >>> import davlo
        >>> reach = davlo.open_demo().reach(davlo.Change().take_away("sidebar.right", below="/visit"))
        >>> reach.count(), reach.values()[0][:4]
        (23, ('/visit/tickets', 'sidebar.right', 'visit-planning', 'main'))
        """
        return self.difference(self.apply(change))

    def difference(self, other: Site) -> Difference:
        """What another state of the site differs in from this one, page by page.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> site.difference(davlo.open_demo()).count()
        0
        """
        from .core.change.difference import Difference
        from .core.findings.check import new_and_gone

        return Difference(self.resolve(), other.resolve(), new_and_gone)

    def check(self, today: datetime.date | None = None, pages: Iterable[str] | None = None) -> Report:
        """Every finding, the worst first.

        Parameters
        ----------
        today : datetime.date, optional
            The day for which the sitemap's age is counted (default: the clock's).
        pages : iterable of str, optional
            Only findings about these pages.

        Raises
        ------
        UnknownName
            If there is no such page.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().check().findings[0].level
        'error'
        """
        from davlo.core.arrays.in_background import MANY, in_background
        from davlo.core.findings.check import check
        from davlo.files.store.last_sitemap import last_published

        published = None
        if self.folder:
            folder, joins = Path(self.folder), self.sitemap.join
            published = in_background(lambda: last_published(folder, joins), len(self.tree) >= MANY)
        asked = None
        if pages is not None:
            asked = np.zeros(len(self.tree), dtype=bool)
            asked[[self.page_number(path) for path in pages]] = True
        return check(self.resolve(), published, today, asked)

    def open_state(self, state: str) -> Site:
        """Another state of the site, read whole.

        Parameters
        ----------
        state : str
            Another site folder, or a revision of git: `HEAD~1`, `main`, a hash.

        Raises
        ------
        ValueError
            If it is neither.
        SiteError
            If the files of that state cannot be understood.
        """
        from .files.read.revisions import RevisionFault, write_revision

        if "\0" not in state and os.path.isfile(os.path.join(state, "davlo.yaml")):
            try:
                return open_site(state)
            except SiteError as error:
                raise error.in_state(f"{state}/") from None
        if os.path.isdir(state):
            raise ValueError(f"there is no davlo.yaml in {state}")
        with tempfile.TemporaryDirectory() as folder:
            try:
                write_revision(Path(self.folder), state, Path(folder))
                # the sitemap written last is the same for both states
                return replace(open_site(folder), folder=self.folder)
            except RevisionFault as fault:
                raise ValueError(f"{state} is neither a site folder nor a revision of git: {fault}") from None
            except SiteError as error:
                raise error.in_state(f"{state}:") from None

    def check_earlier(self, state: str, today: datetime.date | None = None) -> Report:
        """Every finding of an earlier state of the site; `Report.since` gives what is new in another report.

        Parameters
        ----------
        state : str
            Another site folder, or a revision of git: `HEAD~1`, `main`, a hash.
        today : datetime.date, optional
            As in `check`.

        Raises
        ------
        ValueError
            If it is neither.
        SiteError
            If the files of that state cannot be understood.
        """
        return self.open_state(state).check(today)

    def pages_when(self, *conditions: str) -> list[str]:
        """The paths of the pages that meet conditions, in the order of the tree.

        Parameters
        ----------
        conditions : str
            `KEY=VALUE` as a rule's `when` has it, or a column of the inventory. All keys must match; repeat a key to
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
        from .files.read.when import asked_condition

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
        from .access import Access

        return Access(self.resolve())
