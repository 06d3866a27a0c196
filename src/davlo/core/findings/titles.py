"""Findings about document titles."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..columns import Column
from ..outcomes.words import document_titles
from ..wording import count
from .record import Finding, Inquiry, groups


def duplicate_title(inquiry: Inquiry) -> Iterator[Finding]:
    """Live pages of one language share a document title, letter case aside."""
    site = inquiry.site
    titles = document_titles(inquiry.effective)
    folded = Column.of([title.casefold().strip() for title in titles.words])
    key = folded.codes[titles.codes] if len(titles.words) else titles.codes
    live = np.flatnonzero(site.facts.live)
    live = live[inquiry.looked_at("duplicate-title", "title.pattern", live)]
    number = site.setting_number("title.pattern")
    for _, rows in groups(key[live], site.facts.language.codes[live], least=2):
        pages = live[rows]
        title = titles[int(pages[0])]
        if not title.strip():
            continue
        patterns = np.unique(inquiry.effective.resolved(number).source[pages]).tolist()
        yield Finding(
            "duplicate-title",
            "warning",
            "title.pattern",
            inquiry.paths(pages),
            inquiry.said(patterns),
            f'{count(len(pages), "live page")} share the document title "{title}"',
            "no setting mends this: decide what tells the pages apart, and change a title in the inventory "
            "or put {parent} or {section} into the pattern",
        )
