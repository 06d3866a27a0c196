"""A site as it was read: its pages, declarations and decisions."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Mask
from ..arrays.texts import Texts
from ..cached import cached_property
from ..faults import Place, UnknownName
from ..fixed import Fixed
from .declarations import Declarations
from .file_notes import NO_NOTES, FileNotes
from .pages.conditions import Condition, pages_named, pages_selected
from .pages.details import Details
from .pages.page_names import INDEX, PageNames
from .pages.tree import Tree
from .pages.types import Types
from .people import People
from .publication import OwnershipProof, RobotsLine
from .settings.catalogue import Catalogue, expand_families
from .settings.values import Value
from .statements.scope_pages import ScopePages
from .statements.statement_table import Statements


class Rule(NamedTuple):
    """A rule: its name, the pages it matches, its place, and its author's note."""

    name: str
    place: Place
    when: Condition
    excepts: tuple[Condition, ...] = ()
    note: str = ""


class Guarantee(NamedTuple):
    """What must hold for the pages that match `when`: their values, and subjects that may or may not act."""

    name: str
    place: Place
    when: Condition
    excepts: tuple[Condition, ...]
    has: Mapping[int, Value]
    may: Mapping[str, tuple[str, ...]]
    may_not: Mapping[str, tuple[str, ...]]


class Viewpoint(NamedTuple):
    """A page and a viewer to look at after every change; `page` is a path, which may be gone."""

    page: str
    viewer: str
    place: Place


class Accept(NamedTuple):
    """Findings that are known and meant."""

    place: Place
    because: str
    kind: str = ""
    setting: str = ""
    declaration: str = ""
    when: Condition | None = None


class SitemapRules(NamedTuple):
    """What keeps a page out of the sitemap besides its own settings, and how long the file is fresh (days)."""

    menu_hidden: bool = False
    priority_under: float = 0.0
    stale_after_days: int = 0
    add_addresses_from: tuple[str, ...] = ()


NO_SITEMAP_RULES = SitemapRules()


