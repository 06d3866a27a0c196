"""The robots.txt and the sitemap that lie in a folder of built pages."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from urllib.parse import urlsplit

from davlo.core.faults import Place
from davlo.core.site.publication import RobotsLine

from ..read.site_file import read_site_file

ROBOTS = "robots.txt"
SITEMAPS = ("sitemap.xml", "sitemap.xml.gz", "sitemap_index.xml")
MOST_ROBOTS = 1 << 20


def robots_lines(folder: Path) -> list[RobotsLine] | None:
    """The lines of a folder's robots.txt; None if it has none that can be read."""
    try:
        text = read_site_file(folder, ROBOTS)[:MOST_ROBOTS].decode("utf-8-sig", "replace")
    except OSError:
        return None
    return [RobotsLine(line.rstrip(), Place(ROBOTS, at)) for at, line in enumerate(text.splitlines(), 1)]


def sitemap_of(folder: Path, lines: Sequence[RobotsLine] | None) -> Path | None:
    """The sitemap of a folder: the file that robots.txt names, or else sitemap.xml."""
    named = [urlsplit(line.value).path.lstrip("/") for line in lines or () if line.key == "sitemap"]
    inside = folder.resolve()
    for name in (*named, *SITEMAPS):
        path = folder / name if name and "\0" not in name else folder
        if path.is_file() and path.resolve().is_relative_to(inside):
            return path
    return None
