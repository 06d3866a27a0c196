"""The sitemap as the open protocol has it (sitemaps.org, version 0.9), several files and an index where it is large.

Alternates for languages are `xhtml:link` elements with `hreflang`, each address naming all, itself among them. The
elements of many addresses are put together at once, column by column; an XML library would need an object an address.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import Column
from davlo.core.arrays.texts import Texts, concatenated, stacked
from davlo.core.outcomes.sitemap_entries import SitemapEntries

from .joined_addresses import JoinedAddress

NAMESPACE = "http://www.sitemaps.org/schemas/sitemap/0.9"
XHTML = "http://www.w3.org/1999/xhtml"
MOST_ADDRESSES = 50_000
MOST_BYTES = 50 * 1024 * 1024
"""A sitemap file holds at most 50,000 addresses and 52,428,800 bytes (sitemaps.org/protocol.html)."""
_BLOCK = 1 << 14
"""Addresses put together at a time."""
_END = b"\n</urlset>\n"

Chunks = Callable[[], Iterator[bytes]]
"""What gives the bytes of a file, a piece at a time."""


class UrlElements:
    """The `url` elements of a sitemap.

    Parameters
    ----------
    entries : SitemapEntries
        The site's own addresses.
    joined : sequence of JoinedAddress
        Addresses of other programs, which come after them.
    """

    def __init__(self, entries: SitemapEntries, joined: Sequence[JoinedAddress] = ()) -> None:
        own = entries.published
        self._loc = stacked([_escaped(own.url), Texts.of(_escaped_text(one.loc) for one in joined)])
        self._said = [
            stacked([_elements(name, column), Texts.of(_element(name, getattr(one, name)) for one in joined)])
            for name, column in (
                ("lastmod", entries.lastmod),
                ("changefreq", entries.changefreq),
                ("priority", entries.priority),
            )
        ]
        self.has_links = bool((own.end > own.begin).any())
        languages = Texts.of(own.languages)
        self._links = concatenated(
            [
                Texts.repeated('\n    <xhtml:link rel="alternate" hreflang="', len(own.alternate)),
                languages.take(own.language[own.alternate]),
                Texts.repeated('" href="', len(own.alternate)),
                _escaped(own.url.take(own.alternate)),
                Texts.repeated('"/>', len(own.alternate)),
            ]
        )
        edges = np.append(self._links.start, len(self._links.data)) if len(own.alternate) else np.zeros(1, np.int64)
        none = np.zeros(len(joined), dtype=np.int64)
        self._of_links = Texts(self._links.data, np.append(edges[own.begin], none), np.append(edges[own.end], none))

    def __len__(self) -> int:
        return len(self._loc)

    def sizes(self) -> NDArray[np.int64]:
        """How many bytes each element takes. int64[n]"""
        sizes = sum((text.end - text.start for text in (self._loc, *self._said, self._of_links)), np.int64(0))
        return np.asarray(sizes + len("\n  <url>\n    <loc></loc>\n  </url>"))

    def bytes(self, begin: int, end: int) -> bytes:
        """The elements of some addresses, one after the other."""
        some = slice(begin, end)
        parts = [
            Texts.repeated("\n  <url>\n    <loc>", end - begin),
            self._loc[some],
            Texts.repeated("</loc>", end - begin),
            *(said[some] for said in self._said),
            self._of_links[some],
            Texts.repeated("\n  </url>", end - begin),
        ]
        return concatenated(parts).data.tobytes()


def _elements(name: str, column: Column) -> Texts:
    """An element of this name for each page; nothing where its cell is blank."""
    return Texts.of(_element(name, word) for word in column.words).take(column.codes)


def _element(name: str, text: str) -> str:
    return f"\n    <{name}>{_escaped_text(text)}</{name}>" if text else ""


def _escaped(urls: Texts) -> Texts:
    """URLs as XML holds them: of what XML escapes they can hold an ampersand alone (RFC 3986)."""
    some = np.flatnonzero(urls.first(ord("&")) >= 0)
    return urls.replaced(some, Texts.of(_escaped_text(urls[at]) for at in some.tolist())) if len(some) else urls


def _escaped_text(text: str) -> str:
    return text.replace("&", "&amp;")


def sitemap_files(elements: UrlElements, name: str, url: str) -> dict[str, Chunks]:
    """The files of a sitemap: one, or an index of this name and several beside it.

    Parameters
    ----------
    elements : UrlElements
    name : str
        The name of the file, as `sitemap.xml`.
    url : str
        The site's address, under whose root the files will stand.
    """
    head = _head(elements.has_links)
    parts = _parts(elements, len(head) + len(_END))
    if len(parts) == 1:
        return {name: _part(elements, head, parts[0])}
    stem, dot, ending = name.rpartition(".")
    names = [f"{stem or ending}-{i}{dot}{ending if stem else ''}" for i in range(1, len(parts) + 1)]
    files = {part: _part(elements, head, span) for part, span in zip(names, parts, strict=True)}
    return {name: lambda: iter([_index([f"{url}/{part}" for part in names])]), **files}


class _Span(NamedTuple):
    """The addresses of one file."""

    begin: int
    end: int


def _parts(elements: UrlElements, around: int) -> list[_Span]:
    """The addresses of each file, within the protocol's bounds; `around` are the bytes before and after them."""
    upto = np.append(np.int64(0), np.cumsum(elements.sizes()))
    parts: list[_Span] = []
    begin = 0
    while begin < len(elements) or not parts:
        fits = int(np.searchsorted(upto, upto[begin] + MOST_BYTES - around, "right")) - 1
        end = min(begin + MOST_ADDRESSES, max(fits, begin + 1), len(elements))
        parts.append(_Span(begin, end))
        begin = end
    return parts


def _head(has_links: bool) -> bytes:
    xhtml = f' xmlns:xhtml="{XHTML}"' if has_links else ""
    return f"<?xml version='1.0' encoding='utf-8'?>\n<urlset xmlns=\"{NAMESPACE}\"{xhtml}>".encode()


def _part(elements: UrlElements, head: bytes, span: _Span) -> Chunks:
    def chunks() -> Iterator[bytes]:
        yield head
        for begin in range(span.begin, span.end, _BLOCK):
            yield elements.bytes(begin, min(begin + _BLOCK, span.end))
        yield _END

    return chunks


def _index(addresses: Sequence[str]) -> bytes:
    buffer = io.BytesIO()
    with etree.xmlfile(buffer, encoding="utf-8") as file:
        file.write_declaration()
        with file.element(f"{{{NAMESPACE}}}sitemapindex", nsmap={None: NAMESPACE}):
            for address in addresses:
                entry = etree.Element(f"{{{NAMESPACE}}}sitemap", nsmap={None: NAMESPACE})
                etree.SubElement(entry, f"{{{NAMESPACE}}}loc").text = address
                file.write("\n  ", entry)
            file.write("\n")
    return buffer.getvalue() + b"\n"
