"""Addresses of pages that other programs make, for the site's sitemap.

`sitemap: {add_addresses_from: […]}` names the files: CSV files, or sitemaps on disk.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple
from urllib.parse import urlsplit

from davlo.core.arrays.path_finder import Finder
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, SiteError, ValueFault
from davlo.core.outcomes.sitemap.addresses import (
    FOR_OTHERS,
    LANGUAGE_TAG,
    MOST_LETTERS,
    encode_addresses,
    is_web_address,
)
from davlo.core.outcomes.sitemap.sitemap_reasons import w3c_date
from davlo.core.site.settings.numbers import number_of
from davlo.core.site.settings.setting import CHANGEFREQS

from ..built.sitemap_files import ENDINGS, SAID, SitemapAddress, read_sitemaps
from ..read.rows.csv_sheets import read_sheet
from ..read.sections.hosts import ascii_address
from ..read.site_file import OutsideFolder, path_inside
from ..read.yaml.includes import FIRST
from ..read.yaml.node_reader import Reader

Row = tuple[Place, SitemapAddress]


class AddedAddresses(NamedTuple):
    """Addresses that other programs make, each once."""

    # as a sitemap lists them: encoded, with dates of the W3C's form, and alternates that are mutual
    found: list[SitemapAddress]
    again: list[tuple[Place, str]]  # the places of addresses that were there already
    # addresses whose alternates are left out: they do not name the address itself, or others do not name it back
    one_sided: list[str]
    files: tuple[str, ...] = ()  # the files that were read, with the parts of an index, as the site would name them

    def hosts_besides(self, url: str) -> list[str]:
        """The hosts of these addresses other than the site's own."""
        own = urlsplit(url).netloc.lower()
        return sorted({urlsplit(one.loc).netloc.lower() for one in self.found} - {own})


def added_addresses(folder: Path, names: Sequence[str], own: Iterable[Texts] = ()) -> AddedAddresses:
    """The addresses that other programs make, without those that are among the site's `own` or came before.

    `folder`: the site folder. `names`: CSV files with the columns loc, lastmod, changefreq, priority, and sitemaps
    (.xml, .xml.gz), in the site folder. `own`: the addresses of the site's own pages, some at a time. Raises SiteError
    if a file cannot be understood.
    """
    reader, files = Reader(), list[str]()
    rows = [row for name in names for row in _rows(folder, name, reader, files)]
    checked = list(_checked(rows, reader))
    if reader.faults:
        raise SiteError(reader.faults)
    seen = _among([address.loc for _, address in checked], own)
    found, again = list[SitemapAddress](), list[tuple[Place, str]]()
    for place, address in checked:
        if address.loc in seen:
            again.append((place, address.loc))
        else:
            seen.add(address.loc)
            found.append(address)
    kept, one_sided = _mutual(found)
    return AddedAddresses(kept, again, one_sided, tuple(files))


def _rows(folder: Path, name: str, reader: Reader, files: list[str]) -> list[Row]:
    """The addresses of one file as they are written, with their places; notes the files that were read."""
    if name.lower().endswith(ENDINGS):
        return _rows_of_sitemap(folder, name, reader, files)
    sheet = read_sheet(folder, name, reader, ("loc",), Place(FIRST))
    if sheet is None:
        return []
    files.append(name)
    columns = zip(*(sheet.texts(column) for column in SAID), strict=True)
    return [(sheet.place(row), SitemapAddress(*words)) for row, words in enumerate(columns)]


def _rows_of_sitemap(folder: Path, name: str, reader: Reader, files: list[str]) -> list[Row]:
    beside = name.rpartition("/")[0]

    def named(file: str) -> str:
        return f"{beside}/{file}" if beside else file

    try:
        read = read_sitemaps(path_inside(folder, name))
    except SiteError as error:
        reader.faults += [
            fault._replace(place=fault.place._replace(file=named(fault.place.file))) for fault in error.faults
        ]
    except FileNotFoundError:
        reader.fault(Place(FIRST), f"there is no file {name} in the site folder")
    except OutsideFolder as error:
        what = f"{name} lies {error.where}"
        reader.fault(Place(FIRST), what, hint="move the file into the site folder")
    except OSError as error:
        reader.fault(Place(name), f"the file cannot be read: {error.strerror}")
    else:
        for missing in read.missing:
            reader.fault(
                Place(name), f"it lists {missing}, which is not beside it", hint="put the parts beside the index"
            )
        files += map(named, read.files)
        return [(Place(named(one.file), one.line), one) for one in read.addresses]
    return []


