"""Records in `.davlo` that this user did not make on this machine for this folder. Davlo reports and ignores them."""

from __future__ import annotations

import errno
import os
import secrets
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from davlo.core.faults import DavloError

from . import announced, last_published, last_sitemap
from .journal import kind_of_note
from .output_journal import is_note
from .own_folder import OWN, made, own_folder, own_names
from .sealed_records import Maker, is_own, maker_of
from .site_journal import JOURNAL, PARTS, WRITES, SiteJournal
from .user_key import user_key
from .write_lock import write_lock
from .write_records import KIND

ASIDE = "set-aside"
TO_SET_ASIDE = "davlo undo --set-aside"


class Unbelieved(NamedTuple):
    """What is ignored."""

    names: tuple[str, ...] = ()  # files in `.davlo`, whose records are ignored
    unfinished: tuple[Maker, ...] = ()  # who began writes that are not finished, and when, as they say themselves


class UnfinishedWrite(DavloError, OSError):
    """Somebody else's write to this site is not finished, so nothing else is written."""


RECORDS = {last_sitemap.RECORD: last_sitemap.KIND, last_published.RECORD: last_published.KIND}
"""The kind of each record that has a name of its own."""
FOLDERS = {WRITES: KIND, announced.RECORDS: announced.KIND}
"""The kind of the records in each folder."""


def unbelieved(folder: Path) -> Unbelieved:
    """What lies in `.davlo` and is not believed; only the first line of each record is read."""
    return Unbelieved(tuple(_unbelieved_records(folder)), tuple(maker_of(folder, name) for name in _unfinished(folder)))


def ready_to_write(folder: Path) -> None:
    """Make sure that a record can be sealed, and that nobody else has an unfinished write here.

    Raises NoKey if there is no place for the user's key; UnfinishedWrite if somebody else has an unfinished write here.
    """
    user_key(folder, make=True)
    for name in _unfinished(folder):
        raise UnfinishedWrite(
            errno.EBUSY,
            f"{maker_words(maker_of(folder, name))} began a write here that is not finished, so nothing was written. "
            f"Its maker finishes it with any davlo command; or put the note away: {TO_SET_ASIDE}",
            str(folder / OWN / name),
        )


def maker_words(maker: Maker) -> str:
    """Who made a record, and when, for people."""
    on = f" on {maker.host}" if maker.host else ""
    at = f" ({maker.at[:16].replace('T', ' ')})" if maker.at else ""
    return f"{maker.user}{on}{at}"


def set_aside(folder: Path) -> Path | None:
    """Move what is not believed into a folder of its own in `.davlo`; gives that folder, or None if all is believed.

    Raises OSError if something cannot be moved.
    """
    if not own_names(folder / OWN):
        return None
    with write_lock(folder):
        names = [*_unfinished(folder), *_unbelieved_records(folder)]
        if not names:
            return None
        if JOURNAL in names:  # with the new files that its maker had made ready
            names += [name for name in own_names(folder / OWN) if name.startswith(PARTS)]
        own = own_folder(folder)
        aside = made(own / ASIDE) / secrets.token_hex(4)
        aside.mkdir()
        for name in names:
            os.replace(own / name, aside / name.replace("/", "-"))
        return aside


def _unfinished(folder: Path) -> Iterator[str]:
    """The notes of unfinished writes that this user did not begin."""
    names = own_names(folder / OWN)
    if JOURNAL in names and not SiteJournal(folder).is_own():
        yield JOURNAL
    for name in names:
        if is_note(name) and not is_own(folder, name, kind_of_note(name)):
            yield name


def _unbelieved_records(folder: Path) -> Iterator[str]:
    """The files in `.davlo` with the names of records that this user did not make."""
    for name in own_names(folder / OWN):
        if name in RECORDS and not is_own(folder, name, RECORDS[name]):
            yield name
    for above, kind in FOLDERS.items():
        for name in own_names(folder / OWN / above):
            if name.endswith(".json") and not is_own(folder, f"{above}/{name}", kind):
                yield f"{above}/{name}"
