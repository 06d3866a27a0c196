"""A folder of built pages beside the site: which page each file shows, and which pages should be there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cache, partial

import numpy as np

from davlo.core.arrays.codebooks import Mask
from davlo.core.arrays.texts import Texts
from davlo.core.cached import cached_property
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.areas import AreaContent, composition
from davlo.core.outcomes.page_outcomes import Outcomes
from davlo.core.outcomes.sitemap.addresses import Published, published
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.model import SiteModel
from davlo.core.site.people import VISITOR
from davlo.core.site.source import Source, source_of
from davlo.files.built.built_folder import BuiltFolder
from davlo.files.built.built_page import BuiltPage
from davlo.files.read.sections.hosts import as_published

from .mistakes import DRAFT, MISSING, OPEN, TWICE, UNKNOWN, Mistake

_ENDINGS = (".html", ".htm", ".xhtml")


class BuiltSite:
    """The site's pages and the files that show them.

    `shown`: the pages that are there, each once, in the order of the files.
    """

    def __init__(self, effective: EffectiveModel, built: BuiltFolder) -> None:
        self.effective, self.site, self.built = effective, effective.site, built
        self.outcomes: Outcomes = effective.shared(Outcomes)
        self.shown: list[tuple[int, BuiltPage]] = []
        self._twice: list[tuple[int, BuiltPage]] = []
        self._unknown: list[BuiltPage] = []
        self.path_of = cache(self._path_of)
        self.composition = cache(partial(composition, effective))
        self._known = _Known(self.site)
        self._known.learn(built.pages)
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
        return [(number, page) for number, page in self.shown if self.expected[number] and not self.leads_away[number]]

    @cached_property
    def leads_away(self) -> Mask:
        """The pages that only send their readers on. bool[pages]"""
        return self.site.details.leads_away

    def _page_of(self, page: BuiltPage) -> tuple[int, str]:
        """The page that a file shows, by where it lies, else by the address that it gives as its own."""
        for one in _paths_of(self.site, page):
            if one in self._by_address:
                return self._by_address[one]
            number = self.number_of(one)
            if number >= 0:
                return number, ""
        return -1, ""

    def whole(self, target: str) -> str:
        """The full address of a link's target, in the form that compares addresses (RFC 3986, section 6.2.2)."""
        if target not in self._known.whole:
            self._known.learn_targets([target])
        return self._known.whole[target]

    def number_of(self, path: str) -> int:
        """The number of a page; -1 if there is none."""
        if path not in self._known.number:
            self._known.learn_paths([path])
        return self._known.number[path]

    def _path_of(self, target: str) -> str:
        """The path of the page that a link leads to; the link itself if it leads to no page."""
        path = self.site.page_names.path(self.whole(target)) if target else ""
        page, _ = self._by_address.get(path, (self.number_of(path), ""))
        page = self._by_file.get(path, page) if page < 0 else page
        return self.site.tree.paths[page] if page >= 0 else path

    def page_met(self, target: str) -> str:
        """The path of the page that a reader meets at a link's target: the one that it leads on to, if it does."""
        path = self.path_of(target)
        page = self.number_of(path)
        if page >= 0 and self.leads_away[page]:
            return self.path_of(self.site.details.columns["leads_to"][page])
        return path

    def areas(self, page: int) -> tuple[AreaContent, ...]:
        """What should stand in each area of a page."""
        return self.composition(page).areas

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
        is_built = details.live & ~details.folder
        for number, _ in self.shown:
            if not is_built[number]:
                yield Mistake(DRAFT, paths[number], "", f"status {details.status[number]}")
            elif not may_view[number]:
                yield Mistake(OPEN, paths[number], source=self.source(number, "access.everyone"))
        there = np.zeros(len(self.site.tree), dtype=bool)
        there[[number for number, _ in self.shown]] = True
        for number in np.flatnonzero(self.expected & ~self.leads_away & ~there).tolist():
            yield Mistake(MISSING, paths[number])


class _Known:
    """The full addresses of links' targets, and the numbers of paths: many are looked up at once.

    `whole`: by target. `number`: by path; -1 where there is no such page.
    """

    def __init__(self, site: SiteModel) -> None:
        self._site = site
        self.whole: dict[str, str] = {}
        self.number: dict[str, int] = {}

    def learn(self, pages: Sequence[BuiltPage]) -> None:
        """Look up what pages and their links are called."""
        blocks = {id(block): block for page in pages for area in page.areas for block in area.blocks}
        targets = dict.fromkeys(target for block in blocks.values() for _, target in block.links)
        for page in pages:
            targets.update(dict.fromkeys((*page.canonicals, *(target for _, target in page.alternates))))
        self.learn_targets([*targets])
        self.learn_paths([path for page in pages for path in _paths_of(self._site, page)])

    def learn_targets(self, targets: Sequence[str]) -> None:
        """Look up targets of links, and the pages that they lead to."""
        full = (self._site.url + target if target.startswith("/") else target for target in targets)
        self.whole.update(zip(targets, as_published(full), strict=True))
        self.learn_paths([self._site.page_names.path(self.whole[target]) for target in targets])

    def learn_paths(self, paths: Sequence[str]) -> None:
        """Look up paths; what is no path is no page's."""
        self.number.update(zip(paths, self._site.tree.find_all(Texts.of(paths)).tolist(), strict=True))


def _paths_of(site: SiteModel, page: BuiltPage) -> tuple[str, ...]:
    """What the page that a file shows can be called: by where it lies, or by the address that it gives as its own."""
    names = site.page_names
    path = names.path(site.url + page.address)
    bare = next((path.removesuffix(ending) for ending in _ENDINGS if path.endswith(ending)), path)
    return (path, bare, names.path(page.canonical)) if page.canonical else (path, bare)
