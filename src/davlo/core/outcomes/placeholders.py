"""Texts with placeholders: the document title, the heading, and what the menu calls a page."""

from __future__ import annotations

import re
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays.codebooks import Column
from ..arrays.grouping import sorted_by
from ..arrays.texts import Texts, concatenated
from ..resolve.effective import EffectiveModel
from ..site.model import SiteModel
from ..site.pages.conditions import split_list

PLACEHOLDER = re.compile(r"\{\{|\}\}|\{([^{}]*)\}")
HEADING = "heading.text"
Pages = NDArray[np.int64]
FEW = 256
"""Below this fraction of all pages, cells are looked up one by one."""


def document_titles(effective: EffectiveModel) -> Column:
    """The document title of every page: `title.pattern` with its placeholders filled."""
    return filled(effective, "title.pattern")


def heading_texts(effective: EffectiveModel) -> Column:
    """What the heading of every page says, whether it is shown or not: `heading.text` with its placeholders filled."""
    return filled(effective, HEADING)


def menu_labels(effective: EffectiveModel) -> Column:
    """What the menu calls every page."""
    return filled(effective, "menu.label")


def filled(effective: EffectiveModel, setting: str, pages: Pages | None = None) -> Column:
    """A text setting with its placeholders filled, of every page or of these.

    `{{` and `}}` are braces; a placeholder that is no word of ours and no detail stays as it is written.

    `setting`: the name of a text setting. `pages`: int64[n]. Returns one text a page; equal ones may have several
    codes.

    Example
    -------
    >>> import davlo
    >>> effective = davlo.open_demo().resolve()
    >>> filled(effective, "title.pattern", np.array([effective.site.tree.number("/visit/tickets")]))[0]
    'Tickets · Quillmere Botanic Garden'
    """
    return Filling(effective, setting).of(np.arange(len(effective.site.tree)) if pages is None else pages)


class Filling:
    """Fills a text setting for batches of pages; the meanings of placeholders are looked up once."""

    def __init__(self, effective: EffectiveModel, setting: str) -> None:
        self.site = effective.site
        number = self.site.setting_number(setting)
        self._codes, _, self._patterns = effective.resolved(number)
        self._words = _Words(self.site)

    def of(self, pages: Pages) -> Column:
        """The filled texts of these pages, as `filled` gives them."""
        codes = self._codes[pages]
        order = sorted_by(codes)
        edges = np.flatnonzero(np.diff(codes[order], prepend=-2, append=len(self._patterns)))
        start, end = np.zeros((2, len(pages)), dtype=np.int64)
        found: list[NDArray[np.uint8]] = []
        begin = 0
        for first, last in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            some = order[first:last]
            parts = _parts(str(self._patterns[int(codes[some[0]])]), self._words)
            texts = concatenated([part.of(pages[some], self._words) for part in parts])
            start[some], end[some] = texts.start + begin, texts.end + begin
            found.append(texts.data)
            begin += len(texts.data)
        data = np.concatenate(found) if found else np.zeros(0, dtype=np.uint8)
        return Column(np.arange(len(pages), dtype=np.int32), Texts(data, start, end))


def filled_on(effective: EffectiveModel, setting: str, page: int) -> str:
    """The filled text of one page."""
    return filled(effective, setting, np.array([page]))[0]


class _Part(NamedTuple):
    """A part of a pattern: fixed text, or the name of a placeholder."""

    text: str
    name: str = ""

    def of(self, pages: Pages, words: _Words) -> Texts:
        return words.texts(self.name, pages) if self.name else _constant(self.text, len(pages))


def _parts(pattern: str, words: _Words) -> list[_Part]:
    """The parts of a pattern; there is always one."""
    found, at = [], 0
    for match in PLACEHOLDER.finditer(pattern):
        found.append(_Part(pattern[at : match.start()]))
        at = match.end()
        if match[0] in ("{{", "}}"):
            found.append(_Part(match[0][0]))
        else:
            found.append(_Part("", match[1]) if words.knows(match[1]) else _Part(match[0]))
    found.append(_Part(pattern[at:]))
    return [part for part in found if part.text or part.name] or [_Part("")]


