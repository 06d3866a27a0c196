"""The files that search engines read, ready to be copied to the site, and what is new in them since the last time."""

from __future__ import annotations

import datetime
import hashlib
import io
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import ClassVar, NamedTuple
from urllib.parse import urlsplit

import numpy as np

from davlo.core.arrays.texts import Texts
from davlo.core.cached import cached_property
from davlo.core.faults import DavloError, ValueFault
from davlo.core.outcomes.access.access_model import AccessModel
from davlo.core.outcomes.menus.menu import is_yes
from davlo.core.outcomes.sitemap.addresses import BLOCK, Published, published
from davlo.core.outcomes.sitemap.sitemap_marks import Drift, lost_pages
from davlo.core.outcomes.sitemap.sitemap_reasons import sitemap_codes
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.site.page_mentions import page_mentions
from davlo.core.site.people import VISITOR
from davlo.core.site.publication import RobotsLine
from davlo.core.wording import count
from davlo.frames.csv_lines import write_csv

from ..built.sitemap_files import ENDINGS, read_sitemaps
from ..read.sections.publication import REDIRECTS, ROBOTS, SITEMAP
from ..read.site_file import path_inside
from ..store.durable_files import Content
from ..store.journal import digest_of_file
from ..store.last_published import RECORD as FILES_RECORD
from ..store.last_published import PublishedFiles, last_published_files, record_of_files
from ..store.last_sitemap import RECORD, last_published
from ..store.output_journal import OutputJournal
from ..store.outputs import refuse_site_files
from ..store.own_folder import OWN
from ..store.site_journal import SiteJournal
from ..store.unbelieved import ready_to_write
from .redirects import redirects
from .robots_txt import KNOWN, ClosedPage, closed_pages, robots_text
from .sitemap_xml import Chunks
from .write_sitemap import NothingToList, WrittenSitemap, drift_of_last, make_sitemap

NEW, CHANGED, SAME, GONE, FOREIGN = "new", "changed", "as it is", "gone", "not Davlo's"
"""What would happen to a file; `FOREIGN`: there is a file that Davlo did not write."""


class LostPage(NamedTuple):
    """A page that was published, and is not there any more."""

    address: str
    path: str
    is_draft: bool  # whether it is a draft now; else it is gone
    led_from: tuple[str, ...]  # what leads there still: blocks of links, and pages that lead elsewhere


class WritesOverOthers(DavloError, ValueError):
    """Files in the way that Davlo did not write; `names` are their names."""

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__(f"{' and '.join(names)}: there already, and not written by Davlo")
        self.names = tuple(names)


class HidesNoindex(DavloError, ValueError):
    """Lines of robots.txt that keep crawlers from seeing a page's `noindex`; `closed` are the pages."""

    def __init__(self, closed: Sequence[ClosedPage]) -> None:
        super().__init__("robots.txt hides pages whose robots.index is no")
        self.closed = tuple(closed)


