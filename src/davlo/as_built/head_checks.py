"""What the head of a page and its heading say, against what was decided."""

from __future__ import annotations

from collections.abc import Iterator

from davlo.core.outcomes.areas import headings_of
from davlo.core.outcomes.menus.menu import is_yes
from davlo.files.built.built_page import BuiltPage
from davlo.files.read.sections.hosts import with_small_host

from .built_site import BuiltSite
from .mistakes import Mistake


def head_mistakes(site: BuiltSite) -> Iterator[Mistake]:
    """Document titles, headings, robots, canonical addresses, languages, alternates and redirects that differ."""
    effective, details = site.effective, site.site.details
    has_heading, may_index = is_yes(effective, "heading.show"), is_yes(effective, "robots.index")
    names_alternates = any(page.alternates for _, page in site.shown)
    urls = _urls(site)
    for number, page in site.shown:
        target = site.path_of(details.columns["leads_to"][number]) if details.leads_away[number] else ""
        if target and site.path_of(page.leads_to) != target:
            shows = site.path_of(page.leads_to) or "the page itself"
            yield Mistake("leads to", site.site.tree.paths[number], target, shows)
    for number, page in site.drawn:
        path = site.site.tree.paths[number]
        if page.may_index != bool(may_index[number]):
            words = ("noindex", "index")
            source = site.source(number, "robots.index")
            yield Mistake("robots", path, words[bool(may_index[number])], words[page.may_index], source)
        mine = urls.get(number, {})
        if page.canonical and site.whole(page.canonical) not in mine:
            yield Mistake("canonical", path, next(iter(mine), ""), site.whole(page.canonical), is_own=True)
        title = " ".join(site.outcomes.titles[number].split())
        if page.title != title:
            source = site.source(number, "title.pattern")
            yield Mistake("document title", path, title, page.title or "nothing", source, is_own=True)
        yield from _heading(site, number, page, bool(has_heading[number]))
        language = details.language[number]
        if language and page.language.lower() != language.lower():
            yield Mistake("language", path, language, page.language or "nothing")
        if names_alternates:
            yield from _alternates(site, path, page, mine)


def _heading(site: BuiltSite, number: int, page: BuiltPage, is_shown: bool) -> Iterator[Mistake]:
    """Whether the heading is shown or hidden as decided; a block that provides one may say what it likes."""
    path, text = site.site.tree.paths[number], " ".join(site.outcomes.heading_texts[number].split())
    source, words = site.source(number, "heading.show"), site.source(number, "heading.text")
    provided = any(headings_of(site.site, area) for area in site.areas(number))
    if is_shown and text and not page.heading:
        yield Mistake("heading", path, "shown", "hidden", source)
    elif is_shown and page.heading != text and not provided:
        yield Mistake("heading", path, text, page.heading, words, is_own=True)
    elif not is_shown and page.heading == text and page.heading_tag == "h1" and not provided:
        yield Mistake("heading", path, "hidden", "shown", source)


def _urls(site: BuiltSite) -> dict[int, dict[str, int]]:
    """For each page that should be built its addresses, and their numbers."""
    found: dict[int, dict[str, int]] = {}
    for at, (page, url) in enumerate(zip(site.addresses.page.tolist(), site.addresses.urls(), strict=True)):
        found.setdefault(page, {})[with_small_host(url)] = at
    return found


def _alternates(site: BuiltSite, path: str, page: BuiltPage, mine: dict[str, int]) -> Iterator[Mistake]:
    """The alternates of a page that differ from what was decided."""
    at = mine.get(site.whole(page.canonical), next(iter(mine.values()), -1))
    found = site.addresses.alternates(at) if at >= 0 else ()
    wanted = {code: with_small_host(url) for code, url in found}
    told = {code: site.whole(target) for code, target in page.alternates}
    for code in dict.fromkeys([*wanted, *told]):
        should, shows = wanted.get(code, "nothing"), told.get(code, "nothing")
        if should != shows:
            yield Mistake("alternates", path, f"{code} {should}", f"{code} {shows}", is_own=True)