def unknown_placeholders(site: SiteModel, pattern: str) -> tuple[str, ...]:
    """The placeholders of a pattern that are no word of ours and no detail; they stay as they stand.

    Example
    -------
    >>> import davlo
    >>> unknown_placeholders(davlo.open_demo(), "{title} in {town} {{as it is}}")
    ('town',)
    """
    words = _Words(site)
    return tuple(name for name in placeholder_names(pattern) if not words.knows(name))


def placeholder_names(pattern: str) -> tuple[str, ...]:
    """What the placeholders of a pattern name, each once.

    Example
    -------
    >>> placeholder_names("{title} · {site} {{as it is}}")
    ('title', 'site')
    """
    names = [match[1] for match in PLACEHOLDER.finditer(pattern) if match[0] not in ("{{", "}}")]
    return tuple(dict.fromkeys(names))


def word_texts(site: SiteModel, name: str, pages: Pages) -> Texts:
    """What a placeholder means on each of some pages."""
    return _Words(site).texts(name, pages)


class _Words:
    """What placeholders mean on every page; each is looked up when it is first asked for."""

    def __init__(self, site: SiteModel) -> None:
        self.site = site
        self._found: dict[str, Texts] = {}
        self._sections: Pages | None = None

    def knows(self, name: str) -> bool:
        """Whether a placeholder is a word of ours, or a detail."""
        return name in ("title", "site", "branch", "parent", "type", "path") or name in self.site.details.columns

    def texts(self, name: str, pages: Pages) -> Texts:
        """What a placeholder means on each of these pages."""
        site = self.site
        if name == "site":
            return _constant(site.name, len(pages))
        if name == "type":
            return Texts.of(map(site.types.label, range(len(site.types)))).take(site.details.type_of[pages])
        if name == "branch":
            return self._detail("title", self._branches(pages))
        if name == "parent":
            above = site.tree.parent[pages]
            titles = self._detail("title", np.maximum(above, 0))
            return Texts(titles.data, titles.start, np.where(above < 0, titles.start, titles.end))
        return site.tree.paths.take(pages) if name == "path" else self._detail(name, pages)

    def _detail(self, name: str, pages: Pages) -> Texts:
        """A detail of these pages; of few pages only their own cells are looked at."""
        found = self._found.get(name)
        if found is None:
            column = self.site.details.columns[name]
            is_few = len(pages) * FEW < len(self.site.tree)
            if is_few:
                column = column.take(pages)
            if name == "tags":
                column = column.changed(lambda cell: ", ".join(split_list(cell)))
            texts = Texts.of_column(column)
            if is_few:
                return texts
            found = self._found[name] = texts
        return found.take(pages)

    def _branches(self, pages: Pages) -> Pages:
        """The page whose title is the branch of each page; of few pages by climbing to it. int64[n]"""
        if self._sections is not None:
            return self._sections[pages]
        if len(pages) * FEW < len(self.site.tree):
            return np.array([self._branch(page) for page in pages.tolist()], dtype=np.int64)
        self._sections = sections(self.site)
        return self._sections[pages]

    def _branch(self, page: int) -> int:
        above = self.site.tree.ancestors(page)
        return next((one for one in above if one != self.site.details.home), page)


def _constant(text: str, count: int) -> Texts:
    return Texts.of([text]).take(np.zeros(count, dtype=np.int64))


def sections(site: SiteModel) -> Pages:
    """For each page its outermost ancestor that is not the home page, or itself. int64[pages]"""
    parent, home = site.tree.parent, site.details.home
    begins = parent < 0
    if home >= 0 and begins[home]:
        begins |= parent == home
    found: Pages = np.maximum.accumulate(np.where(begins, np.arange(len(parent)), 0))
    return found
