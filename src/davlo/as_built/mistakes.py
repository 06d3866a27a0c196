"""Mistakes: how built pages differ from what was decided, gathered by cause."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from davlo.core.site.source import Source

OPEN, DRAFT, UNKNOWN, MISSING, TWICE = (
    "built though a visitor may not view it",
    "built though it is no live page",
    "built, and not in the page list",
    "in the page list, and not built",
    "built twice",
)
"""What can be wrong with a page as a whole."""
ORDER = (
    *(OPEN, DRAFT, UNKNOWN, MISSING, TWICE),
    *("robots", "canonical", "document title", "heading", "second h1", "language", "alternates", "leads to"),
    *("area", "menu", "sitemap", "robots.txt"),
)
"""What can be wrong, the worst first; the names of areas go on with the area."""
PARTS = ("pages", "titles", "values", "menu", "sitemap")
"""The parts of a comparison that can be asked of a built site."""
_PART_OF = {
    **dict.fromkeys((OPEN, DRAFT, UNKNOWN, MISSING, TWICE, "leads to"), "pages"),
    **dict.fromkeys(("document title", "heading", "second h1"), "titles"),
    "menu": "menu",
    **dict.fromkeys(("sitemap", "robots.txt"), "sitemap"),
}


class Mistake(NamedTuple):
    """One way in which a built page differs from what was decided."""

    what: str  # one of `ORDER`
    page: str  # its path; its address or its file if it is no page of the site
    should: str = ""  # in words; empty if `what` says everything
    shows: str = ""  # in words; empty if `what` says everything
    source: Source | None = None  # the statement that decides it
    is_own: bool = False  # whether each page has its own text there, such as a document title

    @property
    def part(self) -> str:
        """Which of `PARTS` it belongs to."""
        return _PART_OF.get(self.what.partition(" ")[0], _PART_OF.get(self.what, "values"))


class MistakeCause(NamedTuple):
    """Mistakes of one kind that come from one statement: one at least."""

    mistakes: tuple[Mistake, ...]

    @property
    def first(self) -> Mistake:
        """The first of them."""
        return self.mistakes[0]

    @property
    def pages(self) -> tuple[str, ...]:
        """The pages of all, each once."""
        return tuple(dict.fromkeys(one.page for one in self.mistakes))


def by_cause(mistakes: Iterable[Mistake]) -> list[MistakeCause]:
    """Mistakes gathered by cause, the worst first, and of one kind the cause of most pages.

    Example
    -------
    >>> found = by_cause([Mistake("robots", "/a", "noindex", "index"), Mistake("robots", "/b", "noindex", "index")])
    >>> [(one.first.what, one.pages) for one in found]
    [('robots', ('/a', '/b'))]
    """
    together: dict[tuple[object, ...], list[Mistake]] = {}
    for one in mistakes:
        said = () if one.is_own else (one.should, one.shows)
        together.setdefault((one.what, one.source, *said), []).append(one)
    causes = [MistakeCause(tuple(some)) for some in together.values()]
    return sorted(causes, key=lambda cause: (_rank(cause.first.what), -len(cause.pages)))


def _rank(what: str) -> int:
    """How bad a mistake is, as its place in `ORDER`."""
    if what in ORDER:
        return ORDER.index(what)
    return ORDER.index(what.partition(" ")[0])


def in_parts(mistakes: Iterable[Mistake], parts: Sequence[str]) -> list[Mistake]:
    """The mistakes of some parts."""
    return [one for one in mistakes if one.part in parts]
