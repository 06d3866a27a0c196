"""What a folder of built pages shows of a site."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from davlo.core.site.pages.details import STANDARD
from davlo.core.site.pages.page_names import PageNames, starts_of
from davlo.files.built.built_folder import BuiltFolder
from davlo.files.built.built_page import BuiltPage

from .column_meanings import is_setting
from .languages import translations
from .seen_areas import seen_areas, with_links
from .seen_menus import seen_menus
from .seen_navigation import with_one_navigation
from .seen_site import Remark, Seen, SeenSite, most_common, origin
from .title_patterns import title_patterns

OPENED = "links that navigation shows in the open section alone"
LEAST_BELOW = 3
"""A page with fewer pages right below it is not taken for the home page of its language."""
MOST_FILES = 3
"""The most files that cannot be read and are named; the rest is counted."""


class _Places(NamedTuple):
    """Where pages are."""

    # `files`, `addresses`: where each page would be by its file, and what it publishes as its address, without the host
    files: list[str]
    addresses: list[str]
    paths: list[str]
    number: dict[str, int]  # the page of each path, its file's own among them
    names: PageNames

    def file(self, target: str) -> str:
        """The address of the file that a link leads to; empty if it is no page."""
        page = self.number.get(self.names.path(target), -1)
        return self.files[page] if page >= 0 else ""

    def meant(self, target: str) -> str:
        """The path of the page that a link leads to; the link itself if it leads to no page."""
        path = self.names.path(target) if target else ""
        page = self.number.get(path, -1)
        return self.paths[page] if page >= 0 else path


def seen_in_pages(built: BuiltFolder, label: str) -> SeenSite:
    """What a folder of built pages shows of a site.

    `label`: what remarks call the folder.
    """
    pages, places = built.pages, _places(built.pages)
    shown = [not _leads_away(page, path, places) for page, path in zip(pages, places.paths, strict=True)]
    parent, beside = _parents(pages, places, shown)
    links = [tuple((code, places.file(target)) for code, target in page.alternates) for page in pages]
    spoken = translations([page.address for page in pages], links, [page.language for page in pages], shown)
    home = _home(places, parent, shown)
    titles = title_patterns(
        [page.title if is_shown else "" for page, is_shown in zip(pages, shown, strict=True)],
        [page.heading for page in pages],
        parent,
        home,
        home if home >= 0 else _top(parent, [code in spoken.languages[:1] for code in spoken.language]),
        [page.site_name for page in pages],
    )
    one_language = [code if spoken.languages else "" for code in spoken.language]
    areas, opened = with_one_navigation([*with_links((page.areas for page in pages), places.meant)], one_language)
    own_titles = [
        one.title if is_shown else page.title for one, is_shown, page in zip(titles.pages, shown, pages, strict=True)
    ]
    menus = seen_menus(areas, one_language, places.number, parent, own_titles)
    in_menu = [path for path, one in zip(places.addresses, menus.show, strict=True) if one == "yes"]
    lower = [page.file for page in pages if page.heading_tag not in ("", "h1")]
    stand = seen_areas(
        areas, menus.blocks, places.addresses, shown, parent, [dict(page.details).get("type", "") for page in pages]
    )
    site = {
        **spoken.declared.get("site", {}),
        **({"home": places.paths[home]} if home >= 0 and places.paths[home] != "/" else {}),
    }
    details: dict[str, Sequence[str]] = {
        "title": own_titles,
        "parent": _parent_cells(places, parent),
        "language": spoken.language if spoken.languages else [""] * len(pages),
        "translates": [places.meant(address) for address in spoken.translates],
        "created": [page.created for page in pages],
        "modified": [page.modified for page in pages],
        "leads_to": [
            "" if is_shown else places.meant(page.leads_to) for page, is_shown in zip(pages, shown, strict=True)
        ],
        "order": menus.order,
    }
    values: dict[str, list[Seen]] = {
        "heading.show": ["yes" if page.heading else "no" for page in pages],
        "heading.text": [one.heading or None for one in titles.pages],
        "title.pattern": [one.pattern or None for one in titles.pages],
        "robots.index": ["yes" if page.may_index else "no" for page in pages],
        "menu.show": menus.show,
        "menu.label": menus.label,
        **stand.values,
    }
    _add_own(pages, details, values)
    for name, seen in values.items():
        values[name] = [one if is_shown else None for is_shown, one in zip(shown, seen, strict=True)]
    return SeenSite(
        places.addresses,
        {name: texts for name, texts in details.items() if any(texts)},
        {name: seen for name, seen in values.items() if any(seen)},
        {**stand.declared, **({"site": site} if site else {})},
        most_common(origin(page.canonical) for page in pages),
        titles.site,
        spoken.languages,
        guessed=(
            *_remark("the page above: the page of the same name beside the folder", beside),
            *([Remark(titles.by)] if titles.by else []),
            *_remark("the heading: one below h1 that the document title repeats", lower),
            *_remark("the menu: the navigation that most pages show", in_menu),
            *spoken.guessed,
        ),
        lost=(
            *_left_out(built, label),
            *(one._replace(of_decisions=True) for one in _remark(OPENED, [pages[page].file for page in opened])),
            *stand.lost,
        ),
    )


def _places(pages: Sequence[BuiltPage]) -> _Places:
    """The address of each page: what it gives as its own, unless another page has that; else that of its file."""
    names = PageNames(most_common(origin(page.canonical) for page in pages))
    files = [names.path(page.address) for page in pages]
    said = [names.path(page.canonical) for page in pages]
    taken = {*files}
    addresses, paths, number = list[str](), list[str](), dict[str, int]()
    for at, page in enumerate(pages):
        own = said[at]
        is_own = own.startswith("/") and (own == files[at] or own not in taken)
        path = own if is_own else files[at]
        taken.add(path)
        addresses.append(names.published(page.canonical) if is_own else page.address)
        paths.append(path)
        number[path] = at
    for at, path in enumerate(files):
        number.setdefault(path, at)
    return _Places([page.address for page in pages], addresses, paths, number, names)


def _home(places: _Places, parent: Sequence[int], shown: Sequence[bool]) -> int:
    """The home page: `/`, or where there is none the only page at the top that has others below it; -1."""
    tops = {parent[page] for page in range(len(parent)) if parent[page] >= 0 and parent[parent[page]] < 0}
    home = places.number.get("/", -1)
    return home if home >= 0 and shown[home] else next(iter(tops)) if home < 0 and len(tops) == 1 else -1


def _top(parent: Sequence[int], is_first: Sequence[bool]) -> int:
    """The page at the top that most pages are right below; -1 if there is none with several. First those `is_first`."""
    counts = Counter(above for above in parent if above >= 0 and parent[above] < 0)
    tops = [page for page, number in counts.items() if number >= LEAST_BELOW]
    return max(tops, key=lambda page: (is_first[page], counts[page]), default=-1)


def _leads_away(page: BuiltPage, path: str, places: _Places) -> bool:
    """Whether a page only sends its readers on, and not to itself."""
    return bool(page.leads_to) and places.meant(page.leads_to) != path


def _parents(pages: Sequence[BuiltPage], places: _Places, shown: Sequence[bool]) -> tuple[list[int], list[str]]:
    """The page above each, and the pages for which it is the file beside their folder.

    Its breadcrumbs tell it, else `rel=up`, its path, or the file beside its folder. A page that only sends its readers
    on is above no other.
    """
    parent, told = list[int](), list[str]()
    number = {path: page for path, page in places.number.items() if shown[page]}
    for at, page in enumerate(pages):
        named = [*(target for _, target in reversed(page.trail)), page.up]
        told_by = (number.get(places.meant(target), -1) for target in named if target)
        above = next((other for other in told_by if other not in (-1, at)), -1)
        if above < 0:
            above = _prefix(places.paths[at], number)
            beside = _beside(places.paths[at], number)
            if beside >= 0 and (above < 0 or len(places.paths[beside]) > len(places.paths[above])):
                above = beside
                told.append(places.addresses[at])
        parent.append(above if above != at else -1)
    return _without_circles(parent), told


def _prefix(path: str, number: dict[str, int]) -> int:
    """The page of the longest path that a path begins with."""
    return next((number[start] for start in starts_of(path) if start in number), -1)


def _beside(path: str, number: dict[str, int]) -> int:
    """The page of a file that has the name of the path's folder: `/visit.html` for `/visit/tickets.html`."""
    folder = path.rpartition("/")[0]
    while folder:
        for ending in (".html", ".htm", ".xhtml"):
            if folder + ending in number:
                return number[folder + ending]
        folder = folder.rpartition("/")[0]
    return -1


