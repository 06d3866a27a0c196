"""Effective settings as a library user holds them: by the names of pages and settings."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Codes
from davlo.core.cached import cached_property
from davlo.core.faults import UnknownName
from davlo.core.resolve.effective import EffectiveModel, PageSettings
from davlo.core.site.model import SiteModel
from davlo.core.site.settings.values import Plain

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

    from davlo.core.outcomes.page_outcomes import Outcomes
    from davlo.core.outcomes.shown_values import ShownValues
    from davlo.core.resolve.exception_causes import ExceptionCause
    from davlo.core.resolve.exceptions import PageExceptions
    from davlo.core.resolve.statement_uses import StatementUse


class Effective(EffectiveModel):
    """The effective settings of a site: a mapping from a page's path to its settings.

    Settings are resolved as they are asked for, each for all pages at once.

    Parameters
    ----------
    site : Site
    settings, pages : optional
        What is resolved; everything unless given. Every question about another page or setting raises `UnknownName`.
        Arrays of `outcomes` and `shown`, and the counts of `statements`, are for all pages of the site: they go by
        page numbers.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> effective["/campaigns/spring"]["heading.show"], str(effective.source("/", "band.footer").scope)
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

        return effective_html(self, self._numbers(None), self._page_numbers())

    def __len__(self) -> int:
        return super().__len__() if self._pages is None else len(self._pages)

    def __iter__(self) -> Iterator[str]:
        return super().__iter__() if self._pages is None else (self.site.tree.paths[p] for p in self._pages.tolist())

    def __getitem__(self, path: str) -> PageSettings:
        return PageSettings(self, self.page_number(path), self._settings)

    def page_number(self, name: str) -> int:
        page = super().page_number(name)
        if self._chosen is not None and page not in self._chosen:
            raise UnknownName("page among those resolved", name, tuple(self))
        return page

    def setting_number(self, name: str) -> int:
        number = super().setting_number(name)
        if self._settings is not None and number not in self._settings:
            raise UnknownName("setting among those resolved", name, self.settings())
        return number

    def exceptions(self, setting: str) -> PageExceptions:
        found = super().exceptions(setting)
        return found if self._pages is None else found.among(self._pages)

    def exception_causes(self) -> list[ExceptionCause]:
        """Why pages are exceptions, for all settings.

        Rules come first, then what pages say themselves, then stamps; the cause of the most pages first.

        Example
        -------
        >>> import davlo
        >>> found = davlo.open_demo().resolve().exception_causes()[1]
        >>> str(found.scope), found.because, len(found.pages)
        ('rule Hand-built pages run edge to edge', 'The potting bench draws its own frame', 4)
        >>> [(one.setting, one.values()[0].value, len(one.pages)) for one in found.settings]
        [('layout.name', 'open', 4), ('sidebar.right', None, 4)]
        """
        from davlo.core.resolve.exception_causes import exception_causes

        among = None
        if self._pages is not None:
            among = np.zeros(len(self.site.tree), dtype=bool)
            among[self._pages] = True
        return exception_causes(self, among)

    def statements(self, setting: str) -> list[StatementUse]:
        """Every statement of a setting in all scopes, weakest first, with the pages that it reaches and decides.

        Pages are counted over the whole site.

        Raises
        ------
        UnknownName
            If there is no such setting.

        Example
        -------
        >>> import davlo
        >>> for one in davlo.open_demo().resolve().statements("layout.theme"):
        ...     print(f"{one.source.scope}: {one.says}; reaches {one.reaches}, decides {one.decides}")
        everywhere: day; reaches 158, decides 149
        rule Night events are drawn in the dark theme: evening; reaches 3, decides 3
        rule Campaign pages show what to do: evening; reaches 6, decides 6
        """
        from davlo.core.resolve.statement_uses import StatementUses, of_setting

        return list(StatementUses(self, of_setting(self, setting)).records())

    @cached_property
    def shown(self) -> ShownValues:
        """Which values are shown on a page, and why others are not.

        Example
        -------
        >>> import davlo
        >>> shown = davlo.open_demo().resolve().shown
        >>> shown.reason("/campaigns/spring", "band.footer")
        'the theme evening has no place for the area footer: it shows nothing'
        >>> int((~shown.pages("band.footer")).sum())
        9
        """
        from davlo.core.outcomes.shown_values import ShownValues

        return self.shared(ShownValues)

    def search(self, *having: str, shown: Iterable[str] = (), not_shown: Iterable[str] = ()) -> list[str]:
        """The paths of the pages that have certain values, in the order of the tree.

        Parameters
        ----------
        *having : str
            `SETTING=VALUE`: all settings must match; one that is named again may have either value. A list matches if
            it holds all items named (`blocks.content=plate; facts-box`); with no item, if it is empty.
        shown, not_shown : iterable of str
            Settings whose value is shown, and settings whose value is set but not shown.

        Raises
        ------
        UnknownName
            If there is no such setting.
        ValueError
            If a setting cannot have such a value.

        Example
        -------
        >>> import davlo
        >>> effective = davlo.open_demo().resolve()
        >>> effective.search("sidebar.right=none", "heading.show=no", shown=["layout.name"])[:2]
        ['/campaigns/spring', '/campaigns/spring/pledge']
        >>> effective.search(not_shown=["band.footer"])[0]
        '/visit/schools/workshops/owl-night'
        """
        from davlo.core.outcomes.page_search import search_pages

        found = np.flatnonzero(search_pages(self, having, shown, not_shown))
        chosen = found if self._pages is None else self._pages[np.isin(self._pages, found)]
        return self.site.tree.paths.take(chosen).tolist()

    @cached_property
    def outcomes(self) -> Outcomes:
        """What readers and search engines get, each for all pages at once: titles, the menu, the sitemap.

        Example
        -------
        >>> import davlo
        >>> outcomes = davlo.open_demo().resolve().outcomes
        >>> outcomes.titles[outcomes.site.page_number("/campaigns/spring")]
        'Spring at Quillmere · Quillmere Botanic Garden'
        """
        from davlo.core.outcomes.page_outcomes import Outcomes

        return self.shared(Outcomes)

    def settings(self) -> tuple[str, ...]:
        """The names of the settings that were resolved, in their order."""
        return tuple(self.site.catalogue[number].name for number in self._numbers(None))

    def _page_numbers(self) -> NDArray[np.int64]:
        return np.arange(len(self.site.tree)) if self._pages is None else self._pages

    def codes(self, setting: str) -> tuple[Codes, Sequence[Plain]]:
        """The values of a setting as codes, int32[pages], and the words they mean.

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
            The columns (default: all settings of the result).
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
        return to_frame(self, self._numbers(settings), self._page_numbers(), sources)

    def to_arrow(self, settings: Iterable[str] | None = None) -> pa.Table:
        """A pyarrow table, as `davlo export --to FILE.parquet` writes it: path, and for each setting value and source.

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
        if settings is not None:
            return [self.setting_number(name) for name in settings]
        return list(range(len(self.site.catalogue))) if self._settings is None else self._settings
