"""The sitemap as the open protocol has it (sitemaps.org, version 0.9), several files and an index where it is large.

Alternates for languages are `xhtml:link` elements with `hreflang`, each address naming all, itself among them. The
elements of many addresses are put together at once, column by column; an XML library would need an object an address.
"""

from __future__ import annotations

import io
import zlib
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import NamedTuple

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from davlo.core.arrays.codebooks import distinct
from davlo.core.arrays.texts import Texts, concatenated
from davlo.core.outcomes.sitemap.sitemap_entries import SitemapEntries

from ..built.sitemap_files import ENDINGS, SAID, SitemapAddress

NAMESPACE = "http://www.sitemaps.org/schemas/sitemap/0.9"
XHTML = "http://www.w3.org/1999/xhtml"
MOST_ADDRESSES = 50_000
MOST_BYTES = 50 * 1024 * 1024
"""A sitemap file holds at most 50,000 addresses and 52,428,800 bytes (sitemaps.org/protocol.html)."""
_BLOCK = 1 << 12
"""Addresses put together at a time."""
_END = b"\n</urlset>\n"
_BEFORE, _AFTER, _LAST = "\n  <url>\n    <loc>", "</loc>", "\n  </url>"
_LINK = ('\n    <xhtml:link rel="alternate" hreflang="', '" href="', '"/>')
_SAID = SAID[1:]

Chunks = Callable[[], Iterator[bytes]]
"""What gives the bytes of a file, a piece at a time."""


class UrlElements:
    """The `url` elements of a sitemap, some at a time: all their texts together would take more memory than the site.

    `entries`: the site's own addresses. `added`: addresses of other programs, which come after them.
    """

    def __init__(self, entries: SitemapEntries, added: Sequence[SitemapAddress] = ()) -> None:
        self._own = entries.published
        self._said = [
            (Texts.of(_element(name, word) for word in column.words), column.codes)
            for name, column in zip(_SAID, (entries.lastmod, entries.changefreq, entries.priority), strict=True)
        ]
        self._languages = Texts.of(self._own.alternate_languages)
        self._added = Texts.of(_added_element(one) for one in added)
        self.has_links = bool((self._own.end > self._own.begin).any()) or any(one.alternates for one in added)

    def __len__(self) -> int:
        return len(self._own) + len(self._added)

    def sizes(self) -> NDArray[np.int64]:
        """How many bytes each element takes. int64[n]"""
        own = self._own
        address = np.concatenate([np.zeros(0, np.int64), *(_lengths(_escaped(some)) for some in own.url_blocks())])
        sizes = address + len(_BEFORE + _AFTER + _LAST)
        for texts, codes in self._said:
            sizes += _lengths(texts).take(codes) if len(texts) else 0
        language = _lengths(self._languages).take(own.alternate_language)
        link = address[own.alternate] + language + len("".join(_LINK))
        upto = np.append(np.int64(0), np.cumsum(link))
        return np.append(sizes + upto[own.end] - upto[own.begin], _lengths(self._added))

    def bytes(self, begin: int, end: int) -> bytes:
        """The elements of some addresses, one after the other."""
        own = len(self._own)
        some = np.arange(min(begin, own), min(end, own))
        parts = [
            Texts.repeated(_BEFORE, len(some)),
            _escaped(self._own.urls(some)),
            Texts.repeated(_AFTER, len(some)),
            *(texts.take(codes[some]) for texts, codes in self._said if len(texts)),
            self._links(some),
            Texts.repeated(_LAST, len(some)),
        ]
        added = self._added[max(begin - own, 0) : max(end - own, 0)]
        return concatenated(parts).laid_out().data.tobytes() + "".join(added).encode()

    def _links(self, some: NDArray[np.int64]) -> Texts:
        """The alternates of some addresses; those of one family share their bytes."""
        own, begin = self._own, self._own.begin[some]
        sizes = own.end[some] - begin
        # those that have none can begin where another family does
        first, family = distinct(np.where(sizes > 0, begin, -1))
        size = sizes[first]
        upto = np.append(np.int64(0), np.cumsum(size))
        places = np.repeat(begin[first] - upto[:-1], size) + np.arange(upto[-1])
        numbers = own.alternate[places]
        before, between, after = (Texts.repeated(text, len(numbers)) for text in _LINK)
        languages = self._languages.take(own.alternate_language[places])
        links = concatenated([before, languages, between, _escaped(own.urls(numbers)), after])
        edges = np.append(links.start, links.end[-1] if len(links) else 0)
        return Texts(links.data, edges[upto[:-1]][family], edges[upto[1:]][family])


