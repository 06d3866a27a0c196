"""The page list of a site held against what somebody has of its pages now: what is new, differs, or is missing."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.texts import Texts
from davlo.core.change.steps.change import AddDetail, Change, RefreshPages, Step
from davlo.core.change.steps.new_page import details_by_neighbours
from davlo.core.change.steps.page_steps import NAMING, is_detail_name
from davlo.core.change.steps.replant import BLANK_MEANS
from davlo.core.progress import each
from davlo.core.site.model import SiteModel
from davlo.core.site.pages.conditions import split_list
from davlo.core.site.pages.details import STANDARD
from davlo.core.site.pages.page_names import starts_of

from .seen_site import ColumnMeaning, Remark, SeenSite
from .sources import is_table, read_sources
from .together import paths_of

GUESSED = ("order",)
"""Details that built pages tell by a guess: those of a page that is there already stay."""


class Refresh(NamedTuple):
    """What brings a page list up to date, and what is left to somebody."""

    change: Change  # pages that are new, details that differ, and missing pages if they are to be dropped
    new: tuple[str, ...]
    differing: int  # how many pages have another detail now
    missing: tuple[str, ...]  # pages of the site that the sources lack, those above pages that stay left out
    above: tuple[str, ...]  # pages that the sources lack, and that lie above pages which they have
    moved: tuple[tuple[str, str], ...]  # pages that are missing, and the new ones that alone share their titles
    decisions: tuple[str, ...]  # columns that hold values of settings: they are left alone
    columns: tuple[ColumnMeaning, ...]
    remarks: tuple[Remark, ...]


def refresh_change(
    site: SiteModel,
    sources: Sequence[str | Path],
    *,
    meanings: Mapping[str, str] | None = None,
    areas: str | Path | None = None,
    query: str = "",
    drop_missing: bool = False,
) -> Refresh:
    """What would bring the page list of a site up to date with what somebody has; nothing is written.

    Decisions are left alone: only pages and their details are compared. A blank cell of a table blanks the detail; a
    sitemap and built pages say nothing about a detail that they do not show.

    Parameters
    ----------
    site : SiteModel
    sources, meanings, areas, query
        As `start_site_from` takes them.
    drop_missing : bool
        Whether pages that the sources lack are dropped.

    Raises
    ------
    SiteError
        If a source cannot be understood; it lists every fault.

    Example
    -------
    >>> import davlo, pathlib, tempfile
    >>> with tempfile.TemporaryDirectory() as holder:
    ...     table = pathlib.Path(holder, "pages.csv")
    ...     _ = table.write_text("URL,Title\\n/visit,Visit us\\n/visit/picnic,Picnic\\n")
    ...     found = refresh_change(davlo.open_demo(), [table])
    >>> found.change.words
    'bring the page list up to date: add 1 page, set 1 detail of 1 page'
    >>> found.new, len(found.missing)
    (('/visit/picnic',), 156)
    """
    seen = read_sources(sources, meanings or {}, areas, query, site.url)
    return _Comparing(site, seen, all(map(is_table, sources))).found(drop_missing)


class _Comparing:
    """A site and what was seen of its pages; `is_exact`: whether only tables were seen, so that a blank cell counts."""

    def __init__(self, site: SiteModel, seen: SeenSite, is_exact: bool) -> None:
        self.site, self.seen, self.is_exact = site, seen, is_exact
        names = site.page_names
        self.paths = paths_of(names, seen.addresses)
        self.pages = site.tree.find_all(Texts.of(self.paths)).tolist()
        self.is_new = {path for path, page in zip(self.paths, self.pages, strict=True) if page < 0}
        self.remarks = [one for one in seen.lost if not one.of_decisions]
        self.decisions = [*seen.values]

    def found(self, drop_missing: bool) -> Refresh:
        """The whole comparison."""
        site, names = self.site, [*self._names()]
        new, cells = list[tuple[str, tuple[tuple[str, str], ...]]](), list[tuple[str, str, str]]()
        pages = list(zip(self.paths, self.pages, strict=True))
        for at, (path, page) in enumerate(each("comparing pages", pages, lambda one: one[0])):
            said = {name: self._cell(name, self.seen.details[name][at]) for name in names}
            if page < 0:
                address = site.page_names.published(self.seen.addresses[at])
                said |= {
                    one.name: one.text for one in details_by_neighbours(site, path, said) if one.name == "language"
                }
                new.append((address or path, tuple((name, text) for name, text in said.items() if text)))
            else:
                cells += [(path, name, text) for name, text in said.items() if self._differs(page, name, text)]
        missing, above = self._missing()
        gone = missing if drop_missing else ()
        columns = [AddDetail(name) for name in names if name not in (*STANDARD, *site.details.columns)]
        steps: list[Step] = [*columns] if new or cells else []
        steps += [RefreshPages(tuple(new), tuple(cells), tuple(gone))] if new or cells or gone else []
        return Refresh(
            Change(tuple(steps)),
            tuple(path for path, page in zip(self.paths, self.pages, strict=True) if page < 0),
            len({path for path, _, _ in cells}),
            tuple(missing),
            tuple(above),
            tuple(self._moved(missing)),
            tuple(self.decisions),
            self.seen.columns,
            tuple(self.remarks),
        )

    def _names(self) -> Iterator[str]:
        """The details that were seen, but for columns that no detail can be."""
        for name, texts in self.seen.details.items():
            if name in STANDARD or name in self.site.details.columns:
                yield name
            elif self.site.catalogue.could_be(name):
                self.decisions.append(name)
            elif is_detail_name(name):
                if any(texts):
                    yield name
            else:
                self.remarks.append(Remark(f"the column {name!r} is left out: no detail can have this name"))

    def _cell(self, name: str, text: str) -> str:
        """A cell as the page list would hold it."""
        if name in NAMING and text:
            path = self.site.page_names.path(text)
            return path if path.startswith("/") else text
        return text

    def _differs(self, page: int, name: str, text: str) -> bool:
        """Whether a page that is there has another detail now."""
        if not text and not self.is_exact:
            return False
        if name in GUESSED and not self.is_exact:
            return False
        if name == "parent":
            above = int(self.site.tree.parent[page])
            natural = self._above(self.site.tree.paths[page])
            wanted = text or natural
            return wanted != (self.site.tree.paths[above] if above >= 0 else "")
        before = self.site.details.column(name)[page]
        return self._plain(name, before) != self._plain(name, text)

    def _plain(self, name: str, text: str) -> object:
        """A cell by what it means."""
        if name == "tags":
            return tuple(split_list(text))
        return " ".join((text or BLANK_MEANS.get(name, "")).split())

    def _above(self, path: str) -> str:
        """The page above a path that says nothing else: the longest one that the path begins with."""
        tree = self.site.tree
        return next((start for start in starts_of(path) if start in self.is_new or tree.find(start) >= 0), "")

    def _missing(self) -> tuple[list[str], list[str]]:
        """The pages that the sources lack; and those of them that lie above pages which stay."""
        tree = self.site.tree
        seen = np.zeros(len(tree), dtype=bool)
        seen[[page for page in self.pages if page >= 0]] = True
        kept = np.concatenate([[0], np.cumsum(seen)])
        lacking = np.flatnonzero(~seen)
        holds = kept[tree.end[lacking]] > kept[lacking]
        new_below = {path for new in self.is_new for path in starts_of(new)}
        missing, above = list[str](), list[str]()
        for page, is_above in zip(lacking.tolist(), holds.tolist(), strict=True):
            path = tree.paths[page]
            (above if is_above or path in new_below else missing).append(path)
        return missing, above

    def _moved(self, missing: Sequence[str]) -> Iterator[tuple[str, str]]:
        """The pages that are missing, with the new pages that alone share their titles."""
        titles = self.seen.details.get("title", ())
        new: dict[str, list[str]] = {}
        for path, title in zip(self.paths, titles, strict=False):
            if path in self.is_new and title:
                new.setdefault(title, []).append(path)
        old: dict[str, list[str]] = {}
        for path in missing:
            old.setdefault(self.site.details.title[self.site.tree.number(path)], []).append(path)
        for title, paths in old.items():
            if len(paths) == len(new.get(title, ())) == 1:
                yield paths[0], new[title][0]