@dataclass(frozen=True)
class Publication:
    """The files to publish, in memory; nothing is written until `write`."""

    effective: EffectiveModel
    folder: Path  # the site folder, and where the files go
    to: Path  # the site folder, and where the files go
    today: datetime.date
    sitemap: WrittenSitemap | None  # none if no page is in the sitemap
    contents: Mapping[str, Chunks]  # for each file a function that gives its bytes, a piece at a time
    redirects: Mapping[str, str]  # old addresses of pages that moved, and new ones
    # whether a write to the same folder that was cut off is finished now, or else taken back; None if none was
    finished: bool | None
    ROBOTS: ClassVar[str] = ROBOTS
    REDIRECTS: ClassVar[str] = REDIRECTS

    @cached_property
    def last(self) -> PublishedFiles | None:
        """What was published last to the same folder; None if nothing was."""
        last = last_published_files(self.folder)
        return last if last is not None and last.to.resolve() == self.to.resolve() else None

    @cached_property
    def digests(self) -> dict[str, str]:
        """SHA-256 of each file as it would be written."""
        found = {}
        with work("working out the files to publish", len(self.contents)) as step:
            for name, chunks in self.contents.items():
                step(name)
                digest = hashlib.sha256()
                for chunk in chunks():
                    digest.update(chunk)
                found[name] = digest.hexdigest()
        return found

    @cached_property
    def files(self) -> dict[str, str]:
        """What would happen to each file: new, changed, unchanged, gone, or not Davlo's.

        Raises OSError if a name leads out of the folder, by way of a link.
        """
        before, found = dict(self.last.files) if self.last else {}, {}
        for name, digest in self.digests.items():
            now = digest_of_file(path_inside(self.to, name))
            if now is None:
                found[name] = NEW
            elif now == digest:
                found[name] = SAME
            else:
                found[name] = CHANGED if name in before else FOREIGN
        gone = [name for name in before if name not in found and digest_of_file(path_inside(self.to, name)) is not None]
        return {**found, **dict.fromkeys(gone, GONE)}

    @cached_property
    def altered(self) -> tuple[str, ...]:
        """The files that another program has changed since Davlo wrote them."""
        before = dict(self.last.files) if self.last else {}
        now = {name: digest_of_file(path_inside(self.to, name)) for name in before if self.files.get(name) != SAME}
        return tuple(name for name, digest in now.items() if digest not in (None, before[name]))

    @property
    def foreign(self) -> tuple[str, ...]:
        """The files that are there, and that Davlo did not write."""
        return tuple(name for name, what in self.files.items() if what == FOREIGN)

    @property
    def is_same(self) -> bool:
        """Whether all files are there as they would be written."""
        return self.last is not None and all(what == SAME for what in self.files.values())

    @property
    def unknown_lines(self) -> tuple[RobotsLine, ...]:
        """The lines for robots.txt whose first word is in neither RFC 9309 nor the sitemap protocol."""
        return tuple(line for line in self.effective.site.robots if line.key and line.key not in KNOWN)

    @property
    def robots_address(self) -> str:
        """Where crawlers look for robots.txt (RFC 9309, section 2.3)."""
        parts = urlsplit(self.effective.site.url)
        return f"{parts.scheme}://{parts.netloc}/{ROBOTS}"

    @property
    def is_below_root(self) -> bool:
        """Whether the site begins below the root of its host, where crawlers look for no robots.txt."""
        return bool(urlsplit(self.effective.site.url).path)

    @cached_property
    def drift(self) -> Drift | None:
        """What the sitemap would list differently than the one written last; None if none was, or there is none now."""
        return None if self.sitemap is None else drift_of_last(self.effective, self.folder, self.sitemap.entries)

    @cached_property
    def lost(self) -> int:
        """How many pages of the sitemap that was written last are gone from the site, and have no redirect."""
        if not (self.drift and self.drift.lost):
            return 0
        last = last_published(self.folder, self.effective.site.sitemap.add_addresses_from)
        names = self.effective.site.page_names
        return lost_pages(self.effective, last.told, map(names.path, self.redirects)) if last else 0

    @cached_property
    def lost_pages(self) -> tuple[LostPage, ...]:
        """The pages that were published, have no redirect, and are drafts now or gone; in the order of the old sitemap.

        Their addresses are read from the sitemap that was written last, if it is still there and unchanged.
        """
        site, last = self.effective.site, self.last
        if last is None or self.drift is None or not (self.drift.lost or self.drift.gone.any()):
            return ()
        index = next((name for name in last.files if name in (f"{SITEMAP}.xml", f"{SITEMAP}.xml.gz")), "")
        parts = _parts(last, index) if index else []
        if not parts or any(digest_of_file(path_inside(self.to, name)) != last.files[name] for name in parts):
            return ()
        led, mentions = {*map(site.page_names.path, self.redirects)}, dict[str, list[str]]()
        for one in page_mentions(site):
            if one.kind in ("block", "page"):
                mentions.setdefault(one.path, []).append(f"{one.said_by} ({one.place})")
        found: dict[str, LostPage] = {}
        places = dict[str, str]()
        for listed in read_sitemaps(self.to / index).addresses:
            places.setdefault(site.page_names.path(listed.loc), listed.loc)
        paths, is_draft = [path for path in places if path.startswith("/") and path not in led], site.details.draft
        for path, page in zip(paths, site.tree.find_all(Texts.of(paths)).tolist(), strict=True):
            if page < 0 or is_draft[page]:
                found[path] = LostPage(places[path], path, page >= 0, tuple(mentions.get(path, ())))
        return tuple(found.values())

    @cached_property
    def hidden(self) -> list[ClosedPage]:
        """The pages whose robots.index is no and that robots.txt closes, so that crawlers never see it."""
        site = self.effective.site
        open_to_all = site.details.live & self.effective.shared(AccessModel).allowed(VISITOR, "view")
        return self._closed(np.flatnonzero(open_to_all & ~is_yes(self.effective, "robots.index")))

    @cached_property
    def closed(self) -> list[ClosedPage]:
        """The pages that the sitemap lists, and that robots.txt closes."""
        return self._closed(np.flatnonzero(sitemap_codes(self.effective) == 0))

    @cached_property
    def closed_sitemap(self) -> RobotsLine | None:
        """The line of robots.txt that keeps crawlers from reading the sitemap; None if there is none."""
        site = self.effective.site
        files = enumerate(self.sitemap.files if self.sitemap else ())
        found = closed_pages(site.robots, ((number, f"{site.url}/{name}") for number, name in files))
        return found[0].line if found else None

    def _closed(self, pages: np.ndarray[tuple[int], np.dtype[np.int64]]) -> list[ClosedPage]:
        site = self.effective.site
        if not any(line.key == "disallow" and line.value for line in site.robots):
            return []
        return closed_pages(site.robots, _addresses(published(site, pages)))

    @property
    def lost_writes(self) -> int:
        """How many writes since then are no longer kept; pages that moved in them have no redirect."""
        kept = SiteJournal(self.folder).writes()
        oldest = min((one.number for one in kept), default=0)
        return max(0, oldest - 1 - (self.last.last_write if self.last else 0)) if kept else 0

    def write(self, *, replace: bool = False) -> str:
        """Write the files, all or none, and note them in the site folder.

        `replace`: whether to write over files that Davlo did not write. Returns why they could not be noted; empty if
        they were. Raises HidesNoindex if a line of robots.txt hides a page's `noindex`; WritesOverOthers if Davlo did
        not write a file that is there; OSError if something cannot be written; the old files are as they were.
        """
        if self.hidden:
            raise HidesNoindex(self.hidden)
        if self.foreign and not replace:
            raise WritesOverOthers(self.foreign)
        files: dict[Path, Content] = {
            path_inside(self.to, name): _writer(chunks) for name, chunks in self.contents.items()
        }
        ready_to_write(self.folder)
        before = dict(self.last.files) if self.last else {}
        gone = {self.to / name: before[name] for name, what in self.files.items() if what == GONE}
        writes = SiteJournal(self.folder).writes()
        last_write = max((one.number for one in writes), default=0)
        record = PublishedFiles(self.to, self.today, self.digests, self.redirects, last_write)
        records: dict[str, Content] = {FILES_RECORD: record_of_files(self.folder, record)}
        if self.sitemap:
            name = next(iter(self.sitemap.files))
            digests = {one: self.digests[one] for one in self.sitemap.files}
            records[RECORD] = self.sitemap.record(self.folder, self.to / name, digests, self.today, "crawler-files")
        refuse_site_files(self.effective.site, self.folder, [*files, *gone])
        for path in files:
            path.parent.mkdir(parents=True, exist_ok=True)
        left_over = {} if self.sitemap else {self.folder / OWN / RECORD: ""}
        return _journal(self.folder, self.to).write(files, records, {**gone, **left_over})


