"""The pattern that document titles follow, found by what is common to many of them."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

BETWEEN = re.compile(r"(\s+[·|–—:«»\-/•~>]+\s+|\s*:\s+)")
"""The separators between the parts of a document title."""
_AROUND = " ()[]"
LEAST = 2
"""How many pages must follow a pattern."""
WHOLE = "{title}"
DEEPEST = 100
"""How far up pages are searched: breadcrumbs can lead in a circle."""


class TitleOnPage(NamedTuple):
    """The title of a page, and the pattern by which its document title is made of it; empty if none was seen.

    `is_heading` says whether the title is what the page's heading reads.
    """

    title: str
    pattern: str
    is_heading: bool


class TitlePatterns(NamedTuple):
    """The titles of all pages, and the name of the site that is in most patterns; empty if there is none."""

    pages: list[TitleOnPage]
    site: str


def title_patterns(titles: Sequence[str], headings: Sequence[str], parent: Sequence[int]) -> TitlePatterns:
    """The part of each document title that is the page's own, and the pattern that many share.

    `titles`, `headings`: the document title and the heading of each page; empty where there is none. `parent`: the
    number of the page above; -1 where there is none.

    Example
    -------
    >>> names = ["Visit", "Tickets", "Maps"]
    >>> found = title_patterns([f"{name} · Quillmere" for name in names], names, [-1, 0, 0])
    >>> found.pages[1].title, found.pages[1].pattern, found.site
    ('Tickets', '{title} · {site}', 'Quillmere')
    """
    top = _branches(parent)

    def named(page: int, text: str) -> str:
        """A part of a pattern, in which the titles of pages above are placeholders."""
        above, branch = parent[page], top[page]
        parts = BETWEEN.split(text)
        for at in range(0, len(parts), 2):
            if above >= 0 and parts[at] and parts[at] == headings[above]:
                parts[at] = "{parent}"
            elif branch not in (page, -1) and parts[at] and parts[at] == headings[branch]:
                parts[at] = "{branch}"
        return "".join(parts)

    found: list[tuple[str, str] | None] = []
    for page, (title, heading) in enumerate(zip(titles, headings, strict=True)):
        at = title.find(heading) if heading else -1
        if at < 0 or "{" in title or "}" in title:
            found.append(None)
        else:
            found.append((named(page, title[:at]), named(page, title[at + len(heading) :])))
    counts = Counter(pattern for pattern in found if pattern)
    rest = [title for title, pattern in zip(titles, found, strict=True) if pattern is None]
    counts += _common_ends(rest, counts)
    known = {pattern for pattern, pages in counts.items() if pages >= LEAST or pattern == ("", "")}
    by_count = sorted(known, key=lambda pattern: (-counts[pattern], pattern))
    site = _site_name(by_count, counts)

    def spelled(pattern: tuple[str, str]) -> str:
        before, after = (part.replace(site, "{site}") if site else part for part in pattern)
        return f"{before}{WHOLE}{after}"

    pages = []
    for page, (title, heading) in enumerate(zip(titles, headings, strict=True)):
        mine = found[page]
        if mine is not None and mine in known:
            pages.append(TitleOnPage(heading, spelled(mine), True))
            continue
        if not title:
            pages.append(TitleOnPage(heading, "", bool(heading)))
            continue
        if title == site and heading:
            pages.append(TitleOnPage(heading, "{site}", True))
            continue
        for before, after in by_count:
            middle = title[len(before) : len(title) - len(after)] if "{" not in before + after else ""
            if middle and before + after and title == f"{before}{middle}{after}":
                pages.append(TitleOnPage(middle, spelled((before, after)), middle == heading))
                break
        else:
            pages.append(TitleOnPage(title, WHOLE, title == heading))
    return TitlePatterns(pages, site)


def _branches(parent: Sequence[int]) -> list[int]:
    """The page below the home page in whose branch each page is; -1 for the home page."""
    found = list[int]()
    for page in range(len(parent)):
        at, steps = page, 0
        while parent[at] >= 0 and parent[parent[at]] >= 0 and steps < DEEPEST:
            at, steps = parent[at], steps + 1
        found.append(at if parent[at] >= 0 else -1)
    return found


def _common_ends(titles: Sequence[str], known: Counter[tuple[str, str]]) -> Counter[tuple[str, str]]:
    """The common end, or beginning, of the titles of most pages without a heading."""
    found: Counter[tuple[str, str]] = Counter()
    for title in titles:
        parts = BETWEEN.split(title)
        if len(parts) > 2 and "{" not in title and "}" not in title:
            found["", "".join(parts[-2:])] += 1
            found["".join(parts[:2]), ""] += 1
    most = max(found.values(), default=0)
    return Counter({one: n for one, n in found.items() if n == most and n >= max(LEAST, len(titles) // 3)})


def _site_name(patterns: Sequence[tuple[str, str]], counts: Counter[tuple[str, str]]) -> str:
    """The longest part of the most common pattern that says something and is no placeholder."""
    for before, after in patterns:
        parts = [part.strip(_AROUND) for text in (before, after) for part in BETWEEN.split(text)[::2]]
        names = [part for part in parts if re.search(r"\w", part) and "{" not in part]
        if names and counts[before, after] > LEAST:
            return max(names, key=len)
    return ""
