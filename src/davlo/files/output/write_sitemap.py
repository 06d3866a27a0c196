"""Writing a sitemap: its files whole, and a record of them in `.davlo/`, so that `check` can tell when it is stale."""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.faults import DavloError
from davlo.core.outcomes.sitemap.sitemap_entries import SitemapEntries, sitemap_entries
from davlo.core.outcomes.sitemap.sitemap_marks import Drift, Told, drift, told
from davlo.core.outcomes.sitemap.sitemap_reasons import sitemap_codes
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel

from ..built.sitemap_files import ENDINGS
from ..store.durable_files import Content
from ..store.last_sitemap import RECORD, last_published, parts_gone, record_of
from ..store.output_journal import OutputJournal
from ..store.outputs import refuse_site_files
from ..store.unbelieved import ready_to_write
from .added_addresses import AddedAddresses, added_addresses
from .sitemap_xml import Chunks, UrlElements, sitemap_files


class NothingToList(DavloError, ValueError):
    """No page is in the sitemap."""


class WrittenSitemap(NamedTuple):
    """A sitemap: its files by name, the index or the only one first, and figures about it."""

    files: dict[str, Chunks]  # what gives the bytes of each, a piece at a time
    entries: SitemapEntries  # the addresses of the site's own pages
    addresses: int  # how many addresses it lists, those of other programs too
    undated: int  # how many pages were modified in the future, and are listed without a date
    ambiguous: int  # how many addresses are no alternates, because another page of their family has the same language
    added: AddedAddresses  # the addresses of other programs
    marks: Told  # what it lists for each of the site's pages
    unnoted: str = ""  # why the record of it could not be written; empty if it was

    def record(
        self, folder: Path, to: Path, digests: Mapping[str, str], today: datetime.date, command: str
    ) -> Callable[[Path], None]:
        """The function that records the sitemap in the site folder, once its files and their `digests` are there."""

        def write(part: Path) -> None:
            files = self.added.files
            part.write_bytes(record_of(folder, to, digests, files, self.marks, today.isoformat(), command))

        return write


def make_sitemap(effective: EffectiveModel, folder: Path, name: str, today: datetime.date) -> WrittenSitemap:
    """A sitemap as it would be written today; nothing is written.

    `folder`: the site folder, which holds the file of addresses to add. `name`: the name of the file, as `sitemap.xml`.
    Raises ValueError if the name does not end in .xml or .xml.gz, or there is no address to list; SiteError if a file
    of addresses to add cannot be understood.
    """
    if not name.endswith(ENDINGS):
        raise ValueError(f"a sitemap is a file that ends in .xml, or packed in .xml.gz, not {name!r}")
    with work("working the sitemap out", 2) as step:
        step("addresses")
        entries = sitemap_entries(effective, np.flatnonzero(sitemap_codes(effective) == 0), today)
        found = entries.published
        added = added_addresses(folder, effective.site.sitemap.add_addresses_from, found.url_blocks())
        step("files")
        files = sitemap_files(UrlElements(entries, added.found), name, effective.site.url)
    count = len(found) + len(added.found)
    if not count:
        raise NothingToList(
            "no page is in the sitemap, and the protocol allows no empty one (davlo sitemap --left-out)"
        )
    return WrittenSitemap(files, entries, count, entries.ahead, found.ambiguous, added, told(effective, entries))


def write_sitemap(effective: EffectiveModel, folder: Path, to: Path, today: datetime.date) -> WrittenSitemap:
    """Write a sitemap, and note it in the site folder.

    `to`: the file, or the index with the parts beside it. Raises OSError if it cannot be written; `NoKey` and
    `UnfinishedWrite` are such errors; ValueError, SiteError: as in `make_sitemap`.
    """
    ready_to_write(folder)
    journal = OutputJournal(folder, to.parent, [RECORD])
    journal.recover()
    made = make_sitemap(effective, folder, to.name, today)
    digests: dict[str, str] = {}
    refuse_site_files(effective.site, folder, [to.parent / name for name in made.files])
    gone = parts_gone(folder, to, made.files)
    record = made.record(folder, to, digests, today, "sitemap")
    with work("writing the sitemap", len(made.files)) as step:
        files: dict[Path, Content] = {
            to.parent / name: _writer(name, chunks, digests, step) for name, chunks in made.files.items()
        }
        return made._replace(unnoted=journal.write(files, {RECORD: record}, gone, last=to))


def drift_of_last(effective: EffectiveModel, folder: Path, entries: SitemapEntries) -> Drift | None:
    """What a sitemap with these entries would list differently than the one written last; None if none is known."""
    last = last_published(folder, effective.site.sitemap.add_addresses_from)
    return None if last is None else drift(effective, entries, last.told)


def _writer(name: str, chunks: Chunks, digests: dict[str, str], step: Callable[[str], None]) -> Callable[[Path], None]:
    """What writes a file of the sitemap a piece at a time, and notes its digest."""

    def write(part: Path) -> None:
        step(name)
        digest = hashlib.sha256()
        with part.open("wb") as file:
            for chunk in chunks():
                file.write(chunk)
                digest.update(chunk)
        digests[name] = digest.hexdigest()

    return write
