"""One writer at a time: a lock on a site folder, and who holds it."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import msgspec
from filelock import FileLock, Timeout

from davlo.core.faults import DavloError

from .own_folder import open_own, own_folder, write_own
from .sealed_records import MOST_IN_LINE, MOST_LETTERS, Maker, this_maker

LOCK, HOLDER = "lock", "-holder.json"
PATIENCE = 10.0
"""How long to wait for another writer. Unit: seconds."""


class SiteInUse(DavloError, OSError):
    """Another process is writing the site; the message says whose it is, and since when."""


@contextmanager
def write_lock(
    folder: Path, patience: float = PATIENCE, name: str = LOCK, doing: str = "is writing this site"
) -> Iterator[None]:
    """Keep other processes from writing a site folder within this context, or from whatever else a lock is for.

    `patience`: how long to wait for another writer. Unit: seconds. `name`: the file in `.davlo` that is locked.
    `doing`: what the other process does, for the message. Raises SiteInUse if another process writes for longer than
    that; OSError if `.davlo` cannot be made or the lock cannot be opened.
    """
    own = own_folder(folder)
    _check_lock(own / name)
    lock = FileLock(own / name, timeout=patience)
    try:
        lock.acquire()
    except Timeout:
        holder = _holder(folder, name)
        raise SiteInUse(f"{holder} {doing}; nothing was written here: try again later") from None
    try:
        with suppress(OSError):  # it is only for people to read
            write_own(own / f"{name}{HOLDER}", msgspec.json.encode((this_maker(), os.getpid())))
        yield
    finally:
        with suppress(OSError):
            (own / f"{name}{HOLDER}").unlink()
        lock.release()


def _check_lock(path: Path) -> None:
    """Refuse a lock that is a link, or another name of a file, which opening it would empty."""
    with suppress(FileNotFoundError):
        there = path.lstat()
        if not stat.S_ISREG(there.st_mode) or there.st_nlink > 1:
            raise OSError(errno.EINVAL, "it is no lock of Davlo's: delete it", str(path))


def _holder(folder: Path, name: str) -> str:
    """Who holds the lock, as they noted it themselves."""
    try:
        with open_own(folder, f"{name}{HOLDER}") as file:
            maker, process = msgspec.json.decode(file.read(MOST_IN_LINE), type=tuple[Maker, int])
    except (OSError, ValueError, RecursionError):
        return "another process"
    user, host, since = (text[:MOST_LETTERS] for text in maker)
    return f"{user} on {host} (process {process}, since {since[11:16]})"