def plan_publication(
    effective: EffectiveModel, folder: Path, to: Path, today: datetime.date, *, packed: bool = False
) -> Publication:
    """The files to publish as they would be written today.

    `folder`, `to`: the site folder, and where the files go. `packed`: whether sitemaps are packed (.xml.gz). Raises
    ValueFault if two files would have the same name; SiteError if a file of addresses to add cannot be understood.
    """
    finished = _journal(folder, to).recover()
    site, name = effective.site, f"{SITEMAP}.xml{'.gz' if packed else ''}"
    try:
        sitemap = make_sitemap(effective, folder, name, today)
    except NothingToList:
        sitemap = None
    contents: dict[str, Chunks] = dict(sitemap.files) if sitemap else {}
    robots = robots_text(site.robots, f"{site.url}/{name}" if sitemap else "")
    contents[ROBOTS] = partial(iter, (robots.encode(),))
    for proof in site.ownership_proofs:
        if proof.file:
            contents[proof.file] = partial(iter, (proof.text.encode(),))
    for proof in site.ownership_proofs:
        if any(other.startswith(f"{proof.file}/") for other in contents if proof.file):
            raise ValueFault(f"the proof {proof.file} would be a file and a folder")
    before = last_published_files(folder)
    moves = [pair for write in reversed(SiteJournal(folder).writes()) for pair in write.moved]
    names, tree = site.page_names, site.tree
    led = redirects(before.redirects if before else {}, moves, lambda address: tree.find(names.path(address)) >= 0)
    if led:
        told = io.StringIO()
        write_csv(told, [("from", "to"), *led.items()])
        contents[REDIRECTS] = partial(iter, (told.getvalue().encode(),))
    return Publication(effective, folder, to, today, sitemap, contents, led, finished)


def _parts(last: PublishedFiles, index: str) -> list[str]:
    """A sitemap that was written last, with its parts."""
    return [name for name in last.files if name == index or (name.startswith(f"{SITEMAP}-") and name.endswith(ENDINGS))]


def _journal(folder: Path, to: Path) -> OutputJournal:
    return OutputJournal(folder, to, [FILES_RECORD, RECORD])


def _addresses(found: Published) -> Iterator[tuple[int, str]]:
    """Pages and their addresses."""
    done = 0
    with work("reading robots.txt as crawlers do", 1 + len(found) // BLOCK) as step:
        for block in found.url_blocks():
            step(f"{done:,} of {count(len(found), 'address', 'addresses')}")
            yield from zip(found.page[done : done + len(block)].tolist(), block, strict=True)
            done += len(block)


def _writer(chunks: Chunks) -> Content:
    def write(part: Path) -> None:
        with part.open("wb") as file:
            file.writelines(chunks())

    return write
