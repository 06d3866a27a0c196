"""What the sitemap says of each address: its date, how often it changes, its priority, its alternates."""

from __future__ import annotations

import datetime
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays.codebooks import Column
from ...resolve.effective import EffectiveModel
from ...site.settings.values import format_value
from .addresses import Published, published
from .sitemap_reasons import w3c_date


class SitemapEntries(NamedTuple):
    """The sitemap's entries for the site's own pages, in the order of the tree."""

    published: Published  # the address of each entry, its page, and its alternates
    # `lastmod`, `changefreq`, `priority`: as the open protocol writes them (sitemaps.org/protocol.html); blank where
    # there is nothing to say
    lastmod: Column
    changefreq: Column
    priority: Column
    ahead: int  # how many pages were modified in the future, and so have no date
    # int64[n]: pages that are left out because an address of theirs is longer than the protocol allows
    too_long: NDArray[np.int64]


def sitemap_entries(effective: EffectiveModel, listed: NDArray[np.int64], today: datetime.date) -> SitemapEntries:
    """The entries of a sitemap written today for these pages.

    `listed`: int64[n]: the pages that are in the sitemap.

    Example
    -------
    >>> import davlo, datetime
    >>> effective = davlo.open_demo().resolve()
    >>> page = effective.site.tree.number("/visit/tickets")
    >>> entries = sitemap_entries(effective, np.array([page]), datetime.date(2026, 6, 1))
    >>> entries.published.urls()[0], entries.priority[0]
    ('https://quillmere.example/visit/tickets', '0.9')
    """
    found = published(effective.site, listed)
    too_long = found.too_long()
    if len(too_long):
        listed = listed[~np.isin(listed, too_long)]
        found = published(effective.site, listed)
    modified = effective.site.details.column("modified")
    dates = [w3c_date(word) for word in modified.words]
    is_ahead = [date[:10] > today.isoformat() for date in dates]
    lastmod = Column(
        modified.codes[found.page], ["" if late else date for date, late in zip(dates, is_ahead, strict=True)]
    )
    ahead = int(np.count_nonzero(modified.where(is_ahead)[listed]))
    said = []
    for setting in ("sitemap.changefreq", "sitemap.priority"):
        codes, _, words = effective.column(setting)
        said.append(Column(codes[found.page], ["" if word is None else format_value(word) for word in words]))
    return SitemapEntries(found, lastmod, said[0], said[1], ahead, too_long)
