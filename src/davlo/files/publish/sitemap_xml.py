"""The sitemap as the open protocol has it (sitemaps.org, version 0.9), several files and an index where it is large.

Alternates for languages are `xhtml:link` elements with `hreflang`, each address naming all, itself among them.
"""

from __future__ import annotations

import datetime
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from davlo.core.faults import Place, SiteError
from davlo.core.outcomes.addresses import addresses, alternates, encode_path, is_web_address
from davlo.core.outcomes.sitemap_reasons import sitemap_codes, w3c_date
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.numbers import number_of
from davlo.core.site.settings import CHANGEFREQS
from davlo.core.site.values import format_value

from ..read.csv_sheets import Sheet, read_sheet
from ..read.includes import FIRST
from ..read.node_reader import Reader

NAMESPACE = "http://www.sitemaps.org/schemas/sitemap/0.9"
XHTML = "http://www.w3.org/1999/xhtml"
LANGUAGE_TAG = re.compile(r"[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*")
"""A language as `hreflang` takes it (BCP 47); an alternate in any other is left out."""
MOST_ADDRESSES = 50_000
MOST_BYTES = 50 * 1024 * 1024
"""A sitemap file holds at most 50,000 addresses and 52,428,800 bytes (sitemaps.org/protocol.html)."""


class Address(NamedTuple):
    """One `url` element."""

    loc: str
    lastmod: str = ""
    changefreq: str = ""
    priority: str = ""
    alternates: tuple[tuple[str, str], ...] = ()


@dataclass(slots=True)
class Addresses:
    """The sitemap's entries, and their pages (int64[n]); `ahead` counts pages of the future, without a date."""

    pages: NDArray[np.int64]
    found: list[Address] = field(default_factory=list)
    ahead: int = 0


def sitemap_addresses(effective: EffectiveModel, today: datetime.date) -> Addresses:
    """Every address of the site's own pages that belongs in the sitemap, in the order of the tree."""
    site = effective.site
    listed = sitemap_codes(effective) == 0
    families = alternates(site)
    priority, _, priorities = effective.column("sitemap.priority")
    often, _, words = effective.column("sitemap.changefreq")
    modified = site.facts.column("modified")
    place = {language: i for i, language in enumerate(site.languages)}

    def by_language(pair: tuple[str, str]) -> tuple[int, str, str]:
        return place.get(pair[0], len(place)), *pair

    found = Addresses(np.flatnonzero(listed))
    for page in found.pages.tolist():
        lastmod = w3c_date(modified[page])
        if lastmod[:10] > today.isoformat():
            lastmod, found.ahead = "", found.ahead + 1
        changefreq, rank = words[int(often[page])], priorities[int(priority[page])]
        others = [pair for p in families.get(page, [page]) if listed[p] for pair in addresses(site, p)]
        others.sort(key=by_language)  # by what they are, not by where the pages lie in the tree: that may change
        for _, loc in addresses(site, page):
            found.found.append(
                Address(
                    loc,
                    lastmod,
                    "" if changefreq is None else str(changefreq),
                    "" if rank is None else format_value(rank),
                    tuple(others) if len(others) > 1 else (),
                )
            )
    return found


class Joined(NamedTuple):
    """Addresses that other programs make, each once; and the places of those that were there already."""

    found: list[Address]
    again: list[tuple[Place, str]]


def joined_addresses(folder: Path, names: Sequence[str], own: Iterable[Address] = ()) -> Joined:
    """The addresses that other programs make, from CSV files: loc, lastmod, changefreq, priority.

    Those that are among the site's `own`, or came before, are left out.

    Raises
    ------
    SiteError
        If a file cannot be understood.
    """
    reader = Reader()
    found = Joined([], [])
    seen = {one.loc for one in own} if names else set()
    for name in names:
        sheet = read_sheet(folder, name, reader, ("loc",), Place(FIRST))
        if sheet is None:
            continue
        for row, address in enumerate(_joined(sheet, reader)):
            if address.loc in seen:
                found.again.append((sheet.place(row), address.loc))
            else:
                seen.add(address.loc)
                found.found.append(address)
    if reader.faults:
        raise SiteError(reader.faults)
    return found


