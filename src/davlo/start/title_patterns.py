"""The patterns that document titles and headings follow, found by what many of them share.

A pattern must pay: it is taken where the statements that it needs are few beside the pages that follow it.
"""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from .seen_site import most_common

BETWEEN = re.compile(r"(\s+[·|–—:«»\-/•~>]+\s+|\s*:\s+)")
"""The separators between the parts of a document title."""
_AROUND = " ()[]"
LEAST = 2
"""How many pages must follow a pattern."""
PAGES_A_STATEMENT = 2
"""How many pages each statement of a pattern must serve, on average, unless the pattern names a page above."""
WHOLE = "{title}"
SITE, PARENT, BRANCH = "{site}", "{parent}", "{branch}"
MOST_PARTS = 4
"""As many parts of a title, from either end, are looked at, and as many places of a title in a heading."""
MOST_PATTERNS = 40
DEEPEST = 100
"""How far up pages are searched: breadcrumbs can lead in a circle."""


class TitleOnPage(NamedTuple):
    """The title of a page, the pattern of its document title, and the pattern of its heading; empty: any will do."""

    title: str
    pattern: str
    heading: str


class TitlePatterns(NamedTuple):
    """The titles of all pages, the name of the site, and how the name was found, in a sentence; empty if it was not."""

    pages: list[TitleOnPage]
    site: str
    by: str


def title_patterns(
    titles: Sequence[str],
    headings: Sequence[str],
    parent: Sequence[int],
    home: int = -1,
    root: int = -1,
    names: Sequence[str] = (),
) -> TitlePatterns:
    """The part of each document title that is the page's own, and the pattern that many share.

    Parameters
    ----------
    titles, headings : sequence of str
        The document title and the heading of each page; empty where there is none.
    parent : sequence of int
        The number of the page above; -1 where there is none.
    home : int
        The number of the home page; -1 if there is none.
    root : int
        The page whose title names the site where nothing else does; -1 if there is none.
    names : sequence of str
        What pages call the site in `og:site_name` (ogp.me).

    Example
    -------
    >>> names = ["Visit", "Tickets", "Maps"]
    >>> found = title_patterns([f"{name} · Quillmere" for name in names], names, [-1, 0, 0])
    >>> found.pages[1].title, found.pages[1].pattern, found.site
    ('Tickets', '{title} · {site}', 'Quillmere')
    """
    tree = _Tree(parent, home, titles)
    ends = _shared_ends(titles, headings, tree)
    site, by = _site_name(ends, most_common(names), titles, root)
    own = [_inner(title, end) for title, end in zip(titles, ends, strict=True)]
    patterns = [f"{_literal(before, site)}{WHOLE}{_literal(after, site)}" for before, after in ends]
    for page, title in enumerate(titles):
        if not title:
            own[page], patterns[page] = headings[page], ""
        elif title == site and patterns[page] == WHOLE and headings[page] not in ("", title):
            own[page], patterns[page] = headings[page], SITE
    _with_pages_above(own, patterns, titles, tree, site)
    heads = _heading_patterns(headings, own, tree)
    return TitlePatterns([TitleOnPage(*one) for one in zip(own, patterns, heads, strict=True)], site, by)


class _Tree:
    """Which page is above which; pages without a document title follow any pattern."""

    def __init__(self, parent: Sequence[int], home: int, titles: Sequence[str]) -> None:
        self.parent, self.home = parent, home
        self.titled = [page for page, title in enumerate(titles) if title]
        self.branch = [self._branch(page) for page in range(len(parent))]

    def _branch(self, page: int) -> int:
        """The outermost page above that is not the home page; the page itself where there is none."""
        for _ in range(DEEPEST):
            above = self.parent[page]
            if above in (-1, self.home):
                break
            page = above
        return page

    def statements(self, pages: set[int]) -> int:
        """About how many statements say something of just these pages: of branches, or of all with exceptions."""
        tops = sum(self.parent[page] not in pages for page in pages)
        others = sum(self.parent[page] in pages and page not in pages for page in self.titled)
        return min(tops + others, 1 + len(self.titled) - len(pages))


def _shared_ends(titles: Sequence[str], headings: Sequence[str], tree: _Tree) -> list[tuple[str, str]]:
    """The texts before and after the own part of each title; empty where it is the whole title.

    An end that does not pay is taken off where the heading is what is left: the page would need a heading of its own.
    """
    found: list[tuple[str, str]] = [("", "")] * len(titles)
    following: dict[tuple[str, str], set[int]] = {}
    for page, title in enumerate(titles):
        for end in _ends(title):
            following.setdefault(end, set()).add(page)
    by_pages = sorted(following, key=lambda end: (-len(following[end]), -len("".join(end)), end))
    free = {*tree.titled}
    for end in by_pages[:MOST_PATTERNS]:
        pages = following[end] & free
        if len(pages) >= LEAST and len(pages) >= PAGES_A_STATEMENT * tree.statements(pages):
            for page in pages:
                found[page] = end
            free -= pages
    for page in free:
        for end in _ends(titles[page]):
            if len(following[end]) >= LEAST and _inner(titles[page], end) == headings[page]:
                found[page] = end
    return found


