"""What a sitemap lists for each page, as marks that show whether the sitemap written last is still right."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Mask
from ...arrays.grouping import run_begins
from ...arrays.path_finder import fingerprints
from ...arrays.texts import Marks, Texts
from ...resolve.effective import EffectiveModel
from .sitemap_entries import SitemapEntries

_KEYS = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9, 0x27D4EB2F165667C5], dtype=np.uint64)
"""An odd factor for each part of a page's entry, so that two parts that change places give another mark."""


class Told(NamedTuple):
    """What a sitemap lists for the site's own pages."""

    page: Marks  # uint64[n]: a fingerprint of each page's path, ascending
    entry: Marks  # uint64[n]: one mark for all that the sitemap lists for it: addresses, date, values, alternates


class Published(NamedTuple):
    """The sitemap that was written last."""

    file: str  # where it was written, seen from the current folder
    again: str  # the command that writes it again
    written: datetime.date
    told: Told
    altered: bool = False  # whether the file is there and has changed
    added: tuple[str, ...] = ()  # the files of addresses added to it that are not as they were


class Drift(NamedTuple):
    """What would be listed differently than in the sitemap that was written."""

    # `new`, `changed`, `gone`: bool[pages]: pages that would be new, listed differently, and those that are in it and
    # would not be now
    new: Mask
    changed: Mask
    gone: Mask
    lost: int  # how many more are in it, and are no pages of the site any more


def told(effective: EffectiveModel, entries: SitemapEntries) -> Told:
    """What a sitemap with these entries lists for each page."""
    pages, entry = _pages(effective, entries)
    page = fingerprints(effective.site.tree.paths)[pages]
    order = np.argsort(page, kind="stable")
    return Told(page[order], entry[order])


def drift(effective: EffectiveModel, entries: SitemapEntries, before: Told) -> Drift:
    """How a sitemap with these entries would differ."""
    listed, entry = _pages(effective, entries)
    marks = fingerprints(effective.site.tree.paths)
    order = np.argsort(marks)  # places of marks in their order are found much faster
    at = np.zeros(len(marks), dtype=np.int64)
    at[order] = before.page.searchsorted(marks[order])
    at = np.minimum(at, max(0, len(before.page) - 1))
    known = before.page[at] == marks if len(before.page) else np.zeros(len(marks), dtype=bool)
    new, changed, gone = np.zeros(len(marks), dtype=bool), np.zeros(len(marks), dtype=bool), known.copy()
    new[listed] = ~known[listed]
    if len(before.page):
        changed[listed] = known[listed] & (before.entry[at[listed]] != entry)
    gone[listed] = False
    return Drift(new, changed, gone, len(before.page) - int(np.count_nonzero(known)))


def lost_pages(effective: EffectiveModel, before: Told, followed: Iterable[str]) -> int:
    """How many pages of an earlier sitemap are no longer pages of the site, and not among the paths `followed`."""
    known = [fingerprints(effective.site.tree.paths), fingerprints(Texts.of(followed))]
    return int(np.count_nonzero(~np.isin(before.page, np.concatenate(known))))


def _pages(effective: EffectiveModel, entries: SitemapEntries) -> tuple[NDArray[np.int64], Marks]:
    """The pages that are listed, int64[n], and a fingerprint of all that the sitemap lists for each, uint64[n].

    The written address stands for the published one: together with the site's pattern it says all of it.
    """
    of = entries.published
    pattern = fingerprints(Texts.of("\n".join(words) for words in zip(*of.pattern.pieces, strict=True)))
    address = fingerprints(of.written) ^ pattern[of.in_pattern]
    found = address.copy()
    for column, key in zip((entries.lastmod, entries.changefreq, entries.priority), _KEYS[1:], strict=True):
        found += fingerprints(Texts.of(column.words))[column.codes] * key if len(column.words) else np.uint64(0)
    if len(of.alternate):
        language = fingerprints(Texts.of(of.alternate_languages))[of.alternate_language]
        marks = (address[of.alternate] ^ language) * _KEYS[0]
        alternates = np.append(np.uint64(0), np.cumsum(marks, dtype=np.uint64))
        found ^= alternates[of.end] - alternates[of.begin]
    first = np.flatnonzero(run_begins(of.page))  # a page's lie together
    sums = np.append(np.uint64(0), np.cumsum(found, dtype=np.uint64))
    whole: Marks = np.diff(sums[np.append(first, len(of.page))])
    return of.page[first], whole
