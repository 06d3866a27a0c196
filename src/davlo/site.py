"""The site as a library user holds it: one class, with every call that asks, changes, writes or publishes.

The module is long because the calls' docs stand here; the work of each stands in its room, which is imported when it is
called.
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.cached import cached_property
from davlo.core.faults import SiteError, UnknownName
from davlo.core.site.declarations import ALL_SCREENS
from davlo.core.site.model import SiteModel
from davlo.core.site.people import VISITOR
from davlo.effective import Effective
from davlo.files.read.site_folder import read_folder, read_tables
from davlo.files.store.site_writes import read_steadily, recover
from davlo.write_results import Undoing, Written

if TYPE_CHECKING:
    import datetime

    from davlo.access import Access
    from davlo.as_built.built_comparison import BuiltComparison
    from davlo.core.change.change_reach import ChangeReach
    from davlo.core.change.differences.comparison import Comparison
    from davlo.core.change.differences.viewer_difference import ViewerDifference
    from davlo.core.change.steps.change import Change
    from davlo.core.condense.condensing import Condensing
    from davlo.core.findings.check import Report
    from davlo.core.findings.finding import Finding
    from davlo.core.outcomes.area_fits import AreaFits
    from davlo.core.outcomes.declaration_list import Declaration
    from davlo.core.outcomes.link_lists import LinkList
    from davlo.core.records.record import PageRecord
    from davlo.core.records.viewpoint_results import ViewpointDifference, ViewpointResult
    from davlo.files.announce.announcement import Announcement
    from davlo.files.output.publication import Publication
    from davlo.files.rewrite.line_edits import Edit
    from davlo.files.rewrite.ways import Way
    from davlo.files.store.write_records import WriteRecord


def open_site(folder: str | Path) -> Site:
    """Read a site folder.

    Parameters
    ----------
    folder : str or Path
        The folder that holds `davlo.yaml`. Nothing in it is run or fetched. Nothing is written, except that Davlo first
        finishes an unfinished write of its own.

    Returns
    -------
    Site

    Raises
    ------
    SiteError
        If a file cannot be understood; it lists every fault with its place.
    OSError
        If an unfinished write cannot be finished.

    Example
    -------
    >>> import davlo
    >>> try:
    ...     davlo.open_site("no-such-folder")
    ... except davlo.SiteError as error:
    ...     print(error.faults[0].what)
    there is no davlo.yaml in no-such-folder
    """
    path = Path(folder)
    recover(path)
    return read_steadily(path, lambda: read_folder(path, Site))


def open_state(state: str, folder: str | Path) -> Site:
    """Another state of the site in a folder, read whole. `Site.open_state` is the call to use."""
    from davlo.files.read.estate.estate_then import shared_then
    from davlo.files.read.git.git_process import RevisionFault
    from davlo.files.read.git.revisions import write_revision

    if "\0" not in state and os.path.isfile(os.path.join(state, "davlo.yaml")):
        try:
            return open_site(state)
        except SiteError as error:
            raise error.in_state(f"{state}/") from None
    if os.path.isdir(state):
        raise RevisionFault(f"there is no davlo.yaml in {state}")
    with tempfile.TemporaryDirectory() as trial, tempfile.TemporaryDirectory() as above:
        try:
            write_revision(Path(folder), state, Path(trial))
            shared = shared_then(Path(folder), state, Path(above))
            # the sitemap written last is the same for both states
            return replace(read_folder(Path(trial), Site, shared), folder=str(folder))
        except RevisionFault as fault:
            hint = f"\n  {fault.hint}" if fault.hint else ""
            raise RevisionFault(f"{state} is neither a site folder nor a revision of git: {fault}{hint}") from None
        except SiteError as error:
            raise error.in_state(f"{state}:") from None


def _today() -> datetime.date:
    """The clock's date."""
    import datetime

    return datetime.datetime.now().astimezone().date()