def _among(addresses: list[str], own: Iterable[Texts]) -> set[str]:
    """Which of some addresses are among a site's own."""
    if not addresses:
        return set()
    finder, there = Finder(Texts.of(addresses)), set[int]()
    for block in own:
        found = finder.find(block)
        there.update(found[found >= 0].tolist())
    return {addresses[one] for one in there}


def _checked(rows: Sequence[Row], reader: Reader) -> Iterator[Row]:
    """The addresses as the site's sitemap writes them; what the protocol does not allow is a fault."""
    locs = [_known_host(one.loc.partition("#")[0], place, reader) for place, one in rows]
    for (place, one), loc in zip(rows, encode_addresses(Texts.of(locs)), strict=True):
        if not is_web_address(one.loc):
            reader.fault(_at(place, "loc"), f"loc takes an address that begins with https://, not {one.loc!r}")
        if len(loc) > MOST_LETTERS:
            reader.fault(
                _at(place, "loc"), f"loc takes an address of at most {MOST_LETTERS:,} letters, not {len(loc):,}"
            )
        if one.changefreq and one.changefreq not in CHANGEFREQS:
            what = f"changefreq takes one of {', '.join(CHANGEFREQS)}, not {one.changefreq!r}"
            reader.fault(_at(place, "changefreq"), what, one.changefreq, CHANGEFREQS)
        if one.priority and not _is_priority(one.priority):
            reader.fault(_at(place, "priority"), f"priority takes a number from 0 to 1, not {one.priority!r}")
        lastmod = one.lastmod
        try:
            lastmod = w3c_date(lastmod)
        except ValueError:
            reader.fault(_at(place, "lastmod"), f"lastmod takes a date like 2026-05-01, not {lastmod!r}")
        yield place, one._replace(loc=loc, lastmod=lastmod)


def _at(place: Place, column: str) -> Place:
    """A place with the column, in a CSV file; a sitemap has none."""
    return place if place.file.lower().endswith(ENDINGS) else place._replace(column=column)


def _known_host(address: str, place: Place, reader: Reader) -> str:
    try:
        return ascii_address(address)
    except ValueFault as error:
        reader.value_fault(_at(place, "loc"), error)
        return address


def _is_priority(text: str) -> bool:
    number = number_of(text)
    return number is not None and 0 <= number <= 1


def _mutual(found: Sequence[SitemapAddress]) -> tuple[list[SitemapAddress], list[str]]:
    """The addresses with the alternates that are mutual, and those whose alternates are not, and so are left out.

    The address for all other languages may be one that names no alternates.
    """
    named = {one.loc: _encoded_links(one) for one in found if one.alternates}
    kept, one_sided = list[SitemapAddress](), list[str]()
    for one in found:
        links = named.get(one.loc, ())
        others = [address for language, address in links if language != FOR_OTHERS]
        can_be = all(
            (language == FOR_OTHERS or LANGUAGE_TAG.fullmatch(language)) and is_web_address(address)
            for language, address in links
        )
        is_each_once = len({language for language, _ in links}) == len(links)
        names_it = all(one.loc in (back for _, back in named.get(address, ())) for address in others)
        is_mutual = one.loc in others and names_it and can_be and is_each_once
        kept.append(one._replace(alternates=links if is_mutual else ()))
        if links and not is_mutual:
            one_sided.append(one.loc)
    return kept, one_sided


def _encoded_links(one: SitemapAddress) -> tuple[tuple[str, str], ...]:
    """The alternates of an address, their addresses encoded; as they are where one has a host that cannot be."""
    try:
        plain = [ascii_address(address.partition("#")[0]) for _, address in one.alternates]
    except ValueFault:
        return one.alternates
    urls = encode_addresses(Texts.of(plain))
    return tuple((language, url) for (language, _), url in zip(one.alternates, urls, strict=True))