@dataclass(frozen=True)
class SiteModel(Fixed):
    """One website's pages, declarations and decisions.

    Nothing in it changes; all else is worked out from it.
    """

    name: str
    url: str
    languages: tuple[str, ...]
    language_paths: str
    page_list: str
    catalogue: Catalogue
    tree: Tree
    details: Details
    declarations: Declarations
    people: People
    actions: tuple[str, ...]
    rules: tuple[Rule, ...]
    statements: Statements
    guarantees: tuple[Guarantee, ...] = ()
    accepts: tuple[Accept, ...] = ()
    viewpoints: tuple[Viewpoint, ...] = ()
    max_entries: int = 0
    sitemap: SitemapRules = NO_SITEMAP_RULES
    folder: str = ""
    """The site folder; empty for a site that is in none."""
    file_notes: FileNotes = NO_NOTES
    """What its files leave to know for whoever edits them."""
    home_path: str = "/"
    """The path of the home page, which the page list may lack."""
    index_files: tuple[str, ...] = INDEX
    """The names of index files."""
    written_url: str = ""
    """The site's own address as davlo.yaml writes it, if its host is in letters that become punycode; else empty."""
    ownership_proofs: tuple[OwnershipProof, ...] = ()
    robots: tuple[RobotsLine, ...] = ()
    """The site's own lines for robots.txt."""
    for_other_languages: str = ""
    """The language for readers of all other languages; empty if none is given."""
    notes: tuple[str, ...] = ()
    """What Davlo read differently from how it is written, one sentence each."""

    def __repr__(self) -> str:
        counts = f"{len(self.tree)} pages, {len(self.catalogue)} settings, {len(self.statements)} statements"
        return f"<{type(self).__name__} {self.name!r}: {counts}>"

    @property
    def types(self) -> Types:
        """The types of the pages."""
        return self.details.types

    @cached_property
    def scope_pages(self) -> ScopePages:
        """Which pages each scope is for."""
        named = pages_named((one for rule in self.rules for one in (rule.when, *rule.excepts)), self.tree)
        matched = tuple(pages_selected(rule.when, rule.excepts, self.tree, self.details, named) for rule in self.rules)
        return ScopePages(self.types, self.details.type_of, self.tree.depth, matched, self.tree.end)

    @cached_property
    def known_sources(self) -> dict[int, Any]:
        """The sources that were asked for, by their statements; `source_of` fills and empties it."""
        return {}

    @cached_property
    def has_by_type(self) -> Mask:
        """Which settings the pages of each type have. bool[settings, types]"""
        has = np.ones((len(self.catalogue), len(self.types)), dtype=bool)
        for number, (name, base) in enumerate(zip(self.types.names, self.types.base, strict=True)):
            if base >= 0:
                has[:, number] = has[:, base]  # a base has a smaller number
            declared = self.types.declared.get(name)
            if declared and declared.without:
                has[list(expand_families(declared.without, self.catalogue)), number] = False
        for s, setting in enumerate(self.catalogue.settings):
            if setting.for_types:
                has[s] &= self.types.based_on(map(self.types.find, setting.for_types))
        return has

    def has(self, setting: int) -> Mask:
        """Which pages have a setting. bool[pages], to be read only"""
        by_type: Mask = self.has_by_type[setting]
        if by_type.all():
            return np.broadcast_to(np.ones(1, dtype=bool), len(self.tree))  # the same everywhere: no array
        return by_type[self.details.type_of]

    def pages(self, when: Condition, excepts: Sequence[Condition] = ()) -> Mask:
        """Which pages a condition selects. bool[pages]"""
        selected = np.zeros(len(self.tree), dtype=bool)
        selected[pages_selected(when, excepts, self.tree, self.details)] = True
        return selected

    @cached_property
    def page_names(self) -> PageNames:
        """The reader of names of the site's pages."""
        return PageNames(self.url, self.index_files, self.written_url)

    def page_number(self, name: str) -> int:
        """The number of the page that a path, with a slash at its end or not, or a full address names.

        Raises UnknownName if there is none.
        """
        return self.tree.number(self.page_names.path(name))

    def page_numbers(self, names: Iterable[str]) -> list[int]:
        """The numbers of the pages that these names mean, looked up at once; -1 for each that is not there."""
        numbers: list[int] = self.tree.find_all(Texts.of(map(self.page_names.path, names))).tolist()
        return numbers

    def find_page(self, words: str) -> int:
        """The number of the page that a path, or a title that only one page has, names; white space in it may differ.

        If no title is the same, one in other letters counts (`tickets` for Tickets), and then the end of a path.

        Raises UnknownName if there is none, or several share the title; `allowed` then holds their paths.
        """
        page = self.tree.find(self.page_names.path(words))
        if page >= 0:
            return page
        titled = np.flatnonzero(self.details.title.mask([words]))
        if not len(titled):
            told = words.split()  # no-break spaces and others count as spaces
            title = self.details.title
            titled = np.flatnonzero(title.where([word.split() == told for word in title.words])) if told else titled
        if not len(titled):
            titled = self._nearly_named(words)
        if len(titled) == 1:
            return int(titled[0])
        if len(titled):
            raise UnknownName("single page titled", words, [self.tree.paths[p] for p in titled.tolist()])
        raise UnknownName("page", words, self.tree.paths)

    def _nearly_named(self, words: str) -> NDArray[np.int64]:
        """The pages that have a title in other letters, or else the page whose path alone ends so. int64[n]"""
        told, title = words.casefold().split(), self.details.title
        if not told:
            return np.zeros(0, dtype=np.int64)
        in_other_letters = title.where([word.casefold().split() == told for word in title.words])
        found: NDArray[np.int64] = np.flatnonzero(in_other_letters)
        if not len(found) and "/" not in words:
            end = f"/{'-'.join(told)}".encode()
            holding = self.tree.paths.holding_text(end)
            ends = [path.encode().endswith(end) for path in self.tree.paths.take(holding)]
            found = holding[np.array(ends, dtype=bool)] if sum(ends) == 1 else found
        return found

    def setting_number(self, name: str) -> int:
        """The number of a setting that exists.

        Raises UnknownName if it does not.
        """
        number = self.catalogue.find(name)
        if number is None:
            raise UnknownName("setting", name, self.catalogue.names())
        return number
