"""Which addresses changed since a search engine was last told, and telling it."""

from __future__ import annotations

import dataclasses
import datetime
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

import numpy as np

from davlo.core.arrays.path_finder import Finder, fingerprints
from davlo.core.arrays.texts import Marks, Texts
from davlo.core.cached import cached_property
from davlo.core.outcomes.sitemap.announced_marks import address_marks
from davlo.core.outcomes.sitemap.sitemap_entries import sitemap_entries
from davlo.core.outcomes.sitemap.sitemap_reasons import sitemap_codes
from davlo.core.progress import work
from davlo.core.resolve.effective import EffectiveModel
from davlo.core.wording import count

from ..output.added_addresses import added_addresses
from ..output.write_sitemap import drift_of_last
from ..store.announced import NOTHING, Announced, announced_to, join_records, note_taken
from ..store.unbelieved import ready_to_write
from ..store.write_lock import write_lock
from .post import post
from .protocol import Answer, in_batches, message

INSTALL = "sending needs httpx: pip install 'davlo[announce]'"
PAUSES = (1.0, 2.0, 4.0, 8.0)
"""Seconds to wait before asking again, each time longer."""
LONGEST_PAUSE = 60.0
"""The longest wait that a search engine may ask for."""
SENDING = "announce-lock"
"""The file in `.davlo` that is locked while lists are sent."""


class Sent(NamedTuple):
    """The answer to a list that was sent."""

    addresses: Sequence[str]
    answer: Answer
    told: str = ""  # what the search engine wrote with it, in one line


@dataclass(frozen=True)
class Announcement:
    """The addresses that changed since a search engine was told last."""

    folder: Path  # the site folder, in which is noted what was taken
    site: str  # the site's address
    endpoint: str  # the address of the search engine; empty if none is named, and then all count as new
    today: datetime.date
    addresses: Sequence[str]  # all addresses that the sitemap lists below the site's own
    marks: Marks  # uint64[n]: a mark for what each page is now
    elsewhere: int  # how many more addresses it lists on other hosts, which their own sites announce
    # how many pages the sitemap that was written last lists differently than one written now; 0 if none was written
    unpublished: int

    @cached_property
    def before(self) -> Announced:
        """What the search engine was told; addresses that are not the site's are left out."""
        told = announced_to(self.folder, self.endpoint) if self.endpoint else NOTHING
        own = np.array([address.startswith(f"{self.site}/") for address in told.addresses], dtype=bool)
        kept = [address for address, is_own in zip(told.addresses, own, strict=True) if is_own]
        return Announced(told.on, kept, told.marks[own])

    @cached_property
    def _where(self) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
        """For each address its number among those that were told; -1 where it was not. int64[n]"""
        if not self.before.addresses:
            return np.full(len(self.addresses), -1, dtype=np.int64)
        return Finder(Texts.of(self.before.addresses)).find(Texts.of(self.addresses)).astype(np.int64)

    @cached_property
    def new(self) -> list[str]:
        """The addresses that it was not told."""
        return self._some(self._where < 0)

    @cached_property
    def changed(self) -> list[str]:
        """The addresses whose page was modified since, or has another document title."""
        told = np.append(self.before.marks, np.uint64(0))[self._where]
        return self._some((self._where >= 0) & (told != self.marks))

    @cached_property
    def gone(self) -> list[str]:
        """The addresses that it was told, and that the sitemap lists no more."""
        there = set(self._where.tolist())
        return [address for number, address in enumerate(self.before.addresses) if number not in there]

    def _some(self, where: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> list[str]:
        return [self.addresses[number] for number in np.flatnonzero(where).tolist()]

    def send(self, key: str, *, notes: bool = True, sleep: Callable[[float], None] = time.sleep) -> Iterator[Sent]:
        """Send the addresses that changed, a list at a time; stop after a list that is not taken.

        `notes`: whether to note in the site folder what was taken, so that it is not sent again. `sleep`: the function
        that waits for some seconds. Raises ImportError if httpx is not installed; SiteInUse if another process is
        sending; OSError if what was taken cannot be noted.
        """
        try:
            import httpx  # noqa: F401
        except ImportError:
            raise ImportError(INSTALL) from None
        if not notes:
            yield from self._send(key, [*self.new, *self.changed, *self.gone], notes, sleep)
            return
        ready_to_write(self.folder)
        with write_lock(self.folder, 0, SENDING, "is announcing this site"):
            # what another sender has noted since this was planned is not sent again
            now = dataclasses.replace(self)
            join_records(self.folder, self.endpoint)
            yield from now._send(key, [*now.new, *now.changed, *now.gone], notes, sleep)

    def _send(self, key: str, changed: Sequence[str], notes: bool, sleep: Callable[[float], None]) -> Iterator[Sent]:
        """Send addresses, a list at a time, and note each list as soon as it is taken."""
        lists, done = [*in_batches(changed)], 0
        with work("announcing", len(lists)) as step:
            for some in lists:
                step(f"{done:,} of {count(len(changed), 'address', 'addresses')}")
                sent = self._sent(key, some, sleep)
                if sent.answer.is_taken and notes:
                    there = [address for address in some if address in self._mark_of]
                    marks = np.array([self._mark_of[address] for address in there], dtype=np.uint64)
                    gone = [address for address in some if address not in self._mark_of]
                    note_taken(self.folder, self.endpoint, Announced(self.today.isoformat(), there, marks), gone)
                yield sent
                if not sent.answer.is_taken:
                    return
                done += len(some)

    def _sent(self, key: str, some: Sequence[str], sleep: Callable[[float], None]) -> Sent:
        """Send a list, again after longer and longer pauses while that may help."""
        content = message(self.site, key, some)
        for pause in (*PAUSES, None):
            answer, told, after = post(self.endpoint, content)
            if not answer.may_pass or pause is None:
                break
            sleep(min(max(pause, after), LONGEST_PAUSE))
        return Sent(some, answer, told)

    @cached_property
    def _mark_of(self) -> dict[str, int]:
        return dict(zip(self.addresses, self.marks.tolist(), strict=True))


def plan_announcement(effective: EffectiveModel, folder: Path, endpoint: str, today: datetime.date) -> Announcement:
    """What a search engine would be told today; nothing is sent.

    `folder`: the site folder. `endpoint`: the address of the search engine; empty if none is named. Raises SiteError if
    a file of addresses to add cannot be understood.
    """
    site = effective.site.url
    with work("finding what changed", 2) as step:
        step("addresses")
        entries = sitemap_entries(effective, np.flatnonzero(sitemap_codes(effective) == 0), today)
        added = added_addresses(folder, effective.site.sitemap.add_addresses_from, entries.published.url_blocks()).found
        step("titles and dates")
        addresses = [*entries.published.urls().tolist(), *(one.loc for one in added)]
        dates = fingerprints(Texts.of(one.lastmod for one in added)) if added else np.zeros(0, dtype=np.uint64)
        marks = np.append(address_marks(effective, entries), dates)
        own = np.array([address.startswith(f"{site}/") for address in addresses], dtype=bool)
        since = drift_of_last(effective, folder, entries)
    kept = [address for address, is_own in zip(addresses, own, strict=True) if is_own]
    unpublished = 0 if since is None else since.lost + int((since.new | since.changed | since.gone).sum())
    return Announcement(folder, site, endpoint, today, kept, marks[own], len(addresses) - len(kept), unpublished)
