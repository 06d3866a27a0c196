"""What a search engine was told about each address, as marks that show which pages have changed since."""

from __future__ import annotations

import numpy as np

from ...arrays.path_finder import fingerprints
from ...arrays.texts import Marks, Texts
from ...resolve.effective import EffectiveModel
from ..placeholders import document_titles
from .sitemap_entries import SitemapEntries

_KEYS = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F], dtype=np.uint64)
"""An odd factor for each part, so that two parts that change places give another mark."""


def address_marks(effective: EffectiveModel, entries: SitemapEntries) -> Marks:
    """For each address of the sitemap one mark for when its page was modified, and for its document title. uint64[n]"""
    pages = entries.published.page
    titles = fingerprints(Texts.of_column(document_titles(effective)))[pages]
    dates = fingerprints(Texts.of(entries.lastmod.words))
    modified = dates[entries.lastmod.codes] if len(dates) else np.zeros(len(pages), dtype=np.uint64)
    marks: Marks = titles * _KEYS[0] + modified * _KEYS[1]
    return marks
