"""What the head of a page and its heading say, against what was decided."""

from __future__ import annotations

from collections.abc import Iterator

from davlo.core.outcomes.areas import headings_of
from davlo.core.outcomes.menus.menu import is_yes
from davlo.files.built.built_page import BuiltPage
from davlo.files.read.sections.hosts import with_small_host

from .built_site import BuiltSite
from .mistakes import Mistake

MOST_LACK = 10
"""A page without a canonical address is a mistake if at most one page in ten has none."""


def head_mistakes(site: BuiltSite) -> Iterator[Mistake]:
    """Document titles, headings, robots, canonical addresses, languages, alternates and redirects that differ."""
    details, paths = site.site.details, site.site.tree.paths
    has_heading, may_index = is_yes(site.effective, "heading.show"), is_yes(site.effective, "robots.index")
    urls = _Urls(site)
    drawn = [page for _, page in site.drawn]
    says_languages = any(page.language for page in drawn)
    needs_canonical = sum(not page.canonicals for page in drawn) * MOST_LACK <= len(drawn)
    translated = [page for number, page in site.drawn if len(urls.alternates(number, page)) > 1]
    needs_alternates = sum(bool(page.alternates) for page in translated) * 2 > len(translated)
    for number, page in site.shown:
        yield from _redirect(site, number, page)
    for number, page in site.drawn:
        path, mine = paths[number], urls.of_page(number)
        if page.may_index != bool(may_index[number]):
            by = [name for name in page.noindex if name != "robots"]
            shows = "index" if page.may_index else f"noindex ({', '.join(by)})" if by == [*page.noindex] else "noindex"
            should = "index" if may_index[number] else "noindex"
            yield Mistake("robots", path, should, shows, site.source(number, "robots.index"))
        yield from _canonical(site, path, page, mine, needs_canonical)
        title = " ".join(site.outcomes.titles[number].split())
        if page.title != title:
            source = site.source(number, "title.pattern")
            yield Mistake("document title", path, title, page.title or "nothing", source, is_own=True)
        yield from _heading(site, number, page, bool(has_heading[number]))
        if says_languages:
            yield from _language(site, path, details.language[number], page)
        if page.alternates or needs_alternates:
            yield from _alternates(site, number, page, urls, needs_alternates)


def _redirect(site: BuiltSite, number: int, page: BuiltPage) -> Iterator[Mistake]:
    """Whether a page sends its readers on as decided, or does not."""
    path, details = site.site.tree.paths[number], site.site.details
    decided = site.path_of(details.columns["leads_to"][number]) if site.leads_away[number] else path
    shown = site.path_of(page.leads_to) or path
    if shown != decided:
        should, shows = ("the page itself" if one == path else one for one in (decided, shown))
        yield Mistake("leads to", path, should, shows)


def _canonical(site: BuiltSite, path: str, page: BuiltPage, mine: dict[str, int], is_needed: bool) -> Iterator[Mistake]:
    """Whether a page gives one of its own addresses, and no other, as its own."""
    wrong = [one for one in map(site.whole, page.canonicals) if one not in mine]
    should = next(iter(mine), "")
    if len(page.canonicals) > 1:
        shows = f"{len(page.canonicals)} addresses: {', '.join(map(site.whole, page.canonicals))}"
        yield Mistake("canonical", path, should, shows, is_own=True)
    elif wrong or (is_needed and not page.canonicals):
        yield Mistake("canonical", path, should, wrong[0] if wrong else "nothing", is_own=True)


def _language(site: BuiltSite, path: str, language: str, page: BuiltPage) -> Iterator[Mistake]:
    """Whether a page says its language; a page of no language may say any that the site lists."""
    told = page.language.lower().replace("_", "-")
    listed = {code.lower() for code in site.site.languages}
    if language and told != language.lower():
        yield Mistake("language", path, language, page.language or "nothing")
    elif not language and told and listed and told not in listed:
        yield Mistake("language", path, f"one of {', '.join(site.site.languages)}", page.language)


def _heading(site: BuiltSite, number: int, page: BuiltPage, is_shown: bool) -> Iterator[Mistake]:
    """Whether the one heading is shown or hidden as decided; a block that provides one may say what it likes."""
    path, text = site.site.tree.paths[number], " ".join(site.outcomes.heading_texts[number].split())
    source, words = site.source(number, "heading.show"), site.source(number, "heading.text")
    provided = sum(len(headings_of(site.site, area)) for area in site.areas(number))
    if is_shown and text and not page.heading:
        yield Mistake("heading", path, "shown", "hidden", source)
    elif is_shown and page.heading != text and not provided:
        yield Mistake("heading", path, text, page.heading, words, is_own=True)
    elif not is_shown and page.heading_tag == "h1" and not provided:
        yield Mistake("heading", path, "hidden", "shown" if page.heading == text else page.heading, source)
    if len(page.more_headings) + 1 > is_shown + provided and page.more_headings:
        shows = f"{len(page.more_headings) + 1} h1 ({'; '.join(page.more_headings)})"
        yield Mistake("second h1", path, "one", shows, is_own=True)


class _Urls:
    """The addresses of the pages that should be built."""

    def __init__(self, site: BuiltSite) -> None:
        self._site, self._addresses = site, site.addresses
        self._urls = [*map(with_small_host, self._addresses.urls())]
        self._of_page: dict[int, dict[str, int]] = {}
        for at, (page, url) in enumerate(zip(self._addresses.page.tolist(), self._urls, strict=True)):
            self._of_page.setdefault(page, {})[url] = at

    def of_page(self, number: int) -> dict[str, int]:
        """The addresses of a page, each with its place among all."""
        return self._of_page.get(number, {})

    def alternates(self, number: int, page: BuiltPage) -> dict[str, str]:
        """The addresses of a page in its languages, as decided; by language."""
        mine = self.of_page(number)
        at = mine.get(self._site.whole(page.canonical), next(iter(mine.values()), -1))
        numbers = self._addresses.alternate_numbers(at) if at >= 0 else {}
        return {language: self._urls[one] for language, one in numbers.items()}


def _alternates(site: BuiltSite, number: int, page: BuiltPage, urls: _Urls, are_needed: bool) -> Iterator[Mistake]:
    """The alternates of a page that differ from what was decided; a page need not name itself.

    `are_needed`: whether most pages with translations name them, so that one that is missing is a mistake.
    """
    path, mine = site.site.tree.paths[number], urls.of_page(number)
    wanted = {code.lower(): url for code, url in urls.alternates(number, page).items()}
    told = {code.lower(): target for code, target in page.alternates}
    for code in dict.fromkeys([*(wanted if are_needed else ()), *told]):
        should = wanted.get(code, "nothing")
        shows = site.whole(told[code]) if code in told else "nothing"
        leads_there = code in told and code in wanted and site.page_met(told[code]) == site.path_of(wanted[code])
        if should != shows and not leads_there and not (shows == "nothing" and should in mine):
            yield Mistake("alternates", path, f"{code} {should}", f"{code} {shows}", is_own=True)
