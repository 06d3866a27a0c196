"""Sitemaps on disk, as the open protocol has them (sitemaps.org, version 0.9): files, indexes of files, gzipped ones.

Read through lxml as hostile input: no entities, no document types from elsewhere, no addresses fetched.
"""

from __future__ import annotations

import gzip
import io
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from lxml import etree

from davlo.core.faults import Fault, Place, SiteError, ValueFault

from ..read.site_file import open_regular

MOST_BYTES = 512 << 20
"""The most bytes of a file, once it is unpacked; the protocol allows 50 MiB."""
MOST_DEPTH = 3
"""An index of indexes is read to this depth."""
SAID = ("loc", "lastmod", "changefreq", "priority")
ENDINGS = (".xml", ".xml.gz")
GZIP = b"\x1f\x8b"


class SitemapAddress(NamedTuple):
    """One address of a sitemap; what the sitemap leaves unsaid is empty.

    Attributes
    ----------
    loc, lastmod, changefreq, priority : str
    alternates : tuple of (str, str)
        Languages and addresses.
    line : int
    file : str
        The name of the file that lists it.
    """

    loc: str
    lastmod: str = ""
    changefreq: str = ""
    priority: str = ""
    alternates: tuple[tuple[str, str], ...] = ()
    line: int = 0
    file: str = ""


class Sitemaps(NamedTuple):
    """The addresses of a sitemap and of those that it lists; the listed files that are missing; the files read."""

    addresses: list[SitemapAddress]
    missing: list[str]
    files: list[str]


def read_sitemaps(path: Path) -> Sitemaps:
    """The addresses of a sitemap on disk. The files that an index names are looked for beside it, by their name.

    Raises
    ------
    SiteError
        If it is no sitemap; with the line.
    OSError
        If it cannot be read.
    """
    found = Sitemaps([], [], [])
    _read(path, path.parent.resolve(), found, 0)
    return found


def _read(path: Path, folder: Path, found: Sitemaps, depth: int) -> None:
    names = list[str]()
    found.files.append(path.name)
    try:
        for element in _elements(path):
            parts = {_name(child): (child.text or "").strip() for child in element if isinstance(child.tag, str)}
            if _name(element) == "sitemap":
                names.append(urlsplit(parts.get("loc", "")).path.rpartition("/")[2])
            elif parts.get("loc"):
                links = tuple(
                    (child.get("hreflang"), child.get("href"))
                    for child in element
                    if _name(child) == "link" and child.get("hreflang") and child.get("href")
                )
                loc, lastmod, changefreq, priority = (parts.get(key, "") for key in SAID)
                line = element.sourceline or 0
                found.addresses.append(SitemapAddress(loc, lastmod, changefreq, priority, links, line, path.name))
    except etree.XMLSyntaxError as error:
        what = f"it is no XML that can be read: {error.msg}"
        raise SiteError([Fault(Place(path.name, error.lineno or 0), what)]) from None
    except ValueFault as error:
        raise SiteError([Fault(Place(path.name), error.what)]) from None
    for name in names:
        other = folder / name
        if not name or depth >= MOST_DEPTH or not other.is_file() or other.resolve().parent != folder:
            found.missing.append(name or "a file without a name")
        else:
            _read(other, folder, found, depth + 1)


def _elements(path: Path) -> Iterator[Any]:
    """The `url` and `sitemap` elements, one at a time."""
    content, root = _content(path), None
    walk = etree.iterparse(
        io.BytesIO(content), events=("start", "end"), resolve_entities=False, no_network=True, load_dtd=False
    )
    for event, element in walk:
        if root is None:
            root = element
            if _name(root) not in ("urlset", "sitemapindex"):
                raise ValueFault(f"it is no sitemap: its first element is {_name(root)}, not urlset or sitemapindex")
        if event == "end" and _name(element) in ("url", "sitemap") and element.getparent() is root:
            yield element
            root.remove(element)


def _name(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _content(path: Path) -> bytes:
    with io.BufferedReader(open_regular(path)) as file:
        content = file.read(MOST_BYTES + 1)
    if content.startswith(GZIP):
        try:
            with gzip.open(io.BytesIO(content)) as packed:
                content = packed.read(MOST_BYTES + 1)
        except (OSError, EOFError, zlib.error) as error:
            raise ValueFault(f"it cannot be unpacked: {error}") from None
    if len(content) > MOST_BYTES:
        raise ValueFault(f"it has more than {MOST_BYTES:,} bytes, and Davlo reads no more")
    return content