def _lengths(texts: Texts) -> NDArray[np.int64]:
    return texts.end - texts.start


def _added_element(one: SitemapAddress) -> str:
    said = "".join(_element(name, getattr(one, name)) for name in _SAID)
    before, between, after = _LINK
    links = "".join(f"{before}{language}{between}{_escaped_text(url)}{after}" for language, url in one.alternates)
    return f"{_BEFORE}{_escaped_text(one.loc)}{_AFTER}{said}{links}{_LAST}"


def _element(name: str, text: str) -> str:
    return f"\n    <{name}>{_escaped_text(text)}</{name}>" if text else ""


def _escaped(urls: Texts) -> Texts:
    """URLs as XML holds them: of the characters that XML escapes, they can hold only the ampersand (RFC 3986)."""
    some = np.flatnonzero(urls.first(ord("&")) >= 0)
    return urls.replaced(some, Texts.of(_escaped_text(urls[at]) for at in some.tolist())) if len(some) else urls


def _escaped_text(text: str) -> str:
    return text.replace("&", "&amp;")


def sitemap_files(elements: UrlElements, name: str, url: str) -> dict[str, Chunks]:
    """The files of a sitemap: one, or an index of this name and several beside it.

    `name`: the name of the file, as `sitemap.xml`; with `sitemap.xml.gz` each file is packed (RFC 1952). `url`: the
    site's address, under whose root the files will stand.
    """
    head = _head(elements.has_links)
    parts = _parts(elements, len(head) + len(_END))
    if len(parts) == 1:
        files: dict[str, Chunks] = {name: partial(_part, elements, head, parts[0])}
    else:
        ending = next(ending for ending in ENDINGS if name.endswith(ending))
        names = [f"{name.removesuffix(ending)}-{i}{ending}" for i in range(1, len(parts) + 1)]
        each = {part: partial(_part, elements, head, span) for part, span in zip(names, parts, strict=True)}
        files = {name: partial(_index, [f"{url}/{part}" for part in names]), **each}
    return {each: partial(_packed, chunks) for each, chunks in files.items()} if name.endswith(".gz") else files


def _packed(chunks: Chunks) -> Iterator[bytes]:
    """The bytes of a file, packed; without a date, so that the same sitemap is always the same file."""
    packer = zlib.compressobj(wbits=zlib.MAX_WBITS | 16)
    for chunk in chunks():
        yield packer.compress(chunk)
    yield packer.flush()


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


def _part(elements: UrlElements, head: bytes, span: _Span) -> Iterator[bytes]:
    yield head
    for begin in range(span.begin, span.end, _BLOCK):
        yield elements.bytes(begin, min(begin + _BLOCK, span.end))
    yield _END


def _index(addresses: Sequence[str]) -> Iterator[bytes]:
    buffer = io.BytesIO()
    with etree.xmlfile(buffer, encoding="utf-8") as file:
        file.write_declaration()
        with file.element(f"{{{NAMESPACE}}}sitemapindex", nsmap={None: NAMESPACE}):
            for address in addresses:
                entry = etree.Element(f"{{{NAMESPACE}}}sitemap", nsmap={None: NAMESPACE})
                etree.SubElement(entry, f"{{{NAMESPACE}}}loc").text = address
                file.write("\n  ", entry)
            file.write("\n")
    yield buffer.getvalue() + b"\n"
