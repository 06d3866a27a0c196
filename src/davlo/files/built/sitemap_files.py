"""Sitemaps on disk, as the open protocol has them (sitemaps.org, version 0.9): files, indexes of files, gzipped ones.

Read through lxml as hostile input: no entities, no document types from elsewhere, no addresses fetched.
"""

from __future__ import annotations

import gzip
import io
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from lxml import etree

from davlo.core.faults import Fault, Place, SiteError, ValueFault

from ..read.site_file import open_regular

MOST_BYTES = 64 << 20
"""The most bytes of a file, once it is unpacked; the protocol allows 50 MiB."""
MOST_IN_FILE = 200_000
"""The most addresses or parts of one file; the protocol allows 50,000."""
MOST_ADDRESSES, MOST_FILES, MOST_ELEMENTS = 2_000_000, 10_000, 10_000_000
"""The most addresses, files and elements of a sitemap with all its parts."""
MOST_DEPTH = 3
"""An index of indexes is read to this depth."""
SAID = ("loc", "lastmod", "changefreq", "priority")
ENDINGS = (".xml", ".xml.gz")
GZIP = b"\x1f\x8b"


class SitemapAddress(NamedTuple):
    """One address of a sitemap; what the sitemap leaves unsaid is empty."""

    loc: str
    lastmod: str = ""
    changefreq: str = ""
    priority: str = ""
    alternates: tuple[tuple[str, str], ...] = ()  # languages and addresses
    line: int = 0
    file: str = ""  # the name of the file that lists it


class Sitemaps(NamedTuple):
    """The addresses of a sitemap and of those that it lists; the listed files that are missing; the files read."""

    addresses: list[SitemapAddress]
    missing: list[str]
    files: list[str]


def read_sitemaps(path: Path) -> Sitemaps:
    """The addresses of a sitemap on disk. The files that an index names are looked for beside it, by their name.

    Raises SiteError if it is no sitemap; with the line; OSError if it cannot be read.
    """
    found = Sitemaps([], [], [])
    _read(path, path.parent.resolve(), found, (), _Read({path.name}))
    return found


@dataclass
class _Read:
    """What was read so far: the names of the files, and how many elements they had."""

    names: set[str]
    elements: int = 0


def _read(path: Path, folder: Path, found: Sitemaps, above: tuple[str, ...], read: _Read) -> None:
    """Read a sitemap, and the parts that it lists; `above` are the indexes that led to it."""
    names: dict[str, None] = {}
    found.files.append(path.name)
    try:
        for element in _elements(path, read):
            parts = {_name(child): (child.text or "").strip() for child in element if isinstance(child.tag, str)}
            if _name(element) == "sitemap":
                names[urlsplit(parts.get("loc", "")).path.rpartition("/")[2]] = None
            elif parts.get("loc"):
                links = tuple(
                    (child.get("hreflang"), child.get("href"))
                    for child in element
                    if _name(child) == "link" and child.get("hreflang") and child.get("href")
                )
                loc, lastmod, changefreq, priority = (parts.get(key, "") for key in SAID)
                line = element.sourceline or 0
                found.addresses.append(SitemapAddress(loc, lastmod, changefreq, priority, links, line, path.name))
        if len(found.addresses) > MOST_ADDRESSES:
            raise ValueFault(f"with it there are more than {MOST_ADDRESSES:,} addresses, and Davlo reads no more")
        if len(found.files) > MOST_FILES:
            raise ValueFault(f"with it there are more than {MOST_FILES:,} sitemaps, and Davlo reads no more")
    except etree.XMLSyntaxError as error:
        what = f"it is no XML that can be read: {error.msg}"
        raise SiteError([Fault(Place(path.name, error.lineno or 0), what)]) from None
    except ValueFault as error:
        raise SiteError([Fault(Place(path.name), error.what)]) from None
    for name in names:
        other = folder / name
        if name in (*above, path.name):
            circle = "itself" if name == path.name else f"{name}, which leads to it"
            raise SiteError([Fault(Place(path.name), f"it lists {circle}")])
        if not name or len(above) >= MOST_DEPTH or not other.is_file() or other.resolve().parent != folder:
            found.missing.append(name or "a file without a name")
        elif name not in read.names:
            read.names.add(name)
            _read(other, folder, found, (*above, path.name), read)


def _elements(path: Path, read: _Read) -> Iterator[Any]:
    """The `url` and `sitemap` elements, one at a time. What is unpacked is counted while it is."""
    root, listed = None, 0
    with _opened(path) as file:
        walk = etree.iterparse(
            file, events=("start", "end"), resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True
        )
        for event, element in walk:
            if root is None:
                root = element
                if _name(root) not in ("urlset", "sitemapindex"):
                    raise ValueFault(
                        f"it is no sitemap: its first element is {_name(root)}, not urlset or sitemapindex"
                    )
            read.elements += event == "start"
            if read.elements > MOST_ELEMENTS:
                raise ValueFault(f"it has more than {MOST_ELEMENTS:,} elements, and Davlo reads no more")
            if event == "end" and _name(element) in ("url", "sitemap") and element.getparent() is root:
                listed += 1
                if listed > MOST_IN_FILE:
                    raise ValueFault(
                        f"it lists more than {MOST_IN_FILE:,} addresses, and Davlo reads no more of one file (the "
                        "protocol allows 50,000)"
                    )
                yield element
            if event == "end" and element.getparent() is root:
                root.remove(element)


def _name(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


@contextmanager
def _opened(path: Path) -> Iterator[_Bounded]:
    """The bytes of a sitemap, unpacked as they are read.

    Raises ValueFault if they cannot be unpacked.
    """
    with io.BufferedReader(open_regular(path)) as file:
        try:
            if file.peek(2)[:2] == GZIP:
                with gzip.open(file) as unpacked:
                    yield _Bounded(unpacked)
            else:
                yield _Bounded(file)
        except (EOFError, zlib.error, gzip.BadGzipFile) as error:
            raise ValueFault(f"it cannot be unpacked: {error}") from None


class _Bounded:
    """A file to read from, with a bound for its bytes."""

    def __init__(self, file: io.BufferedIOBase | gzip.GzipFile) -> None:
        self._file, self._left = file, MOST_BYTES

    def read(self, size: int = -1) -> bytes:
        content = self._file.read(size)
        self._left -= len(content)
        if self._left < 0:
            raise ValueFault(f"it has more than {MOST_BYTES:,} bytes, and Davlo reads no more")
        return content