def _joined(sheet: Sheet, reader: Reader) -> Iterator[Address]:
    columns = [sheet.texts(name) for name in ("loc", "lastmod", "changefreq", "priority")]
    for row, (loc, lastmod, changefreq, priority) in enumerate(zip(*columns, strict=True)):
        if not is_web_address(loc):
            reader.fault(sheet.place(row, "loc"), f"loc takes an address that begins with https://, not {loc!r}")
        if changefreq and changefreq not in CHANGEFREQS:
            what = f"changefreq takes one of {', '.join(CHANGEFREQS)}, not {changefreq!r}"
            reader.fault(sheet.place(row, "changefreq"), what, changefreq, CHANGEFREQS)
        if priority and not _is_priority(priority):
            reader.fault(sheet.place(row, "priority"), f"priority takes a number from 0 to 1, not {priority!r}")
        try:
            lastmod = w3c_date(lastmod)
        except ValueError:
            reader.fault(sheet.place(row, "lastmod"), f"lastmod takes a date like 2026-05-01, not {lastmod!r}")
        scheme, _, rest = loc.partition("://")
        host, slash, path = rest.partition("/")
        yield Address(
            f"{scheme}://{host}{encode_path(slash + path).replace('%3F', '?', 1)}", lastmod, changefreq, priority
        )


def _is_priority(text: str) -> bool:
    number = number_of(text)
    return number is not None and 0 <= number <= 1


def sitemap_files(found: Sequence[Address], name: str, url: str) -> dict[str, bytes]:
    """The files of a sitemap: one, or an index of this name and several beside it.

    Parameters
    ----------
    found : sequence of Address
    name : str
        The name of the file, as `sitemap.xml`.
    url : str
        The site's address, under whose root the files will stand.
    """
    parts = list(_parts(found))
    if len(parts) == 1:
        return {name: parts[0]}
    stem, dot, ending = name.rpartition(".")
    names = [f"{stem or ending}-{i}{dot}{ending if stem else ''}" for i in range(1, len(parts) + 1)]
    buffer = io.BytesIO()
    with etree.xmlfile(buffer, encoding="utf-8") as file:
        file.write_declaration()
        with file.element(f"{{{NAMESPACE}}}sitemapindex", nsmap={None: NAMESPACE}):
            for part in names:
                entry = etree.Element(f"{{{NAMESPACE}}}sitemap", nsmap={None: NAMESPACE})
                etree.SubElement(entry, f"{{{NAMESPACE}}}loc").text = f"{url}/{part}"
                file.write("\n  ", entry)
            file.write("\n")
    return {name: buffer.getvalue() + b"\n", **dict(zip(names, parts, strict=True))}


def _parts(found: Sequence[Address]) -> Iterator[bytes]:
    """The addresses as files that are within the protocol's bounds."""
    start = 0
    while start < len(found) or start == 0:
        stop, content = _part(found, start)
        yield content
        if stop >= len(found):
            return
        start = stop


def _part(found: Sequence[Address], start: int) -> tuple[int, bytes]:
    buffer = io.BytesIO()
    with_alternates = any(address.alternates for address in found)
    nsmap: dict[str | None, str] = {None: NAMESPACE}
    nsmap |= {"xhtml": XHTML} if with_alternates else {}
    stop = start
    with etree.xmlfile(buffer, encoding="utf-8") as file:
        file.write_declaration()
        with file.element(f"{{{NAMESPACE}}}urlset", nsmap=nsmap):
            for address in found[start : start + MOST_ADDRESSES]:
                element = _element(address, nsmap)
                if stop > start and buffer.tell() + len(etree.tostring(element)) + 64 > MOST_BYTES:
                    break
                file.write("\n  ", element)
                file.flush()
                stop += 1
            file.write("\n")
    return stop, buffer.getvalue() + b"\n"


def _element(address: Address, nsmap: dict[str | None, str]) -> etree._Element:
    element = etree.Element(f"{{{NAMESPACE}}}url", nsmap=nsmap)
    for name in ("loc", "lastmod", "changefreq", "priority"):
        text = getattr(address, name)
        if text:
            etree.SubElement(element, f"{{{NAMESPACE}}}{name}").text = text
    for language, href in address.alternates:
        if LANGUAGE_TAG.fullmatch(language):
            etree.SubElement(element, f"{{{XHTML}}}link", rel="alternate", hreflang=language, href=href)
    return element
