"""How built pages differ from what was decided, in sentences, gathered by cause."""

from __future__ import annotations

from collections.abc import Sequence

from davlo.core.wording import count, shortened, some_of
from davlo.words.comparison import Section

from .mistakes import DRAFT, MISSING, OPEN, TWICE, UNKNOWN, MistakeCause

MOST_PAGES, MOST_LETTERS = 3, 80
TITLES = {
    "pages": "Pages",
    "titles": "Titles and headings",
    "values": "Heads, languages and areas",
    "menu": "Menu",
    "sitemap": "Sitemap and robots.txt",
}


def mistake_sentence(cause: MistakeCause) -> str:
    """Mistakes of one cause in a sentence.

    Example
    -------
    >>> from davlo.as_built.mistakes import Mistake, by_cause
    >>> mistake_sentence(by_cause([Mistake("robots", "/a", "noindex", "index")])[0])
    'robots: 1 page shows index, not noindex: /a'
    """
    one, pages = cause.first, cause.pages
    named = some_of(pages, MOST_PAGES)
    if one.what in (OPEN, DRAFT, UNKNOWN, MISSING, TWICE):
        more = f" ({one.shows})" if one.shows else ""
        by = f" ({one.source})" if one.source and one.source.file else ""
        return f"{count(len(pages), 'page')} {one.what}{more}{by}: {named}"
    by = f", by {one.source}" if one.source and one.source.file else ""
    shows, differs = ("shows", "differs") if len(pages) == 1 else ("show", "differ")
    should, said = (shortened(text, MOST_LETTERS) for text in (one.should, one.shows))
    if one.is_own:
        told = f"{pages[0]} shows {said}, not {should}"
        rest = f" and {len(pages) - 1:,} more" if len(pages) > 1 else ""
        return f"{one.what}: {count(len(pages), 'page')} {differs}{by}: {told}{rest}"
    return f"{one.what}: {count(len(pages), 'page')} {shows} {said}, not {should}{by}: {named}"


def built_sections(causes: Sequence[MistakeCause]) -> list[Section]:
    """Mistakes in words, part by part; parts without any are left out."""
    lines = {part: tuple(mistake_sentence(one) for one in causes if one.first.part == part) for part in TITLES}
    return [Section(part, TITLES[part], some) for part, some in lines.items() if some]


def built_title(folder: str, pages: int, causes: Sequence[MistakeCause]) -> tuple[str, str]:
    """What is compared, and how many mistakes there are."""
    wrong = len({page for cause in causes for page in cause.pages})
    told = f"{count(len(causes), 'difference')} on {count(wrong, 'page')}" if causes else "each shows what was decided"
    return f"{folder}, as it was built, against what was decided", f"{count(pages, 'page')} compared: {told}"
