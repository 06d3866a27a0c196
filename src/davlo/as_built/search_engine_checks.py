"""The sitemap and robots.txt of a built site, against what would be published."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from davlo.core.outcomes.sitemap.sitemap_entries import sitemap_entries
from davlo.core.outcomes.sitemap.sitemap_reasons import SITEMAP_REASONS
from davlo.core.site.publication import RobotsLine
from davlo.files.built.crawler_files import ROBOTS
from davlo.files.built.sitemap_files import SitemapAddress, read_sitemaps
from davlo.files.output.added_addresses import added_addresses
from davlo.files.output.robots_txt import closed_pages
from davlo.files.read.sections.hosts import as_published, with_small_host

from .built_site import BuiltSite
from .mistakes import Mistake

USUAL = {"sitemap.priority": "0.5"}
"""What a sitemap that is silent means, as the protocol has it."""


def sitemap_mistakes(site: BuiltSite, path: Path, site_folder: Path | None, today: datetime.date) -> Iterator[Mistake]:
    """Addresses that are missing from the sitemap, that should not be in it, or that it describes differently.

    Raises SiteError if the sitemap cannot be understood.
    """
    reasons = site.outcomes.sitemap
    entries = sitemap_entries(site.effective, np.flatnonzero(reasons == 0), today)
    addresses = read_sitemaps(path).addresses
    found: dict[str, SitemapAddress] = dict(zip(as_published(one.loc for one in addresses), addresses, strict=True))
    added_from = site.site.sitemap.add_addresses_from if site_folder else ()
    others = added_addresses(site_folder or path, added_from).found if added_from else ()
    added = {*as_published(one.loc for one in others)}
    said = (("sitemap.changefreq", entries.changefreq), ("sitemap.priority", entries.priority))
    pages = entries.published.page.tolist()
    listed = set[str]()
    for at, (page, url) in enumerate(zip(pages, map(with_small_host, entries.published.urls()), strict=True)):
        listed.add(url)
        where, one = site.site.tree.paths[page], found.get(url)
        if one is None:
            yield Mistake("sitemap", where, "listed", "not listed")
            continue
        date = entries.lastmod[at]
        if one.lastmod[:10] != date[:10]:
            yield Mistake("sitemap lastmod", where, date or "nothing", one.lastmod or "nothing", is_own=True)
        for (setting, column), shows in zip(said, (one.changefreq, one.priority), strict=True):
            should = column[at]
            if not _is_same(should or USUAL.get(setting, ""), shows or USUAL.get(setting, "")):
                what, source = setting.replace(".", " "), site.source(page, setting)
                yield Mistake(what, where, should or "nothing", shows or "nothing", source)
    for url in found:
        if url not in listed and url not in added:
            number = site.number_of(site.path_of(url))
            why = SITEMAP_REASONS[int(reasons[number])] if number >= 0 else "it is no address of the site"
            yield Mistake("sitemap", site.path_of(url) if number >= 0 else url, f"not listed: {why}", "listed")


def _is_same(should: str, shows: str) -> bool:
    try:
        return float(should) == float(shows)
    except ValueError:
        return should == shows


def robots_mistakes(site: BuiltSite, lines: list[RobotsLine]) -> Iterator[Mistake]:
    """Lines that differ from those of davlo.yaml, and pages that they close although crawlers should read them."""
    told = [line for line in lines if line.key and line.key != "sitemap"]
    wanted = [line for line in site.site.robots if line.key and line.key != "sitemap"]
    for one in wanted:
        if not any((one.key, one.value) == (line.key, line.value) for line in told):
            yield Mistake("robots.txt", ROBOTS, f"{one.text} ({one.place})", "nothing")
    for line in told:
        if not any((one.key, one.value) == (line.key, line.value) for one in wanted):
            yield Mistake("robots.txt", ROBOTS, "nothing", f"{line.text} ({line.place})")
    decided = {(line.key, line.value) for line in wanted}
    addresses = zip(site.addresses.page.tolist(), site.addresses.urls(), strict=True)
    for closed in closed_pages(lines, addresses):
        path = site.site.tree.paths[closed.page]
        listed = site.outcomes.sitemap[closed.page] == 0
        should = "read by crawlers: it is in the sitemap" if listed else "read by crawlers, to learn that it is noindex"
        is_decided = (closed.line.key, closed.line.value) in decided
        if not is_decided and (listed or not site.effective[path]["robots.index"]):
            yield Mistake("robots.txt", path, should, f"closed by {closed.line.text!r} ({closed.line.place})")
