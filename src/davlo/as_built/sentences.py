"""How built pages differ from what was decided, in sentences, gathered by cause."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from davlo.core.wording import count, shortened, some_of
from davlo.words.comparison import Section

from .mistakes import DRAFT, MISSING, OPEN, TWICE, UNKNOWN, MistakeCause

MOST_PAGES, MOST_LETTERS = 10, 80
"""The most pages that are named for one cause, and the most letters of what a page shows."""
TITLES = {
    "pages": "Pages",
    "titles": "Titles and headings",
    "values": "Heads, languages and areas",
    "menu": "Menu",
    "sitemap": "Sitemap and robots.txt",
}


class CauseInWords(NamedTuple):
    """Mistakes of one cause: what is wrong on how many pages, and what each page shows, where that differs."""

    sentence: str
    examples: tuple[str, ...] = ()


class BuiltSection(NamedTuple):
    """The mistakes of one part of a comparison, in words."""

    part: str  # one of `TITLES`
    title: str
    causes: tuple[CauseInWords, ...]

    def as_lines(self, most: int | None) -> Section:
        """The part as lines: each cause, and as many pages as asked for."""
        lines = [line for cause in self.causes for line in (cause.sentence, *cause.examples[:most])]
        return Section(self.part, self.title, tuple(lines))


def cause_in_words(cause: MistakeCause, most: int | None = MOST_PAGES) -> CauseInWords:
    """Mistakes of one cause in words. `most`: the most pages that a sentence names; None: all.

    Example
    -------
    >>> from davlo.as_built.mistakes import Mistake, by_cause
    >>> cause_in_words(by_cause([Mistake("robots", "/a", "noindex", "index")])[0]).sentence
    'robots: 1 page shows index, not noindex: /a'
    """
    one, pages = cause.first, cause.pages
    named = some_of(pages, len(pages) if most is None else most)
    by = f", by {one.source}" if one.source and one.source.file else ""
    if one.what in (OPEN, DRAFT, UNKNOWN, MISSING, TWICE):
        more = f" ({one.shows})" if one.shows else ""
        return CauseInWords(
            f"{count(len(pages), 'page')} {one.what}{more}{by.replace(', by', ', because of')}: {named}"
        )
    should, shows = (shortened(text, MOST_LETTERS) for text in (one.should, one.shows))
    show = "shows" if len(pages) == 1 else "show"
    if not one.is_own:
        return CauseInWords(f"{one.what}: {count(len(pages), 'page')} {show} {shows}, not {should}{by}: {named}")
    told = [
        f"{mistake.page} shows {shortened(mistake.shows, MOST_LETTERS)}, not {shortened(mistake.should, MOST_LETTERS)}"
        for mistake in cause.mistakes
    ]
    if len(told) == 1:
        return CauseInWords(f"{one.what}{by}: {told[0]}")
    return CauseInWords(
        f"{one.what}: {count(len(pages), 'page')} {show} something else than was decided{by}", tuple(told)
    )


def built_sections(causes: Sequence[MistakeCause], most: int | None = MOST_PAGES) -> list[BuiltSection]:
    """Mistakes in words, part by part; parts without any are left out. `most`: the most pages that a sentence names."""
    found = {part: tuple(cause_in_words(one, most) for one in causes if one.first.part == part) for part in TITLES}
    return [BuiltSection(part, TITLES[part], some) for part, some in found.items() if some]


def built_title(folder: str, pages: int, causes: Sequence[MistakeCause]) -> tuple[str, str]:
    """What is compared, and how many mistakes there are."""
    wrong = len({page for cause in causes for page in cause.pages})
    told = f"{count(len(causes), 'difference')} on {count(wrong, 'page')}" if causes else "each shows what was decided"
    return f"{folder}, as it was built, against what was decided", f"{count(pages, 'page')} compared: {told}"
