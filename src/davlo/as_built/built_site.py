"""A folder of built pages beside the site: which page each file shows, and which pages should be there."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache, cached_property

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.areas import AreaContent, composition
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.sitemap.addresses import Published, published
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.people import VISITOR
from davlo.core.site.source import Source, source_of
from davlo.files.built.built_folder import BuiltFolder
from davlo.files.built.built_page import BuiltPage
from davlo.files.read.sections.hosts import as_published

from .mistakes import DRAFT, MISSING, OPEN, TWICE, UNKNOWN, Mistake

_ENDINGS = (".html", ".htm", ".xhtml")


class BuiltSite:
    """The site's pages and the files that show them.

    `shown`: the pages that are there, each once, in the order of the files. `whole(target)`: the full address of a
    link's target; `path_of(target)`: the path of the page that a link leads to. Both remember what they found.
    """

    def __init__(self, effective: EffectiveModel, built: BuiltFolder) -> None:
        self.effective, self.site, self.built = effective, effective.site, built
        self.outcomes: Outcomes = effective.shared(Outcomes)
        self.shown: list[tuple[int, BuiltPage]] = []
        self._twice: list[tuple[int, BuiltPage]] = []
        self._unknown: list[BuiltPage] = []
        self._areas: dict[int, tuple[AreaContent, ...]] = {}
        self.whole, self.path_of = cache(self._whole), cache(self._path_of)
        seen = set[tuple[int, str]]()
        for page in built.pages:
            number, language = self._page_of(page)
            if number < 0:
                self._unknown.append(page)
            elif (number, language) in seen:
                self._twice.append((number, page))
            else:
                seen.add((number, language))
                self.shown.append((number, page))

    @cached_property
    def area_names(self) -> frozenset[str]:
        """What the areas of built pages are called."""
        return frozenset(area.name for _, page in self.shown for area in page.areas)

    @cached_property
    def _by_file(self) -> dict[str, int]:
        """The page of each file, by the path at which the folder's links lead to it."""
        return {self.site.page_names.path(page.address): number for number, page in self.shown}

    @cached_property
    def addresses(self) -> Published:
        """The addresses of all pages that a visitor may view; their alternates name each other."""
        return published(self.site, np.flatnonzero(self.expected))

    @cached_property
    def expected(self) -> Mask:
        """The pages that should be built: live, no folders, that a visitor may view. bool[pages]"""
        details = self.site.details
        may_view = self.effective.shared(AccessModel).allowed(VISITOR, "view")
        return details.live & ~details.folder & may_view

    @cached_property
    def _by_address(self) -> dict[str, tuple[int, str]]:
        """The page of each published address, by its path, and the language of the address."""
        every = published(self.site, np.arange(len(self.site.tree)))
        languages = (*every.languages, "")
        pages = zip(every.page.tolist(), every.language.tolist(), every.urls(), strict=True)
        return {self.site.page_names.path(url): (page, languages[code]) for page, code, url in pages}

    @cached_property
    def drawn(self) -> list[tuple[int, BuiltPage]]:
        """Those of `shown` that should be there, and that show something: others only send their readers on."""
        leads_away = self.site.details.leads_away
        return [(number, page) for number, page in self.shown if self.expected[number] and not leads_away[number]]

    def _page_of(self, page: BuiltPage) -> tuple[int, str]:
        """The page that a file shows, by where it lies, else by the address that it gives as its own."""
        names = self.site.page_names
        path = names.path(self.site.url + page.address)
        bare = next((path.removesuffix(ending) for ending in _ENDINGS if path.endswith(ending)), path)
        for one in (path, bare, names.path(page.canonical) if page.canonical else ""):
            if one in self._by_address:
                return self._by_address[one]
            number = self.site.tree.find(one) if one else -1
            if number >= 0:
                return number, ""
        return -1, ""

    def _whole(self, target: str) -> str:
        """The full address of a link's target, in the form that compares addresses (RFC 3986, section 6.2.2)."""
        address = self.site.url + target if target.startswith("/") else target
        return as_published([address])[0]

    def _path_of(self, target: str) -> str:
        """The path of the page that a link leads to; the link itself if it leads to no page."""
        path = self.site.page_names.path(self.whole(target)) if target else ""
        page, _ = self._by_address.get(path, (self.site.tree.find(path) if path else -1, ""))
        page = self._by_file.get(path, page) if page < 0 else page
        return self.site.tree.paths[page] if page >= 0 else path

    def page_met(self, target: str) -> str:
        """The path of the page that a reader meets at a link's target: the one that it leads on to, if it does."""
        path = self.path_of(target)
        page, details = self.site.tree.find(path), self.site.details
        if page >= 0 and details.leads_away[page]:
            return self.path_of(details.columns["leads_to"][page])
        return path

    def areas(self, page: int) -> tuple[AreaContent, ...]:
        """What should stand in each area of a page."""
        if page not in self._areas:
            self._areas[page] = tuple(composition(self.effective, page).areas)
        return self._areas[page]

    def source(self, page: int, setting: str) -> Source | None:
        """The statement that decides a setting of a page; None where there is no such setting."""
        number = self.site.catalogue.find(setting)
        if number is None:
            return None
        return source_of(self.site, int(self.effective.resolved(number).source[page]))

    def page_mistakes(self) -> Iterator[Mistake]:
        """Pages that only the site or only the folder has, and pages that are built and should not be."""
        paths, details = self.site.tree.paths, self.site.details
        may_view = self.effective.shared(AccessModel).allowed(VISITOR, "view")
        for page in self._unknown:
            yield Mistake(UNKNOWN, page.address)
        for number, page in self._twice:
            yield Mistake(TWICE, paths[number], "", page.file)
        for number, _ in self.shown:
            if not details.live[number] or details.folder[number]:
                yield Mistake(DRAFT, paths[number], "", f"status {details.status[number]}")
            elif not may_view[number]:
                yield Mistake(OPEN, paths[number], source=self.source(number, "access.everyone"))
        there = np.zeros(len(self.site.tree), dtype=bool)
        there[[number for number, _ in self.shown]] = True
        for number in np.flatnonzero(self.expected & ~details.leads_away & ~there).tolist():
            yield Mistake(MISSING, paths[number])