def _without_circles(parent: list[int]) -> list[int]:
    """Pages whose breadcrumbs lead in a circle have no page above."""
    done = set[int]()
    for page in range(len(parent)):
        way, at = dict[int, None](), page
        while at >= 0 and at not in done and at not in way:
            way[at] = None
            at = parent[at]
        if at in way:
            parent[at] = -1
        done |= way.keys()
    return parent


def _parent_cells(places: _Places, parent: Sequence[int]) -> list[str]:
    """The column `parent`: where it is not what the path tells by itself."""
    cells = []
    for at, above in enumerate(parent):
        by_path = _prefix(places.paths[at], places.number)
        cells.append(places.paths[above] if above >= 0 and above != by_path else "")
    return cells


def _add_own(pages: Sequence[BuiltPage], details: dict[str, Sequence[str]], values: dict[str, list[Seen]]) -> None:
    """What a mapping asked for: details, or values of settings."""
    for name in dict.fromkeys(name for page in pages for name, _ in page.details):
        texts = [dict(page.details).get(name, "") for page in pages]
        if name not in STANDARD and is_setting(name):
            values[name] = [*texts]
        else:
            details[name] = [text or old for text, old in zip(texts, details.get(name, [""] * len(pages)), strict=True)]


def _remark(what: str, pages: Sequence[str]) -> list[Remark]:
    """A remark about some pages; none where there are none."""
    return [Remark(what, len(pages), pages[0])] if pages else []


def _left_out(built: BuiltFolder, label: str) -> Iterator[Remark]:
    """Files that cannot be read, and what is wrong with pages, each once."""
    yield from (Remark(f"{label}/{name}: {why}") for name, why in built.left_out[:MOST_FILES])
    if len(built.left_out) > MOST_FILES:
        yield Remark(f"more files of {label} that cannot be read: {len(built.left_out) - MOST_FILES}")
    for what in dict.fromkeys(page.amiss for page in built.pages if page.amiss):
        yield from _remark(what, [page.file for page in built.pages if page.amiss == what])
