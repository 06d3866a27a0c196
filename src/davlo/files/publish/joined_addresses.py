"""Addresses that other programs make, and a site's sitemap lists too: CSV files that `sitemap: {join: …}` names."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from davlo.core.arrays.path_finder import Finder
from davlo.core.arrays.texts import Texts
from davlo.core.faults import Place, SiteError
from davlo.core.outcomes.addresses import encode_addresses, is_web_address
from davlo.core.outcomes.sitemap_reasons import w3c_date
from davlo.core.site.numbers import number_of
from davlo.core.site.settings import CHANGEFREQS

from ..read.csv_sheets import Sheet, read_sheet
from ..read.includes import FIRST
from ..read.node_reader import Reader


class JoinedAddress(NamedTuple):
    """One address, as another program has it."""

    loc: str
    lastmod: str = ""
    changefreq: str = ""
    priority: str = ""


class Joined(NamedTuple):
    """Addresses that other programs make, each once; and the places of those that were there already."""

    found: list[JoinedAddress]
    again: list[tuple[Place, str]]


def joined_addresses(folder: Path, names: Sequence[str], own: Iterable[Texts] = ()) -> Joined:
    """The addresses that other programs make, from CSV files: loc, lastmod, changefreq, priority.

    Those that are among the site's `own` (columns of texts), or came before, are left out.

    Raises
    ------
    SiteError
        If a file cannot be understood.
    """
    reader, rows = Reader(), list[tuple[Place, JoinedAddress]]()
    for name in names:
        sheet = read_sheet(folder, name, reader, ("loc",), Place(FIRST))
        if sheet is not None:
            rows += [(sheet.place(row), address) for row, address in enumerate(_joined(sheet, reader))]
    if reader.faults:
        raise SiteError(reader.faults)
    found, seen = Joined([], []), _among([address.loc for _, address in rows], own)
    for place, address in rows:
        if address.loc in seen:
            found.again.append((place, address.loc))
        else:
            seen.add(address.loc)
            found.found.append(address)
    return found


def _among(addresses: list[str], own: Iterable[Texts]) -> set[str]:
    """Which of some addresses are among a site's own."""
    if not addresses:
        return set()
    finder, there = Finder(Texts.of(addresses)), set[int]()
    for block in own:
        found = finder.find(block)
        there.update(found[found >= 0].tolist())
    return {addresses[one] for one in there}


def _joined(sheet: Sheet, reader: Reader) -> Iterator[JoinedAddress]:
    columns = [sheet.texts(name) for name in ("loc", "lastmod", "changefreq", "priority")]
    encoded = encode_addresses(Texts.of(loc.partition("#")[0] for loc in columns[0]))
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
        yield JoinedAddress(encoded[row], lastmod, changefreq, priority)


def _is_priority(text: str) -> bool:
    number = number_of(text)
    return number is not None and 0 <= number <= 1