def _ends(title: str) -> Iterator[tuple[str, str]]:
    """The beginnings and ends of a title, up to a separator; something must be left of it."""
    parts = BETWEEN.split(title)
    for at in range(2, min(len(parts), 2 * MOST_PARTS + 1), 2):
        before, after = "".join(parts[:at]), "".join(parts[-at:])
        if before.strip() and title[len(before) :].strip():
            yield before, ""
        if after.strip() and title[: -len(after)].strip():
            yield "", after


def _inner(title: str, end: tuple[str, str]) -> str:
    return title[len(end[0]) : len(title) - len(end[1])]


def _literal(text: str, site: str) -> str:
    """A text as a pattern holds it, with the name of the site as a placeholder."""
    parts = text.split(site) if site else [text]
    return SITE.join(part.replace("{", "{{").replace("}", "}}") for part in parts)


def _site_name(ends: Sequence[tuple[str, str]], said: str, titles: Sequence[str], root: int) -> tuple[str, str]:
    """The name of the site, and how it was found: what most titles share, what pages say, or the home page's title."""
    counts = Counter(end for end in ends if any(end))
    for end, pages in counts.most_common(1):
        words = "".join(end)
        if pages * 2 > sum(map(bool, titles)):
            names = [part.strip(_AROUND) for part in BETWEEN.split(words)[::2]]
            names = [name for name in names if re.search(r"\w", name)]
            if names:
                return (said if said and said in words else max(names, key=len)), ""
    if said:
        return said, ""
    title = titles[root] if root >= 0 else ""
    return title, "the site's name: the title of the home page" if title else ""


def _with_pages_above(own: list[str], patterns: list[str], titles: Sequence[str], tree: _Tree, site: str) -> None:
    """Take the titles of pages above out of the titles, where many pages have them; then check every title."""
    plain = [*zip(own, patterns, strict=True)]
    for word, above in ((PARENT, tree.parent), (BRANCH, tree.branch)):
        groups: dict[tuple[str, str], dict[int, str]] = {}
        for page, other in enumerate(above):
            if other in (-1, page) or not own[other] or WHOLE not in patterns[page]:
                continue
            for pattern, mine in _without(own[page], own[other], word):
                groups.setdefault((patterns[page], pattern), {})[page] = mine
        for (old, pattern), pages in groups.items():
            if len(pages) >= LEAST and len(pages) >= tree.statements({*pages}):
                for page, mine in pages.items():
                    own[page], patterns[page] = mine, old.replace(WHOLE, pattern)
    wrong = True
    while wrong:  # a title that is not right any more can be that of a page above others
        wrong = False
        for page, title in enumerate(titles):
            if PARENT not in patterns[page] and BRANCH not in patterns[page]:
                continue
            words = {PARENT: own[tree.parent[page]], BRANCH: own[tree.branch[page]], WHOLE: own[page], SITE: site}
            if _filled(patterns[page], words) != title:
                (own[page], patterns[page]), wrong = plain[page], True


def _without(title: str, other: str, word: str) -> Iterator[tuple[str, str]]:
    """A title without that of a page above at one of its ends: the pattern, and what is left."""
    for separator in {*BETWEEN.findall(title)}:
        literal = _literal(separator, "")
        if title.endswith(separator + other) and len(title) > len(separator + other):
            yield f"{WHOLE}{literal}{word}", title[: -len(separator + other)]
        if title.startswith(other + separator) and len(title) > len(other + separator):
            yield f"{word}{literal}{WHOLE}", title[len(other + separator) :]


def _filled(pattern: str, words: dict[str, str]) -> str:
    """A pattern with its placeholders filled."""
    braces = {"{{": "{", "}}": "}"}
    return re.sub(r"\{\{|\}\}|\{\w+\}", lambda found: braces.get(found[0]) or words.get(found[0], found[0]), pattern)


def _around(title: str, heading: str) -> Iterator[tuple[str, str]]:
    """The texts before and after a title in a heading that holds it as words of its own."""
    at = heading.find(title)
    while at >= 0:
        before, after = heading[:at], heading[at + len(title) :]
        if not _is_word(before[-1:]) and not _is_word(after[:1]):
            yield before, after
        at = heading.find(title, at + 1)


def _is_word(letter: str) -> bool:
    return letter.isalnum() or letter == "_"


def _heading_patterns(headings: Sequence[str], titles: Sequence[str], tree: _Tree) -> list[str]:
    """The pattern of each heading: the title, the title with what many have around it, or its own words."""
    found = [WHOLE if heading == title else "" for heading, title in zip(headings, titles, strict=True)]
    around: dict[tuple[str, str], set[int]] = {}
    for page, (heading, title) in enumerate(zip(headings, titles, strict=True)):
        if heading and title and not found[page]:
            for before, after in itertools.islice(_around(title, heading), MOST_PARTS):
                around.setdefault((before, after), set()).add(page)
    for (before, after), pages in sorted(around.items(), key=lambda one: (-len(one[1]), one[0])):
        free = {page for page in pages if not found[page]}
        if len(free) > LEAST:
            for page in free:
                found[page] = f"{_literal(before, '')}{WHOLE}{_literal(after, '')}"
    return [one or _literal(heading, "") for one, heading in zip(found, headings, strict=True)]