class Site(SiteModel):
    """One website's pages, declarations and decisions, as `davlo.open_site` reads them.

    Example
    -------
    >>> import davlo
    >>> davlo.open_demo().name
    'Quillmere Botanic Garden'
    """

    @classmethod
    def from_frames(cls, page_list: Any, decisions: Mapping[str, Any]) -> Site:
        """A site that is in no folder: its page list a table in memory, its decisions a dictionary.

        Parameters
        ----------
        page list : pandas.DataFrame, pyarrow.Table, or mapping of str to a sequence of values
            A row a page, the columns of `pages.csv`; None, NaN and the like are blank cells. A frame whose index is
            called `path` has that for a column.
        decisions : mapping
            What `davlo.yaml` holds, as `yaml.safe_load` would give it; `include`, `values` and `page_list` name
            files and may not stand in it.

        Returns
        -------
        Site

        Raises
        ------
        SiteError
            If they cannot be understood; the places read `page_list:3` (the third row) and `decisions[pages][/a]`.

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
        return read_tables(page_list, decisions, cls)

    def _repr_html_(self) -> str:
        from davlo.frames.notebook import site_html

        return site_html(self)

    @property
    def _own_folder(self) -> Path:
        """The site folder.

        Raises
        ------
        ChangeRefused
            If the site is in none.
        """
        from davlo.core.change.refused import ChangeRefused

        if not self.folder:
            raise ChangeRefused("the site is in no folder, so there is nothing to write it to")
        return Path(self.folder)

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

    def page(self, path: str, viewer: str = VISITOR, screen: str = "") -> PageRecord:
        """One page whole: its details, what a viewer and search engines meet, its settings in groups.

        Parameters
        ----------
        path : str
        viewer : str
            A person, a group, `visitor` or `signed-in`.
        screen : str
            Only what shows on a `wide` screen, a `tablet` or a `phone` (default: on any screen).

        Raises
        ------
        UnknownName
            If there is no such page, viewer or screen.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().page("/visit/tickets")
        >>> page["title"], page.said()[0].name, str(page.said()[0].source)
        ('Tickets · Quillmere Botanic Garden', 'title.pattern', 'everywhere, davlo.yaml:36')
        """
        from davlo.core.records.page_record import page_record

        self.people.covering(viewer)
        if screen and screen not in ALL_SCREENS:
            raise UnknownName("screen", screen, ALL_SCREENS)
        return page_record(self.resolve(), self.page_number(path), viewer=viewer, screen=screen)

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
        >>> first.page, first.viewer, first.may, first.fields()["layout"]
        ('/visit/tickets', 'visitor', ('view',), 'two-column, medium, theme day')
        """
        from davlo.core.records.viewpoint_results import viewpoint_results

        return viewpoint_results(self.resolve())

    def viewpoint_differences(self, before: Site) -> list[ViewpointDifference]:
        """The viewpoints of this site that see something else than in another state of it.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
        >>> for one in after.viewpoint_differences(site):
        ...     print(one.page, one.viewer, *(f"{name}: {now.partition(';')[0]}" for name, before, now in one.fields))
        /visit/tickets visitor area right: sidebar main: search-box "Search the garden"
        """
        from davlo.core.records.viewpoint_results import viewpoint_differences

        return viewpoint_differences(before.resolve(), self.resolve())

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
            folder, added_from = Path(self.folder), self.sitemap.add_addresses_from
            published = in_background(lambda: last_published(folder, added_from), len(self.tree) >= MANY)
        asked = None
        if pages is not None:
            asked = np.zeros(len(self.tree), dtype=bool)
            asked[[self.page_number(path) for path in pages]] = True
        return check(self.resolve(), published, today, asked)

    def reach(self, change: Change) -> ChangeReach:
        """What a change would do: the difference that it makes, and where it has no effect; nothing is written.

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
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.steps.apply import Applying
        from davlo.core.findings.check import finding_changes

        applying = Applying(self, change)
        if applying.single is None:
            return ChangeReach(self.resolve(), applying.done().resolve(), change, finding_changes)
        return ChangeReach(
            self.resolve(), lambda: applying.done().resolve(), change, finding_changes, edit=applying.single
        )

    def apply(self, change: Change) -> Self:
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
        from davlo.core.change.steps.apply import apply

        return apply(self, change)

    def viewer_difference(self, one: str, other: str, when: Sequence[str] = ()) -> ViewerDifference:
        """What one viewer meets and another does not, page by page.

        Parameters
        ----------
        one, other : str
            A person, a group, `visitor` or `signed-in`.
        when : sequence of str
            Only pages that match these conditions, written as for `pages_when`.

        Raises
        ------
        UnknownName
            If there is no such viewer.
        SiteError
            If a condition is not understood.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().viewer_difference("visitor", "tomas.vell", ["below=/staff"])
        >>> len(found.seen_by_one), len(found.seen_by_other), found.rights[0].other
        (0, 6, ('view',))
        """
        from davlo.core.change.differences.viewer_difference import ViewerDifference

        return ViewerDifference(self.resolve(), one, other, self.mask_when(when) if when else None)

    def difference(self, other: Site, when: Sequence[str] = (), viewer: str = VISITOR) -> Comparison:
        """How another state of the site differs from this one, page by page, and why.

        Parameters
        ----------
        other : Site
            The later state.
        when : sequence of str
            Only pages that match these conditions in either state, written as for `pages_when`.
        viewer : str
            Who meets the outcomes: a person, a group, `visitor` or `signed-in`.

        Raises
        ------
        UnknownName
            If one of the states does not know the viewer.
        SiteError
            If a condition is not understood.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> found = site.difference(site.apply(davlo.Change().say("title.limit", 40, type="event")), ["below=/events"])
        >>> found.count(), found.causes[0].what
        (13, 'new')
        """
        from davlo.core.change.differences.comparison import Comparison
        from davlo.core.change.differences.same_state import with_shared_pages
        from davlo.core.findings.check import finding_changes

        other = with_shared_pages(self, other)
        among = (self.mask_when(when), other.mask_when(when)) if when else None
        for site in (self, other):
            site.people.covering(viewer)
        return Comparison(self.resolve(), other.resolve(), finding_changes, among, viewer)

    def open_state(self, state: str) -> Site:
        """Another state of the site, read whole.

        Parameters
        ----------
        state : str
            Another site folder, or a revision of git: `HEAD~1`, `main`, a hash.

        Raises
        ------
        RevisionFault
            If it is neither.
        SiteError
            If the files of that state cannot be understood.
        """
        return open_state(state, self.folder)

    def compare_built(
        self,
        folder: str | Path,
        *,
        areas: str | Path | None = None,
        when: Sequence[str] = (),
        today: datetime.date | None = None,
    ) -> BuiltComparison:
        """How the HTML pages of a folder, its sitemap and its robots.txt differ from what was decided.

        Parameters
        ----------
        folder : str or Path
            The site as it was built.
        areas : str or Path, optional
            A YAML file that names areas by CSS selectors, where pages have no landmarks.
        when : sequence of str
            Only pages that match these conditions, as `pages_when` takes them.
        today : datetime.date, optional
            Pages modified after this day have no date in the sitemap (default: the clock's).

        Raises
        ------
        OSError
            If the folder, or the file of areas, cannot be read.
        SiteError
            If the file of areas, a condition or the sitemap of the folder cannot be understood.

        Example
        -------
        >>> import davlo, pathlib, tempfile
        >>> with tempfile.TemporaryDirectory() as folder:
        ...     page = "<html lang=en><title>Admission</title><main><h1>Us</h1></main>"
        ...     _ = pathlib.Path(folder, "about.html").write_text(page)
        ...     found = davlo.open_demo().compare_built(folder, when=["path=/about"])
        >>> [(one.what, one.shows, one.should) for one in found.mistakes][0]
        ('document title', 'Admission', 'About us · Quillmere Botanic Garden')
        """
        from davlo.as_built.built_comparison import compare_built
        from davlo.files.built.selectors import NO_SELECTORS, read_areas

        selectors = NO_SELECTORS if areas is None else read_areas(Path(areas))
        among = self.mask_when(when) if when else None
        own = Path(self.folder) if self.folder else None
        return compare_built(self.resolve(), Path(folder), own, today or _today(), selectors, among)

    def ways(self, finding: Finding, today: datetime.date | None = None) -> list[Way]:
        """The ways to mend a finding, each a change that `reach` and `write` take; none where somebody must decide.

        Parameters
        ----------
        finding : Finding
            One that `check` gives for this site.
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> [way.words for way in site.ways(site.check().findings[0])]
        ['take away what is overruled', 'lift the lock', 'let what is overruled be an exception to the lock']
        """
        from davlo.files.rewrite.ways import Mender

        return Mender(self.resolve(), self._own_folder, today).ways(finding)

    def condense(
        self,
        settings: Sequence[str] = (),
        *,
        in_branch: str | None = None,
        keep_here: bool = False,
        drop_reasons: bool = False,
    ) -> Condensing:
        """Find the fewest statements that give every page the values it has; nothing is written.

        Parameters
        ----------
        settings : sequence of str
            Only these (default: all).
        in_branch : str, optional
            Only what this page and the pages below it say.
        keep_here : bool
            Keep what single pages say of themselves.
        drop_reasons : bool
            Whether statements that give a reason may go, too.

        Returns
        -------
        Condensing
            The change, and for each setting that has fewer statements then how many.

        Raises
        ------
        UnknownName
            If there is no such setting or page.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> [(one.setting, one.before, one.after) for one in site.condense().settings]
        [('sitemap.changefreq', 10, 7)]
        """
        from davlo.core.condense.condensing import condensing
        from davlo.core.condense.free_statements import Intent

        page = None if in_branch is None else self.find_page(in_branch)
        branch = None if page is None else range(page, int(self.tree.end[page]))
        return condensing(self, settings, Intent(branch, keep_here, drop_reasons))

    def edits(self, change: Change, today: datetime.date | None = None, *, is_written: bool = False) -> list[Edit]:
        """The edits of the site's files that a change comes to; nothing is written.

        Parameters
        ----------
        change : Change
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).
        is_written : bool
            Whether `write` gets them next. It reads the new files whole, so they are not parsed here.

        Raises
        ------
        ChangeError
            If a step cannot be done.
        CannotRewrite
            If the files cannot say it, or a file is no longer the one that was read.

        Example
        -------
        >>> import davlo
        >>> change = davlo.Change().say("sidebar.right", "main", below="/visit")
        >>> [(edit.file, edit.line) for edit in davlo.open_demo().edits(change)]
        [('davlo.yaml', 79)]
        """
        from davlo.files.rewrite.rewrite import rewrite

        return rewrite(self, self._own_folder, change, today, is_written)

    def check_may(self, change: Change | ChangeReach, who: str) -> None:
        """Make sure that a person may make a change: it is judged by the difference that it makes.

        Parameters
        ----------
        change : Change or ChangeReach
            A reach is used as it is, and not worked out again.
        who : str

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not; `missing` says what is missing.

        Example
        -------
        >>> import davlo
        >>> try:
        ...     davlo.open_demo().check_may(davlo.Change().say("menu.show", False, here="/visit/maps"), "owen.tarrant")
        ... except davlo.ChangeRefused as error:
        ...     print(error.missing[0].action, error.missing[0].pages)
        edit ('/visit/maps',)
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.refused import ChangeRefused
        from davlo.core.change.who_may_change import missing_rights

        missing = missing_rights(change if isinstance(change, ChangeReach) else self.reach(change), who)
        if missing:
            raise ChangeRefused(missing[0].reason, missing=missing)

    def write(
        self,
        change: Change | ChangeReach,
        *,
        by: str = "",
        even_so: bool = False,
        today: datetime.date | None = None,
        edits: Sequence[Edit] | None = None,
    ) -> Written[Site]:
        """Write a change into the site's files: whole, or not at all.

        Parameters
        ----------
        change : Change or ChangeReach
            A reach is used as it is, and not worked out again.
        by : str
            The person in whose name the change is made (default: the administrator).
        even_so : bool
            Whether to write the change although it brings about a finding of level error.
        today : datetime.date, optional
            The date of stamps that are written (default: the clock's).
        edits : sequence of Edit, optional
            What `edits` gave for this change, to save working it out again.

        Raises
        ------
        ChangeError
            If a step cannot be done.
        CannotRewrite
            If the files cannot say it, or a file was changed since it was read (`ChangedSince`).
        ChangeRefused
            If that person may not make the change, or the change brings about an error, or it changes nothing.
        SiteInUse
            If another process is writing the site.
        OSError
            If something cannot be written; the files are as they were.

        Example
        -------
        >>> import davlo, tempfile
        >>> with tempfile.TemporaryDirectory() as folder:
        ...     _ = davlo.write_demo(folder + "/garden")
        ...     site = davlo.open_site(folder + "/garden")
        ...     written = site.write(davlo.Change().say("sidebar.right", "main", below="/visit"))
        ...     back = written.site.undo()
        >>> written.record.sentence, written.site.resolve()["/visit/tickets"]["sidebar.right"]
        ('set sidebar.right to main below /visit', 'main')
        >>> back.site.resolve()["/visit/tickets"]["sidebar.right"]
        'visit-planning'
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.refused import ChangeRefused
        from davlo.core.outcomes.sitemap.addresses import moved_addresses
        from davlo.files.store.site_writes import write_edits

        reach = change if isinstance(change, ChangeReach) else self.reach(change)
        if by:
            self.check_may(reach, by)
        edits = self.edits(reach.change, today, is_written=True) if edits is None else edits
        if not edits:
            raise ChangeRefused("the files say so already: there is nothing to write")
        errors = () if even_so else reach.new_errors
        if errors:
            raise ChangeRefused("it would bring about an error", errors)
        sentence = reach.change.words
        moved = moved_addresses(self, reach.after.site, reach.published_elsewhere)
        record, site = write_edits(self, self._own_folder, edits, reach.after.site, sentence, by, moved)
        return Written(record, site)

    def writes(self) -> list[WriteRecord]:
        """The writes that can be taken back, the latest first.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().writes()
        []
        """
        from davlo.files.store.site_journal import SiteJournal

        return SiteJournal(Path(self.folder)).writes() if self.folder else []

    def undoing(self) -> Undoing:
        """What taking the last write back would do; nothing is written.

        Raises
        ------
        CannotTakeBack
            If there is none, or its files were changed since.
        ChangeRefused
            If the files could not be read then.
        """
        from davlo.core.change.change_reach import ChangeReach
        from davlo.core.change.steps.change import Change
        from davlo.core.findings.check import finding_changes
        from davlo.files.store.site_writes import read_with, taken_back

        back = taken_back(self._own_folder)
        before = read_with(self, self._own_folder, back.contents)
        moves = [(new, old) for old, new in back.record.moved if old != new]
        reach = ChangeReach(self.resolve(), before.resolve(), Change(), finding_changes, moves=moves)
        return Undoing(back.record, reach, back.edits)

    def check_may_undo(self, who: str) -> None:
        """Make sure that a person may take the last write back: an admin, or the one who made it and may undo it.

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not.
        """
        from davlo.core.change.refused import ChangeRefused

        if not self.people.has(who):
            raise UnknownName("person", who, self.people.names)
        writes = self.writes()
        if writes and not self.people.is_admin(who) and writes[0].by != who:
            maker = writes[0].by or "the administrator"
            raise ChangeRefused(f"{who} may not take write {writes[0].number} back: it is by {maker}")
        if writes and not self.people.is_admin(who):
            self.check_may(self.undoing().reach, who)

    def undo(self, *, by: str = "") -> Written[Site]:
        """Take the last write back; the write before it is then the last one.

        Parameters
        ----------
        by : str
            The person in whose name the write is taken back (default: the administrator): an admin, or the one who made
            the write.

        Returns
        -------
        Written
            The record of the write that was taken back, and the site as its files read now.

        Raises
        ------
        UnknownName
            If there is no such person.
        ChangeRefused
            If they may not.
        CannotTakeBack
            If there is none, or its files were changed since.
        SiteInUse
            If another process is writing the site.
        OSError
            If something cannot be written; the files are as they were.
        """
        from davlo.files.store.site_writes import take_back

        if by:
            self.check_may_undo(by)
        record, site = take_back(self, self._own_folder, by)
        return Written(record, site)

    def report(
        self,
        *,
        branch: str | None = None,
        viewer: str = "",
        since: str | None = None,
        today: datetime.date | None = None,
        findings: Report | None = None,
    ) -> str:
        """One HTML file that shows the whole site, for colleagues; it fetches nothing.

        Parameters
        ----------
        branch : str, optional
            Only this page and the pages below it.
        viewer : str
            Only what a person, `visitor`, `signed-in` or a group may view; nothing else is in the file.
        since : str, optional
            Also what changed since another site folder, or a revision of git.
        today : datetime.date, optional
            As in `check`.
        findings : Report, optional
            What `check` found on that day, if it was asked already.

        Raises
        ------
        UnknownName
            If there is no such page or viewer.
        TooManyPages
            If it would hold more than 20,000 pages; it names branches that would fit.
        ValueError
            If `since` is no state.

        Example
        -------
        >>> import davlo
        >>> text = davlo.open_demo().report(branch="/visit")
        >>> text.startswith("<!doctype html>"), "/visit/tickets" in text, "/staff/rota" in text
        (True, True, False)
        """
        from davlo.files.read.git.revisions import current_revision
        from davlo.report.report_data import Asked, report_data
        from davlo.report.report_html import report_html

        known = ("visitor", "signed-in", *self.people.names, *self.people.groups)
        if viewer and viewer not in known:
            raise UnknownName("person or group", viewer, known)
        found = None if since is None else self.open_state(since).difference(self)
        revision = current_revision(Path(self.folder)) if self.folder else ""
        made = f"As of {(today or _today()).isoformat()}{f', revision {revision}' if revision else ''}"
        asked = Asked(-1 if branch is None else self.find_page(branch), viewer, found, since or "", made)
        return report_html(report_data(self.resolve(), findings or self.check(today), asked))

    def publication(self, to: str | Path, today: datetime.date | None = None, *, packed: bool = False) -> Publication:
        """The files that search engines read, as they would be published today; `write` writes them.

        Parameters
        ----------
        to : str or Path
            The folder for the files.
        today : datetime.date, optional
            Pages modified after this day have no date in the sitemap (default: the clock's).
        packed : bool
            Whether sitemaps are packed (.xml.gz).

        Raises
        ------
        ValueFault
            If two files would have the same name.
        SiteError
            If a file of addresses to add cannot be understood.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().publication("no-such-folder").files["robots.txt"]
        'new'
        """
        from davlo.files.output.publication import plan_publication

        return plan_publication(self.resolve(), self._own_folder, Path(to), today or _today(), packed=packed)

    def announcement(self, endpoint: str = "", today: datetime.date | None = None) -> Announcement:
        """The addresses that changed since a search engine was told last; `send` tells it.

        Parameters
        ----------
        endpoint : str
            The address of the search engine, which takes lists of addresses by the open protocol for that; without it
            all addresses count as new.
        today : datetime.date, optional
            Pages modified after this day count as not modified (default: the clock's).

        Raises
        ------
        SiteError
            If a file of addresses to add cannot be understood.

        Example
        -------
        >>> import davlo
        >>> len(davlo.open_demo().announcement().new)
        132
        """
        from davlo.files.announce.announcement import plan_announcement

        return plan_announcement(self.resolve(), self._own_folder, endpoint, today or _today())
