"""One writer at a time: a lock on a site folder, and who holds it."""

from __future__ import annotations

import datetime
import getpass
import json
import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from filelock import FileLock, Timeout

from ..read.site_file import read_site_file
from .own_folder import OWN, own_folder

LOCK, HOLDER = "lock", "lock-holder.json"
PATIENCE = 10.0
"""How long to wait for another writer. Unit: seconds."""
MOST_LETTERS = 80


class SiteInUse(OSError):
    """Another process is writing the site; the message says whose it is, and since when."""


@contextmanager
def write_lock(folder: Path, patience: float = PATIENCE) -> Iterator[None]:
    """Keep other processes from writing a site folder within this context.

    Parameters
    ----------
    folder : Path
    patience : float
        How long to wait for another writer. Unit: seconds.

    Raises
    ------
    SiteInUse
        If another process writes for longer than that.
    OSError
        If `.davlo` cannot be made or the lock cannot be opened.
    """
    own = own_folder(folder)
    lock = FileLock(own / LOCK, timeout=patience)
    try:
        lock.acquire()
    except Timeout:
        raise SiteInUse(f"{_holder(folder)} is writing this site; nothing was written here: try again later") from None
    try:
        with suppress(OSError):  # it is only for people to read
            (own / HOLDER).write_text(json.dumps(_self()), encoding="utf-8")
        yield
    finally:
        with suppress(OSError):
            (own / HOLDER).unlink()
        lock.release()


def _self() -> dict[str, str]:
    try:
        user = getpass.getuser()
    except (OSError, KeyError):
        user = "somebody"
    now = datetime.datetime.now().astimezone().strftime("%H:%M")
    return {"user": user, "host": socket.gethostname(), "process": str(os.getpid()), "since": now}


def _holder(folder: Path) -> str:
    """Who holds the lock, as they noted it themselves."""
    try:
        told = json.loads(read_site_file(folder, f"{OWN}/{HOLDER}"))
        user, host, process, since = (str(told[key])[:MOST_LETTERS] for key in ("user", "host", "process", "since"))
        return f"{user} on {host} (process {process}, since {since})"
    except (OSError, ValueError, LookupError, TypeError, RecursionError):
        return "another process"
