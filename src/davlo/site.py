"""The site and its effective settings as a library user holds them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from davlo.core.arrays.codebooks import Codes
from davlo.core.resolve.effective import EffectiveModel, PageSettings
from davlo.core.site.model import SiteModel
from davlo.core.site.values import Plain
from davlo.files.read.site_folder import read_folder, read_tables

if TYPE_CHECKING:
    import datetime

    import pandas as pd
    import pyarrow as pa

    from davlo.core.change.difference import Difference
    from davlo.core.change.steps import Change
    from davlo.core.findings.check import Report
    from davlo.core.outcomes.access import Access
    from davlo.core.outcomes.page_outcomes import Outcomes
    from davlo.core.outcomes.page_view import PageView
    from davlo.core.outcomes.uses import Declaration


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
        If a file cannot be understood; it tells every fault with its place.

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
            The result speaks of these alone, in this order.
        pages : paths, optional
            The result speaks of these alone, in this order.

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

    def new_page(self, path: str, **facts: str) -> PageView:
        """What a page that is not there yet would get; nothing is written.

        Parameters
        ----------
        path : str
            Starts with `/`.
        facts : str
            What the inventory would say of it: `type="event"`, `title=…`, `parent=…`.

        Raises
        ------
        UnknownName
            If there is no such type.
        SiteError
            If there cannot be such a page: the path is taken or no path, or the parent is not there.

        Example
        -------
        >>> import davlo
        >>> page = davlo.open_demo().new_page("/visit/picnic", type="event", title="Picnic")
        >>> page.parent, page.outcomes.title
        ('/visit', 'Picnic · Quillmere Botanic Garden')
        """
        from davlo.core.change.new_page import with_page
        from davlo.core.outcomes.page_view import page_view

        site, page = with_page(self, path, facts)
        return page_view(site.resolve(), page, is_new=True)

    def declared(self, kind: str | None = None) -> list[Declaration]:
        """Every declaration that is declared, with where it is used: on how many pages, and in which areas.

        Parameters
        ----------
        kind : str, optional
            `layout`, `theme`, `sidebar`, `look`, `band`, `block`, `preset`, `person`, `group` or `role`: these alone.

        Raises
        ------
        UnknownName
            If there is no such kind.

        Example
        -------
        >>> import davlo
        >>> {declaration.name: declaration.pages for declaration in davlo.open_demo().declared("theme")}
        {'day': 149, 'evening': 9}
        """
        from davlo.core.faults import UnknownName
        from davlo.core.outcomes.uses import KINDS, Uses

        if kind is not None and kind not in KINDS:
            raise UnknownName("kind of declaration", kind, KINDS)
        return list(Uses(self.resolve()).declarations(kind))

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

    def check(self, today: datetime.date | None = None) -> Report:
        """Every finding, the worst first.

        Parameters
        ----------
        today : datetime.date, optional
            The day that the sitemap's age is told for; the clock's unless said.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().check().findings[0].level
        'error'
        """
        from davlo.core.findings.check import check
        from davlo.files.store.last_sitemap import last_published

        published = last_published(Path(self.folder), self.sitemap.join) if self.folder else None
        return check(self.resolve(), published, today)

    def access(self) -> Access:
        """Who may do what, on which pages.

        Example
        -------
        >>> import davlo
        >>> access = davlo.open_demo().access()
        >>> access.actions("sefa.moana", access.site.page_number("/members/pages/sefa-moana"))
        ('view', 'edit')
        """
        from davlo.core.outcomes.access import Access

        return Access(self.resolve())


class Effective(EffectiveModel):
    """The effective settings of a site: a mapping from a page's path to its settings.

    Settings are resolved as they are asked for, each for all pages at once.

    Parameters
    ----------
    site : Site
    settings, pages : optional
        What it speaks of; everything unless said. See `Site.resolve`.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> effective["/campaigns/spring"]["title.show"], str(effective.source("/", "band.footer").scope)
    (False, 'everywhere')
    """

    def __init__(
        self, site: SiteModel, settings: Iterable[str] | None = None, pages: Iterable[str] | None = None
    ) -> None:
        super().__init__(site)
        self._settings = None if settings is None else [site.setting_number(name) for name in settings]
        self._pages = None if pages is None else np.array([site.page_number(path) for path in pages], dtype=np.int64)
        self._chosen = None if self._pages is None else set(self._pages.tolist())

    def __repr__(self) -> str:
        some = "" if self._settings is None else f", {len(self._settings)} settings"
        return f"<Effective: {len(self)} pages of {self.site.name!r}{some}>"

    def _repr_html_(self) -> str:
        from davlo.frames.notebook import effective_html

        return effective_html(self, self.settings(), self.page_numbers())

    def __len__(self) -> int:
        return super().__len__() if self._pages is None else len(self._pages)

    def __iter__(self) -> Iterator[str]:
        return super().__iter__() if self._pages is None else (self.site.tree.paths[p] for p in self._pages.tolist())

    def __getitem__(self, path: str) -> PageSettings:
        page = self.site.tree.find(path)
        if page < 0 or (self._chosen is not None and page not in self._chosen):
            raise KeyError(path)
        return PageSettings(self, page, self._settings)

    @cached_property
    def outcomes(self) -> Outcomes:
        """What readers and search engines meet: titles, the menu, the sitemap, what stands in areas.

        Example
        -------
        >>> import davlo
        >>> outcomes = davlo.open_demo().resolve().outcomes
        >>> outcomes.of("/campaigns/spring").composition.theme.name
        'evening'
        """
        from davlo.core.outcomes.page_outcomes import Outcomes

        return Outcomes(self)

    def settings(self) -> list[int]:
        """The numbers of the settings it speaks of, in their order."""
        return list(range(len(self.site.catalogue))) if self._settings is None else self._settings

    def page_numbers(self) -> np.ndarray[Any, np.dtype[np.int64]]:
        """The numbers of the pages it speaks of, in their order. int64[pages]"""
        return np.arange(len(self.site.tree)) if self._pages is None else self._pages

    def codes(self, setting: str) -> tuple[Codes, Sequence[Plain]]:
        """The values of a setting as codes, int32[pages], and the words they stand for.

        Raises
        ------
        UnknownName
            If there is no such setting.

        Example
        -------
        >>> import davlo
        >>> codes, words = davlo.open_demo().resolve(pages=["/", "/staff"]).codes("layout.name")
        >>> [words[code] for code in codes]
        ['plain', 'two-column']
        """
        codes, words = super().codes(setting)
        return (codes if self._pages is None else codes[self._pages]), words

    def to_frame(self, settings: Iterable[str] | None = None, sources: bool = False) -> pd.DataFrame:
        """A pandas frame: a row a page, called by its path, and a column a setting.

        Parameters
        ----------
        settings : names of settings, optional
            The columns; all it speaks of unless said.
        sources : bool
            Whether each column is followed by `source of SETTING`, which scope the value came from.

        Returns
        -------
        pandas.DataFrame
            Flags as `boolean`, integers as `Int64`, numbers as `float64`, all else categorical; a list
            is a tuple. Missing where the page does not have the setting, or the value is none.

        Raises
        ------
        UnknownName
            If there is no such setting.
        ImportError
            If pandas is not installed.

        Example
        -------
        >>> import davlo
        >>> frame = davlo.open_demo().resolve().to_frame(["layout.name", "title.limit"])
        >>> frame.loc["/visit/tickets"].to_dict()
        {'layout.name': 'two-column', 'title.limit': 60}
        """
        try:
            from davlo.frames.pandas_frame import to_frame
        except ImportError:
            raise ImportError("a frame needs pandas: pip install 'davlo[frames]'") from None
        return to_frame(self, self._numbers(settings), self.page_numbers(), sources)

    def to_arrow(self, settings: Iterable[str] | None = None) -> pa.Table:
        """A pyarrow table, as `davlo table --to FILE.parquet` writes it: path, and for each setting value and source.

        Raises
        ------
        UnknownName
            If there is no such setting.
        ImportError
            If pyarrow is not installed.

        Example
        -------
        >>> import davlo
        >>> davlo.open_demo().resolve().to_arrow(["layout.name"]).column_names
        ['path', 'layout.name', 'source of layout.name']
        """
        try:
            from davlo.frames.parquet import wide_table
        except ImportError:
            raise ImportError("an arrow table needs pyarrow: pip install 'davlo[parquet]'") from None
        return wide_table(self, self._numbers(settings), self._pages)

    def _numbers(self, settings: Iterable[str] | None) -> list[int]:
        return self.settings() if settings is None else [self.site.setting_number(name) for name in settings]
