"""The site and its effective settings as a library user holds them."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from davlo.changes import Changes
from davlo.core.faults import SiteError
from davlo.files.read.site_folder import read_folder, read_tables
from davlo.files.store.site_writes import read_steadily, recover

if TYPE_CHECKING:
    import datetime

    from davlo.as_built.built_comparison import BuiltComparison
    from davlo.core.findings.check import Report
    from davlo.core.records.viewpoint_results import ViewpointDifference
    from davlo.files.announce.announcement import Announcement
    from davlo.files.output.publication import Publication


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
    from davlo.files.read.git.git_process import RevisionFault
    from davlo.files.read.git.revisions import write_revision

    if "\0" not in state and os.path.isfile(os.path.join(state, "davlo.yaml")):
        try:
            return open_site(state)
        except SiteError as error:
            raise error.in_state(f"{state}/") from None
    if os.path.isdir(state):
        raise RevisionFault(f"there is no davlo.yaml in {state}")
    with tempfile.TemporaryDirectory() as trial:
        try:
            write_revision(Path(folder), state, Path(trial))
            # the sitemap written last is the same for both states
            return replace(open_site(trial), folder=str(folder))
        except RevisionFault as fault:
            hint = f"\n  {fault.hint}" if fault.hint else ""
            raise RevisionFault(f"{state} is neither a site folder nor a revision of git: {fault}{hint}") from None
        except SiteError as error:
            raise error.in_state(f"{state}:") from None


def _today() -> datetime.date:
    """The clock's date."""
    import datetime

    return datetime.datetime.now().astimezone().date()


class Site(Changes):
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

    def viewpoint_differences(self, before: Site) -> list[ViewpointDifference]:
        """The viewpoints of this site that see something else than in another state of it.

        Example
        -------
        >>> import davlo
        >>> site = davlo.open_demo()
        >>> after = site.apply(davlo.Change().say("sidebar.right", "main", below="/visit"))
        >>> [(one.page, one.fields) for one in after.viewpoint_differences(site)]
        [('/visit/tickets', (('area right', 'sidebar visit-planning', 'sidebar main'),))]
        """
        from davlo.core.records.viewpoint_results import viewpoint_differences

        return viewpoint_differences(before.resolve(), self.resolve())

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

    def report(
        self,
        *,
        branch: str | None = None,
        viewer: str = "",
        since: str | None = None,
        today: datetime.date | None = None,
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
        from davlo.core.faults import UnknownName
        from davlo.report.report_data import Asked, report_data
        from davlo.report.report_html import report_html

        known = ("visitor", "signed-in", *self.people.names, *self.people.groups)
        if viewer and viewer not in known:
            raise UnknownName("person or group", viewer, known)
        found = None if since is None else self.open_state(since).difference(self)
        asked = Asked(-1 if branch is None else self.find_page(branch), viewer, found, since or "")
        return report_html(report_data(self.resolve(), self.check(today), asked))

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
